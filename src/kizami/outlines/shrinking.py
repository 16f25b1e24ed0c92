"""Outlines that are moved inward, from level to level, and how far they can be."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely
from scipy.spatial import cKDTree

from kizami.outlines.curves import FloatArray, bodies_of

__all__ = ["SIMPLE_MM", "Level", "from_corners", "moved_corners", "shrunk", "thinnest_half_mm"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Level:
    """The outline moved inward by `inward_mm` stands at `height_mm` along the normal."""

    inward_mm: float
    height_mm: float


#: Corners of a shrunk outline nearer than this to a line between their neighbours are left out.
SIMPLE_MM = 0.002
#: Corners go on to a point up to so many times as far as sides move; corners of curves, which go on hardly
#: further than sides, are none.
_MITRE, _HARDLY_TURNS = 4.0, 1.02


@lru_cache(maxsize=32)
def shrunk(
    outlines: shapely.MultiPolygon, inward_mm: float, *, simple_mm: float = SIMPLE_MM
) -> shapely.MultiPolygon:
    """Outlines moved inward; bodies that vanish are gone. Kept for a while: pieces are measured by them too.

    Parameters
    ----------
    simple_mm : needless corners are left out within this

    >>> shrunk(shapely.MultiPolygon([shapely.box(0, 0, 4, 2)]), 0.5).area
    3.0
    """
    if inward_mm <= 0:
        return outlines
    inner = outlines.buffer(-inward_mm, join_style="mitre", mitre_limit=_MITRE)
    return bodies_of(shapely.simplify(inner, simple_mm)) if not inner.is_empty else shapely.MultiPolygon()


@lru_cache(maxsize=16)
def moved_corners(outlines: shapely.MultiPolygon, inward_mm: float) -> FloatArray:
    """Where corners that point inward come to, (n, 2), when outlines move inward as in `shrunk`: further
    than sides do. Those of curves, which hardly turn, are left out.

    >>> notched = shapely.MultiPolygon([shapely.Polygon([(0, 0), (4, 0), (4, 4), (2, 4), (2, 2), (0, 2)])])
    >>> moved_corners(notched, 0.5).tolist()
    [[2.5, 1.5]]
    """
    rings = shapely.get_rings(shapely.get_parts(shapely.orient_polygons(outlines)))
    found = [np.empty((0, 2))]
    for ring in rings:
        corners = shapely.get_coordinates(ring)[:-1]
        sides = np.roll(corners, -1, axis=0) - corners
        sides = sides / np.maximum(np.linalg.norm(sides, axis=1, keepdims=True), 1e-12)
        before = np.roll(sides, 1, axis=0)
        turn = before[:, 0] * sides[:, 1] - before[:, 1] * sides[:, 0]
        further = np.sqrt(2.0 / np.maximum(1.0 + (before * sides).sum(axis=1), 1e-12))
        at = np.flatnonzero((turn < 0) & (further > _HARDLY_TURNS))
        # To the left of a side is inward.
        way = np.column_stack((-(before + sides)[:, 1], (before + sides)[:, 0]))[at]
        way /= np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-12)
        found.append(corners[at] + way * inward_mm * np.minimum(further[at], _MITRE)[:, None])
    return np.vstack(found)


def from_corners(outlines: shapely.MultiPolygon, inward_mm: float, uv: FloatArray) -> FloatArray:
    """How far places (n, 2) are from the two nearest corners of outlines that moved inward, (n, 2); infinite
    where there are none."""
    corners = moved_corners(outlines, inward_mm)
    if not len(corners):
        return np.full((len(uv), 2), np.inf)
    apart: FloatArray = cKDTree(corners).query(uv, k=2)[0]
    return apart


@lru_cache(maxsize=64)
def thinnest_half_mm(
    outlines: shapely.MultiPolygon, *, step_mm: float = 0.02, enough_mm: float = 2.0
) -> float:
    """How far all bodies can be moved inward before one of them falls apart or vanishes.

    Parameters
    ----------
    enough_mm : more need not be known
    """
    count = len(outlines.geoms)
    # Far finer than the step, and several times quicker.
    outlines = outlines.simplify(step_mm / 8.0)
    inner = outlines.buffer(-enough_mm, quad_segs=2)
    if not inner.is_empty and len(shapely.get_parts(inner)) == count:
        return enough_mm
    low, high = 0.0, enough_mm
    while high - low > step_mm:
        middle = (low + high) / 2.0
        inner = outlines.buffer(-middle, quad_segs=2)
        if not inner.is_empty and len(shapely.get_parts(inner)) == count:
            low = middle
        else:
            high = middle
    return low

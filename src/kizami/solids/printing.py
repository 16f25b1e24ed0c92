"""Layer by layer: where a print begins with nothing under it, and where it leans out over air."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from kizami.outlines.curves import FloatArray
from kizami.solids.measured import Measured

__all__ = ["Lain", "best_lain", "islands_along", "lain_along"]

#: Corners whose heights differ by less are in one layer, mm.
_LAYER_MM = 1e-3
#: A piece may lie on any of its six sides; as it was drawn it lies with z up.
_WAYS = (
    (np.array([0.0, 0.0, 1.0]), "as it was drawn"),
    (np.array([0.0, 0.0, -1.0]), "upside down"),
    (np.array([0.0, 1.0, 0.0]), "standing on its lower edge"),
    (np.array([0.0, -1.0, 0.0]), "standing on its upper edge"),
    (np.array([1.0, 0.0, 0.0]), "standing on its left edge"),
    (np.array([-1.0, 0.0, 0.0]), "standing on its right edge"),
)


@dataclass(frozen=True, kw_only=True, slots=True)
class Lain:
    """A piece as it lies when it is printed.

    Attributes
    ----------
    up : (3,) direction in the piece that points up
    said : how it lies, in words
    islands : parts that begin in the air
    overhang_mm2 : area that leans out over air; what lies on the bed is none
    at_mm : where most of it is in one facet, or None
    """

    up: tuple[float, float, float]
    said: str
    islands: int
    overhang_mm2: float
    at_mm: tuple[float, float, float] | None


def best_lain(piece: Measured) -> Lain:
    """On the one of its six sides on which fewest parts begin in the air, and least leans out over it."""
    leaning = [(_over_air(piece, way), way, said) for way, said in _WAYS]
    best: Lain | None = None
    # Where least leans out comes first, so that the first without islands is the best of all.
    for over, way, said in sorted(leaning, key=lambda one: one[0].area_mm2):
        lain = _lain(piece, way, said, over)
        if best is None or lain.islands < best.islands:
            best = lain
        if not best.islands:
            break
    assert best is not None
    return best


def lain_along(piece: Measured, up: FloatArray, said: str = "") -> Lain:
    """A piece as it lies with a direction upward."""
    return _lain(piece, up, said, _over_air(piece, up))


def _lain(piece: Measured, up: FloatArray, said: str, over: _OverAir) -> Lain:
    x, y, z = up.tolist()
    return Lain(
        up=(x, y, z),
        said=said,
        islands=islands_along(piece, up),
        overhang_mm2=over.area_mm2,
        at_mm=over.at_mm,
    )


@dataclass(frozen=True, slots=True)
class _OverAir:
    """What leans out over air: how much, and where most of it is in one facet."""

    area_mm2: float
    at_mm: tuple[float, float, float] | None


def _over_air(piece: Measured, up: FloatArray) -> _OverAir:
    """What is printed over air with a direction upward.

    Notes
    -----
    A layer reaches out over the one below by its height times the slope, so the area of a piece that is
    printed over air is, layer by layer, that of the facets which look down more steeply than a print holds.
    """
    facing = piece.normals @ up
    heights = piece.middles @ up
    bed = float((np.asarray(piece.vertices, dtype=np.float64) @ up).min())
    over = np.flatnonzero((facing < -math.sin(_HELD_RAD)) & (heights > bed + _LAYER_MM))
    areas = piece.areas_mm2[over]
    at = None
    if len(over):
        x, y, z = piece.middles[over[int(np.argmax(areas))]].tolist()
        at = (x, y, z)
    return _OverAir(float(areas.sum()), at)


#: Walls that lean out by less, from upright, are held by the layer below (common practice, no source).
_HELD_RAD = math.radians(50.0)


def islands_along(piece: Measured, up: FloatArray) -> int:
    """Parts of a piece that begin in the air when it is printed along a direction.

    Notes
    -----
    A layer that has nothing under it begins at a corner, an edge or a facet all of whose neighbours are
    higher: a lowest place of the skin. The lowest of all lies on the bed. Lowest places of cavities and
    pockets are none: there metal is below.
    """
    heights = np.asarray(piece.vertices, dtype=np.float64) @ up
    tails = piece.triangles.astype(np.int64).ravel()
    heads = piece.triangles[:, [1, 2, 0]].astype(np.int64).ravel()
    level = np.abs(heights[tails] - heights[heads]) < _LAYER_MM
    size = len(heights)
    links = coo_array((np.ones(int(level.sum())), (tails[level], heads[level])), shape=(size, size))
    count, label = connected_components(links, directed=False)
    has_lower = np.zeros(count, dtype=bool)
    has_lower[label[tails[heights[heads] < heights[tails] - _LAYER_MM]]] = True
    has_lower[label[heads[heights[tails] < heights[heads] - _LAYER_MM]]] = True
    used = np.zeros(count, dtype=bool)
    used[label[tails]] = True
    lowest = np.flatnonzero(used & ~has_lower)
    bed = float(heights[tails].min())
    at = np.full(count, np.inf)
    np.minimum.at(at, label, heights)
    hanging = lowest[at[lowest] > bed + _LAYER_MM]
    if not len(hanging):
        return 0
    # The lowest corner of each place, by the one that comes first in order of height.
    order = np.argsort(heights, kind="stable")
    places, first = np.unique(label[order], return_index=True)
    corners = order[first[np.searchsorted(places, hanging)]]
    return sum(_is_of_metal(piece, up, int(corner)) for corner in corners)


def _is_of_metal(piece: Measured, up: FloatArray, corner: int) -> bool:
    """Whether air is under a corner that is lower than all beside it: under that of a pocket there is metal.

    Notes
    -----
    The corner is what is nearest of the skin to a point just below it, so that the mean of the normals around
    it, each weighted by its angle there, tells on which side that point is (Baerentzen and Aanaes, Signed
    distance computation using the angle weighted pseudonormal, 2005; from memory of it). Weighted by area it
    does not: a notch under a long slanted stroke would look down.
    """
    around = np.flatnonzero((piece.triangles == corner).any(axis=1))
    facets = piece.triangles[around].astype(np.int64)
    turned = np.argmax(facets == corner, axis=1)
    rows = np.arange(len(facets))
    points = np.asarray(piece.vertices, dtype=np.float64)
    origin = points[corner]
    one = points[facets[rows, (turned + 1) % 3]] - origin
    other = points[facets[rows, (turned + 2) % 3]] - origin
    angles = np.arctan2(np.linalg.norm(np.cross(one, other), axis=1), (one * other).sum(axis=1))
    return float((angles[:, None] * piece.normals[around]).sum(axis=0) @ up) < 0.0

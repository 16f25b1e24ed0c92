"""Outlines that a name fills: their upper and lower edges, and lettering drawn out to them."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import shapely

from kizami.lettering.bending import Warp
from kizami.outlines.curves import FloatArray, bodies_of
from kizami.remembering import remembered

__all__ = ["filled_outline", "filled_warp"]

#: Corners of a free outline, in any unit.
Points = tuple[tuple[float, float], ...]


def filled_warp(
    outline: str, width: float, points: Points, box: tuple[float, float, float, float], height_mm: float
) -> Warp:
    """What draws lettering out to the edges of an outline.

    Parameters
    ----------
    outline, width, points : see `kizami.lettering.shapes.Filled`
    box : of the lettering, mm
    """
    low, bottom, high, top = box
    width_mm = height_mm * width
    edge = _edge(outline, points)

    def warp(xy: FloatArray) -> FloatArray:
        # Not quite to the ends: there the outline has no height left for a letter.
        share = (xy[:, 0] - low) / (high - low) * 2.0 - 1.0
        upper, lower = edge(share * _FILLED_REACH)
        level = (xy[:, 1] - bottom) / (top - bottom)
        x = share * _FILLED_REACH * width_mm / 2.0
        return np.column_stack((x, (lower + level * (upper - lower)) * height_mm / 2.0))

    return warp


def _edge(outline: str, points: Points) -> Callable[[FloatArray], tuple[FloatArray, FloatArray]]:
    return _free_edge(points) if outline == "free" else _EDGES[outline]


@remembered
def filled_outline(outline: str, width: float, points: Points) -> shapely.Polygon:
    """The outline that is filled, at a cap height of 1, its middle at (0, 0)."""
    edge = _edge(outline, points)
    across = np.sin(np.linspace(-math.pi / 2, math.pi / 2, _FREE_LINES))
    upper, lower = edge(across)
    x = across * width
    corners = np.concatenate((np.column_stack((x, upper)), np.column_stack((x, lower))[::-1])) / 2.0
    return max(bodies_of(shapely.Polygon(corners).buffer(0)).geoms, key=lambda body: float(body.area))


#: How far towards the outline's ends the line is drawn: there a circle still has 0.6 of its height.
_FILLED_REACH = 0.8


def _round(x: FloatArray) -> tuple[FloatArray, FloatArray]:
    half = np.sqrt(np.maximum(1.0 - x**2, 0.0))
    return half, -half


def _diamond(x: FloatArray) -> tuple[FloatArray, FloatArray]:
    half = 1.0 - np.abs(x) * 0.75
    return half, -half


def _heart(x: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Two round shoulders with a notch between, a point below."""
    reach = np.abs(x)
    upper = 0.62 + 0.38 * np.sqrt(np.maximum(1.0 - ((reach - 0.5) / 0.5) ** 2, 0.0))
    lower = -1.0 + reach * 1.2
    return upper, lower


#: Upright lines on which a free outline is looked at; between them its edges are straight.
_FREE_LINES = 241


@remembered
def _free_edge(
    points: tuple[tuple[float, float], ...],
) -> Callable[[FloatArray], tuple[FloatArray, FloatArray]]:
    """Upper and lower edge of any outline, its box drawn to -1 .. 1 both ways."""
    # The line itself, not what it encloses: that of a folded one is not defined.
    outline = shapely.LineString([*points, points[0]])
    low_x, low_y, high_x, high_y = outline.bounds
    box = np.array([low_x, low_y]), np.array([high_x - low_x, high_y - low_y])
    square = shapely.transform(outline, lambda xy: 2.0 * (xy - box[0]) / box[1] - 1.0)
    at = np.linspace(-1.0, 1.0, _FREE_LINES)
    # Not quite on the ends, where an outline may be a mere corner.
    lines = shapely.linestrings([[(x * (1 - 1e-9), -2.0), (x * (1 - 1e-9), 2.0)] for x in at])
    bounds = shapely.bounds(shapely.intersection(lines, square))

    def edge(x: FloatArray) -> tuple[FloatArray, FloatArray]:
        return np.interp(x, at, bounds[:, 3]), np.interp(x, at, bounds[:, 1])

    return edge


_EDGES: dict[str, Callable[[FloatArray], tuple[FloatArray, FloatArray]]] = {
    "round": _round,
    "oval": _round,
    "diamond": _diamond,
    "heart": _heart,
}

"""Strokes as a hand would draw them: along curves, swelling and thinning, with round ends."""

from __future__ import annotations

import numpy as np
import shapely

from kizami.outlines.curves import FloatArray

__all__ = ["bezier", "link", "swelling"]

_QUARTER = 16
#: A link that is longer than so many widths leaves its ends level, as strokes do that run on.
_LEVEL_WIDTHS = 2.0
#: How far the middle line of a link goes into what it joins, in its widths.
_REACH_SHARE = 0.35
#: At its ends a long link is so much wider, as a stroke is where it comes out of another.
_SWELL = 1.35


def link(line: shapely.LineString, width: float) -> shapely.Geometry:
    """A stroke that joins two shapes along the line between them, reaching into both.

    A short one goes straight. A long one that runs along the writing leaves both ends level and swells there,
    as a stroke does that goes on from letter to letter.

    Parameters
    ----------
    line : from outline to outline
    width : of the stroke where it is finest

    >>> short = link(shapely.LineString([(0, 0), (1, 0)]), 1.0)
    >>> [round(v, 2) for v in short.bounds]
    [-0.85, -0.5, 1.85, 0.5]
    """
    ends = np.asarray(line.coords)[[0, -1]]
    along = ends[1] - ends[0]
    length = float(np.hypot(*along))
    direction = along / length if length > 0 else np.array([0.0, 1.0])
    reach = direction * width * _REACH_SHARE
    start, end = ends[0] - reach, ends[1] + reach
    if length <= _LEVEL_WIDTHS * width or abs(along[0]) < abs(along[1]):
        straight: shapely.Geometry = shapely.LineString([start, end]).buffer(width / 2.0, quad_segs=_QUARTER)
        return straight
    level = np.array([0.5 * along[0], 0.0])
    curve = bezier(start, start + level, end - level, end)
    share = np.abs(np.linspace(-1.0, 1.0, len(curve))) ** 2
    return swelling(curve, width * (1.0 + (_SWELL - 1.0) * share))


def swelling(curve: FloatArray, widths: FloatArray) -> shapely.Geometry:
    """A stroke along a line that is as wide at each of its points as is said, with round ends."""
    along = np.gradient(curve, axis=0)
    along /= np.hypot(*along.T)[:, None]
    aside = np.column_stack((-along[:, 1], along[:, 0])) * widths[:, None] / 2.0
    flank = shapely.Polygon(np.concatenate((curve + aside, (curve - aside)[::-1]))).buffer(0)
    ends = [shapely.Point(curve[end]).buffer(widths[end] / 2.0, quad_segs=_QUARTER) for end in (0, -1)]
    return shapely.union_all([flank, *ends])


def bezier(*corners: FloatArray) -> FloatArray:
    """A cubic Bézier curve as points (n, 2)."""
    t = np.linspace(0.0, 1.0, _BEZIER_POINTS)[:, None]
    one, two, three, four = corners
    curve: FloatArray = (
        (1 - t) ** 3 * one + 3 * (1 - t) ** 2 * t * two + 3 * (1 - t) * t**2 * three + t**3 * four
    )
    return curve


_BEZIER_POINTS = 25

"""Strokes that carry a ring: they go on from where a letter's own stroke ends, as a hand would draw them.

Such a stroke leaves the letter in the direction of the stroke that ends there and turns evenly up to the
ring. It begins as wide as that stroke is where it is still strong, so that a fine end is drawn over, and
swells up to the wall of the ring.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import shapely

from kizami.outlines.curves import FloatArray
from kizami.outlines.drawn_strokes import bezier, swelling
from kizami.outlines.ring import Ring
from kizami.outlines.stroke_ends import StrokeEnd, stroke_ends
from kizami.prepared import prepared

__all__ = ["LAST_WORTH", "Swashes"]

#: How far out a ring may stand from the end that holds it, in its radii.
_OUT = (-0.6, -0.1, 0.5, 1.05, 1.6, 2.3)
#: What a stroke of its own is worth against the letter's, what each radius of its length costs, what it costs
#: to turn right round, and for the ring to stand within what the letter spans.
_WORTH, _LENGTH_COSTS, _TURN_COSTS, _WITHIN_COSTS = 1.8, 0.18, 0.7, 0.5
#: A stroke turns no further than this, and goes no more backward at first, as cosines.
_LEAST_COSINE, _LEAST_OUTWARD = 0.2, -0.95
#: Share of a letter's width from its side in which its ends are looked for.
_SIDE_SHARE = 0.5
#: How far the middle of a ring may stand in over its letter, in its radii: at the end of a stroke that curls.
_LET_IN = 2.5
#: A stroke is so much wider than its ring's wall where it begins, at most.
_WIDEST = 1.5
#: It begins within the letter's own stroke, this much as wide.
_WITHIN_SHARE = 0.94
#: A branch is less than a stroke that goes on from an end; where nothing stands clear one is drawn anyhow.
_BRANCH_COSTS, LAST_WORTH = 0.9, 0.2
#: It runs along the letter so many times as far as a stroke that goes on from an end stays near it.
_LEAVING = 2.5
#: A stroke is no wider than this share of its letter; it begins this much of its width within it.
_BRANCH_SHARE, _BRANCH_FOOT = 0.15, 0.1


class Swashes:
    """The strokes that could carry a ring at one side of a letter, at each of some levels.

    Attributes
    ----------
    worth : (levels,) what the best at each level is worth, 0 where there is none; whether it stands clear of
        all else is asked only by `best`
    """

    def __init__(
        self, whole: shapely.Geometry, letter: shapely.Geometry, side: int, levels: FloatArray, ring: Ring
    ) -> None:
        self._whole, self._ring = whole, ring
        low_x, _, high_x, _ = letter.bounds
        reach = _SIDE_SHARE * (high_x - low_x)
        across = (low_x - 1.0, low_x + reach) if side < 0 else (high_x - reach, high_x + 1.0)
        ends = [end for end in stroke_ends(letter, across=across) if end.way[0] * side > _LEAST_OUTWARD]
        self._ends = [*ends, _branch(letter, side)]
        self._level, self._end, middles, worth = self._tried(side, levels)
        # Beside its letter rather than over it, and beside everything else.
        beyond = low_x - middles[:, 0] if side < 0 else middles[:, 0] - high_x
        spanned = prepared(shapely.convex_hull(letter))
        within = shapely.contains_xy(spanned, middles[:, 0], middles[:, 1])
        worth = np.where(within, worth - _WITHIN_COSTS, worth)
        may = np.flatnonzero((worth > 0) & (beyond > -_LET_IN * ring.outer))
        clear = may[~shapely.dwithin(whole, shapely.points(middles[may]), ring.outer + ring.gap)]
        best_first = clear[np.argsort(-worth[clear], kind="stable")]
        self._level, self._end = self._level[best_first], self._end[best_first]
        self._middles, self._worth = middles[best_first], worth[best_first]
        self.worth = np.where(levels > self._ends[-1].tip[1] + ring.outer, LAST_WORTH, 0.0)
        np.maximum.at(self.worth, self._level, self._worth)
        self._last = middles.reshape(len(self._ends), len(levels), len(_OUT), 2)[-1, :, -1]

    def _tried(
        self, side: int, levels: FloatArray
    ) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64], FloatArray, FloatArray]:
        """Every end with every level and distance: numbers of level and end, middles of the ring, worth."""
        ring = self._ring
        tips = np.array([end.tip for end in self._ends])
        ways = np.array([end.way for end in self._ends])
        shape = (len(tips), len(levels), len(_OUT))
        end, level, way_out = np.indices(shape).reshape(3, -1)
        out = np.array(_OUT)[way_out] * ring.outer
        middles = np.column_stack((tips[end, 0] + side * (out + ring.gap), levels[level]))
        chord = middles - tips[end]
        length = np.hypot(*chord.T)
        cosine = (ways[end] * chord).sum(axis=1) / length
        turn = 2.0 * np.arccos(np.clip(cosine, -1.0, 1.0))
        worth = _WORTH - _LENGTH_COSTS * length / ring.outer - _TURN_COSTS * turn / np.pi
        worth -= np.where(end == len(tips) - 1, _BRANCH_COSTS, 0.0)
        return level, end, middles, np.where(cosine > _LEAST_COSINE, np.maximum(worth, 0.0), 0.0)

    def best(self, level: int) -> tuple[float, FloatArray, shapely.Geometry] | None:
        """What the best at a level is worth that stands clear, the middle of its ring, and the stroke."""
        if self.worth[level] <= 0:
            return None
        for number in np.flatnonzero(self._level == level).tolist():
            middle, end = self._middles[number], self._ends[self._end[number]]
            curve = _turned_up(end, middle, self._ring)
            if self._stands_clear(curve, self._ring.gap, is_branch=end is self._ends[-1]):
                stroke = _drawn(end, curve, self._ring, is_branch=end is self._ends[-1])
                return float(self._worth[number]), middle, stroke
        middle, end = self._last[level], self._ends[-1]
        curve = _turned_up(end, middle, self._ring)
        is_free = not shapely.dwithin(self._whole, shapely.Point(middle), self._ring.outer)
        if is_free and self._stands_clear(curve, 0.0, is_branch=True):
            return LAST_WORTH, middle, _drawn(end, curve, self._ring, is_branch=True)
        self.worth[level] = 0.0
        return None

    def _stands_clear(self, curve: FloatArray, gap: float, *, is_branch: bool) -> bool:
        ring = self._ring
        away = np.hypot(*(curve - curve[0]).T)
        # A branch leaves the letter's stroke by and by.
        asked = curve[away > (_LEAVING if is_branch else 1.0) * (ring.wall + ring.gap)]
        near = shapely.dwithin(self._whole, shapely.points(asked), ring.wall / 2.0 + gap)
        return not bool(np.any(near))


def _turned_up(end: StrokeEnd, middle: FloatArray, ring: Ring) -> FloatArray:
    """An even turn from the end of a stroke to a ring, (n, 2)."""
    chord = middle - end.tip
    towards = chord / np.hypot(*chord)
    cosine = float(end.way @ towards)
    # An arc leaves its chord at either end by the same angle.
    arriving = 2.0 * cosine * towards - end.way
    foot = middle - arriving * ring.within
    half = np.arccos(np.clip(cosine, -1.0, 1.0))
    # Handles of the curve that is nearest to an arc: 4/3 tan(a/4) of its radius for a turn by a.
    share = 1.0 / 3.0 if half < 1e-6 else (4.0 / 3.0) * np.tan(half / 2.0) / (2.0 * np.sin(half))
    handle = share * float(np.hypot(*(foot - end.tip)))
    return bezier(end.tip, end.tip + handle * end.way, foot - handle * arriving, foot)


def _drawn(end: StrokeEnd, curve: FloatArray, ring: Ring, *, is_branch: bool) -> shapely.Geometry:
    line = np.concatenate((end.line[:-1], curve))
    along = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))))
    share = along / along[-1]
    # A branch begins within a stroke that turns away: wider than that its round end would look out of it.
    least = 0.0 if is_branch else ring.least_hold
    first = float(np.clip(_WITHIN_SHARE * end.widths[0], least, _WIDEST * ring.wall))
    # Evenly at both ends, as a pen is pressed down.
    return swelling(line, first + (ring.wall - first) * share**2 * (3.0 - 2.0 * share))


def _branch(letter: shapely.Geometry, side: int) -> StrokeEnd:
    """What could go on from the outermost place of a letter whose stroke turns there: upward, along it.

    >>> end = _branch(shapely.Point(0, 0).buffer(5).exterior.buffer(0.5), 1)
    >>> end.tip.round(1).tolist(), end.way.round(1).tolist(), end.widths.round(1).tolist()
    ([5.0, 0.0], [0.0, 1.0], [1.0, 1.0])
    """
    points = shapely.get_coordinates(letter)
    x, y = points[np.argmax(points[:, 0] * side)]
    low_x, _, high_x, _ = letter.bounds
    across = shapely.get_parts(letter.intersection(shapely.LineString([(low_x - 1.0, y), (high_x + 1.0, y)])))
    width = float(max(across, key=lambda run: side * run.centroid.x).length)
    # Of a full form only its edge is followed.
    width = float(np.clip(width, 0.1 * _BRANCH_SHARE * (high_x - low_x), _BRANCH_SHARE * (high_x - low_x)))
    middle = x - side * width / 2.0
    below = y - _BRANCH_FOOT * width
    return StrokeEnd(line=np.array([(middle, below), (middle, y)]), widths=np.array([width, width]))

"""The weight of strokes: thickened only where they are too fine, or all over, or thinned.

Where needed, a stroke is drawn again along its own middle line with a round pen as wide as the
process asks: what was wide enough keeps its outline to the last point. All over, every outline
moves outward (or inward) by one distance with rounded corners, as a parallel curve.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
import shapely

from kizami.outlines.clean import without_repeats
from kizami.outlines.curves import FloatArray, bodies_of
from kizami.outlines.narrow import (
    MedialAxis,
    ShapeFacts,
    gap_lines,
    measure_shape,
    medial_axis,
    thin_lines,
)
from kizami.outlines.serifs import one_sided
from kizami.prepared import prepared

__all__ = ["Weighed", "departure", "pen_over_thin", "thicken_all_over", "thicken_where_needed"]

_MOST_PASSES = 5
#: Of the tolerance: points nearer than this are one.
_HAIR_SHARE = 0.01


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Weighed:
    """A shape with other strokes.

    Attributes
    ----------
    shape : the result
    departure : largest distance between the two outlines
    area_share : area of the result against the original
    closed_middles : closed middles that are gone
    lost_bodies : bodies that are gone or have run together
    facts : thinnest stroke and narrowest gap of the result, where they were measured on the way
    """

    shape: shapely.MultiPolygon
    departure: float
    area_share: float
    closed_middles: int
    lost_bodies: int
    facts: ShapeFacts | None = None


def thicken_where_needed(
    shape: shapely.MultiPolygon,
    least: float,
    *,
    cap_height: float,
    sagitta: float,
    axis: MedialAxis | None = None,
    gap: float = 0.0,
    most: float = math.inf,
) -> Weighed:
    """Thicken what is thinner than `least`, and nothing else.

    Where the thickened stroke would come nearer to another than `gap`, it makes room: the material goes to
    its other side.

    Parameters
    ----------
    shape : one letter, any unit
    least : wanted width of stroke
    cap_height : tells how long a stroke must be to be one
    sagitta : largest distance between a rounded edge and its chords
    axis : its medial axis where that is known already
    gap : narrowest gap that stays open
    most : an outline may move by so much; serifs and bars keep their outer edge as far as that allows

    >>> bar = shapely.MultiPolygon([shapely.box(0, 0, 10, 0.5)])
    >>> thick = thicken_where_needed(bar, 1.0, cap_height=10, sagitta=0.001)
    >>> round(thick.departure, 2), thick.closed_middles
    (0.26, 0)
    """
    pen = _Pen(least=least, gap=gap, cap_height=cap_height, sagitta=sagitta)
    slabs = one_sided(shape, least=2.0 * _radius(least, sagitta), most=most, cap_height=cap_height)
    tried: list[Weighed] = []
    while slabs and len(tried) < _MOST_TIMES_FEWER:
        begun = _without_hairs(bodies_of(shapely.union_all([shape, *slabs])), sagitta)
        tried.append(pen.kept_within(shape, pen.over(shape, begun, None), most))
        if tried[-1].departure <= most:
            return tried[-1]
        # Without those at whose corners the outline moves by more; the others stay as an engraver cuts them.
        far = shapely.multipoints(_far_beyond(shape, tried[-1].shape, most))
        kept = [slab for slab in slabs if not shapely.dwithin(slab, far, _AT_SHARE * least)]
        if len(kept) == len(slabs):
            break
        slabs = kept
    drawn = pen.over(shape, shape, axis)
    if drawn.departure <= most:
        return drawn
    # Growing to both sides moves an outline by less; where nothing keeps within, no further than it must.
    sound = [one for one in tried if one.departure <= drawn.departure + sagitta]
    return min(sound or [drawn], key=lambda one: one.departure)


#: A corner that stands out by no more than this share of what an outline may move is rounded, to this one.
_CORNER_SHARE, _WITHIN_SHARE = 1.25, 0.99
#: How often thin bars are left to the pen, and how near to them an outline that moves too far is theirs, in
#: strokes.
_MOST_TIMES_FEWER, _AT_SHARE = 3, 0.1


@dataclass(frozen=True, kw_only=True, slots=True)
class _Pen:
    """A round pen that strokes are drawn again with, and what keeps it off others."""

    least: float
    gap: float
    cap_height: float
    sagitta: float

    def over(
        self, shape: shapely.MultiPolygon, begun: shapely.MultiPolygon, axis: MedialAxis | None
    ) -> Weighed:
        """A shape thickened where it is still too thin.

        Parameters
        ----------
        begun : with what was added to it already
        axis : medial axis of that, where it is known
        """
        least, gap, cap_height, sagitta = self.least, self.gap, self.cap_height, self.sagitta
        result, axis = begun, axis or medial_axis(begun, cap_height=cap_height)
        for _ in range(_MOST_PASSES):
            if gap and result is not shape:
                result, axis = self._kept_open(shape, result, axis)
            # Where a thickened stroke meets another, a notch may be left that is itself too thin.
            thin = thin_lines(result, axis, cap_height=cap_height, below=least * 1.002)
            if thin.is_empty:
                break
            result = bodies_of(result, _penned(thin, least, sagitta))
            axis = medial_axis(result, cap_height=cap_height)
        facts = measure_shape(result, cap_height=cap_height, axis=axis)
        return replace(_weighed(shape, result), facts=facts)

    def kept_within(self, shape: shapely.MultiPolygon, weighed: Weighed, most: float) -> Weighed:
        """Corners that stand out by a little more than an outline may move, rounded; the same where that
        would make a stroke too thin."""
        if not most < weighed.departure <= _CORNER_SHARE * most:
            return weighed
        room = shape.buffer(_WITHIN_SHARE * most, quad_segs=_quarter(most, self.sagitta / 4.0))
        rounded = _without_hairs(bodies_of(shape, weighed.shape.intersection(room)), self.sagitta)
        facts = measure_shape(rounded, cap_height=self.cap_height)
        if facts.stroke is None or facts.stroke.width < self.least:
            return weighed
        return replace(_weighed(shape, rounded), facts=facts)

    def _kept_open(
        self, shape: shapely.MultiPolygon, result: shapely.MultiPolygon, axis: MedialAxis | None
    ) -> tuple[shapely.MultiPolygon, MedialAxis | None]:
        """Without what was added where it comes too near to another stroke; its axis with it.

        The next pass centres the pen on what is left there.
        """
        gap, sagitta = self.gap, self.sagitta
        closing = gap_lines(result, axis, cap_height=self.cap_height, below=gap)
        if closing.is_empty:
            return result, axis
        kept_open = closing.buffer(gap * 0.505 + sagitta, quad_segs=_quarter(gap / 2.0, sagitta))
        result = _without_hairs(bodies_of(result.difference(kept_open.difference(shape))), sagitta)
        return result, medial_axis(result, cap_height=self.cap_height)


def pen_over_thin(
    shape: shapely.MultiPolygon, least: float, *, cap_height: float, sagitta: float
) -> shapely.Geometry:
    """Strokes of a round pen along all that is thinner than `least`; empty where nothing is.

    >>> bar = shapely.MultiPolygon([shapely.box(0, 0, 10, 0.5)])
    >>> pen = pen_over_thin(bar, 1.0, cap_height=10, sagitta=0.001)
    >>> round(pen.bounds[3] - pen.bounds[1], 2)
    1.01
    """
    thin = thin_lines(
        shape, medial_axis(shape, cap_height=cap_height), cap_height=cap_height, below=least * 1.002
    )
    if thin.is_empty:
        return shapely.MultiPolygon()
    return _penned(thin, least, sagitta)


def _penned(lines: shapely.Geometry, width: float, sagitta: float) -> shapely.Geometry:
    """The stroke of a round pen along the ridges of an axis."""
    radius = _radius(width, sagitta)
    # The axis comes in very many short pieces; joined and smoothed within the tolerance it is drawn along a
    # hundred times sooner, and leaves an outline without needless points.
    merged = shapely.simplify(shapely.line_merge(lines), sagitta / 2.0)
    return shapely.simplify(merged.buffer(radius, quad_segs=_quarter(radius, sagitta)), sagitta / 4.0)


def _without_hairs(shape: shapely.MultiPolygon, sagitta: float) -> shapely.MultiPolygon:
    # Where edges all but coincide, points do: moved to its place such an edge would have no length.
    return without_repeats(shape, sagitta * _HAIR_SHARE)


def _radius(width: float, sagitta: float) -> float:
    # The pen is a hair wider than asked, for the width is measured on a sampled outline.
    return width * 0.505 + sagitta


def thicken_all_over(shape: shapely.MultiPolygon, by: float, *, sagitta: float) -> Weighed:
    """Move every outline outward by `by`, inward when negative, with rounded corners."""
    if by == 0 or shape.is_empty:
        return _weighed(shape, shape)
    return _weighed(shape, bodies_of(shape.buffer(by, quad_segs=_quarter(abs(by), sagitta))))


def departure(one: shapely.Geometry, other: shapely.Geometry) -> float:
    """Largest distance from a point of either outline to the other outline.

    Points are looked at no further apart than a hundredth of the shape's size, corners among them.
    """
    if one.is_empty or other.is_empty:
        return 0.0
    # A stroke that is covered whole is no departure: only what stands out or is cut away counts.
    return float(max(np.max(_beyond(*two)[1], initial=0.0) for two in ((one, other), (other, one))))


def _beyond(shape: shapely.Geometry, other: shapely.Geometry) -> tuple[FloatArray, FloatArray]:
    """Points (n, 2) of the outline of another shape that lie outside of a shape, and how far, (n,)."""
    low_x, low_y, high_x, high_y = other.bounds
    step = max(high_x - low_x, high_y - low_y) / 100.0
    points = shapely.get_coordinates(shapely.segmentize(other.boundary, step))
    points = points[~np.asarray(shapely.intersects_xy(prepared(shape), *points.T), dtype=bool)]
    return points, np.asarray(shapely.distance(shapely.points(points), shape.boundary), dtype=np.float64)


def _far_beyond(shape: shapely.Geometry, other: shapely.Geometry, most: float) -> FloatArray:
    """Where the outline of a thickened shape has moved by more than it may, (n, 2)."""
    points, away = _beyond(shape, other)
    return points[away > most]


def _weighed(before: shapely.MultiPolygon, after: shapely.MultiPolygon) -> Weighed:
    same = before is after
    return Weighed(
        shape=after,
        departure=0.0 if same else departure(before, after),
        area_share=1.0 if same or before.area == 0 else after.area / before.area,
        closed_middles=max(0, _middles(before) - _middles(after)),
        lost_bodies=max(0, len(before.geoms) - len(after.geoms)),
    )


def _middles(shape: shapely.MultiPolygon) -> int:
    return sum(len(body.interiors) for body in shape.geoms)


def _quarter(radius: float, sagitta: float) -> int:
    """Chords in a quarter circle: r (1 - cos(pi / 4n)) = sagitta."""
    angle = np.arccos(max(1.0 - sagitta / radius, -1.0)) if radius > 0 else 1.0
    return int(max(2, np.ceil(np.pi / 4.0 / max(angle, 1e-3))))

"""Shapes that hold each other: how wide the neck is where they meet, how far one must go to get there,
and how the notches beside such a place are rounded out."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import shapely

from kizami.outlines.boxed import boxed
from kizami.outlines.curves import FloatArray

__all__ = ["blends", "meetings", "moved", "neck", "travel_until_held", "travel_until_touching"]

#: Past a tangent the walk shortens step by step; so many bring it within a thousandth of the way.
_MOST_WALKS = 80
#: Steps in which the depth is found at which the neck is wide enough.
_DEPTH_STEPS = 6
_LEAST_DEPTH_SHARE = 0.03
_QUARTER = 8


def moved(shape: shapely.Geometry, by: FloatArray) -> shapely.Geometry:
    """A shape moved by a vector (2,)."""
    return shapely.transform(shape, lambda xy: xy + by)


def neck(one: shapely.Geometry, other: shapely.Geometry) -> float:
    """Width of the neck where two shapes meet: 0 where they do not, infinite where one lies in the other.

    Parting them means to cut along what of the one's outline lies in the other, or the other way round: the
    neck is the shorter of the two, each measured straight from end to end.

    >>> left, right = shapely.box(0, 0, 2, 2), shapely.box(1.5, 0.5, 4, 1)
    >>> neck(left, right), neck(left, shapely.box(3, 0, 4, 1)), neck(left, shapely.box(0.5, 0.5, 1, 1))
    (0.5, 0.0, inf)
    """
    if not shapely.intersects(one, other) or shapely.touches(one, other):
        return 0.0
    return min(_cut(one, other), _cut(other, one))


def meetings(one: shapely.Geometry, other: shapely.Geometry) -> tuple[tuple[shapely.Geometry, float], ...]:
    """Where two shapes lie over each other, or touch: each place, and the neck at that place alone.

    >>> comb = shapely.union_all([shapely.box(0, 0, 9, 1), shapely.box(0, 0, 1, 3), shapely.box(8, 0, 9, 3)])
    >>> [(place.bounds, width) for place, width in meetings(comb, shapely.box(-1, 2.5, 10, 4))]
    [((0.0, 2.5, 1.0, 3.0), 1.0), ((8.0, 2.5, 9.0, 3.0), 1.0)]
    >>> [width for _, width in meetings(comb, shapely.box(9, 0, 10, 1))]
    [0.0]
    >>> meetings(comb, shapely.box(20, 20, 21, 21))
    ()
    """
    places = [part for part in shapely.get_parts(shapely.intersection(one, other)) if not part.is_empty]
    if len(places) < 2:
        return tuple((place, neck(one, other)) for place in places)
    tree = shapely.STRtree(places)
    widths = np.zeros((2, len(places)))
    for row, lines in zip(widths, (_inside(one, other), _inside(other, one)), strict=True):
        # Each line runs along the edge of the place that it parts.
        for line in lines:
            row[tree.nearest(line)] += _across(line)
    return tuple(zip(places, widths.min(axis=0).tolist(), strict=True))


def _cut(one: shapely.Geometry, other: shapely.Geometry) -> float:
    """How much of an outline runs inside of another shape, straight from end to end."""
    lines = _inside(one, other)
    if not lines:
        # Nothing of this outline lies within: the other is inside of it, or they touch in points.
        return 0.0 if not one.covers(other) else math.inf
    return sum(_across(line) for line in lines)


def _inside(one: shapely.Geometry, other: shapely.Geometry) -> list[shapely.LineString]:
    inside = shapely.line_merge(one.boundary.intersection(other))
    return [part for part in shapely.get_parts(inside) if isinstance(part, shapely.LineString)]


def _across(line: shapely.LineString) -> float:
    """From end to end of a line; one that closes on itself lies wholly inside, where nothing parts it."""
    ends = np.asarray(line.coords)[[0, -1]]
    width = float(np.hypot(*(ends[1] - ends[0])))
    return math.inf if width == 0.0 and line.length > 0 else width


def travel_until_touching(
    shape: shapely.Geometry, other: shapely.Geometry, way: FloatArray, *, most: float, near: float = 0.0
) -> float | None:
    """How far a shape goes along a unit direction until it touches another; None when it does not within
    `most`.

    What lies between two shapes can always be walked without passing a contact.

    Parameters
    ----------
    near : shapes that come so near count as touching

    >>> travel_until_touching(shapely.box(0, 5, 1, 6), shapely.box(0, 0, 1, 1), np.array([0.0, -1.0]), most=9)
    4.0
    >>> travel_until_touching(
    ...     shapely.box(0, 5, 1, 6), shapely.box(0, 0, 1, 1), np.array([0.0, -1.0]), most=9, near=0.5
    ... )
    3.5
    """
    went = 0.0
    for _ in range(_MOST_WALKS):
        gap = float(shapely.distance(moved(shape, way * went), other)) - near
        if gap <= most * 1e-5:
            return went
        went += gap
        if went > most:
            return None
    return went


def travel_until_held(
    shape: shapely.Geometry,
    other: shapely.Geometry,
    way: FloatArray,
    *,
    wanted: float,
    most: float,
    most_depth: float,
) -> tuple[float, float]:
    """How far a shape goes along a unit direction until another holds it by a neck as wide as wanted.

    Parameters
    ----------
    most : that it may go until it touches
    most_depth : that it may go on into the other

    Returns
    -------
    the way, and the neck there; the widest that there is where none is wide enough, and (0, 0) where
    the two do not meet
    """
    touch = travel_until_touching(shape, other, way, most=most)
    if touch is None:
        return 0.0, 0.0
    there = neck(moved(shape, way * touch), other)
    deepest = neck(moved(shape, way * (touch + most_depth)), other)
    if deepest < wanted:
        return (touch + most_depth, deepest) if deepest > there else (touch, there)
    # Never so little that flat sides would meet in a hair.
    low, high, found = min(_LEAST_DEPTH_SHARE * wanted, most_depth), most_depth, deepest
    width = neck(moved(shape, way * (touch + low)), other)
    if width >= wanted:
        return touch + low, width
    for _ in range(_DEPTH_STEPS):
        middle = (low + high) / 2.0
        width = neck(moved(shape, way * (touch + middle)), other)
        if width >= wanted:
            high, found = middle, width
        else:
            low = middle
    return touch + high, found


def blends(
    whole: shapely.MultiPolygon, places: Sequence[shapely.Geometry], *, radius: float
) -> list[shapely.Polygon]:
    """What fills the notches beside joints, so that their corners are round.

    Parameters
    ----------
    whole : everything, joined
    places : where the joints are; notches that begin there are filled
    radius : of the rounded corners

    >>> cross = shapely.union_all([shapely.box(0, -1, 10, 1), shapely.box(4, -5, 6, 5)])
    >>> middle = shapely.Point(5, 0).buffer(2)
    >>> [round(b.area, 2) for b in blends(shapely.MultiPolygon([cross]), [middle], radius=1.0)]
    [0.22, 0.22, 0.22, 0.22]
    """
    if not places or radius <= 0:
        return []
    found: list[shapely.Polygon] = []
    joints = shapely.union_all(list(places))
    around = shapely.union_all([place.buffer(2.0 * radius, quad_segs=_QUARTER) for place in places])
    for window in shapely.get_parts(around):
        # What lies further out than the window reaches in, so that its own edge leaves no notch.
        here = shapely.intersection(whole, window.buffer(2.0 * radius, quad_segs=2))
        for share in _SMALLER:
            notches, are_all = _notches(here, window, joints, radius * share)
            if are_all or share == _SMALLER[-1]:
                found.extend(notches)
                break
    return found


#: Radii that are tried, as shares, where the wanted one would close more than notches.
_SMALLER = (1.0, 0.5, 0.25)


def _notches(
    here: shapely.Geometry, window: shapely.Polygon, joints: shapely.Geometry, radius: float
) -> tuple[list[shapely.Polygon], bool]:
    """What a round of a radius fills beside joints, and whether all of it is notches."""
    # A trace further in than out: else the two would share all their edges but for rounding, which is slow to
    # take apart and leaves slivers all along.
    closed = here.buffer(radius, quad_segs=_ARC).buffer(-radius * (1.0 + _TRACE_SHARE), quad_segs=_ARC)
    found: list[shapely.Polygon] = []
    are_all = True
    parts = shapely.get_parts(closed.difference(here))
    # A notch begins where the joint is; what closes further off is an opening, and stays one.
    for part in parts[shapely.dwithin(parts, joints, _AT_SHARE * radius)]:
        if not isinstance(part, shapely.Polygon) or part.buffer(-_SLIM_SHARE * radius, quad_segs=1).is_empty:
            continue
        # Its two sides run together into one corner; what has a third side leads over to another stroke.
        if part.interiors or _sides(part, here, _ALONG_SHARE * radius) > 1:
            are_all = False
            continue
        # A notch is filled whole; what runs on as a slit only where the joint is.
        notch = part if part.area <= _LARGEST_SHARE * radius**2 else part.intersection(window)
        # A hair more, so that no slit is left between what is filled and what is around it.
        grown = notch.buffer(_HAIR_SHARE * radius, join_style="bevel")
        grown = grown.intersection(boxed(closed, grown, room=radius))
        found.extend(g for g in shapely.get_parts(grown) if isinstance(g, shapely.Polygon))
    return found, are_all


def _sides(notch: shapely.Polygon, solid: shapely.Geometry, along: float) -> int:
    """How many times going round a notch one comes to run along what it lies beside."""
    corners = shapely.points(shapely.get_coordinates(notch.exterior)[:-1])
    is_along = np.asarray(shapely.dwithin(solid, corners, along), dtype=bool)
    return int(np.count_nonzero(is_along & ~np.roll(is_along, 1))) or int(is_along.any())


#: Corners of a quarter of a rounded corner: a chord of one leaves its arc by a 467th of the radius.
_ARC = 12
#: Of a radius.
_TRACE_SHARE = 0.002
#: Of a radius: what is nearer to an edge runs along it.
_ALONG_SHARE = 0.02
#: Of a radius: crescents that are slimmer, along edges that are hollow by themselves, are no notches.
_SLIM_SHARE = 0.04
#: Of a radius: a notch begins no further from its joint.
_AT_SHARE = 0.1
_HAIR_SHARE = 0.004
#: Area of a notch at most, in squared radii: one of 20 degrees between straight sides has less.
_LARGEST_SHARE = 4.0

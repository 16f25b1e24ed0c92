"""One piece: tying loose parts together, holding closed middles, loops to hang by, a rim around.

Bridges are as short as they can be, but go straight up or across where that is hardly longer: that
is how a goldsmith ties the dot of an i.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from kizami.outlines.curves import FloatArray, bodies_of
from kizami.outlines.drawn_strokes import bezier, link, swelling
from kizami.outlines.stroke_ends import StrokeEnd, stroke_ends

__all__ = ["Tied", "base_bar", "hold_middles", "loose_parts", "own_stroke", "rim", "tie"]

#: An upright bridge is taken when it is at most this much longer than the shortest, and one at the feet when
#: it is at most this much longer: at the height of a dot or in the middle it would make another letter.
_NATURAL_SHARE, _FEET_SHARE = 1.3, 2.4
#: A stroke at the feet runs under what it joins for so many of its own widths at most.
_UNDER_WIDTHS = 3.0
#: A stroke across stands so high above the feet of what it joins, in its own widths.
_FOOT_WIDTHS = 0.6
_QUARTER = 16
#: Drawn on to the next word is a stroke that goes onward, as a cosine, and by no more than so many times the
#: shortest way; it goes so far into what it meets, in its widths.
_ONWARD, _RUN_ON_SHARE, _INTO_SHARE = 0.15, 1.8, 0.4
#: It hangs no further under the feet of what it joins, in its widths.
_SAG_SHARE = 0.25
#: It ends within these shares of the height from the side and from below: a word is left by its last letter.
_LAST_SHARE, _LOW_SHARE = 0.3, 0.66
#: It begins at most so much wider than it ends, and its own middle is so many points before its end.
_WIDEST_START, _MIDDLE_OF_CURVE = 1.35, 13


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Tied:
    """Parts made one.

    Attributes
    ----------
    shape : everything together
    ties : what was added, or of pierced letters left standing, one by one
    loose_before, loose_after : parts that were, and are, not attached to the largest one
    spots : middles of the ties
    """

    shape: shapely.MultiPolygon
    ties: tuple[shapely.Polygon, ...]
    loose_before: int
    loose_after: int
    spots: tuple[tuple[float, float], ...]


def loose_parts(shape: shapely.Geometry) -> list[shapely.Polygon]:
    """Parts that are not attached to the largest one, from left to right.

    >>> loose_parts(shapely.MultiPolygon([shapely.box(0, 0, 9, 9), shapely.box(20, 0, 21, 1)]))[0].area
    1.0
    """
    parts = sorted(shapely.get_parts(shape), key=lambda p: p.area)
    return sorted(parts[:-1], key=lambda p: (p.bounds[0], p.bounds[1]))


def tie(shape: shapely.MultiPolygon, *, width: float, avoid: shapely.Geometry | None = None) -> Tied:
    """Tie all parts together by the shortest bridges that do it (a minimum spanning tree).

    Parameters
    ----------
    width : of the bridges
    avoid : dots and accents, which no bridge starts from unless a part is nothing else
    """
    before = max(0, len(shape.geoms) - 1)
    parts = [_bare(part, avoid) for part in shape.geoms] if before else []
    ties: list[shapely.Polygon] = []
    spots: list[tuple[float, float]] = []
    for one, other in _shortest_tree(parts):
        run_on = _run_on(parts[one], parts[other], width)
        if run_on is not None:
            stroke, middle = run_on
        else:
            line = _natural_line(parts[one], parts[other], width)
            stroke, middle = link(line, width), line.interpolate(0.5, normalized=True)
        ties.append(stroke)
        spots.append((middle.x, middle.y))
    united = bodies_of(shape, *ties) if ties else shape
    return Tied(
        shape=united,
        ties=tuple(ties),
        loose_before=before,
        loose_after=max(0, len(united.geoms) - 1),
        spots=tuple(spots),
    )


def _run_on(
    one: shapely.Polygon, other: shapely.Polygon, width: float
) -> tuple[shapely.Geometry, shapely.Point] | None:
    """The last stroke of one word drawn on to the next, and its middle; None where none ends that way."""
    left, right = (one, other) if one.centroid.x < other.centroid.x else (other, one)
    shortest = shapely.distance(left, right)
    _, low_y, high_x, high_y = left.bounds
    near = left.intersection(shapely.box(high_x - (high_y - low_y), low_y, high_x, high_y))
    best: tuple[float, FloatArray, float] | None = None
    for end in stroke_ends(near, across=(high_x - _LAST_SHARE * (high_y - low_y), np.inf)):
        if end.tip[1] > low_y + _LOW_SHARE * (high_y - low_y):
            continue
        # Where a stroke would be if it went on as it goes is where it is headed.
        headed = end.tip + 0.5 * shortest * end.way
        foot = shapely.get_coordinates(shapely.shortest_line(right, shapely.Point(headed)))[0]
        chord = foot - end.tip
        length = float(np.hypot(*chord))
        is_onward = end.way[0] > _ONWARD and chord @ end.way > -_ONWARD * length
        if not is_onward or length > _RUN_ON_SHARE * shortest:
            continue
        line = np.concatenate((end.line[:-1], _onward(end, foot, width)))
        # One that ran down first would hang under the feet of both.
        if line[:, 1].min() - width / 2.0 < min(low_y, right.bounds[1]) - _SAG_SHARE * width:
            continue
        if best is None or length < best[0]:
            best = length, line, float(np.clip(end.widths[0], width, _WIDEST_START * width))
    if best is None:
        return None
    length, line, first = best
    stroke = swelling(line, np.linspace(first, width, len(line)))
    return stroke, shapely.Point(line[-_MIDDLE_OF_CURVE])


def _onward(end: StrokeEnd, foot: FloatArray, width: float) -> FloatArray:
    """From the end of a stroke to a foot, leaving as the stroke goes and arriving level, as a pen does."""
    handle = 0.4 * float(np.hypot(*(foot - end.tip)))
    level = np.array([1.0, 0.0])
    foot = foot + level * width * _INTO_SHARE
    return bezier(end.tip, end.tip + handle * end.way, foot - handle * level, foot)


def _bare(part: shapely.Polygon, avoid: shapely.Geometry | None) -> shapely.Polygon:
    """A part without what must not be tied to; the largest piece of what is left."""
    if avoid is None or not shapely.intersects(part, avoid):
        return part
    left = bodies_of(part.difference(avoid))
    return part if left.is_empty else max(left.geoms, key=lambda body: float(body.area))


def own_stroke(part: shapely.Polygon, whole: shapely.Polygon, *, width: float) -> shapely.Geometry:
    """A stroke that holds a part at another, straight up where that is hardly longer than the shortest."""
    return link(_natural_line(part, whole, width), width)


def _shortest_tree(parts: list[shapely.Polygon]) -> list[tuple[int, int]]:
    """Pairs of parts whose bridges join everything with the least length (Prim 1957)."""
    count = len(parts)
    if count < 2:
        return []
    array = np.array(parts, dtype=object)
    nearest = shapely.distance(array, array[0])
    owner = np.zeros(count, dtype=int)
    done = np.zeros(count, dtype=bool)
    done[0] = True
    pairs = []
    for _ in range(count - 1):
        open_distance = np.where(done, np.inf, nearest)
        place = int(np.argmin(open_distance))
        pairs.append((int(owner[place]), place))
        done[place] = True
        distance = shapely.distance(array, array[place])
        closer = distance < nearest
        nearest[closer], owner[closer] = distance[closer], place
    return pairs


def _natural_line(one: shapely.Polygon, other: shapely.Polygon, width: float) -> shapely.LineString:
    """From part to part: straight up where that is hardly longer than the shortest way, or across at their
    feet, where a pen goes from letter to letter."""
    shortest = shapely.shortest_line(one, other)
    best = shortest
    low_x, high_x = max(one.bounds[0], other.bounds[0]), min(one.bounds[2], other.bounds[2])
    low_y, high_y = max(one.bounds[1], other.bounds[1]), min(one.bounds[3], other.bounds[3])
    tries = []
    if high_x > low_x:
        x = (low_x + high_x) / 2.0
        tries.append((shapely.LineString([(x, -1e6), (x, 1e6)]), _NATURAL_SHARE))
    if high_y > low_y:
        y = min(low_y + _FOOT_WIDTHS * width, (low_y + high_y) / 2.0)
        tries.append((shapely.LineString([(-1e6, y), (1e6, y)]), _FEET_SHARE))
    for ray, share in tries:
        line = shapely.shortest_line(one.intersection(ray), other.intersection(ray))
        if line is not None and 0 < line.length <= share * shortest.length:
            if share == _FEET_SHARE and _overhung(line, (one, other), width) > _UNDER_WIDTHS * width:
                continue
            best = line
    return best


def _overhung(line: shapely.LineString, parts: tuple[shapely.Polygon, ...], width: float) -> float:
    """How much of a level line runs under something of what it joins: there it would read as a stroke of that
    letter, and make E of F."""
    low_x, y, high_x, _ = line.bounds
    over = shapely.box(low_x, y + width, high_x, 1e6)
    return max((_width(part.intersection(over)) for part in parts), default=0.0)


def _width(shape: shapely.Geometry) -> float:
    return 0.0 if shape.is_empty else float(shape.bounds[2] - shape.bounds[0])


def _bridge(line: shapely.LineString, width: float) -> shapely.Polygon:
    """A bar along a line, reaching half its width into both parts so that the joint is full."""
    ends = np.asarray(line.coords)
    along = ends[-1] - ends[0]
    length = float(np.hypot(*along))
    direction = along / length if length > 0 else np.array([0.0, 1.0])
    reach = direction * width / 2.0
    longer = shapely.LineString([ends[0] - reach, ends[-1] + reach])
    return longer.buffer(width / 2.0, cap_style="flat")


def base_bar(
    shape: shapely.MultiPolygon,
    *,
    baseline: float,
    width: float,
    below: float = 0.0,
    seen: Sequence[shapely.Geometry] = (),
) -> shapely.Polygon:
    """A bar under all letters.

    Parameters
    ----------
    baseline : where the letters stand
    width : height of the bar
    below : clear space between the letters' feet and the bar; 0 lets them stand a third into it
    seen : what is small and must be told from it, as a stop: it stands no further into the bar than a fifth
        of its own height
    """
    low, _, high, _ = shape.bounds
    standing = [(reach, one.bounds[2]) for one in seen if (reach := _foot_high(one, baseline)) > 0.0]
    into = min([width / 3.0, *(_SUNK_SHARE * reach for reach, _ in standing)])
    top = baseline - below if below > 0 else baseline + into
    # One that stood at its very end would be a corner of it.
    high = max([high, *(right + width / 3.0 for _, right in standing)])
    return shapely.box(low, top - width, high, top)


#: How far what must be seen stands in a bar, of its own height (common practice, no source).
_SUNK_SHARE = 0.2


def _foot_high(shape: shapely.Geometry, baseline: float) -> float:
    """How high the lowest body that stands on a line, or hangs through it, reaches above it; 0 of none."""
    reach = ((body.bounds[1] - baseline, body.bounds[3] - baseline) for body in shapely.get_parts(shape))
    return min((high for low, high in reach if high > 0 and low < _STANDS_SHARE * (high - low)), default=0.0)


#: What stands on a line is no further above it than so much of its own height.
_STANDS_SHARE = 0.25


def hold_middles(shape: shapely.MultiPolygon, *, width: float) -> Tied:
    """Cut bridges into pierced lettering so that no closed middle drops out.

    A closed middle is held above and below where the strokes there can be crossed straight, as
    stencils are; else by the shortest way out.

    Returns
    -------
    Tied; `shape` is what is pierced, `ties` the strips that are left standing
    """
    before = sum(len(body.interiors) for body in shape.geoms)
    strips: list[shapely.Polygon] = []
    spots: list[tuple[float, float]] = []
    for body in shape.geoms:
        filled = shapely.Polygon(body.exterior)
        for hole in body.interiors:
            for line in _ways_out(shapely.Polygon(hole), filled):
                strips.append(_bridge(line, width))
                middle = line.interpolate(0.5, normalized=True)
                spots.append((middle.x, middle.y))
    if not strips:
        return Tied(shape=shape, ties=(), loose_before=0, loose_after=0, spots=())
    left = shapely.union_all(strips)
    pierced = bodies_of(shape.difference(left))
    return Tied(
        shape=pierced,
        ties=tuple(strips),
        loose_before=before,
        loose_after=sum(len(body.interiors) for body in pierced.geoms),
        spots=tuple(spots),
    )


def _ways_out(middle: shapely.Polygon, filled: shapely.Polygon) -> list[shapely.LineString]:
    """Lines from a closed middle to the outside: up and down through its centre, or the shortest."""
    centre = middle.representative_point() if not middle.contains(middle.centroid) else middle.centroid
    _, bottom, _, top = filled.bounds
    lines = []
    for x, y in ((centre.x, top + 1.0), (centre.x, bottom - 1.0)):
        ray = shapely.LineString([(centre.x, centre.y), (x, y)])
        stroke = ray.intersection(filled.difference(middle))
        pieces = [p for p in shapely.get_parts(stroke) if isinstance(p, shapely.LineString) and p.length > 0]
        if len(pieces) == 1:
            lines.append(pieces[0])
    shortest = shapely.shortest_line(middle.exterior, filled.exterior)
    # Straight strips that are far longer than the shortest way would weaken the letter for nothing.
    lines = [line for line in lines if line.length <= 3.0 * shortest.length]
    return lines or [shortest]


def rim(shape: shapely.MultiPolygon, *, width: float, reach: float) -> shapely.Polygon | shapely.MultiPolygon:
    """A rim that follows the outside of everything.

    Parameters
    ----------
    width : of the rim
    reach : bays narrower than twice this are closed, so that the rim runs smoothly from letter to letter
    """
    grown = shape.buffer(reach, quad_segs=_QUARTER).buffer(-reach, quad_segs=_QUARTER)
    filled = shapely.union_all([shapely.Polygon(part.exterior) for part in shapely.get_parts(grown)])
    # It reaches a little way under the letters, so that it holds them and does not only touch.
    return filled.buffer(width, quad_segs=_QUARTER).difference(
        filled.buffer(-width / 4.0, quad_segs=_QUARTER)
    )

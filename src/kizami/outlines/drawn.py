"""An outline that somebody drew: its lines joined, closed and told apart into an edge and openings.

Drawings come as loose lines, arcs and curves, drawn twice, left open by a hair, with a frame or notes beside
the shape. What can be put right without a doubt is put right and noted; what can't is refused with its
place, in the drawing's own numbers.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from kizami.counting import so_many
from kizami.errors import OutlineError
from kizami.surfaces.protocol import FloatArray

__all__ = [
    "FINE",
    "MOST_LINES",
    "MOST_POINTS",
    "DrawnOutline",
    "JoinedLines",
    "drawn_outline",
    "joined_lines",
    "thinned_lines",
]

#: A drawing of more pieces of line than this is no outline.
MOST_LINES = 5000
#: Ends nearer to each other than this share of the drawing are meant to meet (common practice, no source).
_MEET = 1e-3
#: The outline leaves what was drawn by no more than this share of its longer side.
FINE = 6e-5
MOST_POINTS, MOST_OPENINGS = 1500, 40


@dataclass(frozen=True, kw_only=True, slots=True)
class DrawnOutline:
    """A closed outline.

    Attributes
    ----------
    edge : (n, 2) anticlockwise, in the drawing's numbers, y up
    openings : each (n, 2), within the edge, apart from each other, the largest first
    notes : what was put right or left out
    """

    edge: FloatArray
    openings: tuple[FloatArray, ...]
    notes: tuple[str, ...]

    @property
    def size(self) -> tuple[float, float]:
        """How wide and how high it is, in the drawing's numbers."""
        wide, high = np.ptp(self.edge, axis=0)
        return float(wide), float(high)


def drawn_outline(lines: Sequence[FloatArray]) -> DrawnOutline:
    """The outline that lines draw: the largest closed shape, and what is open within it.

    Parameters
    ----------
    lines : each (n, 2), y up, in any order and direction

    Raises
    ------
    OutlineError : nothing is closed, or it crosses itself

    >>> corners = np.array([(0, 0), (40, 0), (40, 20), (0, 20)], dtype=float)
    >>> loose = [corners[[1, 0]], corners[[1, 2]], corners[[3, 2]], corners[[3, 0]]]
    >>> drawn_outline(loose).size
    (40.0, 20.0)
    >>> drawn_outline([])
    Traceback (most recent call last):
    ...
    kizami.errors.OutlineError: Nothing is drawn in it.
    """
    joined = joined_lines(lines)
    open_, extent, meet = joined.open, joined.extent, joined.meet
    notes: list[str] = []
    polygons = _told_once([_ring(ring, meet) for ring in joined.rings], meet, notes)
    if not polygons:
        raise _open_error(open_)
    edge = max(polygons, key=lambda ring: float(ring.area))
    if open_:
        longest = max(np.hypot(*np.diff(line, axis=0).T).sum() for line in open_)
        if longest > 0.5 * edge.length:
            raise _open_error(open_)
        notes.append(f"{so_many(len(open_), 'line that closes', 'lines that close')} nothing left out")
    openings = _openings(edge, [one for one in polygons if one is not edge], notes)
    fine = FINE * extent
    return DrawnOutline(
        edge=_points(edge, fine), openings=tuple(_points(one, fine) for one in openings), notes=tuple(notes)
    )


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class JoinedLines:
    """Lines whose ends are joined where they are meant to meet.

    Attributes
    ----------
    rings, open : each (n, 2); those that close, and those with two ends
    extent : longer side of the whole drawing
    meet : ends nearer to each other were joined
    """

    rings: tuple[FloatArray, ...]
    open: tuple[FloatArray, ...]
    extent: float
    meet: float


def joined_lines(lines: Sequence[FloatArray]) -> JoinedLines:
    """Lines as they were drawn, joined.

    Parameters
    ----------
    lines : each (n, 2), in any order and direction

    Raises
    ------
    OutlineError : nothing is drawn, too much, or at no place

    >>> [len(one) for one in joined_lines([np.eye(2), np.array([(0, 1), (5, 5)])]).open]
    [3]
    """
    lines = [line for line in map(_distinct, lines) if len(line) > 1]
    if not lines:
        raise OutlineError("Nothing is drawn in it.")
    if len(lines) > MOST_LINES:
        raise OutlineError(f"It is drawn of {len(lines):,} lines; an outline may have {MOST_LINES:,}.")
    every = np.vstack(lines)
    if not np.isfinite(every).all():
        raise OutlineError("It has a point that is nowhere (a number that is none).")
    extent = float(np.ptp(every, axis=0).max())
    if extent <= 0:
        raise OutlineError("Everything in it lies at one point.")
    meet = _MEET * extent
    rings, open_ = _closed(lines, meet)
    return JoinedLines(rings=tuple(rings), open=tuple(open_), extent=extent, meet=meet)


#: Lines are shown with no more points than these, together.
_MOST_SHOWN = 4000


def thinned_lines(lines: Sequence[FloatArray]) -> list[list[tuple[float, float]]]:
    """What lines look like, with few points: to be shown, never to be made.

    >>> thinned_lines([np.array([(0, 0), (1, 0), (2, 0)], dtype=float)])
    [[(0.0, 0.0), (2.0, 0.0)]]
    """
    good = [line for line in lines[:MOST_LINES] if len(line) > 1 and np.isfinite(line).all()]
    if not good:
        return []
    fine = float(np.ptp(np.vstack(good), axis=0).max()) / 2000.0
    shown: list[list[tuple[float, float]]] = []
    left = _MOST_SHOWN
    for line in good:
        points = shapely.get_coordinates(shapely.simplify(shapely.LineString(line), fine))[:left]
        left -= len(points)
        if len(points) > 1:
            shown.append([(float(x), float(y)) for x, y in points])
        if left < 2:
            break
    return shown


def _distinct(line: FloatArray) -> FloatArray:
    points = np.asarray(line, dtype=np.float64).reshape(-1, 2)
    if len(points) < 2 or not np.isfinite(points).all():
        return points
    kept = np.concatenate(([True], np.hypot(*np.diff(points, axis=0).T) > 0))
    distinct: FloatArray = points[kept]
    return distinct


def _closed(lines: Sequence[FloatArray], meet: float) -> tuple[list[FloatArray], list[FloatArray]]:
    """Rings, and what stays open, after ends that are meant to meet were joined, the nearest first."""
    rings = [line for line in lines if len(line) > 2 and _apart(line[0], line[-1]) <= meet]
    chains = {number: line for number, line in enumerate(lines) if not any(line is ring for ring in rings)}
    if not chains:
        return rings, []
    ends = [(number, side) for number in chains for side in (0, -1)]
    tree = shapely.STRtree([shapely.Point(chains[number][side]) for number, side in ends])
    places = [shapely.Point(chains[number][side]) for number, side in ends]
    pairs = tree.query(places, predicate="dwithin", distance=meet)
    found = sorted(
        (places[a].distance(places[b]), int(a), int(b))
        for a, b in pairs.T
        if a < b and ends[a][0] != ends[b][0]
    )
    # Each end is joined once: a chain is a list of lines with their directions.
    joined: dict[int, int] = {}
    for _, a, b in found:
        if a not in joined and b not in joined:
            joined[a], joined[b] = b, a
    index = {end: place for place, end in enumerate(ends)}
    open_: list[FloatArray] = []
    left = set(chains)
    # From ends that are joined to nothing first: what is left then goes round.
    starts = [place for place in range(len(ends)) if place not in joined] + list(range(len(ends)))
    for start in starts:
        number, side = ends[start]
        if number not in left:
            continue
        parts: list[FloatArray] = []
        place: int | None = start
        while place is not None and ends[place][0] in left:
            number, side = ends[place]
            left.discard(number)
            parts.append(chains[number] if side == 0 else chains[number][::-1])
            place = joined.get(index[number, -1 if side == 0 else 0])
        whole = _end_to_end(parts)
        is_closed = len(whole) > 3 and _apart(whole[0], whole[-1]) <= meet
        if is_closed:
            whole[0] = whole[-1] = (whole[0] + whole[-1]) / 2.0
        (rings if is_closed else open_).append(whole)
    return rings, open_


def _end_to_end(parts: Sequence[FloatArray]) -> FloatArray:
    """One line of several; where two meet but for a hair, in the middle between them."""
    whole = [parts[0].copy()]
    for part in parts[1:]:
        middle = (whole[-1][-1] + part[0]) / 2.0
        whole[-1][-1] = middle
        # Never nothing: a line of two points still ends at its other one.
        whole.append(part[1:].copy())
    return np.vstack(whole)


def _apart(a: FloatArray, b: FloatArray) -> float:
    return float(math.hypot(a[0] - b[0], a[1] - b[1]))


def _ring(points: FloatArray, meet: float) -> shapely.Polygon:
    """A closed line as a polygon; ends that were a hair apart are made one."""
    points = points[:-1] if _apart(points[0], points[-1]) <= meet else points
    if len(points) < 3:
        return shapely.Polygon()
    ring = shapely.Polygon(points)
    if ring.is_valid:
        return ring
    # Doubled points and hairs back and forth are no crossing.
    eased = shapely.Polygon(shapely.simplify(ring.exterior, meet / 10.0))
    if eased.is_valid:
        return eased
    place = shapely.is_valid_reason(ring).partition("[")[2].rstrip("]").split()
    at = (float(place[0]), float(place[1])) if len(place) == 2 else None
    where = f" at {at[0]:.2f}, {at[1]:.2f}" if at else ""
    raise OutlineError(f"The outline crosses itself{where}. Part it there, or draw it anew.", at=at)


def _told_once(rings: Sequence[shapely.Polygon], meet: float, notes: list[str]) -> list[shapely.Polygon]:
    """Rings with an area, each once."""
    kept: list[shapely.Polygon] = []
    twice = 0
    for ring in sorted(rings, key=lambda one: -one.area):
        if ring.area <= meet * meet:
            continue
        near = (one for one in kept if abs(one.area - ring.area) <= meet * ring.length)
        if any(one.boundary.hausdorff_distance(ring.boundary) <= 2.0 * meet for one in near):
            twice += 1
        else:
            kept.append(ring)
    if twice:
        notes.append(f"{so_many(twice, 'shape')} drawn twice, taken once")
    return kept


def _openings(
    edge: shapely.Polygon, others: Sequence[shapely.Polygon], notes: list[str]
) -> list[shapely.Polygon]:
    """What is open within the edge: shapes within it that lie in no other."""
    within: list[shapely.Polygon] = []
    beside = inside = 0
    for one in others:
        if edge.contains_properly(one):
            if any(opening.contains(one) for opening in within):
                inside += 1
                continue
            meeting = next((opening for opening in within if opening.intersects(one)), None)
            if meeting is not None:
                raise _crossing("Two openings cross", meeting, one)
            within.append(one)
        elif edge.intersects(one):
            raise _crossing("A shape crosses the outline", edge, one)
        else:
            beside += 1
    if len(within) > MOST_OPENINGS:
        raise OutlineError(f"It has {len(within)} openings; {MOST_OPENINGS} are the most.")
    if beside:
        notes.append(f"{so_many(beside, 'shape')} beside the largest left out")
    if inside:
        notes.append(f"{so_many(inside, 'shape')} within openings left out: nothing would hold them")
    return within


def _crossing(said: str, a: shapely.Polygon, b: shapely.Polygon) -> OutlineError:
    spot = a.boundary.intersection(b.boundary).representative_point()
    at = (float(spot.x), float(spot.y)) if not spot.is_empty else None
    where = f" at {at[0]:.2f}, {at[1]:.2f}" if at else ""
    return OutlineError(f"{said}{where}. Move them apart, or join them.", at=at)


def _open_error(open_: Sequence[FloatArray]) -> OutlineError:
    """The gap of the longest line that is open."""
    if not open_:
        return OutlineError("Nothing in it encloses an area.")
    longest = max(open_, key=lambda line: float(np.hypot(*np.diff(line, axis=0).T).sum()))
    end = longest[-1]
    others = [line[side] for line in open_ for side in (0, -1) if not (line is longest and side == -1)]
    gap, nearest = min(((_apart(end, other), other) for other in others), key=lambda pair: pair[0])
    at = (float(end[0]), float(end[1]))
    return OutlineError(
        f"The outline is open: it ends at {at[0]:.2f}, {at[1]:.2f}, and goes on {gap:.2f} from there, at "
        f"{nearest[0]:.2f}, {nearest[1]:.2f}. Close it, and try again.",
        at=at,
    )


def _points(ring: shapely.Polygon, fine: float) -> FloatArray:
    """Its corners, no more than are needed, anticlockwise."""
    eased = shapely.orient_polygons(ring)
    while True:
        line = shapely.simplify(eased.exterior, fine)
        points: FloatArray = np.asarray(line.coords)[:-1]
        if len(points) <= MOST_POINTS and shapely.Polygon(points).is_valid:
            return points
        fine *= 1.5

"""The plane divided along outlines that lie one inside the other, and along lines.

Outlines and lines are parted where they meet, and the parts between them found by keeping left at every
corner (faces of a planar graph by its half-edges: de Berg and others, Computational Geometry, chapter 2).
How many outlines go round a part is known wherever it touches one, and is the same across a line.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from kizami.dividing.meeting import Graph, distinct, parted
from kizami.dividing.pencils import Pencil
from kizami.dividing.rows import following, starts_of, steps_of
from kizami.dividing.segments import Segments
from kizami.dividing.tolerances import TOLERANCES
from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray

__all__ = ["Contours", "Divided", "divide"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Contours:
    """Closed walks from node to node.

    Attributes
    ----------
    nodes : (n, 2) corners of outlines, and places where they meet lines, mm
    around : (k,) numbers of nodes, contour by contour
    starts : (c + 1,) where each contour begins in `around`
    """

    nodes: FloatArray
    around: IntArray
    starts: IntArray

    @property
    def lengths(self) -> IntArray:
        """Corners of each contour, (c,)."""
        return np.diff(self.starts)

    def areas_mm2(self) -> FloatArray:
        """Area of each contour, (c,), below 0 where it runs clockwise."""
        if not len(self.around):
            return np.empty(0)
        at = self.nodes.take(self.around, axis=0)
        ahead = self.around[following(self.starts)]
        # Each about its own first corner, so that little is lost to rounding.
        base = np.repeat(at.take(self.starts[:-1], axis=0), self.lengths, axis=0)
        one, two = at - base, self.nodes.take(ahead, axis=0) - base
        twice: FloatArray = np.add.reduceat(one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0], self.starts[:-1])
        return twice / 2.0


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Divided:
    """Parts of the plane.

    Attributes
    ----------
    contours : of all parts: outsides anticlockwise, holes clockwise
    part_of : (c,) the part whose outside or hole a contour is
    depths : (p,) how many outlines go round each part
    """

    contours: Contours
    part_of: IntArray
    depths: IntArray

    def areas_mm2(self) -> FloatArray:
        """Area of each part, (p,)."""
        areas: FloatArray = np.zeros(len(self.depths))
        np.add.at(areas, self.part_of, self.contours.areas_mm2())
        return areas


def divide(
    shapes: Sequence[shapely.Geometry],
    lines: Sequence[Pencil],
    *,
    creases: Segments | None = None,
    ground: shapely.Geometry | None = None,
) -> Divided | None:
    """Divide what outlines go round, and the ground around them if there is one.

    Parameters
    ----------
    shapes : from outside inward, each a polygon or several, none crossing the next
    lines : along which is divided, each from beyond what is divided, or from its edge, to beyond it
    creases : shorter lines that touch outlines with their ends and cross nothing but lines
    ground : what is divided; None for no more than what the shapes go round

    Returns
    -------
    None where outlines touch or cross each other

    Examples
    --------
    >>> from kizami.dividing.pencils import pencils_of
    >>> square = shapely.box(0, 0, 2, 1)
    >>> line = Segments(starts=np.array([[1.0, -1.0]]), ends=np.array([[1.0, 2.0]]))
    >>> divide([square], pencils_of(line)).areas_mm2().tolist()
    [1.0, 1.0]
    >>> divide([shapely.box(0.5, 0.25, 1.5, 0.75)], [], ground=square).areas_mm2().tolist()
    [1.5, 0.5]
    """
    nested = [*shapes] if ground is None else [ground, *shapes]
    least = 1 if ground is None else 0
    rings = _rings(nested, least)
    if not len(lines) and not (creases and len(creases)):
        return _between(rings, least)
    creases = creases or Segments.none()
    edges = Segments.of(
        Segments(starts=rings.corners, ends=rings.corners.take(rings.following, axis=0)), creases
    )
    graph = parted(edges, lines)
    # To the left of an outline's edge lies its inside, to the right what is one less deep.
    depths = np.concatenate((rings.depths[rings.ring_of], np.full(len(creases) + 1, _UNKNOWN)))
    ring_of = np.concatenate((rings.ring_of, np.full(len(creases) + 1, -1)))
    return _parts(graph, depths[graph.origin], ring_of[graph.origin], least)


_UNKNOWN = -9


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Rings:
    """Rings of outlines, each with the inside to its left.

    Attributes
    ----------
    corners : (n, 2), ring by ring, none twice
    ring_of : (n,) of which ring each is a corner
    following : (n,) which corner comes next
    depths : (r,) how deep the inside of each ring is
    """

    corners: FloatArray
    ring_of: IntArray
    following: IntArray
    depths: IntArray


def _rings(shapes: Sequence[shapely.Geometry], least: int) -> _Rings:
    parts = [shapely.get_parts(shape) for shape in shapes]
    rings, of_part = shapely.get_rings(shapely.orient_polygons(np.concatenate(parts)), return_index=True)
    coordinates, of_ring = shapely.get_coordinates(rings, return_index=True)
    # Rings come closed: their last point is their first one again.
    kept = np.flatnonzero(of_ring[:-1] == of_ring[1:])
    ring_of = of_ring[kept]
    starts = np.searchsorted(ring_of, np.arange(len(rings) + 1))
    depths = np.repeat(np.arange(len(parts)) + least, [len(p) for p in parts])
    return _Rings(
        corners=coordinates.take(kept, axis=0),
        ring_of=ring_of,
        following=following(starts),
        depths=depths[of_part],
    )


def _between(rings: _Rings, least: int) -> Divided | None:
    """What lies between outlines that nothing cuts: every ring goes round a part, or is a hole of it, and so
    does every ring the other way round."""
    nodes, number = distinct(rings.corners)
    lengths = np.bincount(rings.ring_of)
    starts = starts_of(lengths)
    seen_outside = rings.depths > least
    backward = np.repeat(starts[:-1] + starts[1:] - 1, lengths) - np.arange(len(rings.corners))
    around = np.concatenate((number, number[backward[seen_outside[rings.ring_of]]]))
    depths = np.concatenate((rings.depths, rings.depths[seen_outside] - 1))
    lengths = np.concatenate((lengths, lengths[seen_outside]))
    contours = Contours(nodes=nodes, around=around, starts=starts_of(lengths))
    return _gathered(contours, depths, least)


def _parts(graph: Graph, depths: IntArray, ring_of: IntArray, least: int) -> Divided | None:
    """The faces of a graph that are deep enough.

    Parameters
    ----------
    depths : (e,) what lies to the left of each edge; to its right it is one less deep
    ring_of : (e,) of which ring it is part, or -1; edges of rings come first, in order
    """
    runs = _runs(graph, ring_of)
    contours, contour_of = _contours(graph, runs)
    count, size = len(contours.lengths), len(runs.starts)
    left = depths[runs.edges[runs.starts]]
    # Across lines and creases it is as deep on the one side as on the other.
    known = left != _UNKNOWN
    across = np.flatnonzero(~known)
    pairs = (contour_of[across], contour_of[across + size])
    linked = coo_array((np.ones(len(across)), pairs), shape=(count, count))
    group = connected_components(linked, directed=False)[1]
    groups = np.concatenate((group[contour_of[:size][known]], group[contour_of[size:][known]]))
    said = np.concatenate((left[known], left[known] - 1))
    deep = np.full(count, _UNKNOWN)
    deep[groups] = said
    if np.any(deep[groups] != said):
        return None
    return _gathered(contours, deep[group], least)


def _gathered(contours: Contours, deep: IntArray, least: int) -> Divided | None:
    """Contours that are deep enough as parts, holes with what they are holes of."""
    areas, lengths = contours.areas_mm2(), contours.lengths
    outsides = np.flatnonzero((deep >= least) & (areas > TOLERANCES.no_area_mm2))
    holes = np.flatnonzero((deep >= least) & (areas < -TOLERANCES.no_area_mm2))
    part_of = np.full(len(deep), -1)
    part_of[outsides] = np.arange(len(outsides))
    if len(holes):
        found = _outside_of(contours, holes, outsides, deep, areas)
        if found is None:
            return None
        part_of[holes] = part_of[found]
    kept = part_of >= 0
    gathered = Contours(
        nodes=contours.nodes,
        around=contours.around[np.repeat(kept, lengths)],
        starts=starts_of(lengths[kept]),
    )
    return Divided(contours=gathered, part_of=part_of[kept], depths=deep[outsides])


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Runs:
    """Edges one after the other between nodes where more than two of them meet.

    Attributes
    ----------
    edges : (e,) numbers of edges, run by run
    starts, lengths : (r,) where each run begins in it, and how many edges it has
    """

    edges: IntArray
    starts: IntArray
    lengths: IntArray


def _runs(graph: Graph, ring_of: IntArray) -> _Runs:
    """Rings part where something meets them; one that nothing meets is a run by itself."""
    meets = np.bincount(np.concatenate((graph.tails, graph.heads)), minlength=len(graph.nodes)) != 2
    size, count = len(ring_of), int(np.count_nonzero(ring_of >= 0))
    begins = meets[graph.tails]
    begins[count:] = True
    # Every ring is turned so that it starts where a run does.
    ring_of = ring_of[:count]
    first = np.flatnonzero(np.append(True, ring_of[1:] != ring_of[:-1]))
    lengths = np.diff(np.append(first, count))
    where = np.where(begins[:count], np.arange(count), size)
    start = np.minimum.reduceat(where, first)
    unmet = start == size
    start[unmet] = first[unmet]
    begins[start] = True
    turned = (steps_of(lengths) + np.repeat(start - first, lengths)) % np.repeat(lengths, lengths)
    place = np.repeat(first, lengths) + turned
    edges = np.concatenate((place, np.arange(count, size)))
    starts = np.flatnonzero(begins[edges])
    return _Runs(edges=edges, starts=starts, lengths=np.diff(np.append(starts, size)))


def _contours(graph: Graph, runs: _Runs) -> tuple[Contours, IntArray]:
    """Closed walks that keep left, and of which of them every run is part, and every run the other way
    round, (2 r,)."""
    count = len(runs.starts)
    first, last = runs.edges[runs.starts], runs.edges[runs.starts + runs.lengths - 1]
    origin = np.concatenate((graph.tails[first], graph.heads[last]))
    toward = np.concatenate((graph.heads[first], graph.tails[last]))
    way = graph.nodes.take(toward, axis=0) - graph.nodes.take(origin, axis=0)
    # In one number, so that one sort does: nothing turns by more than two from node to node.
    order = np.argsort(2.0 * origin + np.arctan2(way[:, 1], way[:, 0]) / 4.0)
    rank = np.empty(2 * count, dtype=np.int64)
    rank[order] = np.arange(2 * count)
    # The next one clockwise at a node; before the first comes the last.
    here = origin[order]
    firsts = np.flatnonzero(np.append(True, here[1:] != here[:-1]))
    before = np.arange(2 * count) - 1
    before[firsts] = np.append(firsts[1:], 2 * count) - 1
    back = np.concatenate((np.arange(count, 2 * count), np.arange(count)))
    halves, starts = _walked(order[before[rank[back]]])
    contour_of = np.empty(2 * count, dtype=np.int64)
    contour_of[halves] = np.repeat(np.arange(len(starts) - 1), np.diff(starts))
    # Runs as they are walked, edge by edge, forward or back.
    run = halves % count
    lengths = runs.lengths[run]
    stops, step = starts_of(lengths), steps_of(lengths)
    is_back = np.repeat(halves >= count, lengths)
    step = np.where(is_back, np.repeat(lengths - 1, lengths) - step, step)
    edge = runs.edges[np.repeat(runs.starts[run], lengths) + step]
    around = np.where(is_back, graph.heads[edge], graph.tails[edge])
    return Contours(nodes=graph.nodes, around=around, starts=stops[starts]), contour_of


def _walked(following: IntArray) -> tuple[IntArray, IntArray]:
    """Every number once, in walks from each to the one that follows it; and where each walk begins.

    By pointer jumping: every round looks twice as far ahead.

    >>> walk, starts = _walked(np.array([2, 1, 3, 0]))
    >>> walk.tolist(), starts.tolist()
    ([0, 2, 3, 1], [0, 3, 4])
    """
    count = len(following)
    lead, jump = np.arange(count), following
    while True:
        least = np.minimum(lead, lead[jump])
        if np.array_equal(least, lead):
            break
        lead, jump = least, jump[jump]
    # The least of each walk leads it; all others count their steps back to it.
    numbers = np.arange(count)
    back = np.empty(count, dtype=np.int64)
    back[following] = numbers
    is_lead = lead == numbers
    back[is_lead] = numbers[is_lead]
    steps = (~is_lead).astype(np.int64)
    while True:
        more = steps[back]
        if not more.any():
            break
        steps = steps + more
        back = back[back]
    walk = np.argsort(lead * count + steps)
    begins = np.flatnonzero(steps[walk] == 0)
    return walk, np.append(begins, count)


def _outside_of(
    contours: Contours, holes: IntArray, outsides: IntArray, deep: IntArray, areas: FloatArray
) -> IntArray | None:
    """For each hole the smallest contour around it that is as deep; None where one has none."""
    at, starts = contours.nodes.take(contours.around, axis=0), contours.starts
    low, high = np.minimum.reduceat(at, starts[:-1]), np.maximum.reduceat(at, starts[:-1])
    goes_round = deep[outsides] == deep[holes, None]
    for axis in (0, 1):
        goes_round &= low[outsides, axis] <= low[holes, None, axis]
        goes_round &= high[outsides, axis] >= high[holes, None, axis]
    hole, outside = np.nonzero(goes_round)
    hole, outside = holes[hole], outsides[outside]
    shapes, which = np.unique(outside, return_inverse=True)
    lengths = contours.lengths
    is_shape = np.zeros(len(lengths), dtype=bool)
    is_shape[shapes] = True
    owner = np.repeat(np.arange(len(shapes)), lengths[shapes])
    polygons = shapely.polygons(
        shapely.linearrings(at.compress(np.repeat(is_shape, lengths), axis=0), indices=owner)
    )
    # Nobody else has these: most go round a single hole, one round hundreds.
    shapely.prepare(polygons)  # noqa: TID251
    holds = shapely.contains_properly(polygons[which], shapely.points(at.take(starts[hole], axis=0)))
    hole, outside = hole[holds], outside[holds]
    by_size = np.argsort(-areas[outside], kind="stable")
    found = np.full(len(lengths), -1)
    found[hole[by_size]] = outside[by_size]
    return None if np.any(found[holes] < 0) else found[holes]

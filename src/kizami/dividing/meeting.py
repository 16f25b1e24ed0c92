"""Where segments meet lines: both parted there, so that nothing crosses anything any more."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from kizami.dividing.pencils import Pencil
from kizami.dividing.segments import Segments
from kizami.dividing.tolerances import TOLERANCES
from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray

__all__ = ["Graph", "distinct", "parted"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Graph:
    """Edges that meet at nodes only.

    Attributes
    ----------
    nodes : (n, 2) mm
    tails, heads : (e,) numbers of nodes; an edge runs the way of what it is part of
    origin : (e,) of which segment it is part, in their order, or -1 for parts of lines, which come last
    """

    nodes: FloatArray
    tails: IntArray
    heads: IntArray
    origin: IntArray


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Stops:
    """Nodes along segments or lines: on which (k,), how far along it (k,), and which node (k,)."""

    on: IntArray
    along: FloatArray
    node: IntArray

    @classmethod
    def of(cls, sets: Sequence[_Stops]) -> _Stops:
        """All of several sets, in order along each."""
        on, along, node = (
            np.concatenate([getattr(stops, name) for stops in sets]) for name in ("on", "along", "node")
        )
        order = np.lexsort((along, on))
        return cls(on=on[order], along=along[order], node=node[order])

    def pieces(self) -> tuple[IntArray, IntArray, IntArray]:
        """Tail, head and owner of what lies between one stop and the next; they must be in order."""
        ahead = (self.on[1:] == self.on[:-1]) & (self.node[1:] != self.node[:-1])
        return self.node[:-1][ahead], self.node[1:][ahead], self.on[:-1][ahead]

    def at(self, on: IntArray, along: FloatArray) -> IntArray:
        """The node at a place along a line, or -1; they must be in order."""
        if not len(self.on):
            return np.full(len(on), -1)
        # One number that grows from line to line and along each.
        reach = 4.0 * (max(np.abs(self.along).max(), np.abs(along).max(initial=0.0)) + 1.0)
        place = np.searchsorted(self.on * reach + self.along, on * reach + along)
        result = np.full(len(on), -1)
        for near in (np.maximum(place - 1, 0), np.minimum(place, len(self.on) - 1)):
            hit = (self.on[near] == on) & (np.abs(self.along[near] - along) < TOLERANCES.same_place_mm)
            result[hit] = self.node[near[hit]]
        return result


def distinct(places: FloatArray) -> tuple[FloatArray, IntArray]:
    """Places (n, 2) without those that are the same to the last bit, and for each its number among them.

    >>> distinct(np.array([[1.0, 2.0], [0.0, 0.0], [1.0, 2.0]]))[1].tolist() in ([0, 1, 0], [1, 0, 1])
    True
    """
    # Adding zero turns -0.0 into 0.0, which would otherwise differ.
    u, v = (np.ascontiguousarray(places) + 0.0).view(np.uint64).T
    # Equal places have equal marks, and sorting marks is far quicker than sorting places. That two others
    # share a mark happens once in 1e11 letterings, and is noticed, as then areas are lost.
    marks = (u * _MIX[0]) ^ (v * _MIX[1] + (v >> np.uint64(29)))
    order = np.argsort(marks)
    is_new = np.append(True, np.diff(marks[order]) != 0)
    numbers = np.empty(len(places), dtype=np.int64)
    numbers[order] = np.cumsum(is_new) - 1
    return places.take(order[is_new], axis=0), numbers


#: Odd numbers that scatter the bits of a place over its mark.
_MIX = np.array([0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F], dtype=np.uint64)


def parted(edges: Segments, pencils: Sequence[Pencil]) -> Graph:
    """Part segments and lines wherever a line meets a segment or another line.

    What of a line lies before the first place where it meets anything, or beyond the last, is left out.

    Parameters
    ----------
    edges : they meet each other at their ends only

    >>> from kizami.dividing.pencils import pencils_of
    >>> edges = Segments(starts=np.array([[0.0, 0], [2, 1]]), ends=np.array([[2.0, 0], [0, 1]]))
    >>> line = Segments(starts=np.array([[0.5, -1.0]]), ends=np.array([[0.5, 2.0]]))
    >>> graph = parted(edges, pencils_of(line))
    >>> graph.nodes[graph.tails].tolist(), graph.origin.tolist()
    ([[0.0, 0.0], [0.5, 0.0], [2.0, 1.0], [0.5, 1.0], [0.5, 0.0]], [0, 0, 1, 1, -1])
    """
    count = len(edges)
    nodes, index = distinct(np.vstack((edges.starts, edges.ends)))
    tails, heads = index[:count], index[count:]
    every = np.arange(count)
    on_edges = [
        _Stops(on=every, along=np.zeros(count), node=tails),
        _Stops(on=every, along=np.ones(count), node=heads),
    ]
    on_lines: list[_Stops] = []
    numbered: list[_Numbered] = []
    runs_along = False
    places = [nodes]
    size = len(nodes)
    for pencil in pencils:
        first = sum(len(before.pencil) for before in numbered)
        numbered.append(_Numbered(pencil=pencil, first=first))
        right, on = pencil.beside(nodes)
        runs_along |= bool(np.any((on[tails] >= 0) & (on[tails] == on[heads])))
        corner = np.flatnonzero(on >= 0)
        at = pencil.along(nodes.take(corner, axis=0), on[corner])
        line = pencil.line_at(on[corner], at)
        held = line >= 0
        on_lines.append(_Stops(on=first + line[held], along=at[held], node=corner[held]))
        edge, carrier = pencil.crossed(right, on, tails, heads)
        share, where = _meet(
            pencil, carrier, nodes.take(tails[edge], axis=0), nodes.take(heads[edge], axis=0)
        )
        at = pencil.along(where, carrier)
        line = pencil.line_at(carrier, at)
        held = line >= 0
        met = size + np.arange(np.count_nonzero(held))
        size += len(met)
        places.append(where.compress(held, axis=0))
        on_edges.append(_Stops(on=edge[held], along=share[held], node=met))
        on_lines.append(_Stops(on=first + line[held], along=at[held], node=met))
    lines = _Stops.of(on_lines)
    for one, other in itertools.combinations(numbered, 2):
        found, where = _crossings(one, other, lines, size)
        size += len(where)
        places.append(where)
        lines = _Stops.of((lines, *found))
    edge_tails, edge_heads, origin = _Stops.of(on_edges).pieces()
    line_tails, line_heads, _ = lines.pieces()
    # What of a line runs along a segment, or along another line, is there already.
    marks, taken = (
        np.minimum(a, b) * size + np.maximum(a, b)
        for a, b in ((line_tails, line_heads), (edge_tails, edge_heads))
    )
    by_mark = np.argsort(marks)
    new = by_mark[np.append(True, np.diff(marks[by_mark]) != 0)[: len(by_mark)]]
    if runs_along:
        new = new[~np.isin(marks[new], taken)]
    new.sort()
    return Graph(
        nodes=np.vstack(places),
        tails=np.concatenate((edge_tails, line_tails[new])),
        heads=np.concatenate((edge_heads, line_heads[new])),
        origin=np.concatenate((origin, np.full(len(new), -1))),
    )


def _meet(
    pencil: Pencil, carriers: IntArray, starts: FloatArray, ends: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Share of the way from start to end at which a segment meets a carrier, and the place."""
    before, after = pencil.off(starts, carriers), pencil.off(ends, carriers)
    apart = before - after
    share = before / np.where(apart == 0.0, 1.0, apart)
    return share, starts + share[:, None] * (ends - starts)


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Numbered:
    """A pencil, and the number of its first line among all lines."""

    pencil: Pencil
    first: int


def _crossings(
    one: _Numbered, two: _Numbered, stops: _Stops, size: int
) -> tuple[tuple[_Stops, _Stops], FloatArray]:
    """Where lines of two pencils cross or end on each other: stops of both, and the places of new nodes.

    Parameters
    ----------
    stops : those that are known already
    size : number of nodes that are known already
    """
    pencil, other = one.pencil, two.pencil
    segments = other.lines()
    ends = np.vstack((segments.starts, segments.ends))
    right, on = pencil.beside(ends)
    every = np.arange(len(other))
    crossing, carrier = pencil.crossed(right, on, every, every + len(other))
    touching = np.flatnonzero(on >= 0)
    _, where = _meet(
        pencil, carrier, segments.starts.take(crossing, axis=0), segments.ends.take(crossing, axis=0)
    )
    crossing = np.concatenate((crossing, touching % len(other)))
    carrier = np.concatenate((carrier, on[touching]))
    where = np.vstack((where, ends.take(touching, axis=0)))
    at = pencil.along(where, carrier)
    line = pencil.line_at(carrier, at)
    held = line >= 0
    line, at, crossing, where = one.first + line[held], at[held], crossing[held], where.compress(held, axis=0)
    at_other = other.along(where, other.carriers[crossing])
    crossing = two.first + crossing
    # Where either of them has a stop, it is a stop of both.
    known = np.maximum(stops.at(line, at), stops.at(crossing, at_other))
    is_new = known < 0
    node = np.where(is_new, size + np.cumsum(is_new) - 1, known)
    both = _Stops(on=line, along=at, node=node), _Stops(on=crossing, along=at_other, node=node)
    return both, where.compress(is_new, axis=0)

"""Triangles whose corners lie in a row: they have no area, and no reader of a file wants them."""

from __future__ import annotations

from collections import deque

import numpy as np

from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray

__all__ = ["without_flat_ones"]


def without_flat_ones(points: FloatArray, triangles: IntArray, flat: IntArray) -> tuple[IntArray, IntArray]:
    """Triangles without those whose corners lie in a row; what was closed stays closed.

    Such a one goes to its neighbour over its longest side, which is parted where the third corner lies.
    One without a neighbour there is left out.

    Parameters
    ----------
    points : (n, 2) or (n, 3)
    triangles : (m, 3), all turned the same way
    flat : numbers of those without area

    Returns
    -------
    Triangles (k, 3), and (k,) of which of those before each is a part

    >>> row = np.array([[0.0, 0], [2, 0], [1, 0], [1, 1]])
    >>> without_flat_ones(row, np.array([[0, 1, 3], [1, 0, 2]]), np.array([1]))[0].tolist()
    [[2, 1, 3], [0, 2, 3]]
    """
    if not len(flat):
        return triangles, np.arange(len(triangles))
    skin, flats = _Skin(triangles, len(points)), set(flat.tolist())
    waiting, stuck = deque(flat.tolist()), 0
    while waiting and stuck <= len(waiting):
        number = waiting.popleft()
        row = skin.row(number)
        longest = max(_sides(row), key=lambda ends: _apart(points, ends))
        other = skin.beside(longest, number)
        if other in flats:
            # Two lie on each other: the other one may find a neighbour first.
            waiting.append(number)
            stuck += 1
            continue
        stuck = 0
        flats.discard(number)
        (third,) = set(row) - set(longest)
        skin.drop(number)
        if other is None:
            continue
        whole, source = skin.row(other), skin.source(other)
        skin.drop(other)
        for end in longest:
            a, b, c = (third if corner == end else corner for corner in whole)
            skin.add((a, b, c), source)
    return skin.left()


class _Skin:
    """Triangles of which a few are taken out or put in, with the neighbours of each.

    Those that were there are found by searching their sorted sides, so that nothing is built for the many
    that stay as they are.
    """

    def __init__(self, triangles: IntArray, corners: int) -> None:
        self._triangles, self._corners = triangles, np.int64(corners)
        ends = np.stack((triangles, np.roll(triangles, -1, axis=1)), axis=2).reshape(-1, 2).astype(np.int64)
        marks = ends.min(axis=1) * self._corners + ends.max(axis=1)
        order = np.argsort(marks, kind="stable")
        self._marks, self._owners = marks[order], order // 3
        self._gone: set[int] = set()
        self._new: dict[int, tuple[_Row, int]] = {}
        self._beside: dict[tuple[int, int], set[int]] = {}
        self._following = len(triangles)

    def row(self, number: int) -> _Row:
        """Corners of a triangle."""
        if number in self._new:
            return self._new[number][0]
        a, b, c = self._triangles[number].tolist()
        return (a, b, c)

    def source(self, number: int) -> int:
        """Of which of those before it is a part."""
        return self._new[number][1] if number in self._new else number

    def beside(self, side: tuple[int, int], number: int) -> int | None:
        """The triangle over a side of one, or None."""
        mark = side[0] * self._corners + side[1]
        low, high = np.searchsorted(self._marks, [mark, mark + 1])
        found = {*self._owners[low:high].tolist(), *self._beside.get(side, ())}
        return next(iter(sorted(found - self._gone - {number})), None)

    def drop(self, number: int) -> None:
        """Take a triangle out."""
        self._gone.add(number)
        self._new.pop(number, None)

    def add(self, row: _Row, source: int) -> None:
        """Put a triangle in."""
        self._new[self._following] = (row, source)
        for side in _sides(row):
            self._beside.setdefault(side, set()).add(self._following)
        self._following += 1

    def left(self) -> tuple[IntArray, IntArray]:
        """All that are there, and of which each is a part."""
        kept = np.ones(len(self._triangles), dtype=bool)
        kept[[number for number in self._gone if number < len(kept)]] = False
        rows = np.array([row for row, _ in self._new.values()], dtype=np.int64).reshape(-1, 3)
        sources = np.array([source for _, source in self._new.values()], dtype=np.int64)
        return (
            np.concatenate((self._triangles[kept].astype(np.int64), rows)),
            np.concatenate((np.flatnonzero(kept), sources)),
        )


_Row = tuple[int, int, int]


def _sides(row: _Row) -> tuple[tuple[int, int], ...]:
    a, b, c = row
    return tuple((min(one, two), max(one, two)) for one, two in ((a, b), (b, c), (c, a)))


def _apart(points: FloatArray, ends: tuple[int, int]) -> float:
    return float(np.linalg.norm(points[ends[0]] - points[ends[1]]))

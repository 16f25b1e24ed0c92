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
    rows = {number: tuple(row) for number, row in enumerate(triangles.tolist())}
    source = dict(zip(rows, rows, strict=True))
    beside: dict[tuple[int, int], set[int]] = {}
    for number, row in rows.items():
        for side in _sides(row):
            beside.setdefault(side, set()).add(number)
    waiting, flats = deque(flat.tolist()), set(flat.tolist())
    following, stuck = len(rows), 0
    while waiting and stuck <= len(waiting):
        number = waiting.popleft()
        longest = max(_sides(rows[number]), key=lambda ends: _apart(points, ends))
        other = next(iter(beside[longest] - {number}), None)
        if other in flats:
            # Two lie on each other: the other one may find a neighbour first.
            waiting.append(number)
            stuck += 1
            continue
        stuck = 0
        flats.discard(number)
        (third,) = set(rows[number]) - set(longest)
        for gone in (number, other):
            if gone is not None:
                for side in _sides(rows[gone]):
                    beside[side].discard(gone)
        rows.pop(number)
        if other is None:
            continue
        whole = rows.pop(other)
        for end in longest:
            half = tuple(third if corner == end else corner for corner in whole)
            rows[following], source[following] = half, source[other]
            for side in _sides(half):
                beside.setdefault(side, set()).add(following)
            following += 1
    return np.array(list(rows.values()), dtype=np.int64), np.array([source[n] for n in rows], dtype=np.int64)


def _sides(row: tuple[int, ...]) -> tuple[tuple[int, int], ...]:
    a, b, c = row
    return tuple((min(one, two), max(one, two)) for one, two in ((a, b), (b, c), (c, a)))


def _apart(points: FloatArray, ends: tuple[int, int]) -> float:
    return float(np.linalg.norm(points[ends[0]] - points[ends[1]]))

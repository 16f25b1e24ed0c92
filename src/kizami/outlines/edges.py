"""The sides of triangles, and which of them belong together."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

__all__ = ["IntArray", "directed_edges", "twice_areas"]

IntArray = npt.NDArray[np.int64]


def twice_areas(places: npt.NDArray[np.float64], triangles: IntArray) -> npt.NDArray[np.float64]:
    """Twice the areas (m,) of triangles (m, 3) in the plane, below 0 where they run clockwise.

    >>> twice_areas(np.array([(0.0, 0.0), (2.0, 0.0), (0.0, 3.0)]), np.array([(0, 1, 2), (0, 2, 1)])).tolist()
    [6.0, -6.0]
    """
    a, b, c = places.take(triangles.T, axis=0)
    one, two = (b - a).T, (c - a).T
    twice: npt.NDArray[np.float64] = one[0] * two[1] - one[1] * two[0]
    return twice


def directed_edges(triangles: IntArray) -> tuple[IntArray, IntArray, IntArray]:
    """The sides (3 m, 2) of triangles, for each the number of the same side the other way round, or -1,
    and the number of its triangle.

    >>> edges, other, owner = directed_edges(np.array([(0, 1, 2), (2, 1, 3)]))
    >>> [tuple(edges[k].tolist()) for k in np.flatnonzero(other >= 0)], owner.tolist()
    ([(2, 1), (1, 2)], [0, 1, 0, 1, 0, 1])
    """
    tails, heads = triangles.T.ravel(), np.roll(triangles.T, -1, axis=0).ravel()
    most = np.int64(triangles.max(initial=0) + 1)
    forward = tails < heads
    # Both ways have one mark but for its last bit, so that sorted they lie side by side.
    marks = 2 * np.where(forward, tails * most + heads, heads * most + tails) + forward
    order = np.argsort(marks)
    marks = marks[order]
    paired = np.flatnonzero((marks[:-1] >> 1) == (marks[1:] >> 1))
    paired = paired[marks[paired] != marks[paired + 1]]
    other = np.full(len(tails), -1)
    other[order[paired]], other[order[paired + 1]] = order[paired + 1], order[paired]
    return np.column_stack((tails, heads)), other, np.tile(np.arange(len(triangles)), 3)

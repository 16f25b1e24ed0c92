"""The sides of triangles, and which of them belong together."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

__all__ = ["IntArray", "directed_edges"]

IntArray = npt.NDArray[np.int64]


def directed_edges(triangles: IntArray) -> tuple[IntArray, IntArray, IntArray]:
    """The sides (3 m, 2) of triangles, for each the number of the same side the other way round, or -1,
    and the number of its triangle.

    >>> edges, other, owner = directed_edges(np.array([(0, 1, 2), (2, 1, 3)]))
    >>> [tuple(edges[k].tolist()) for k in np.flatnonzero(other >= 0)], owner.tolist()
    ([(2, 1), (1, 2)], [0, 1, 0, 1, 0, 1])
    """
    edges = np.concatenate((triangles[:, :2], triangles[:, 1:], triangles[:, [2, 0]]))
    most = np.int64(triangles.max(initial=0) + 1)
    marks, turned = edges[:, 0] * most + edges[:, 1], edges[:, 1] * most + edges[:, 0]
    order = np.argsort(marks)
    place = np.minimum(np.searchsorted(marks, turned, sorter=order), len(marks) - 1)
    other = np.where(marks[order[place]] == turned, order[place], -1)
    return edges, other, np.tile(np.arange(len(triangles)), 3)

"""Layer by layer: where a print begins with nothing under it."""

from __future__ import annotations

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray
from kizami.solids.measured import Measured

__all__ = ["fewest_islands", "islands_along"]

#: Corners whose heights differ by less are in one layer, mm.
_LAYER_MM = 1e-3
#: A piece may lie on any of its six sides.
_WAYS = tuple(way * side for way in np.eye(3) for side in (1.0, -1.0))


def fewest_islands(piece: Measured) -> int:
    """The fewest islands that a piece has, lying on any of its six sides."""
    return min(islands_along(piece, way) for way in _WAYS)


def islands_along(piece: Measured, up: FloatArray) -> int:
    """Parts of a piece that begin in the air when it is printed along a direction.

    Notes
    -----
    A layer that has nothing under it begins at a corner, an edge or a facet all of whose neighbours are
    higher: a lowest place of the skin. The lowest of all lies on the bed. Lowest places of cavities and
    pockets are none: there metal is below.
    """
    heights = np.asarray(piece.vertices, dtype=np.float64) @ up
    tails = piece.triangles.astype(np.int64).ravel()
    heads = piece.triangles[:, [1, 2, 0]].astype(np.int64).ravel()
    level = np.abs(heights[tails] - heights[heads]) < _LAYER_MM
    size = len(heights)
    links = coo_array((np.ones(int(level.sum())), (tails[level], heads[level])), shape=(size, size))
    count, label = connected_components(links, directed=False)
    has_lower = np.zeros(count, dtype=bool)
    has_lower[label[tails[heights[heads] < heights[tails] - _LAYER_MM]]] = True
    has_lower[label[heads[heights[tails] < heights[heads] - _LAYER_MM]]] = True
    used = np.zeros(count, dtype=bool)
    used[label[tails]] = True
    lowest = np.flatnonzero(used & ~has_lower)
    bed = float(heights[tails].min())
    at = np.full(count, np.inf)
    np.minimum.at(at, label, heights)
    hanging = lowest[at[lowest] > bed + _LAYER_MM]
    return int(np.count_nonzero(_looks_down(piece, up, label, hanging)))


def _looks_down(piece: Measured, up: FloatArray, label: IntArray, places: IntArray) -> IntArray:
    """Which lowest places are those of metal: the facets around them look down, in pockets they look up."""
    if not len(places):
        return np.empty(0, dtype=np.int64)
    corner = label[piece.triangles.astype(np.int64)]
    looks = (piece.normals @ up) * piece.areas_mm2
    total = np.zeros(int(label.max()) + 1)
    for k in range(3):
        np.add.at(total, corner[:, k], looks)
    return (total[places] < 0).astype(np.int64)

"""Where outlines cross level and upright lines: many lines at once, without taking anything apart."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
import shapely

from kizami.outlines.curves import FloatArray

__all__ = ["crossings"]


def crossings(
    rings: shapely.Geometry, levels: FloatArray, *, axis: int
) -> tuple[npt.NDArray[np.int64], FloatArray]:
    """Where closed lines cross straight ones.

    Parameters
    ----------
    rings : lines that end where they begin
    levels : (k,) x of upright lines (axis 0) or y of level ones (axis 1)

    Returns
    -------
    which line each crossing is on, in rising order, and how far along it, both (n,). A corner that a line
    only touches is no crossing, so of each line there is an even number of them

    >>> ring = shapely.box(0, 0, 10, 4).exterior
    >>> which, along = crossings(ring, np.array([1.0, 3.0, 5.0]), axis=1)
    >>> which.tolist(), along.tolist()
    ([0, 0, 1, 1], [10.0, 0.0, 10.0, 0.0])
    >>> [len(found) for found in crossings(shapely.MultiLineString(), np.array([1.0]), axis=0)]
    [0, 0]
    """
    points, ring = shapely.get_coordinates(shapely.get_parts(rings), return_index=True)
    edges = np.flatnonzero(ring[:-1] == ring[1:])
    start, end = points[edges], points[edges + 1]
    low, high = start[:, axis], end[:, axis]
    # A corner on the line counts as below it.
    which, at = np.nonzero((low <= levels[:, None]) != (high <= levels[:, None]))
    share = (levels[which] - low[at]) / (high[at] - low[at])
    along = start[at, 1 - axis] + share * (end[at, 1 - axis] - start[at, 1 - axis])
    return which, along

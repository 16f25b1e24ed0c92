"""Which boxes points lie in, many at a time: boxes are listed by the squares of a grid that they touch."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from kizami.surfaces.protocol import FloatArray

__all__ = ["Boxes"]

_Ints = npt.NDArray[np.int64]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Boxes:
    """Boxes in a grid.

    Attributes
    ----------
    low, high : (n, 2) corners of the boxes
    origin : (2,) where the grid begins
    side : of its squares
    shape : how many squares it has both ways
    starts : (squares + 1,) where the boxes of each square begin in `listed`
    listed : numbers of boxes, square by square
    """

    low: FloatArray
    high: FloatArray
    origin: FloatArray
    side: float
    shape: tuple[int, int]
    starts: _Ints
    listed: _Ints

    @classmethod
    def of(cls, low: FloatArray, high: FloatArray) -> Boxes:
        """Boxes by their corners (n, 2); the squares are about as large as they are."""
        origin, end = low.min(axis=0), high.max(axis=0)
        # No more squares than four a box, however thin the boxes are.
        fewest = math.sqrt(float(np.prod(end - origin)) / (4.0 * len(low)))
        side = max(float(np.median(high - low)), fewest, 1e-9)
        across, up = (int(n) for n in np.floor((end - origin) / side) + 1)
        first, last = (np.floor((at - origin) / side).astype(np.int64) for at in (low, high))
        wide, tall = (last - first + 1).T
        box = np.repeat(np.arange(len(low)), wide * tall)
        step = np.arange(len(box)) - np.repeat(np.cumsum(wide * tall) - wide * tall, wide * tall)
        row, column = np.divmod(step, wide[box])
        square = (first[box, 1] + row) * across + first[box, 0] + column
        order = np.argsort(square, kind="stable")
        starts = np.searchsorted(square[order], np.arange(across * up + 1))
        return cls(
            low=low, high=high, origin=origin, side=side, shape=(across, up), starts=starts, listed=box[order]
        )

    def around(self, points: FloatArray) -> tuple[_Ints, _Ints]:
        """All pairs of points (n, 2) and of boxes that they lie in, by number.

        >>> boxes = Boxes.of(np.array([[0.0, 0.0], [1.0, 0.0]]), np.array([[2.0, 1.0], [3.0, 1.0]]))
        >>> point, box = boxes.around(np.array([[1.5, 0.5], [5.0, 5.0], [0.5, 0.5]]))
        >>> point.tolist(), box.tolist()
        ([0, 0, 2], [0, 1, 0])
        """
        column, row = np.floor((points - self.origin) / self.side).astype(np.int64).T
        across, up = self.shape
        inside = np.flatnonzero((column >= 0) & (column < across) & (row >= 0) & (row < up))
        square = row[inside] * across + column[inside]
        first, count = self.starts[square], self.starts[square + 1] - self.starts[square]
        point = np.repeat(inside, count)
        step = np.arange(len(point)) - np.repeat(np.cumsum(count) - count, count)
        box = self.listed[np.repeat(first, count) + step]
        at = points.take(point, axis=0)
        held = np.flatnonzero(
            np.all((at >= self.low.take(box, axis=0)) & (at <= self.high.take(box, axis=0)), axis=1)
        )
        return point[held], box[held]

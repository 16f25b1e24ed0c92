"""Laying by cells: the instant answer for shapes of any form, also on a used sheet. Always the same.

Two pieces whose grown shapes share no point of a grid are far enough from each other: if they were nearer
than the gap, the grid point next to the middle between them would lie within half a gap and half a cell's
diagonal of both.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
import shapely
from scipy import fft

from kizami.outlines.moving import shifted
from kizami.prepared import prepared
from kizami.runs.laying import Ground, Item, Place, Shape

__all__ = ["Cells", "lay_by_cells"]

#: A bed is seen in about so many cells along its longer side, and none is larger than this.
_CELLS = 420
_FINEST_MM, _COARSEST_MM = 0.25, 0.8
#: Turns that are tried: more cost time and win little here.
_MOST_TURNS = 4
#: So many different shapes in a row that find no place end a bed.
_MOST_MISSES = 24

_Bools = npt.NDArray[np.bool_]


class Cells:
    """A bed as a grid on which shapes are laid one after the other, each as far left and then as low as it
    goes."""

    def __init__(self, ground: Ground) -> None:
        self._ground = ground
        low_x, low_y, high_x, high_y = ground.room
        self._origin = (low_x, low_y)
        self._size = (high_x - low_x, high_y - low_y)
        self._cell = min(_COARSEST_MM, max(_FINEST_MM, max(self._size) / _CELLS))
        self._grow = ground.gap_mm / 2.0 + self._cell * math.sqrt(0.5) + 1e-9
        # Around the room so many cells that a grown shape within it never leaves the grid.
        self._rim = math.ceil(self._grow / self._cell) + 1
        columns, rows = (math.ceil(length / self._cell) + 1 + 2 * self._rim for length in self._size)
        self._taken: _Bools = np.zeros((rows, columns), dtype=bool)
        self._sizes = (fft.next_fast_len(rows, real=True), fft.next_fast_len(columns, real=True))
        self._masks: dict[tuple[str, float], tuple[_Bools, npt.NDArray[np.complex64]]] = {}
        self._spectrum: npt.NDArray[np.complex64] | None = None
        self._hopeless: set[str] = set()
        if ground.taken is not None and not ground.taken.is_empty:
            self._cover(ground.taken)

    def lay(self, item: Item) -> Place | None:
        """The place for a piece, which is taken then; None where there is none."""
        shape = item.shape
        if shape.key in self._hopeless:
            return None
        best: tuple[float, int, int, float, _Bools] | None = None
        for turn in self._turns(shape):
            found = self._lowest(shape, turn)
            if found is not None and (best is None or found[:3] < best[:3]):
                best = (*found, turn, self._mask(shape, turn)[0])
        if best is None:
            # What has no place now has none later, as a bed only gets fuller.
            self._hopeless.add(shape.key)
            return None
        _, column, row, turn, mask = best
        rows, columns = mask.shape
        self._taken[row : row + rows, column : column + columns] |= mask
        self._spectrum = None
        low_x, low_y, _, _ = shape.turned(turn).bounds
        return Place(
            key=item.key,
            x_mm=self._origin[0] + column * self._cell - low_x,
            y_mm=self._origin[1] + row * self._cell - low_y,
            turn_deg=turn,
        )

    def put(self, shape: Shape, place: Place) -> None:
        """Take the cells of a piece that lies there already."""
        outline = shifted(shape.turned(place.turn_deg), place.x_mm, place.y_mm)
        self._cover(outline)

    def _turns(self, shape: Shape) -> Sequence[float]:
        turns = self._ground.turns_deg
        if shape.is_round:
            return turns[:1]
        upright = [turn for turn in turns if turn % 90.0 == 0.0]
        return (upright or list(turns))[:_MOST_TURNS]

    def _lowest(self, shape: Shape, turn: float) -> tuple[float, int, int] | None:
        """Right end, column and row of the leftmost lowest place."""
        low_x, low_y, high_x, high_y = shape.turned(turn).bounds
        columns = math.floor((self._size[0] - (high_x - low_x)) / self._cell + 1e-9) + 1
        rows = math.floor((self._size[1] - (high_y - low_y)) / self._cell + 1e-9) + 1
        if columns < 1 or rows < 1:
            return None
        if self._spectrum is None:
            self._spectrum = fft.rfft2(self._taken.astype(np.float32), self._sizes)
        _, spectrum = self._mask(shape, turn)
        # How many taken cells each place would meet: a correlation.
        meets = fft.irfft2(self._spectrum * np.conj(spectrum), self._sizes)[:rows, :columns]
        free = meets < 0.5
        any_row = free.any(axis=0)
        if not any_row.any():
            return None
        column = int(any_row.argmax())
        return (column * self._cell + high_x - low_x, column, int(free[:, column].argmax()))

    def _mask(self, shape: Shape, turn: float) -> tuple[_Bools, npt.NDArray[np.complex64]]:
        key = (shape.key, turn)
        if key not in self._masks:
            outline = shape.turned(turn)
            low_x, low_y, high_x, high_y = outline.bounds
            columns, rows = (
                math.ceil(length / self._cell) + 1 + 2 * self._rim
                for length in (high_x - low_x, high_y - low_y)
            )
            x = low_x + (np.arange(columns) - self._rim) * self._cell
            y = low_y + (np.arange(rows) - self._rim) * self._cell
            mask = _covered(outline.buffer(self._grow), x, y)
            self._masks[key] = (mask, fft.rfft2(mask.astype(np.float32), self._sizes))
        return self._masks[key]

    def _cover(self, region: shapely.Geometry) -> None:
        rows, columns = self._taken.shape
        x = self._origin[0] + (np.arange(columns, dtype=np.float64) - self._rim) * self._cell
        y = self._origin[1] + (np.arange(rows, dtype=np.float64) - self._rim) * self._cell
        self._taken |= _covered(region.buffer(self._grow), x, y)
        self._spectrum = None


def _covered(region: shapely.Geometry, x: npt.NDArray[np.float64], y: npt.NDArray[np.float64]) -> _Bools:
    grid_x, grid_y = np.meshgrid(x, y)
    return np.asarray(shapely.intersects_xy(prepared(region), grid_x, grid_y))


def lay_by_cells(
    items: Sequence[Item], ground: Ground, *, lying: Sequence[tuple[Shape, Place]] = ()
) -> list[Place]:
    """Lay as many pieces as find a place, in their order.

    Parameters
    ----------
    lying : pieces that lie there already

    Returns
    -------
    the places; what found none is not among them
    """
    cells = Cells(ground)
    for shape, there in lying:
        cells.put(shape, there)
    left = ground.area_mm2 - sum(shape.outline.area for shape, _ in lying)
    places: list[Place] = []
    missed: set[str] = set()
    for item in items:
        if item.shape.outline.area > left or len(missed) >= _MOST_MISSES:
            continue
        found = cells.lay(item)
        if found is None:
            missed.add(item.shape.key)
            continue
        places.append(found)
        left -= item.shape.outline.area
    return places

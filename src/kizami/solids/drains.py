"""Hollows that fill and never drain: chambers whose every opening is narrower than what must run out.

Air is looked at in small cubes. A ball as wide as the narrowest drain is put wherever there is room for it:
where it can roll out of the piece, everything runs out; where it can't, it lies in a chamber that stays full.
What is too narrow for the ball altogether, as engraved letters are, holds what it holds by its own
narrowness, which other checks measure.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy import ndimage

from kizami.outlines.curves import FloatArray
from kizami.solids.measured import Measured

__all__ = ["Trapped", "trapped"]

_Cubes = npt.NDArray[np.bool_]

#: Cubes across a drain, but no more of them along a piece than this.
_ACROSS, _MOST = 6, 160
#: Skins that a ray goes through at most.
_MOST_SKINS = 64


@dataclass(frozen=True, kw_only=True, slots=True)
class Trapped:
    """What never drains.

    Attributes
    ----------
    volume_mm3 : of all chambers
    at_mm : the middle of the largest; None where there is none
    """

    volume_mm3: float
    at_mm: tuple[float, float, float] | None = None


def trapped(piece: Measured, *, drain_mm: float) -> Trapped:
    """Find the chambers that no ball of a drain's diameter can leave.

    Closed cavities are among them.
    """
    low = piece.vertices.min(axis=0).astype(np.float64)
    size = piece.vertices.max(axis=0) - low
    pitch = max(drain_mm / _ACROSS, float(size.max()) / _MOST)
    # Air all round, so wide that a ball that has come out rolls there.
    radius = drain_mm / 2.0 / pitch
    pad = math.ceil(radius) + 1
    counts = np.ceil(size / pitch).astype(np.int64) + 2 * pad
    origin = low + size / 2.0 - counts * pitch / 2.0
    metal = _metal(piece, origin, counts, pitch)
    room = ~_swollen(metal, radius)
    if _leaves_straight(room):
        return Trapped(volume_mm3=0.0)
    labels, count = ndimage.label(room, structure=np.ones((3, 3, 3)))
    inner = np.setdiff1d(np.arange(1, count + 1), [labels[0, 0, 0]])
    if not len(inner):
        return Trapped(volume_mm3=0.0)
    chambers = np.isin(labels, inner)
    reached = ndimage.distance_transform_edt(~chambers) <= radius
    volume = float(np.count_nonzero(reached & ~metal)) * pitch**3
    sizes = ndimage.sum_labels(chambers, labels, inner)
    middle = np.array(ndimage.center_of_mass(labels == inner[int(np.argmax(sizes))]))
    x, y, z = (origin + (middle + 0.5) * pitch).tolist()
    return Trapped(volume_mm3=volume, at_mm=(x, y, z))


def _swollen(metal: _Cubes, radius: float) -> _Cubes:
    """All cubes whose middle is nearer than the radius (in cubes) to that of one of metal."""
    reach = math.ceil(radius) - 1
    steps = np.arange(-reach, reach + 1)
    #: How far up and down a ball reaches at each step to the sides, -1 where it does not.
    flat = steps[:, None] ** 2 + steps**2
    heights = np.where(flat < radius**2, np.ceil(np.sqrt(np.maximum(radius**2 - flat, 0.0))) - 1, -1)
    swollen = metal.copy()
    column = metal.copy()
    for height in range(reach + 1):
        if height:
            column[:, :, height:] |= metal[:, :, :-height]
            column[:, :, :-height] |= metal[:, :, height:]
        for i, j in np.argwhere(heights == height) - reach:
            swollen[_shifted(i)[0], _shifted(j)[0]] |= column[_shifted(i)[1], _shifted(j)[1]]
    return swollen


def _shifted(step: int) -> tuple[slice, slice]:
    """Where an axis goes to and comes from when it is moved."""
    to, back = slice(max(step, 0), min(step, 0) or None), slice(max(-step, 0), min(-step, 0) or None)
    return to, back


def _leaves_straight(room: _Cubes) -> bool:
    """Whether a ball can leave from everywhere along one of the six ways, as it does from most pieces."""
    left = room.copy()
    for axis in range(3):
        along = np.moveaxis(room, axis, 0)
        for way in (along, along[::-1]):
            out = np.logical_and.accumulate(way, axis=0)
            np.moveaxis(left, axis, 0)[...] &= ~(out if way is along else out[::-1])
        if not left.any():
            return True
    return False


def _metal(piece: Measured, origin: FloatArray, counts: npt.NDArray[np.int64], pitch: float) -> _Cubes:
    """Which cubes have their middle in metal: rays go up through all of a column, in and out."""
    across = [origin[k] + (np.arange(counts[k]) + 0.5) * pitch for k in (0, 1)]
    grid = np.stack(np.meshgrid(*across, indexing="ij"), axis=2).reshape(-1, 2)
    start = np.column_stack((grid, np.full(len(grid), origin[2])))
    up = np.array([0.0, 0.0, 1.0])
    turns = np.zeros((len(grid), int(counts[2]) + 1), dtype=np.int32)
    live = np.arange(len(grid))
    for _ in range(_MOST_SKINS):
        hits = piece.rays.first(start[live], np.broadcast_to(up, (len(live), 3)))
        met = hits.triangle >= 0
        live, distance, triangle = live[met], hits.distance[met], hits.triangle[met]
        if not len(live):
            break
        start[live, 2] += distance + _BEYOND_MM
        # Cubes whose middle lies above the skin are beyond it.
        cell = np.clip(np.ceil((start[live, 2] - origin[2]) / pitch - 0.5), 0, counts[2]).astype(np.int64)
        np.add.at(turns, (live, cell), np.where(piece.normals[triangle, 2] < 0.0, 1, -1))
    inside: _Cubes = (np.cumsum(turns, axis=1)[:, :-1] > 0).reshape(counts)
    return inside


#: A ray goes on so far beyond the skin that it has met, mm.
_BEYOND_MM = 1e-4

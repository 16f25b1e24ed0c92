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
    # Air all round, so wide that a ball rolls there.
    pad = math.ceil(drain_mm / pitch) + 2
    counts = np.ceil(size / pitch).astype(np.int64) + 2 * pad
    origin = low + size / 2.0 - counts * pitch / 2.0
    air = ~_metal(piece, origin, counts, pitch)
    # From the middle of a cube to the nearest that is metal; its skin is half a cube nearer.
    room = ndimage.distance_transform_edt(air) * pitch - pitch / 2.0
    labels, count = ndimage.label(room >= drain_mm / 2.0 - pitch / 2.0, structure=np.ones((3, 3, 3)))
    inner = np.setdiff1d(np.arange(1, count + 1), [labels[0, 0, 0]])
    if not len(inner):
        return Trapped(volume_mm3=0.0)
    chambers = np.isin(labels, inner)
    reached = ndimage.distance_transform_edt(~chambers) * pitch <= drain_mm / 2.0
    volume = float(np.count_nonzero(reached & air)) * pitch**3
    sizes = ndimage.sum_labels(chambers, labels, inner)
    middle = np.array(ndimage.center_of_mass(labels == inner[int(np.argmax(sizes))]))
    x, y, z = (origin + (middle + 0.5) * pitch).tolist()
    return Trapped(volume_mm3=volume, at_mm=(x, y, z))


def _metal(
    piece: Measured, origin: FloatArray, counts: npt.NDArray[np.int64], pitch: float
) -> npt.NDArray[np.bool_]:
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
    inside: npt.NDArray[np.bool_] = (np.cumsum(turns, axis=1)[:, :-1] > 0).reshape(counts)
    return inside


#: A ray goes on so far beyond the skin that it has met, mm.
_BEYOND_MM = 1e-4

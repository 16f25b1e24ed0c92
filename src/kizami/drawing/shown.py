"""A solid as the turning view takes it: corners with their normals, and facets that name them.

Normals are smooth within a face and sharp where faces meet in an edge, as they look in the hand. They are
worked out here once, so that a page only hands them on to the screen.
"""

from __future__ import annotations

import struct
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from kizami.errors import SolidError
from kizami.outlines.curves import FloatArray

__all__ = ["CREASE_RAD", "Shown", "shown", "shown_bytes", "stl_corners"]

#: Facets that meet more bluntly than this belong to one smooth face: the chords of a band meet at under
#: 4 degrees, the walls of lettering at 90.
CREASE_RAD = 0.5

_IntArray = npt.NDArray[np.int64]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Shown:
    """Corners as a screen draws them: a place is there once for every smooth face that it belongs to.

    Attributes
    ----------
    points : (n, 3) mm
    normals : (n, 3) of length 1
    is_lettering : (n,)
    triangles : (m, 3) anticlockwise seen from outside
    """

    points: npt.NDArray[np.float32]
    normals: FloatArray
    is_lettering: npt.NDArray[np.bool_]
    triangles: npt.NDArray[np.uint32]


def shown(
    vertices: npt.NDArray[np.floating],
    triangles: npt.NDArray[np.integer],
    is_lettering: npt.NDArray[np.bool_] | None = None,
    *,
    crease_rad: float = CREASE_RAD,
) -> Shown:
    """The corners of a mesh with their normals.

    Every facet counts by its angle at the corner: however a flat part is cut into triangles, its angles add
    up to the same, so that no pattern of triangles shows on a round face.

    Parameters
    ----------
    vertices : (v, 3) mm
    triangles : (m, 3)
    is_lettering : (m,) which facets are lettering; None for none

    >>> one = shown(np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0.0]]), np.array([[0, 1, 2]]))
    >>> one.normals.tolist()[0], len(one.points)
    ([0.0, 0.0, 1.0], 3)
    """
    faces = np.asarray(triangles, dtype=np.int64)
    if is_lettering is None:
        is_lettering = np.zeros(len(faces), dtype=bool)
    normals, angles = _facets(np.asarray(vertices, dtype=np.float64)[faces])
    corner = faces.ravel()
    facet = np.repeat(np.arange(len(faces)), 3)
    # Facets of one plane at one place are one: a fan of a thousand triangles weighs as their sum.
    flag = is_lettering[facet]
    group, first = _grouped(corner, _in_steps(normals, _FINE)[facet], flag)
    weight = np.bincount(group, weights=angles.ravel())
    place, own = corner[first], normals[facet[first]]
    summed = _within_a_face(place, own, weight.astype(np.float64), blunt=float(np.cos(crease_rad)))
    length = np.linalg.norm(summed, axis=1)
    summed = np.where(length[:, None] > 0.0, summed / np.maximum(length, 1e-30)[:, None], own)
    # Planes of one smooth face come to one normal there.
    flag = flag[first]
    alike, kept = _grouped(place, _in_steps(summed, _COARSE), flag)
    return Shown(
        points=np.asarray(vertices, dtype=np.float32)[place[kept]],
        normals=summed[kept],
        is_lettering=flag[kept],
        triangles=alike[group].reshape(-1, 3).astype(np.uint32),
    )


#: Normals that differ by less are those of one plane, and of one corner on the screen; so many fit beside
#: each other in one number.
_FINE, _COARSE, _WAYS = 2048, 100, 1 << 14


def _in_steps(normals: FloatArray, steps: int) -> _IntArray:
    """Normals (n, 3) as whole numbers, alike where they differ by less than a step."""
    x, y, z = np.round(normals * steps).astype(np.int64).T + steps
    told: _IntArray = (x * _WAYS + y) * _WAYS + z
    return told


def _grouped(place: _IntArray, way: _IntArray, flag: npt.NDArray[np.bool_]) -> tuple[_IntArray, _IntArray]:
    """Number of the group of each that has the same three, places in order, and the first one of each."""
    key = np.stack((place, way, flag.astype(np.int64)), axis=1)
    order = np.lexsort(key.T[::-1])
    starts = np.any(np.diff(key[order], axis=0, prepend=-1) != 0, axis=1)
    group = np.empty(len(place), dtype=np.int64)
    group[order] = np.cumsum(starts) - 1
    return group, order[starts]


def _facets(corners: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Normals (m, 3), 0 where a facet has no area, and angles at the corners (m, 3)."""
    ahead = np.roll(corners, -1, axis=1) - corners
    back = np.roll(corners, 1, axis=1) - corners
    crossed = np.cross(ahead, back)
    size = np.linalg.norm(crossed, axis=2)
    angles = np.arctan2(size, (ahead * back).sum(axis=2))
    normals = crossed[:, 0] / np.maximum(size[:, :1], 1e-30)
    return normals, np.where(size[:, :1] > 0.0, angles, 0.0)


def _within_a_face(place: _IntArray, own: FloatArray, weight: FloatArray, *, blunt: float) -> FloatArray:
    """For each plane at a place the sum of those that it meets bluntly there, places being in order."""
    start = np.flatnonzero(np.diff(place, prepend=-1))
    count = np.diff(np.append(start, len(place)))
    of = np.repeat(np.arange(len(start)), count)
    # Every plane with every one at the same place.
    one = np.repeat(np.arange(len(place)), count[of])
    ahead = np.arange(len(one)) - np.repeat(np.cumsum(count[of]) - count[of], count[of])
    other = start[of[one]] + ahead
    meets = (one == other) | ((own[one] * own[other]).sum(axis=1) >= blunt)
    one, other = one[meets], other[meets]
    pulled = weight[other, None] * own[other]
    return np.stack([np.bincount(one, weights=pulled[:, k], minlength=len(place)) for k in range(3)], axis=1)


def shown_bytes(solid: Shown) -> bytes:
    """As the page reads it: counts of corners and facets (uint32), places (float32 x, y, z), normals with
    1 for lettering (int8 x, y, z, flag), and facets (uint32), little-endian."""
    marked = np.zeros((len(solid.points), 4), dtype=np.int8)
    marked[:, :3] = np.round(solid.normals * 127.0)
    marked[:, 3] = solid.is_lettering
    return b"".join(
        (
            struct.pack("<II", len(solid.points), len(solid.triangles)),
            np.ascontiguousarray(solid.points, dtype="<f4").tobytes(),
            marked.tobytes(),
            np.ascontiguousarray(solid.triangles, dtype="<u4").tobytes(),
        )
    )


def stl_corners(data: bytes) -> tuple[npt.NDArray[np.float32], npt.NDArray[np.uint32]]:
    """Vertices and triangles of a binary STL file.

    Raises
    ------
    SolidError : it is not whole
    """
    head = 84
    count = int.from_bytes(data[80:head], "little")
    if len(data) != head + 50 * count:
        raise SolidError("The file of the piece is not whole; make it again.")
    rows = np.frombuffer(data, dtype=np.uint8, offset=head).reshape(count, 50)
    corners = np.ascontiguousarray(rows[:, 12:48]).view("<f4").reshape(-1, 3)
    points, number = np.unique(corners, axis=0, return_inverse=True)
    return points, number.reshape(-1, 3).astype(np.uint32)

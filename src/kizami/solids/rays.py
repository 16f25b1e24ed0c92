"""Rays against triangles, by Embree: the library of the package embreex, which ships it, called at once for
many rays.

The package's own way of handing over triangles takes them one by one and costs more than building the
piece; Embree's C interface (version 4) takes arrays as they are.
"""

from __future__ import annotations

import ctypes
import math
import weakref
from functools import cache
from importlib.util import find_spec
from pathlib import Path

import numpy as np
import numpy.typing as npt

from kizami.errors import SolidError
from kizami.outlines.curves import FloatArray

__all__ = ["Hits", "Rays"]

_POINTER = ctypes.c_void_p
_SIZE, _INT, _UINT = ctypes.c_size_t, ctypes.c_int, ctypes.c_uint
#: The functions of Embree that are called, with their results and arguments (rtcore.h).
_FUNCTIONS = (
    ("rtcNewDevice", _POINTER, (ctypes.c_char_p,)),
    ("rtcNewScene", _POINTER, (_POINTER,)),
    ("rtcSetSceneFlags", None, (_POINTER, _INT)),
    ("rtcNewGeometry", _POINTER, (_POINTER, _INT)),
    (
        "rtcSetSharedGeometryBuffer",
        None,
        (_POINTER, _INT, _UINT, _INT, _POINTER, _SIZE, _SIZE, _SIZE),
    ),
    ("rtcCommitGeometry", None, (_POINTER,)),
    ("rtcAttachGeometry", _UINT, (_POINTER, _POINTER)),
    ("rtcReleaseGeometry", None, (_POINTER,)),
    ("rtcCommitScene", None, (_POINTER,)),
    ("rtcReleaseScene", None, (_POINTER,)),
    ("rtcIntersect16", None, (_POINTER, _POINTER, _POINTER, _POINTER)),
)
_TRIANGLES, _INDICES, _VERTICES = 0, 0, 1
_FLOAT3, _UINT3 = 0x9003, 0x5003
#: Rays that run through an edge hit one of its two triangles.
_ROBUST = 1 << 2
_NOTHING = 0xFFFFFFFF
#: So many rays go at a time, as rows of 16 numbers: a ray has 12 (origin, near, direction, time, far, mask,
#: number, flags), what it hits up to 9 (normal, u, v, triangle, geometry, instances).
_PACKET, _ROWS = 16, 24
_ORIGIN, _NEAR, _WAY, _FAR, _MASK = slice(0, 3), 3, slice(4, 7), 8, 9
_TRIANGLE, _GEOMETRY = 17, 18


@cache
def _embree() -> tuple[ctypes.CDLL, int]:
    """The library, and a device of it that works in the caller's own thread."""
    spec = find_spec("embreex")
    if spec is None or spec.origin is None:
        raise SolidError("The package embreex is missing, so nothing can be measured by rays.")
    beside = Path(spec.origin).parent
    found = sorted((*beside.parent.glob("embreex.libs/libembree4*"), *beside.glob("libembree4*")))
    if not found:
        raise SolidError("The package embreex brings no Embree 4, so nothing can be measured by rays.")
    library = ctypes.CDLL(str(found[0]))
    for name, result, arguments in _FUNCTIONS:
        function = getattr(library, name)
        function.restype, function.argtypes = result, arguments
    return library, library.rtcNewDevice(b"threads=1")


class Hits:
    """What rays (n,) hit first.

    Attributes
    ----------
    distance : (n,) along each ray, in lengths of its direction; infinite where it hits nothing
    triangle : (n,) number of what it hits; -1 where it hits nothing
    """

    __slots__ = ("distance", "triangle")

    def __init__(self, distance: FloatArray, triangle: npt.NDArray[np.int64]) -> None:
        self.distance, self.triangle = distance, triangle


class Rays:
    """Triangles that rays can be shot at.

    Parameters
    ----------
    vertices : (n, 3) mm
    triangles : (m, 3)
    """

    def __init__(self, vertices: npt.NDArray[np.floating], triangles: npt.NDArray[np.integer]) -> None:
        library, device = _embree()
        # Embree reads sixteen bytes at a time, so one more vertex than there are.
        points = np.zeros((len(vertices) + 1, 3), dtype=np.float32)
        points[:-1] = vertices
        corners = np.ascontiguousarray(triangles, dtype=np.uint32)
        self._kept = (points, corners)
        self._scene = library.rtcNewScene(device)
        library.rtcSetSceneFlags(self._scene, _ROBUST)
        geometry = library.rtcNewGeometry(device, _TRIANGLES)
        for kind, form, data, count in (
            (_VERTICES, _FLOAT3, points, len(vertices)),
            (_INDICES, _UINT3, corners, len(corners)),
        ):
            library.rtcSetSharedGeometryBuffer(geometry, kind, 0, form, data.ctypes.data, 0, 12, count)
        library.rtcCommitGeometry(geometry)
        library.rtcAttachGeometry(self._scene, geometry)
        library.rtcReleaseGeometry(geometry)
        library.rtcCommitScene(self._scene)
        weakref.finalize(self, library.rtcReleaseScene, self._scene)

    def first(self, origins: FloatArray, ways: FloatArray, *, reach: float = math.inf) -> Hits:
        """What rays hit first.

        Parameters
        ----------
        origins, ways : (n, 3); distances are told in lengths of the way
        reach : what is further away is not looked for

        >>> cube = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], dtype=float)
        >>> rays = Rays(cube, np.array([[0, 1, 3], [0, 3, 2]]))
        >>> rays.first(np.array([[-2.0, 0.3, 0.4]]), np.array([[1.0, 0.0, 0.0]])).distance.tolist()
        [2.0]
        >>> len(rays.first(np.empty((0, 3)), np.empty((0, 3))).distance)
        0
        """
        count = len(origins)
        if not count:
            return Hits(np.empty(0), np.empty(0, dtype=np.int64))
        packets = -(-count // _PACKET)
        table = _aligned(packets * _ROWS * _PACKET).reshape(packets, _ROWS, _PACKET)
        table[:, _ORIGIN] = _packed(origins, packets)
        table[:, _WAY] = _packed(ways, packets)
        table[:, _FAR] = reach
        whole = table.view(np.uint32)
        whole[:, _MASK] = whole[:, _GEOMETRY] = _NOTHING
        # What fills up the last packet looks along no way at all and hits nothing.
        valid = _aligned(_PACKET).view(np.uint32)
        valid[:] = _NOTHING
        all_of_them, scene = valid.ctypes.data, self._scene
        base, step = table.ctypes.data, _ROWS * _PACKET * 4
        intersect = _embree()[0].rtcIntersect16
        for start in range(base, base + packets * step, step):
            intersect(all_of_them, scene, start, None)
        hit = whole[:, _GEOMETRY].reshape(-1)[:count] != _NOTHING
        distance = np.where(hit, table[:, _FAR].reshape(-1)[:count].astype(np.float64), np.inf)
        triangle = np.where(hit, whole[:, _TRIANGLE].reshape(-1)[:count].astype(np.int64), -1)
        return Hits(distance, triangle)


def _aligned(count: int) -> npt.NDArray[np.float32]:
    """Zeros that start at a multiple of 64 bytes, as packets must."""
    raw = np.zeros(count * 4 + 64, dtype=np.uint8)
    start = -raw.ctypes.data % 64
    return raw[start : start + count * 4].view(np.float32)


def _packed(vectors: FloatArray, packets: int) -> npt.NDArray[np.float32]:
    """Vectors (n, 3) as packets (p, 3, 16); what fills up the last one points along x."""
    padded = np.zeros((packets * _PACKET, 3), dtype=np.float32)
    padded[:, 0] = 1.0
    padded[: len(vectors)] = vectors
    return padded.reshape(packets, _PACKET, 3).transpose(0, 2, 1)

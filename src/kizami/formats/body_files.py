"""Bodies that customers supply: STL in either form, OBJ, and 3MF, read defensively.

STL and OBJ carry no unit, so the one who takes the file in says it; 3MF carries its own.
"""

from __future__ import annotations

import io
import itertools
import re
import zipfile
import zlib
from collections.abc import Callable
from pathlib import PurePosixPath
from typing import Any
from xml.etree.ElementTree import Element, ParseError

import manifold3d as m3
import numpy as np
import numpy.typing as npt
from defusedxml.common import DefusedXmlException
from defusedxml.ElementTree import fromstring

from kizami.blanks.supplied_body import MOST_FACETS, UNITS_MM, SuppliedBody, sound_body
from kizami.errors import SurfaceError
from kizami.remembering import remembered
from kizami.surfaces.protocol import FloatArray

__all__ = ["BODY_SUFFIXES", "LARGEST_BODY_BYTES", "bodies_in", "needs_unit", "read_body"]

_Faces = npt.NDArray[np.int64]
BODY_SUFFIXES = (".stl", ".obj", ".3mf")
LARGEST_BODY_BYTES = 64 * 1024 * 1024
#: What a 3MF file may unpack to.
_LARGEST_MODEL_BYTES = 256 * 1024 * 1024
_MOST_PARTS = 200


def needs_unit(name: str) -> bool:
    """Whether a file of this name carries no unit of its own.

    >>> needs_unit("lever.stl"), needs_unit("lever.3MF")
    (True, False)
    """
    return not name.lower().endswith(".3mf")


@remembered
def read_body(data: bytes, *, name: str, unit: str = "") -> SuppliedBody:
    """A sound body from a file.

    Parameters
    ----------
    name : its file name, whose ending says the form
    unit : one of mm, cm, m, in, ft; needed for STL and OBJ, left empty for 3MF

    Raises
    ------
    SurfaceError : too large, of another form, damaged, or no body; see `sound_body`
    """
    if len(data) > LARGEST_BODY_BYTES:
        raise SurfaceError(
            f"{name} has {len(data) / 1048576:.0f} MB; {LARGEST_BODY_BYTES // 1048576} MB are the most. "
            "Write it out more coarsely."
        )
    suffix = "." + name.rpartition(".")[2].lower()
    if suffix not in BODY_SUFFIXES:
        raise SurfaceError(f"{name} is none of {', '.join(BODY_SUFFIXES)}.")
    if needs_unit(name) and unit not in UNITS_MM:
        raise SurfaceError(f"{name} does not say its unit. Say it: {', '.join(UNITS_MM)}.")
    if not needs_unit(name) and unit:
        raise SurfaceError(f"{name} says its own unit; leave the unit empty.")
    if suffix == ".3mf":
        points, faces = _read_3mf(data, name)
        return sound_body(points, faces, name=name)
    points, faces = _read_stl(data, name) if suffix == ".stl" else _read_obj(data, name)
    return sound_body(points, faces, name=name, unit_mm=UNITS_MM[unit])


def bodies_in(read: Callable[[str], bytes]) -> Callable[[str, str], SuppliedBody]:
    """A finder of bodies by file name and unit, as products ask for them.

    Parameters
    ----------
    read : gives the bytes of a file by its name; raises SurfaceError when there is none
    """

    def find(name: str, unit: str) -> SuppliedBody:
        return read_body(read(name), name=PurePosixPath(name).name, unit=unit)

    return find


_FACET = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def _read_stl(data: bytes, name: str) -> tuple[FloatArray, _Faces]:
    """Binary when the length is what the count asks for, whatever the header says; else text."""
    count = int.from_bytes(data[80:84], "little") if len(data) >= 84 else -1
    if count >= 0 and len(data) == 84 + 50 * count:
        _too_many(count, name)
        corners = np.frombuffer(data, dtype=_FACET, offset=84)["corners"].reshape(-1, 3).astype(np.float64)
    elif data.lstrip()[:5].lower() == b"solid":
        if data.count(b"endfacet") > MOST_FACETS:
            _too_many(data.count(b"endfacet"), name)
        numbers = re.findall(rb"vertex\s+(\S+)\s+(\S+)\s+(\S+)", data)
        try:
            corners = np.array(numbers, dtype=np.bytes_).astype(np.float64).reshape(-1, 3)
        except ValueError:
            raise SurfaceError(f"{name} has a corner that is no number. Write it out again.") from None
        if len(corners) % 3 or data.count(b"endsolid") == 0:
            raise SurfaceError(f"{name} breaks off in the middle. Send it again.")
    elif count >= 0 and len(data) > 84:
        raise SurfaceError(
            f"{name} says that it has {count:,} facets but holds {(len(data) - 84) // 50:,}. Send it again."
        )
    else:
        raise SurfaceError(f"{name} is no STL file.")
    return corners, np.arange(len(corners), dtype=np.int64).reshape(-1, 3)


def _too_many(count: int, name: str) -> None:
    if count > MOST_FACETS:
        raise SurfaceError(
            f"{name} has {count:,} facets; {MOST_FACETS:,} are the most. Write it out more coarsely."
        )


def _read_obj(data: bytes, name: str) -> tuple[FloatArray, _Faces]:
    """Corners and faces; faces of more corners are triangulated, negative numbers count from the end."""
    points: list[tuple[float, ...]] = []
    faces: list[tuple[int, int, int]] = []
    for number, line in enumerate(data.decode("utf-8", "replace").splitlines(), start=1):
        # Between its words a line has blanks, tabs or both.
        word, *rest = line.split() or [""]
        try:
            if word == "v":
                x, y, z = (float(v) for v in rest[:3])
                points.append((x, y, z))
            elif word == "f":
                given = [int(v.split("/")[0]) for v in rest]
                at = [i - 1 if i > 0 else len(points) + i for i in given]
                if 0 in given or min(at) < 0:
                    raise ValueError
                faces += _triangles(at, points)
        except ValueError:
            raise SurfaceError(f"{name}: line {number} can't be read. Write it out again.") from None
        if len(faces) > MOST_FACETS:
            _too_many(len(faces), name)
    return np.array(points).reshape(-1, 3), np.array(faces, dtype=np.int64).reshape(-1, 3)


def _triangles(corners: list[int], points: list[tuple[float, ...]]) -> list[tuple[int, int, int]]:
    """A face of many corners in triangles: seen along its normal (Newell's method, from memory), whatever
    notches it has."""
    if len(corners) <= 3:
        return [(corners[0], corners[1], corners[2])] if len(corners) == 3 else []
    at = np.array([points[c] for c in corners])
    ahead = np.roll(at, -1, axis=0)
    normal = np.cross(at - at[0], ahead - at[0]).sum(axis=0)
    # Seen along the axis that it looks along most, its corners keep their order.
    axis = int(np.argmax(np.abs(normal)))
    flat = np.delete(at, axis, axis=1)
    if (normal[axis] > 0) == (axis == 1):
        flat = flat[:, ::-1]
    rows = np.asarray(m3.triangulate([flat]), dtype=np.int64).reshape(-1, 3)
    if len(rows) != len(corners) - 2:
        return [(corners[0], b, c) for b, c in itertools.pairwise(corners[1:])]
    return [(corners[a], corners[b], corners[c]) for a, b, c in rows.tolist()]


_CORE = "{http://schemas.microsoft.com/3dmanufacturing/core/2015/02}"
_3MF_UNITS_MM = {
    "micron": 0.001, "millimeter": 1.0, "centimeter": 10.0, "inch": 25.4, "foot": 304.8, "meter": 1000.0,
}  # fmt: skip


def _read_3mf(data: bytes, name: str) -> tuple[FloatArray, _Faces]:
    """Everything that the build holds, in mm, each object moved as its item says."""
    root = _model(data, name)
    unit = _3MF_UNITS_MM.get(root.get("unit", "millimeter"))
    if unit is None:
        raise SurfaceError(f"{name} has the unit “{root.get('unit', '')[:20]}”, which 3MF does not know.")
    objects = {o.get("id", ""): o for o in root.iter(f"{_CORE}object")}
    items = [(i.get("objectid", ""), _matrix(i, name)) for i in root.iter(f"{_CORE}item")]
    points: list[FloatArray] = []
    faces: list[_Faces] = []
    count = parts = total = 0
    # Objects may be made of others; each is walked with the moves that lead to it.
    waiting = items
    while waiting:
        key, matrix = waiting.pop()
        parts += 1
        found = objects.get(key)
        if found is None or parts > _MOST_PARTS:
            raise SurfaceError(f"{name} has a build that can't be followed. Write it out again.")
        waiting += [
            (c.get("objectid", ""), _matrix(c, name) @ matrix) for c in found.iter(f"{_CORE}component")
        ]
        mesh = found.find(f"{_CORE}mesh")
        if mesh is None:
            continue
        own_points, own_faces = _mesh(mesh, name)
        # A mirrored part keeps its outside outside.
        own_faces = own_faces if np.linalg.det(matrix[:3, :3]) > 0 else own_faces[:, ::-1]
        total += len(own_faces)
        _too_many(total, name)
        points.append((np.column_stack((own_points, np.ones(len(own_points)))) @ matrix)[:, :3])
        faces.append(own_faces + count)
        count += len(own_points)
    if not faces:
        raise SurfaceError(f"{name} builds nothing.")
    return np.vstack(points) * unit, np.vstack(faces)


def _model(data: bytes, name: str) -> Element:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as package:
            inside = next((i for i in package.infolist() if i.filename.lower().endswith(".model")), None)
            if inside is None:
                raise SurfaceError(f"{name} is a zip without a 3MF model in it.")
            if inside.flag_bits & 0x1:
                raise SurfaceError(f"{name} is locked with a password.")
            with package.open(inside) as file:
                text = file.read(_LARGEST_MODEL_BYTES + 1)
            if len(text) > _LARGEST_MODEL_BYTES:
                raise SurfaceError(
                    f"{name} unpacks to more than {_LARGEST_MODEL_BYTES // 1048576} MB. "
                    "Write it out more coarsely."
                )
        root: Element = fromstring(text, forbid_dtd=True)
        return root
    except (zipfile.BadZipFile, zlib.error, NotImplementedError, EOFError) as error:
        raise SurfaceError(f"{name} is no 3MF file, or it is damaged. Send it again.") from error
    except (ParseError, DefusedXmlException) as error:
        raise SurfaceError(f"{name} holds a model that can't be read. Write it out again.") from error


def _matrix(element: Element, name: str) -> FloatArray:
    """A 3MF transform as a 4 x 4 matrix for row vectors."""
    matrix = np.eye(4)
    text = element.get("transform")
    if text:
        try:
            matrix[:, :3] = np.array([float(v) for v in text.split()]).reshape(4, 3)
        except ValueError:
            raise SurfaceError(f"{name} has a build that can't be followed. Write it out again.") from None
    return matrix


def _mesh(mesh: Element, name: str) -> tuple[FloatArray, _Faces]:
    def rows(kind: str, keys: tuple[str, str, str], number: type) -> list[list[Any]]:
        return [[number(e.get(k, "")) for k in keys] for e in mesh.iter(f"{_CORE}{kind}")]

    try:
        points = np.array(rows("vertex", ("x", "y", "z"), float), dtype=np.float64).reshape(-1, 3)
        faces = np.array(rows("triangle", ("v1", "v2", "v3"), int), dtype=np.int64).reshape(-1, 3)
    except (ValueError, OverflowError):
        raise SurfaceError(f"{name} has a corner that is no number. Write it out again.") from None
    if len(faces) and (faces.min() < 0 or faces.max() >= len(points)):
        raise SurfaceError(f"{name} has a surface with corners that are not in the file.")
    return points, faces

"""Files of a run read back and measured again before anybody may have them.

What is measured comes from the file alone, read by code that had no part in writing it (lib3mf, trimesh,
ezdxf, an XML reader); what it is compared with comes from the pieces' own files and their places.
"""

from __future__ import annotations

import ctypes
import math
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

import lib3mf
import numpy as np
import numpy.typing as npt
import trimesh

from kizami.formats.stl import facets_of
from kizami.runs.body import moved
from kizami.runs.laid_piece import LaidPiece
from kizami.solids.measured import Measured
from kizami.solids.thickness import thinnest_through
from kizami.surfaces.protocol import FloatArray

__all__ = [
    "Difference",
    "Expected",
    "Skin",
    "differences_3mf",
    "differences_glb",
    "differences_stl",
    "expected_of",
    "facets_of_mesh",
]

#: Files hold places in hundred-thousandths or in single precision: a corner may lie so far off, mm.
_OFF_MM = 2e-3
#: Thinnest places may differ so much, mm.
_THINNER_MM = 0.02


@dataclass(frozen=True, kw_only=True, slots=True)
class Difference:
    """Where a file is not what it should be.

    Attributes
    ----------
    file, key : which file, which piece; "" for the file as a whole
    message : what differs, with both values
    """

    file: str
    key: str
    message: str


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Skin:
    """What tells a body from others, and from its own mirror image, without looking at it facet by facet.

    Attributes
    ----------
    facets : how many
    volume_mm3, area_mm2 : of it
    low_mm, high_mm : its bounds
    moments : sums over the facets, by area, of products of their middles up to the third degree, about the
        middle of the bounds; those of odd degree change their sign in a mirror
    """

    facets: int
    volume_mm3: float
    area_mm2: float
    low_mm: FloatArray
    high_mm: FloatArray
    moments: FloatArray

    @classmethod
    def of(cls, corners: FloatArray) -> Skin:
        """Of facets, shape (n, 3, 3)."""
        flat = corners.reshape(-1, 3)
        low, high = flat.min(axis=0), flat.max(axis=0)
        a, b, c = ((corners - (low + high) / 2.0)[:, k] for k in range(3))
        (x, y, z), (p, q, r) = (b - a).T, (c - a).T
        doubled = np.column_stack((y * r - z * q, z * p - x * r, x * q - y * p))
        area = np.sqrt(np.einsum("ij,ij->i", doubled, doubled)) / 2.0
        middles = (a + b + c) / 3.0
        weighed = middles * area[:, None]
        moments = (
            weighed.sum(axis=0),
            (weighed.T @ middles)[np.triu_indices(3)],
            (weighed.T @ (middles * middles)).ravel(),
            [weighed[:, 0] @ (middles[:, 1] * middles[:, 2])],
        )
        return cls(
            facets=len(corners),
            # By the divergence theorem; a . (b x c) is a . ((b - a) x (c - a)).
            volume_mm3=float(np.einsum("ij,ij->", a, doubled) / 6.0),
            area_mm2=float(area.sum()),
            low_mm=low,
            high_mm=high,
            moments=np.concatenate(moments),
        )

    def differs(self, other: Skin) -> str:
        """What differs from the one that it should be, or ""."""
        off = max(np.abs(self.low_mm - other.low_mm).max(), np.abs(self.high_mm - other.high_mm).max())
        reach = float(np.abs(other.high_mm - other.low_mm).max()) + 1.0
        if self.facets != other.facets:
            return f"it has {self.facets:,} facets instead of {other.facets:,}"
        if off > _OFF_MM:
            return f"it lies or reaches {off:.3f} mm elsewhere"
        if abs(self.volume_mm3 - other.volume_mm3) > 1e-4 * abs(other.volume_mm3) + _OFF_MM * 0.1:
            return f"it has {self.volume_mm3:.2f} mm3 instead of {other.volume_mm3:.2f} mm3"
        if abs(self.area_mm2 - other.area_mm2) > 1e-3 * other.area_mm2:
            return f"its skin has {self.area_mm2:.2f} mm2 instead of {other.area_mm2:.2f} mm2"
        degrees = np.array([1] * 3 + [2] * 6 + [3] * 10)
        if (np.abs(self.moments - other.moments) > 1e-3 * other.area_mm2 * (reach / 2.0) ** degrees).any():
            return "its form differs, or it is mirrored"
        return ""


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Expected:
    """A piece as a file should have it.

    Attributes
    ----------
    key : its ticket code
    skin : measured from the piece's own STL, where it lies
    thinnest_mm : as it was measured when the piece was made; None where it was not
    """

    key: str
    skin: Skin
    thinnest_mm: float | None = None


def expected_of(pieces: Sequence[LaidPiece]) -> tuple[Expected, ...]:
    """What the files of a plate should hold, in the order of its pieces.

    Raises
    ------
    RunError : a piece's own file is damaged
    """
    found = []
    for piece in pieces:
        turn, shift = piece.to_bed
        corners = facets_of(piece.read("stl"))
        skin = Skin.of(moved(corners.reshape(-1, 3), turn, shift).reshape(-1, 3, 3))
        thin = piece.facts.get("thinnest_mm")
        found.append(
            Expected(key=piece.key, skin=skin, thinnest_mm=thin if isinstance(thin, float) else None)
        )
    return tuple(found)


def differences_3mf(path: Path, expected: Sequence[Expected]) -> list[Difference]:
    """Read a plate's 3MF with the format's own reference library, strictly, and measure every object."""
    said: list[Difference] = []

    def differs(key: str, message: str) -> None:
        said.append(Difference(file=path.name, key=key, message=message))

    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    try:
        reader.ReadFromFile(str(path))
    except lib3mf.ELib3MFException as error:
        return [Difference(file=path.name, key="", message=f"it can't be read: {error}")]
    warnings = reader.GetWarningCount()
    if warnings:
        differs("", f"its reader warns: {reader.GetWarning(0)[1]}")
    if model.GetUnit() != lib3mf.ModelUnit.MilliMeter:
        differs("", "it is not in mm")
    found, meshes = _objects(model, differs)
    _missing(found, expected, differs)
    for piece in expected:
        if piece.key not in found:
            continue
        mesh_id, matrix, name = found[piece.key]
        if not name.startswith(piece.key):
            differs(piece.key, f"it bears the name “{name[:60]}”")
        mesh = meshes[mesh_id]
        corners = mesh.corners
        placed = moved(corners.reshape(-1, 3), matrix[:3, :3], matrix[:3, 3]).reshape(-1, 3, 3)
        what = Skin.of(placed).differs(piece.skin)
        if what:
            differs(piece.key, what)
        if piece.thinnest_mm is not None and abs(mesh.thinnest_mm - piece.thinnest_mm) > _THINNER_MM:
            differs(
                piece.key,
                f"its thinnest place has {mesh.thinnest_mm:.3f} mm instead of {piece.thinnest_mm:.3f} mm",
            )
    return said


class _Mesh:
    """A mesh of a file, measured once however many pieces have it."""

    def __init__(self, points: FloatArray, faces: npt.NDArray[np.int64]) -> None:
        self._points, self._faces = points, faces

    @cached_property
    def corners(self) -> FloatArray:
        """Of its facets, shape (n, 3, 3)."""
        return self._points[self._faces]

    @cached_property
    def thinnest_mm(self) -> float:
        """By rays through it; without end where nothing lies behind anything."""
        body = Measured(vertices=self._points.astype(np.float32), triangles=self._faces.astype(np.uint32))
        thin = thinnest_through(body)
        return math.inf if thin is None else thin.width_mm


def _objects(
    model: lib3mf.Model, differs: Callable[[str, str], None]
) -> tuple[dict[str, tuple[int, FloatArray, str]], dict[int, _Mesh]]:
    """By part number: mesh, transform and name; and each mesh."""
    items = model.GetBuildItems()
    found: dict[str, tuple[int, FloatArray, str]] = {}
    meshes: dict[int, _Mesh] = {}
    while items.MoveNext():
        item = items.GetCurrent()
        code = item.GetPartNumber()
        if code in found:
            differs(code, "it is there twice")
        outer = _matrix(item.GetObjectTransform())
        components = model.GetComponentsObjectByID(item.GetObjectResourceID())
        if components.GetComponentCount() != 1:
            differs(code, "it is made of several meshes")
            continue
        part = components.GetComponent(0)
        if part.HasTransform():
            outer = outer @ _matrix(part.GetTransform())
        mesh_id = part.GetObjectResourceID()
        if mesh_id not in meshes:
            mesh = model.GetMeshObjectByID(mesh_id)
            if not mesh.IsManifoldAndOriented():
                differs(code, "its skin is not closed")
            meshes[mesh_id] = _Mesh(*facets_of_mesh(mesh))
        if np.linalg.det(outer[:3, :3]) <= 0:
            differs(code, "it is mirrored")
        found[code] = (mesh_id, outer, components.GetName())
    return found, meshes


def facets_of_mesh(mesh: lib3mf.MeshObject) -> tuple[FloatArray, npt.NDArray[np.int64]]:
    """Points and faces of a mesh of the library."""
    library = mesh._wrapper.lib
    points = _rows(mesh, library.lib3mf_meshobject_getvertices, lib3mf.Position, "<f4")
    faces = _rows(mesh, library.lib3mf_meshobject_gettriangleindices, lib3mf.Triangle, "<u4")
    return points.astype(np.float64), faces.astype(np.int64)


def _rows(
    mesh: lib3mf.MeshObject, call: Callable[..., object], row: type[ctypes.Structure], kind: str
) -> npt.NDArray[np.generic]:
    """The library's triples as an array.

    The library's own functions for Python make an object of each triple, which takes most of the time of
    reading a plate; these are its C functions behind them, asked in the same way.
    """
    count = ctypes.c_uint64()
    mesh._wrapper.checkError(mesh, call(mesh._handle, 0, count, None))
    rows = (row * count.value)()
    mesh._wrapper.checkError(mesh, call(mesh._handle, count, count, rows))
    return np.frombuffer(memoryview(rows).cast("B"), dtype=np.dtype(kind)).reshape(-1, 3)


def _matrix(transform: lib3mf.Transform) -> FloatArray:
    """The library's rows of four by three as a matrix for columns."""
    fields = np.array([list(field) for field in transform.Fields])
    matrix = np.eye(4)
    matrix[:3, :3], matrix[:3, 3] = fields[:3].T, fields[3]
    return matrix


def _missing(
    found: Collection[str], expected: Sequence[Expected], differs: Callable[[str, str], None]
) -> None:
    keys, there = {piece.key for piece in expected}, set(found)
    for key in sorted(keys - there):
        differs(key, "it is missing")
    for key in sorted(there - keys):
        differs(key, "it does not belong to the run")


def differences_stl(path: Path, expected: Sequence[Expected]) -> list[Difference]:
    """Read a plate's STL with trimesh and measure it piece by piece, in their order."""
    try:
        with path.open("rb") as file:
            read = trimesh.load_mesh(file, file_type="stl", process=False)
        corners = np.asarray(read.triangles, dtype=np.float64)
    except (ValueError, KeyError, OSError, AttributeError) as error:
        return [Difference(file=path.name, key="", message=f"it can't be read: {error}")]
    said: list[Difference] = []
    start = 0
    for piece in expected:
        part = corners[start : start + piece.skin.facets]
        start += piece.skin.facets
        what = Skin.of(part).differs(piece.skin) if len(part) else "it is missing"
        if what:
            said.append(Difference(file=path.name, key=piece.key, message=what))
    if start != len(corners):
        said.append(
            Difference(file=path.name, key="", message=f"it has {len(corners):,} facets instead of {start:,}")
        )
    return said


def differences_glb(path: Path, expected: Sequence[Expected]) -> list[Difference]:
    """Read a plate's GLB with trimesh; it counts in metres with y up."""
    try:
        with path.open("rb") as file:
            scene = trimesh.load_scene(file, file_type="glb", process=False)
    except (ValueError, KeyError, OSError, AttributeError) as error:
        return [Difference(file=path.name, key="", message=f"it can't be read: {error}")]
    said: list[Difference] = []

    def differs(key: str, message: str) -> None:
        said.append(Difference(file=path.name, key=key, message=message))

    upright = np.array([[1.0, 0.0, 0.0], [0.0, 0.0, -1.0], [0.0, 1.0, 0.0]]) * 1000.0
    nodes = {name.split(" ")[0]: name for name in scene.graph.nodes_geometry}
    _missing(nodes, expected, differs)
    for piece in expected:
        if piece.key not in nodes:
            continue
        matrix, geometry = scene.graph[nodes[piece.key]]
        corners = np.asarray(scene.geometry[geometry].triangles, dtype=np.float64)
        placed = moved(corners.reshape(-1, 3), upright @ matrix[:3, :3], upright @ matrix[:3, 3])
        what = Skin.of(placed.reshape(-1, 3, 3)).differs(piece.skin)
        if what:
            differs(piece.key, what)
    return said

"""A finished body as every file, drawing and check takes it."""

from __future__ import annotations

from dataclasses import dataclass, replace

import manifold3d as m3
import numpy as np
import numpy.typing as npt
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray
from kizami.outlines.flat_facets import without_flat_ones
from kizami.solids.body_mesh import BodyMesh

__all__ = ["Solid", "solid_of"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Solid:
    """A finished body as a mesh with its measures.

    Attributes
    ----------
    vertices : (n, 3) float32, mm
    triangles : (m, 3) uint32, anticlockwise seen from outside
    volume_mm3 : volume
    bounds_mm : (x low, y low, z low, x high, y high, z high)
    bodies : number of connected bodies
    genus : number of through holes of the whole
    is_lettering : (m,) bool, the triangles that the lettering made: its faces, floors and walls
    """

    vertices: npt.NDArray[np.float32]
    triangles: npt.NDArray[np.uint32]
    volume_mm3: float
    bounds_mm: tuple[float, float, float, float, float, float]
    bodies: int
    genus: int
    is_lettering: npt.NDArray[np.bool_]

    @property
    def size_mm(self) -> tuple[float, float, float]:
        """Overall size x, y, z."""
        b = self.bounds_mm
        return (b[3] - b[0], b[4] - b[1], b[5] - b[2])

    @property
    def lettering_mm2(self) -> tuple[float, float, float]:
        """The vector area of the lettering: which way lettering on one side of a piece looks, as long as its
        area; nothing for lettering right round or right through."""
        a, b, c = np.asarray(self.vertices, dtype=np.float64)[self.triangles[self.is_lettering].T]
        x, y, z = np.cross(b - a, c - a).sum(axis=0) / 2.0
        return (float(x), float(y), float(z))

    def manifold(self) -> m3.Manifold:
        """The same body for further solid work."""
        return m3.Manifold(m3.Mesh(np.array(self.vertices), np.array(self.triangles)))


#: Edges are closed up to this length when single precision can no longer tell their ends apart.
_SHORTEST_EDGE_MM = 1e-4


def solid_of(body: m3.Manifold | BodyMesh, *, blank: m3.Manifold | None = None) -> Solid:
    """A body as a mesh in single precision, the precision of every file that we write.

    A file would hold triangles without area, and so open seams, where two vertices fall onto the
    same single-precision point, or three into a row. That is rare and simplifying costs as much as the rest
    of the reading-out, so it is done only then.

    Parameters
    ----------
    blank : the body before lettering, to tell the lettering's triangles; None when all are the lettering's
    """
    own = [] if blank is None else np.asarray(blank.to_mesh().run_original_id).tolist()
    solid = _read_out(body, own) if isinstance(body, m3.Manifold) else _measured(body, own)
    if not len(_flat_facets(solid)) and not _has_twin_vertices(solid.vertices):
        return solid
    welded = _welded(solid)
    if welded is None:
        manifold = body if isinstance(body, m3.Manifold) else body.manifold()
        solid = _read_out(manifold.simplify(_SHORTEST_EDGE_MM), own)
        welded = _welded(solid)
    return _without_flat_facets(welded or solid)


def _welded(solid: Solid) -> Solid | None:
    """Vertices at one place are made one, and facets that have lost a side are gone; None where the skin
    would not be closed any more."""
    pairs = cKDTree(solid.vertices).query_pairs(_ONE_PLACE_MM, output_type="ndarray")
    size = len(solid.vertices)
    links = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(size, size))
    number = connected_components(links, directed=False)[1]
    points = solid.vertices[np.unique(number, return_index=True)[1]]
    faces = number.reshape(-1)[solid.triangles.astype(np.int64)]
    kept = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])
    faces = faces[kept]
    tails, heads = faces.T.ravel(), np.roll(faces.T, -1, axis=0).ravel()
    marks = 2 * (np.minimum(tails, heads) * np.int64(size) + np.maximum(tails, heads)) + (tails > heads)
    marks.sort()
    # Every side twice, once either way, and no third time.
    if len(marks) % 2 or np.any(marks[::2] % 2) or np.any(marks[1::2] != marks[::2] + 1):
        return None
    if np.any(marks[2::2] // 2 == marks[1:-1:2] // 2):
        return None
    return replace(
        solid,
        vertices=np.ascontiguousarray(points),
        triangles=faces.astype(np.uint32),
        is_lettering=solid.is_lettering[kept],
    )


def _flat_facets(solid: Solid) -> IntArray:
    """Facets whose corners lie in a row in single precision."""
    a, b, c = np.asarray(solid.vertices, dtype=np.float64).take(solid.triangles.T, axis=0)
    one, two = b - a, c - a
    x = one[:, 1] * two[:, 2] - one[:, 2] * two[:, 1]
    y = one[:, 2] * two[:, 0] - one[:, 0] * two[:, 2]
    z = one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]
    return np.flatnonzero(x * x + y * y + z * z < _NO_AREA_MM2**2)


def _without_flat_facets(solid: Solid) -> Solid:
    """Facets without area go to their neighbours."""
    flat = _flat_facets(solid)
    triangles, source = without_flat_ones(
        np.asarray(solid.vertices, dtype=np.float64), solid.triangles.astype(np.int64), flat
    )
    return replace(solid, triangles=triangles.astype(np.uint32), is_lettering=solid.is_lettering[source])


#: Nearer than this, single precision takes two places of a piece for one, mm.
_ONE_PLACE_MM = 5e-6
#: Twice the area of a facet that is none in single precision, mm2.
_NO_AREA_MM2 = 1e-9


def _read_out(manifold: m3.Manifold, own: list[int]) -> Solid:
    mesh = manifold.to_mesh()
    triangles = np.ascontiguousarray(mesh.tri_verts, dtype=np.uint32)
    bodies = _bodies(triangles.astype(np.int64), manifold.num_vert())
    # Triangles come in runs, each from one of the solids that went into this one.
    from_lettering = ~np.isin(np.asarray(mesh.run_original_id), own)
    return Solid(
        vertices=np.ascontiguousarray(mesh.vert_properties[:, :3], dtype=np.float32),
        triangles=triangles,
        volume_mm3=float(manifold.volume()),
        bounds_mm=tuple(float(x) for x in manifold.bounding_box()),  # type: ignore[arg-type]
        bodies=bodies,
        # Taken together, each body beside the first hides a hole.
        genus=int(manifold.genus()) + bodies - 1,
        is_lettering=np.repeat(from_lettering, np.diff(mesh.run_index) // 3),
    )


def _measured(body: BodyMesh, own: list[int]) -> Solid:
    points, triangles = body.points, body.triangles
    bodies = _bodies(triangles, len(points))
    # V - E + F = 2 (bodies - holes), and every edge of a closed body is that of two triangles.
    characteristic = len(points) - len(triangles) // 2
    return Solid(
        vertices=points.astype(np.float32),
        triangles=triangles.astype(np.uint32),
        volume_mm3=_volume_mm3(points, triangles),
        bounds_mm=(*points.min(axis=0).tolist(), *points.max(axis=0).tolist()),
        bodies=bodies,
        genus=bodies - characteristic // 2,
        is_lettering=~np.isin(body.runs, own),
    )


def _bodies(triangles: IntArray, count: int) -> int:
    """Number of connected bodies, all corners being in use."""
    ends = (triangles.ravel(), triangles[:, [1, 2, 0]].ravel())
    edges = coo_array((np.ones(len(ends[0])), ends), shape=(count, count))
    # Every side runs both ways, once for either triangle, so following them along is enough.
    return int(connected_components(edges, connection="strong", return_labels=False))


def _volume_mm3(points: FloatArray, triangles: IntArray) -> float:
    """By the divergence theorem, from the middle of the body so that little is lost to rounding."""
    corners = (points - points.mean(axis=0)).take(triangles, axis=0)
    (ax, ay, az), (bx, by, bz), (cx, cy, cz) = (corners[:, k].T for k in range(3))
    return float(ax @ (by * cz - bz * cy) + ay @ (bz * cx - bx * cz) + az @ (bx * cy - by * cx)) / 6.0


def _has_twin_vertices(vertices: npt.NDArray[np.float32]) -> bool:
    # Adding zero turns -0.0 into 0.0, which would otherwise differ byte by byte.
    x, y, z = (vertices + np.float32(0.0)).view(np.uint32).astype(np.uint64).T
    # Equal points have equal marks; sorting marks is far quicker than sorting points. That two others
    # share a mark happens once in a million pieces, and then only costs a needless simplification.
    marks = (x * _MIX[0] + y * _MIX[1] + z * _MIX[2]) ^ (z << np.uint64(17))
    marks.sort()
    return bool(np.any(marks[1:] == marks[:-1]))


#: Odd numbers that scatter the bits of a point over its mark.
_MIX = np.array([0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F, 0x165667B19E3779F9], dtype=np.uint64)

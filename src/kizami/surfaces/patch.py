"""A patch of any closed mesh around a picked point, unrolled by the logarithmic map.

The logarithmic map gives every point near the picked one its direction and its distance along the
surface. It is found by the vector heat method (Sharp, Soliman and Crane 2019) of the library
potpourri3d, in the variant that transports affine frames locally, on the patch divided finely.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from functools import cached_property
from typing import TYPE_CHECKING

import manifold3d as m3
import numpy as np
import numpy.typing as npt
import potpourri3d as pp3d
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from kizami.errors import SurfaceError
from kizami.surfaces.boxes import Boxes
from kizami.surfaces.meshes import mesh_of, nearest_point
from kizami.surfaces.plain import Plain
from kizami.surfaces.protocol import Evenness, FloatArray

if TYPE_CHECKING:
    import trimesh

__all__ = ["Patch", "unroll_patch"]

_Faces = npt.NDArray[np.int64]
#: The mesh is divided until the patch's radius has this many edges, for the map to be true.
_EDGES_A_RADIUS = 16
_MOST_FACES = 60_000
#: The map is worked out a little beyond the patch, as it is least true at its own border.
_MARGIN = 1.25
#: Stretch beyond which lettering would be seen to be bent out of shape (common practice, no source).
MOST_STRETCH = 1.15
#: An edge sharper than this between two facets is an edge of the body, not of its facets.
_EDGE_RAD = math.radians(35.0)


@dataclass(frozen=True, eq=False, kw_only=True)
class Patch(Plain):
    """A piece of a mesh with its unrolled coordinates.

    Attributes
    ----------
    points : (n, 3) mm
    normals : (n, 3) unit, outward, smooth over the facets
    uv : (n, 2) unrolled mm, the picked point at (0, 0)
    faces : (m, 3) corners, anticlockwise unrolled
    """

    points: FloatArray
    normals: FloatArray
    uv: FloatArray
    faces: _Faces
    notes: tuple[str, ...] = field(default=())

    @property
    def evenness(self) -> Evenness:
        """It changes from facet to facet."""
        return Evenness.ROUGH

    @cached_property
    def outline(self) -> shapely.Polygon:
        """Everything that is unrolled, as one outline around (0, 0)."""
        whole = shapely.union_all(shapely.polygons(self.uv[self.faces]))
        part = next((p for p in shapely.get_parts(whole) if p.intersects(shapely.Point(0, 0))), None)
        if part is None:
            raise SurfaceError("The picked point lies on no part of the shape that can be unrolled.")
        return shapely.Polygon(part.exterior)

    @cached_property
    def _tree(self) -> shapely.STRtree:
        return shapely.STRtree(shapely.polygons(self.uv[self.faces]))

    @cached_property
    def _boxes(self) -> Boxes:
        corners = self.uv[self.faces]
        return Boxes.of(corners.min(axis=1), corners.max(axis=1))

    def _locate(self, uv: FloatArray) -> tuple[_Faces, FloatArray]:
        """Facet and barycentric weights of each point; beyond the patch those of the nearest facet."""
        # Each point is compared with the facets whose box it lies in, all at once.
        which, facet = self._boxes.around(uv)
        weights = self._weights(uv.take(which, axis=0), facet)
        inside = weights.min(axis=1)
        best = np.full(len(uv), -1)
        order = np.argsort(inside, kind="stable")
        best[which[order]] = facet[order]
        lost = (best < 0) | ~_near(inside, which, len(uv))
        if lost.any():
            best[lost] = self._tree.nearest(shapely.points(uv[lost]))
        return best, self._weights(uv, best)

    def _weights(self, uv: FloatArray, facet: _Faces) -> FloatArray:
        a, b, c = self.uv.take(self.faces.take(facet, axis=0).T, axis=0)
        ab, ac, ap = b - a, c - a, uv - a
        area = ab[:, 0] * ac[:, 1] - ab[:, 1] * ac[:, 0]
        area = np.where(np.abs(area) < 1e-15, 1e-15, area)
        second = (ap[:, 0] * ac[:, 1] - ap[:, 1] * ac[:, 0]) / area
        third = (ab[:, 0] * ap[:, 1] - ab[:, 1] * ap[:, 0]) / area
        return np.column_stack((1.0 - second - third, second, third))

    def place(self, uv: FloatArray, h: FloatArray) -> FloatArray:
        """See `Surface.place`."""
        facet, weights = self._locate(uv)
        corners = self.faces.take(facet, axis=0)
        points = np.einsum("nk,nkd->nd", weights, self.points.take(corners, axis=0))
        normals = np.einsum("nk,nkd->nd", weights, self.normals.take(corners, axis=0))
        normals /= np.linalg.norm(normals, axis=1, keepdims=True)
        placed: FloatArray = points + normals * np.asarray(h)[:, None]
        return placed

    def stretch(self, uv: FloatArray) -> FloatArray:
        """Singular values of the map of the facet under each point."""
        facet, _ = self._locate(uv)
        return self._facet_stretch.take(facet, axis=0)

    @cached_property
    def _facet_stretch(self) -> FloatArray:
        return _stretches(self.points, self.uv, self.faces)

    @cached_property
    def _facet_curvature(self) -> FloatArray:
        """How fast the normal turns over each facet both ways, from its corners' normals."""
        flat = self.uv[self.faces]
        d_uv = np.stack((flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]), axis=2)
        inverse = np.linalg.inv(d_uv)

        def derivative(values: FloatArray) -> FloatArray:
            corners = values[self.faces]
            edges = np.stack((corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=2)
            return np.asarray(edges @ inverse)

        d_point, d_normal = derivative(self.points), derivative(self.normals)
        shape = np.linalg.solve(np.swapaxes(d_point, 1, 2) @ d_point, np.swapaxes(d_point, 1, 2) @ d_normal)
        return np.sort(np.linalg.eigvals(shape).real, axis=1)[:, ::-1]

    def curvatures(self, uv: FloatArray) -> FloatArray:
        """Principal curvatures of the facet under each point."""
        facet, _ = self._locate(uv)
        return self._facet_curvature.take(facet, axis=0)

    @cached_property
    def _usual_bend(self) -> float:
        return float(np.quantile(np.abs(self._facet_curvature).max(axis=1), 0.95))

    def max_step(self, *, sagitta_mm: float, h_mm: float) -> tuple[float, float]:
        """The bend that all but the sharpest twentieth of the patch keeps: c^2 k / 8 = sagitta / 2."""
        bend = self._usual_bend
        bend = bend / max(1e-3, 1.0 + bend * min(h_mm, 0.0))
        if bend < 1e-6:
            return math.inf, math.inf
        step = math.sqrt(4.0 * sagitta_mm / bend)
        return step, step


def _near(inside: FloatArray, which: _Faces, count: int) -> npt.NDArray[np.bool_]:
    found = np.full(count, -np.inf)
    np.maximum.at(found, which, inside)
    return found > -1e-6


def _stretches(points: FloatArray, uv: FloatArray, faces: _Faces) -> FloatArray:
    flat, space = uv[faces], points[faces]
    d_uv = np.stack((flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]), axis=2)
    d_space = np.stack((space[:, 1] - space[:, 0], space[:, 2] - space[:, 0]), axis=2)
    determinant = np.linalg.det(d_uv)
    d_uv[np.abs(determinant) < 1e-12] = np.eye(2) * 1e-6
    values: FloatArray = np.linalg.svd(d_space @ np.linalg.inv(d_uv), compute_uv=False)
    return values


def unroll_patch(
    mesh: trimesh.Trimesh,
    *,
    point: tuple[float, float, float],
    radius_mm: float,
    up: tuple[float, float, float] = (0.0, 0.0, 1.0),
    follow_edges: bool = False,
    most_stretch: float = MOST_STRETCH,
) -> Patch:
    """Unroll what lies around a point of a closed mesh.

    Parameters
    ----------
    point : in space, mm; the nearest point of the body is taken
    radius_mm : how far the patch may reach along the surface
    up : lettering stands upright against this direction, as far as the surface allows
    follow_edges : go on round sharp edges of the body; otherwise the patch stops there
    most_stretch : the patch is trimmed where lengths are stretched or shrunk by more than this

    Raises
    ------
    SurfaceError : there is no room around the point; says what is wrong
    """
    place, facet = nearest_point(mesh, np.array(point))
    points, normals, faces = _cut_out(
        mesh, place, facet, reach=radius_mm * _MARGIN, edge=radius_mm / _EDGES_A_RADIUS, join=follow_edges
    )
    points, normals, faces, middle = _joined(points, normals, faces, place, follow_edges=follow_edges)
    try:
        solver = pp3d.MeshVectorHeatSolver(points, faces)
        uv = np.asarray(solver.compute_log_map(middle, strategy="AffineLocal"))
    except (RuntimeError, ValueError) as error:
        raise SurfaceError(
            "The shape around the picked point can't be unrolled; its surface is broken there."
        ) from error
    around = np.unique(faces[(faces == middle).any(axis=1)])
    uv = _upright(uv - uv[middle], points - points[middle], around, normal=normals[middle], up=np.array(up))
    kept, notes = _trimmed(points, uv, faces, radius_mm, most_stretch)
    if not len(kept):
        raise SurfaceError("Around the picked point nothing can be unrolled without stretching it too far.")
    return Patch(points=points, normals=normals, uv=uv, faces=kept, notes=notes)


def _cut_out(
    mesh: trimesh.Trimesh, place: FloatArray, facet: int, *, reach: float, edge: float, join: bool
) -> tuple[FloatArray, FloatArray, _Faces]:
    """The skin of the body around the point, finely divided: points, normals and facets.

    The body is cut by a ball, so that a long thin facet costs no more than what lies within reach,
    and only what was the body's own skin is kept. The picked point becomes a corner: its facet is
    parted in three. Normals belong to the given corners, one for each side of a sharp edge, and are
    blended over each facet, for the facets stand for a smooth surface.
    """
    vertices, faces = np.asarray(mesh.vertices), np.asarray(mesh.faces)
    corners = faces[facet]
    if float(np.linalg.norm(vertices[corners] - place, axis=1).min()) > edge * 1e-2:
        a, b, c = corners
        new = len(vertices)
        vertices = np.vstack((vertices, place))
        faces = np.vstack((np.delete(faces, facet, axis=0), [(a, b, new), (b, c, new), (c, a, new)]))
    skin = _with_normals(mesh_of(vertices, faces))
    ball = m3.Manifold.sphere(reach, 96).translate(tuple(float(x) for x in place))
    part = (skin ^ ball).refine_to_length(edge)
    if part.num_tri() > _MOST_FACES:
        part = (skin ^ ball).refine_to_length(edge * 2.0)
    out = part.to_mesh()
    own = np.repeat(np.asarray(out.run_original_id), np.diff(out.run_index) // 3) == skin.original_id()
    kept = np.asarray(out.tri_verts, dtype=np.int64)[own]
    merged = np.arange(len(out.vert_properties))
    one, two = (np.asarray(v, dtype=np.int64) for v in (out.merge_from_vert, out.merge_to_vert))
    if not join and len(one):
        # At a sharp edge each side keeps its own normal: it is the edge of the patch.
        sides = np.asarray(out.vert_properties, dtype=np.float64)[:, 3:6]
        sides = sides / np.maximum(np.linalg.norm(sides, axis=1, keepdims=True), 1e-12)
        soft = np.einsum("nd,nd->n", sides[one], sides[two]) > math.cos(_EDGE_RAD)
        one, two = one[soft], two[soft]
    merged[one] = two
    used, kept = np.unique(merged[kept], return_inverse=True)
    rows = np.asarray(out.vert_properties, dtype=np.float64)[used]
    return rows[:, :3], rows[:, 3:6], kept.reshape(-1, 3)


def _with_normals(mesh: trimesh.Trimesh) -> m3.Manifold:
    """The body with a normal at each corner, averaged over the facets that meet softly there."""
    pairs = mesh.face_adjacency[mesh.face_adjacency_angles < _EDGE_RAD]
    group = _groups(pairs, len(mesh.faces))
    keys = np.column_stack((mesh.faces.ravel(), np.repeat(group, 3)))
    unique, corner = np.unique(keys, axis=0, return_inverse=True)
    normals = np.zeros((len(unique), 3))
    weighted = np.repeat(mesh.face_normals, 3, axis=0) * mesh.face_angles.ravel()[:, None]
    np.add.at(normals, corner, weighted)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    first = np.unique(unique[:, 0], return_index=True)[1]
    owner = first[np.searchsorted(unique[first, 0], unique[:, 0])]
    twins = np.flatnonzero(owner != np.arange(len(unique)))
    solid = m3.Manifold(
        m3.Mesh(
            vert_properties=np.hstack((mesh.vertices[unique[:, 0]], normals)).astype(np.float32),
            tri_verts=corner.reshape(-1, 3).astype(np.uint32),
            merge_from_vert=twins.astype(np.uint32),
            merge_to_vert=owner[twins].astype(np.uint32),
        )
    )
    if solid.status() != m3.Error.NoError or solid.is_empty():
        raise SurfaceError("The shape is not closed, so no part of it can be unrolled. Mend the file first.")
    return solid.as_original()


def _groups(pairs: npt.NDArray[np.integer], count: int) -> npt.NDArray[np.integer]:
    """Number of the connected group that each facet belongs to."""
    links = coo_array((np.ones(len(pairs)), (pairs[:, 0], pairs[:, 1])), shape=(count, count))
    return connected_components(links, directed=False)[1]  # type: ignore[no-any-return]


def _joined(
    points: FloatArray, normals: FloatArray, faces: _Faces, place: FloatArray, *, follow_edges: bool
) -> tuple[FloatArray, FloatArray, _Faces, int]:
    """What hangs together with the picked point, up to the sharp edges if they are not to be followed."""
    mesh = mesh_of(points, faces)
    pairs = mesh.face_adjacency
    if not follow_edges:
        pairs = pairs[mesh.face_adjacency_angles < _EDGE_RAD]
    group = _groups(pairs, len(faces))
    middle = int(np.argmin(np.linalg.norm(points - place, axis=1)))
    at = np.flatnonzero((faces == middle).any(axis=1))
    faces = _unpinched(faces[group == group[at[0]]], middle)
    used, faces = np.unique(faces, return_inverse=True)
    normals = normals[used] / np.maximum(np.linalg.norm(normals[used], axis=1, keepdims=True), 1e-12)
    return points[used], normals, faces.reshape(-1, 3), int(np.searchsorted(used, middle))


def _unpinched(faces: _Faces, middle: int) -> _Faces:
    """Drop facets at points where the border of the patch meets itself, and what is cut off by that."""
    for _ in range(20):
        edges = np.sort(faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
        unique, inverse, count = np.unique(edges, axis=0, return_inverse=True, return_counts=True)
        ends, meetings = np.unique(unique[count == 1], return_counts=True)
        pinched = ends[meetings > 2]
        if not len(pinched) and (count <= 2).all():
            break
        crowded = (count[inverse] > 2).reshape(-1, 3).any(axis=1)
        faces = faces[~np.isin(faces, pinched).any(axis=1) & ~crowded]
    owner = np.repeat(np.arange(len(faces)), 3)
    edges = np.sort(faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1)
    order = np.lexsort(edges.T)
    same = (edges[order][1:] == edges[order][:-1]).all(axis=1)
    pairs = np.column_stack((owner[order][:-1][same], owner[order][1:][same]))
    group = _groups(pairs, len(faces))
    at = np.flatnonzero((faces == middle).any(axis=1))
    if not len(at):
        raise SurfaceError("The picked point lies where the shape meets itself. Pick another.")
    kept: _Faces = faces[group == group[at[0]]]
    return kept


def _upright(
    uv: FloatArray, points: FloatArray, around: _Faces, *, normal: FloatArray, up: FloatArray
) -> FloatArray:
    """Turn the unrolled patch so that v runs along `up` and it reads from outside.

    Parameters
    ----------
    uv, points : from the picked point
    around : numbers of the points next to it
    """
    # Directions in space of the two unrolled axes, by least squares over the neighbours.
    axes, *_ = np.linalg.lstsq(uv[around], points[around], rcond=None)
    wanted = up - normal * float(up @ normal)
    if np.linalg.norm(wanted) < 1e-6:
        # The point looks straight up: the back is up there; where that is no way either, the top.
        other = np.array([0.0, 1.0, 0.0]) if abs(normal[1]) < 0.9 else np.array([0.0, 0.0, 1.0])
        wanted = other - normal * float(other @ normal)
    wanted /= np.linalg.norm(wanted)
    flipped = float(np.cross(axes[0], axes[1]) @ normal) < 0
    if flipped:
        uv = uv * (1.0, -1.0)
        axes = axes * np.array([[1.0], [-1.0]])
    x, y = float(axes[0] @ wanted), float(axes[1] @ wanted)
    turn = math.pi / 2.0 - math.atan2(y, x)
    cos, sin = math.cos(turn), math.sin(turn)
    turned: FloatArray = uv @ np.array([[cos, sin], [-sin, cos]])
    return turned


def _trimmed(
    points: FloatArray, uv: FloatArray, faces: _Faces, radius_mm: float, most_stretch: float
) -> tuple[_Faces, tuple[str, ...]]:
    """Facets that lie within reach, the right way up and nearly true, joined to the middle."""
    flat = uv[faces]
    edges = flat[:, 1:] - flat[:, :1]
    area = edges[:, 0, 0] * edges[:, 1, 1] - edges[:, 0, 1] * edges[:, 1, 0]
    stretch = _stretches(points, uv, faces)
    # Facets that only reach in are kept whole, so that the circle can be drawn across them.
    reach = np.hypot(*np.moveaxis(flat, 2, 0))
    within = reach.min(axis=1) <= radius_mm
    upright = area > 1e-12
    true = (stretch[:, 0] <= most_stretch) & (stretch[:, 1] >= 1.0 / most_stretch)
    notes: tuple[str, ...] = ()
    if ((reach.max(axis=1) <= radius_mm) & upright & ~true).any():
        notes = (f"The area ends where lengths would change by more than {(most_stretch - 1) * 100:.0f} %",)
    kept = faces[within & upright & true]
    if not len(kept):
        return kept, notes
    mesh = mesh_of(points, kept)
    label = _groups(mesh.face_adjacency, len(kept))
    nearest = int(np.argmin(np.hypot(*uv[kept].mean(axis=1).T)))
    return kept[label == label[nearest]], notes

"""A shape that a customer supplied, lettered on a patch around a picked point."""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d as m3
import numpy as np
import shapely

from kizami.blanks.area import Area
from kizami.blanks.supplied_body import SuppliedBody
from kizami.errors import SurfaceError
from kizami.remembering import remembered
from kizami.surfaces.meshes import mesh_of
from kizami.surfaces.patch import Patch, unroll_patch
from kizami.surfaces.protocol import FloatArray

__all__ = ["SuppliedShape", "thickness_mm"]

#: Spots of a patch under which the thickness is measured.
_SPOTS = 300
#: Beyond the far side of any body that is taken in.
_FAR_MM = 2000.0


@dataclass(frozen=True, kw_only=True, slots=True)
class SuppliedShape:
    """A supplied body with the place that is lettered.

    Attributes
    ----------
    body_file : the body
    point : where the lettering is centred, mm; the nearest point of the body is taken
    up : lettering stands upright against this direction
    radius_mm : how far the patch reaches along the surface
    follow_edges : go on round sharp edges of the body; otherwise the patch stops there
    """

    body_file: SuppliedBody
    point: tuple[float, float, float]
    radius_mm: float
    up: tuple[float, float, float] = (0.0, 0.0, 1.0)
    follow_edges: bool = False

    @property
    def areas(self) -> tuple[Area, ...]:
        """The patch.

        Raises
        ------
        SurfaceError : nothing can be laid out there; says why
        """
        return (_patch_area(self),)

    def body(self, sagitta_mm: float) -> m3.Manifold:
        """The body as it came; its facets are what they are."""
        return self.body_file.manifold


@remembered
def _patch_area(of: SuppliedShape) -> Area:
    body = of.body_file
    mesh = mesh_of(body.vertices, body.triangles)
    patch = unroll_patch(mesh, point=of.point, radius_mm=of.radius_mm, up=of.up, follow_edges=of.follow_edges)
    reach = shapely.Point(0.0, 0.0).buffer(of.radius_mm, quad_segs=64)
    outline = _smooth(patch.outline.intersection(reach), of.radius_mm)
    part = next((p for p in shapely.get_parts(outline) if p.intersects(shapely.Point(0.0, 0.0))), None)
    if part is None:
        raise SurfaceError("There is hardly any room around the picked point. Pick another, or follow edges.")
    walls = thickness_mm(body.manifold, patch)
    return Area(
        name="picked place",
        surface=patch,
        outline=shapely.simplify(part, 0.01),
        keep_outs=(),
        anchor=(0.0, 0.0),
        wall_mm=float(walls.min()),
        thickest_mm=float(walls.max()),
        # What is missing at a corner here and there is not worth a word.
        notes=patch.notes if part.area < _NEARLY_ALL * reach.area else (),
    )


def _smooth(ragged: shapely.Geometry, radius_mm: float) -> shapely.Geometry:
    """An outline inside one that follows the facets at which a patch was parted, without their teeth.

    It is drawn in by so little that bays between teeth can be closed without leaving what is unrolled.
    An outline that needs no more than a hair's breadth keeps it; one that has real bays keeps them.
    """
    tooth = radius_mm / 8.0
    blunt = ragged.buffer(-tooth).buffer(tooth).intersection(ragged)
    for share in _DRAWN_IN:
        inner = blunt.buffer(-share * radius_mm, quad_segs=_FINE)
        closed = inner.buffer(_BAY * radius_mm, quad_segs=_FINE).buffer(-_BAY * radius_mm, quad_segs=_FINE)
        if closed.difference(ragged).area < _LEFT_OUT * ragged.area:
            return closed.intersection(ragged)
    return blunt


#: How far an outline may be drawn in, and how wide bays are closed, as shares of the patch's radius.
_DRAWN_IN = (0.0, 0.01, 0.02, 0.03, 0.04)
_BAY = 0.1
#: Share of its area by which a closed outline may miss what is unrolled.
_LEFT_OUT = 1e-4
_FINE = 24
#: Share of the circle that was asked for from which on the patch counts as all of it.
_NEARLY_ALL = 0.99


def thickness_mm(body: m3.Manifold, patch: Patch) -> FloatArray:
    """How thick the body is under spots spread over a patch, straight inward, mm.

    Raises
    ------
    SurfaceError : nothing lies under a spot, so the patch is not on the body
    """
    every = max(1, len(patch.faces) // _SPOTS)
    corners = patch.faces[::every]
    points = patch.points[corners].mean(axis=1)
    # The facets' own normals, as the smooth ones may look past a sharp edge.
    edges = patch.points[corners][:, 1:] - patch.points[corners][:, :1]
    normals = np.cross(edges[:, 0], edges[:, 1])
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    # From a hair inside, so that the skin that the ray starts on is not what it meets.
    starts = points - normals * 1e-3
    ends = starts - normals * _FAR_MM
    found = []
    for start, end in zip(starts.tolist(), ends.tolist(), strict=True):
        hits = body.ray_cast(start, end)
        if hits:
            found.append(float(np.linalg.norm(np.array(hits[0].position) - start)) + 1e-3)
    if len(found) < len(starts) * 0.9:
        raise SurfaceError("The picked point lies beside the shape. Pick one on its surface.")
    return np.array(found)

"""Lettering as a solid on a surface: refined where the surface bends, laid on.

A letter comes again and again on a list. Each body of an outline is made and divided once, about its
first point, and put together with the others as it is needed: how finely it must be divided depends
on the surface and the heights only, not on where it stands.
"""

from __future__ import annotations

import math
from functools import lru_cache

import manifold3d as m3
import numpy as np
import numpy.typing as npt
import shapely

from kizami.errors import SolidError
from kizami.outlines.curves import FloatArray
from kizami.outlines.relief import Level, prism_mesh
from kizami.solids.flat import Flat, flat_solid
from kizami.surfaces.cone import Cone
from kizami.surfaces.protocol import Surface

__all__ = ["divided", "lay_on", "steps_mm"]

#: Squeezing the directions that do not count before refining makes edge length mean "length
#: along the bending direction". Not smaller, so that the finest outline detail stays far above
#: the working precision of the solids (1e-12 of the size).
_SQUEEZE = 1e-4
_Faces = npt.NDArray[np.uint64]


def lay_on(flat: Flat, surface: Surface, *, sagitta_mm: float, pull: FloatArray | None = None) -> m3.Manifold:
    """Lay lettering on a surface, divided only where and as finely as the surface bends.

    Parameters
    ----------
    sagitta_mm : largest distance between a chord and the surface
    pull : unit direction along which h runs instead of the normal, for moulds: walls are parallel to it

    Returns
    -------
    Manifold; several bodies, one a letter part

    Raises
    ------
    SolidError : softened edges or slanted walls leave no face
    """

    def placed(uvh: FloatArray, faces: _Faces) -> m3.Manifold:
        if pull is None:
            points = surface.place(uvh[:, :2], uvh[:, 2])
        else:
            points = surface.place(uvh[:, :2], np.zeros(len(uvh))) + np.outer(uvh[:, 2], pull)
        return m3.Manifold(m3.Mesh64(np.ascontiguousarray(points), faces))

    solid = placed(*divided(flat, surface, sagitta_mm=sagitta_mm))
    if solid.status() != m3.Error.NoError and flat.is_upright:
        # Outlines that touch in a point are only taken apart body by body.
        solid = placed(*divided(flat, surface, sagitta_mm=sagitta_mm, each_alone=True))
    return solid


def steps_mm(surface: Surface, *, sagitta_mm: float, span_mm: tuple[float, float]) -> tuple[float, float]:
    """Longest steps along u and v that the tolerance allows between two heights.

    Which of the two heights bends most depends on whether the surface is seen from inside.
    """
    both = [surface.max_step(sagitta_mm=sagitta_mm, h_mm=h) for h in span_mm]
    step_u, step_v = (min(pair) for pair in zip(*both, strict=True))
    return step_u, step_v


def divided(
    flat: Flat, surface: Surface, *, sagitta_mm: float, each_alone: bool = False
) -> tuple[FloatArray, _Faces]:
    """Corners (n, 3) in (u, v, h) and faces (m, 3) of lettering, divided where the surface bends.

    Parameters
    ----------
    each_alone : every body is made by itself, which outlines that touch need
    """
    if isinstance(surface, Cone):
        corners, faces = _undivided(flat, each_alone=each_alone)
        return _about_apex(corners, faces, surface, sagitta_mm=sagitta_mm, span_mm=flat.span_mm)
    step_u, step_v = steps_mm(surface, sagitta_mm=sagitta_mm, span_mm=flat.span_mm)
    if math.isinf(step_u) and math.isinf(step_v):
        return _undivided(flat, each_alone=each_alone)
    weight_u = _SQUEEZE if math.isinf(step_u) else 1.0
    weight_v = _SQUEEZE if math.isinf(step_v) else step_u / step_v if weight_u == 1.0 else 1.0
    return _together(flat, (weight_u, weight_v, _SQUEEZE), step_u if weight_u == 1.0 else step_v)


_Weights = tuple[float, float, float]


def _undivided(flat: Flat, *, each_alone: bool) -> tuple[FloatArray, _Faces]:
    """The whole at once where that is quickest: upright, it is only triangulated."""
    if flat.is_upright and not each_alone:
        return prism_mesh(flat.outlines, *flat.span_mm)
    return _together(flat, (1.0, 1.0, 1.0), math.inf)


def _together(flat: Flat, weights: _Weights, step: float) -> tuple[FloatArray, _Faces]:
    """All bodies of a lettering, divided, where they stand."""
    corners, faces, count = [], [], 0
    for body in flat.outlines.geoms:
        start = np.array(body.exterior.coords[0])
        # Letters that were only moved have the same differences to the last bit. Adding zero turns
        # -0.0 into 0.0, which would otherwise tell equal outlines apart.
        rings = tuple(
            (np.asarray(ring.coords) - start + 0.0).tobytes() for ring in (body.exterior, *body.interiors)
        )
        own_corners, own_faces = _body(rings, flat.levels, weights, step)
        corners.append(own_corners + np.append(start, 0.0))
        faces.append(own_faces + np.uint64(count))
        count += len(own_corners)
    return np.concatenate(corners), np.concatenate(faces)


@lru_cache(maxsize=256)
def _body(
    rings: tuple[bytes, ...], levels: tuple[Level, ...], weights: _Weights, step: float
) -> tuple[FloatArray, _Faces]:
    """One body about its first point, divided: corners in (u, v, h), and faces."""
    corners, faces = _flat_body(rings, levels)
    if math.isinf(step):
        return corners, faces
    mesh = _refined(m3.Manifold(m3.Mesh64(corners * weights, faces)), step).to_mesh64()
    return np.asarray(mesh.vert_properties)[:, :3] / np.array(weights), np.array(mesh.tri_verts)


@lru_cache(maxsize=512)
def _flat_body(rings: tuple[bytes, ...], levels: tuple[Level, ...]) -> tuple[FloatArray, _Faces]:
    """One body, not divided: rings of other sizes divide the same letters otherwise."""
    outer, *inner = (np.frombuffer(ring).reshape(-1, 2) for ring in rings)
    solid = flat_solid(shapely.MultiPolygon([shapely.Polygon(outer, inner)]), levels)
    mesh = solid.to_mesh64()
    if solid.status() != m3.Error.NoError or not len(mesh.tri_verts):
        raise SolidError(f"An outline can't be made a solid: {solid.status().name}.")
    return np.array(mesh.vert_properties)[:, :3], np.array(mesh.tri_verts)


def _refined(solid: m3.Manifold, step: float) -> m3.Manifold:
    """Divided until no edge is longer than a step.

    The first time sides are divided and their insides filled, where an edge may come out half as long
    again as its sides, and so twice as far off the surface; the second time finds those few.
    """
    return solid.refine_to_length(step).refine_to_length(step)


def _about_apex(
    uvh: FloatArray, faces: _Faces, cone: Cone, *, sagitta_mm: float, span_mm: tuple[float, float]
) -> tuple[FloatArray, _Faces]:
    """Divide by the angle about a cone's apex only, as along its generators nothing bends.

    Every corner carries its own (u, v, h) with it, and what is put between two corners the mean of
    theirs: so straight edges stay straight in the unrolled plane, whatever they are in angles.
    """
    turn = min(cone.turn_step_rad(sagitta_mm=sagitta_mm, h_mm=h) for h in span_mm)
    theta, reach = cone.polar(uvh[:, :2])
    polar = np.column_stack((theta / turn, reach * _SQUEEZE, uvh[:, 2] * _SQUEEZE))
    solid = _refined(m3.Manifold(m3.Mesh64(np.hstack((polar, uvh)), faces)), 1.0)
    mesh = solid.to_mesh64()
    corners: FloatArray = np.asarray(mesh.vert_properties)[:, 3:6]
    # A corner with two origins would stand in the list twice; here none has.
    assert not len(mesh.merge_from_vert)
    return corners, np.array(mesh.tri_verts)

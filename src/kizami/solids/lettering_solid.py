"""Lettering as a solid on a surface: cut along lines where the surface bends, and laid on."""

from __future__ import annotations

import math
from dataclasses import replace

import manifold3d as m3
import numpy as np
import shapely

from kizami.dividing.pencils import Pencil, pencils_of
from kizami.dividing.relief import relief_mesh
from kizami.dividing.segments import Segments
from kizami.errors import SolidError
from kizami.outlines.curves import FloatArray, bodies_of
from kizami.solids.flat import Flat
from kizami.surfaces.cone import Cone
from kizami.surfaces.protocol import Surface

__all__ = ["lay_on", "lines_across", "steps_mm"]


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
    SolidError : softened edges or slanted walls leave no face, or outlines could not be divided
    """
    lines = lines_across(flat.outlines, surface, sagitta_mm=sagitta_mm, span_mm=flat.span_mm)
    solid = _laid(flat, lines, surface, pull)
    if solid is None:
        # Outlines that touch in a point share a corner there, which a solid can't.
        apart = shapely.orient_polygons(flat.outlines.buffer(-_APART_MM, join_style="mitre", mitre_limit=2.0))
        solid = _laid(replace(flat, outlines=bodies_of(apart)), lines, surface, pull)
    if solid is None:
        raise SolidError(
            "The lettering is too small for its softened edges or slanted walls."
            if flat.levels[-1].inward_mm
            else "An outline can't be built.",
            hint="Set it higher, or let the product have sharp edges and upright walls.",
        )
    return solid


#: How far outlines that touch in a point are drawn in, so that they do not, mm.
_APART_MM = 1e-4


def _laid(flat: Flat, lines: list[Pencil], surface: Surface, pull: FloatArray | None) -> m3.Manifold | None:
    found = relief_mesh(flat.outlines, flat.levels, lines)
    if found is None:
        return None
    uvh, faces = found
    if pull is None:
        points = surface.place(uvh[:, :2], uvh[:, 2])
    else:
        points = surface.place(uvh[:, :2], np.zeros(len(uvh))) + np.outer(uvh[:, 2], pull)
    solid = m3.Manifold(m3.Mesh64(np.ascontiguousarray(points), faces.astype(np.uint64)))
    return solid if solid.status() == m3.Error.NoError else None


def steps_mm(surface: Surface, *, sagitta_mm: float, span_mm: tuple[float, float]) -> tuple[float, float]:
    """Longest steps along u and v that the tolerance allows between two heights.

    Which of the two heights bends most depends on whether the surface is seen from inside.
    """
    both = [surface.max_step(sagitta_mm=sagitta_mm, h_mm=h) for h in span_mm]
    step_u, step_v = (min(pair) for pair in zip(*both, strict=True))
    return step_u, step_v


def lines_across(
    outlines: shapely.MultiPolygon, surface: Surface, *, sagitta_mm: float, span_mm: tuple[float, float]
) -> list[Pencil]:
    """Lines in unrolled mm along which outlines must be cut, so that every chord keeps the tolerance.

    Across a cone they run through its apex, as along its generators nothing bends.

    >>> from kizami.surfaces.cylinder import Cylinder
    >>> square = shapely.MultiPolygon([shapely.box(0, 0, 1, 1)])
    >>> round_it = Cylinder(radius_mm=10.0)
    >>> [len(p) for p in lines_across(square, round_it, sagitta_mm=0.005, span_mm=(-0.5, 0.0))]
    [1]
    """
    if isinstance(surface, Cone):
        turn = min(surface.turn_step_rad(sagitta_mm=sagitta_mm, h_mm=h) for h in span_mm)
        theta, reach = surface.polar(shapely.get_coordinates(outlines))
        angles = _between(float(theta.min()), float(theta.max()), turn)
        # The middle of a straight side may be nearer to the apex than any corner.
        nearest = shapely.distance(shapely.Point(surface.apex.u_mm, surface.apex.v_mm), outlines)
        ends = [np.full(len(angles), r) for r in (nearest - _BEYOND_MM, reach.max() + _BEYOND_MM)]
        inner, outer = (surface.unpolar(angles, end) for end in ends)
        return pencils_of(Segments(starts=inner, ends=outer))
    step_u, step_v = steps_mm(surface, sagitta_mm=sagitta_mm, span_mm=span_mm)
    (low_u, low_v), (high_u, high_v) = np.array(outlines.bounds).reshape(2, 2)
    u, v = _between(low_u, high_u, step_u), _between(low_v, high_v, step_v)
    below, above = low_v - _BEYOND_MM, high_v + _BEYOND_MM
    left, right = low_u - _BEYOND_MM, high_u + _BEYOND_MM
    upright = [np.column_stack((u, np.full(len(u), end))) for end in (below, above)]
    level = [np.column_stack((np.full(len(v), end), v)) for end in (left, right)]
    return pencils_of(
        Segments(starts=np.vstack((upright[0], level[0])), ends=np.vstack((upright[1], level[1])))
    )


#: Lines end so far outside of what they cut, mm.
_BEYOND_MM = 0.1


def _between(low: float, high: float, step: float) -> FloatArray:
    """The fewest places that part a length into equal shares no longer than a step."""
    shares = 1 if math.isinf(step) else max(1, math.ceil((high - low) / step))
    return np.linspace(low, high, shares + 1)[1:-1]

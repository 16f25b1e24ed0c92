"""A body with its lettering, cut by or joined with another body: the road that always leads there."""

from __future__ import annotations

import manifold3d as m3
import numpy as np
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.treatment import CutOut, Engraved, InRecess, Pierced, Scored
from kizami.errors import SolidError
from kizami.outlines.roof import roof_mesh
from kizami.outlines.shrinking import Level
from kizami.solids.flat import Flat, upright
from kizami.solids.lettering_solid import lay_on, steps_mm

__all__ = ["OVERSHOOT_MM", "flat_lettering", "pointed_lettering", "recess_of", "treat"]

#: A cutter stands proud of the surface by this much, so that it never shares a face with the
#: body; it must exceed the chord error of both.
OVERSHOOT_MM = 0.05


def treat(
    body: m3.Manifold | None,
    made: AsMade,
    *,
    sagitta_mm: float,
    outlines: shapely.MultiPolygon | None = None,
) -> m3.Manifold:
    """Lettering on a body as its treatment asks.

    Parameters
    ----------
    body : the blank; None where the lettering is the piece
    outlines : a part of the lettering where not all of it is still to be made

    Raises
    ------
    SolidError : nothing is left of the body
    """
    surface, treatment = made.area.surface, made.treatment

    def laid(flat: Flat) -> m3.Manifold:
        return lay_on(flat, surface, sagitta_mm=sagitta_mm, pull=made.pull)

    if body is not None and made.is_pointed:
        return _checked(body - pointed_lettering(made, outlines, sagitta_mm=sagitta_mm))
    letters = flat_lettering(made, outlines)
    if body is None:
        if not isinstance(treatment, CutOut) or letters is None:
            raise SolidError("A piece without a body can only be cut out.")
        result = laid(letters)
    elif letters is None:
        result = body
    elif isinstance(treatment, InRecess):
        result = body - recess_of(made, sagitta_mm=sagitta_mm) + laid(letters)
    else:
        result = body - laid(letters) if treatment.sinks else body + laid(letters)
    return _checked(result)


def _checked(body: m3.Manifold) -> m3.Manifold:
    if body.status() != m3.Error.NoError:
        raise SolidError(f"The solid could not be built: {body.status().name}.")
    if body.is_empty():
        raise SolidError("Nothing is left of the body.")
    return body


def pointed_lettering(
    made: AsMade, outlines: shapely.MultiPolygon | None = None, *, sagitta_mm: float
) -> m3.Manifold:
    """What is cut away where the floor is pointed, laid on.

    Raises
    ------
    SolidError : outlines touch each other
    """
    assert isinstance(made.treatment, Engraved)
    whole, depth = made.outlines if outlines is None else outlines, made.treatment.depth_mm
    longest = min(steps_mm(made.area.surface, sagitta_mm=sagitta_mm, span_mm=(-depth, OVERSHOOT_MM)))
    found = roof_mesh(whole, depth, above_mm=OVERSHOOT_MM, longest_mm=longest)
    solid = None
    if found is not None:
        uvh, faces = found
        points = made.place(uvh[:, :2], uvh[:, 2])
        solid = m3.Manifold(m3.Mesh64(np.ascontiguousarray(points), faces.astype(np.uint64)))
    if solid is None or solid.status() != m3.Error.NoError:
        raise SolidError("Outlines that touch each other can't have a pointed floor.")
    return solid


def flat_lettering(made: AsMade, outlines: shapely.MultiPolygon | None = None) -> Flat | None:
    """What is cut away or added, before it is laid on, see `treat`; None when nothing is."""
    treatment, whole = made.treatment, made.outlines if outlines is None else outlines
    if isinstance(treatment, Scored):
        return None
    if isinstance(treatment, Pierced):
        return upright(whole, -made.area.through_mm - OVERSHOOT_MM, OVERSHOOT_MM)
    levels = made.levels
    if treatment.sinks:
        levels = (Level(inward_mm=0.0, height_mm=OVERSHOOT_MM), *levels)
    if levels[-1].inward_mm == 0.0:
        heights = [level.height_mm for level in levels]
        return upright(whole, min(heights), max(heights))
    return Flat(outlines=whole, levels=levels)


def recess_of(made: AsMade, *, sagitta_mm: float) -> m3.Manifold:
    """The recess around lettering, laid on."""
    assert isinstance(made.treatment, InRecess) and made.panel is not None
    flat = upright(shapely.MultiPolygon([made.panel]), -made.treatment.depth_mm, OVERSHOOT_MM)
    return lay_on(flat, made.area.surface, sagitta_mm=sagitta_mm, pull=made.pull)

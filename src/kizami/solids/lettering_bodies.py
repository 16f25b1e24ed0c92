"""What lettering cuts away or adds, as bodies of their own: for booleans, and letter by letter."""

from __future__ import annotations

import manifold3d as m3
import numpy as np
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.treatment import Engraved, InRecess, Pierced, Scored
from kizami.errors import SolidError
from kizami.outlines.roof import roof_mesh
from kizami.outlines.shrinking import Level
from kizami.solids.flat import Flat, upright
from kizami.solids.lettering_solid import lay_on, steps_mm

__all__ = ["OVERSHOOT_MM", "flat_lettering", "pointed_lettering", "recess_of"]

#: A cutter stands proud of the surface by this much, so that it never shares a face with the
#: body; it must exceed the chord error of both.
OVERSHOOT_MM = 0.05


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
    """What is cut away or added, before it is laid on, None when nothing is."""
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

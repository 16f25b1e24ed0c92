"""A section through a finished piece at its lettering, with what its treatment measures.

The cut stands square on the area at its anchor and runs along v, so that what is engraved, raised or
pierced there is seen in profile, with the wall behind it.
"""

from __future__ import annotations

from collections.abc import Iterator

import manifold3d as m3
import numpy as np
import shapely

from kizami.as_made.treatment import CutOut, Engraved, InRecess, Raised, Treatment
from kizami.blanks.area import Area
from kizami.drawing.measured_views import Pointed, Span, View
from kizami.surfaces.protocol import FloatArray

__all__ = ["cutting_frame", "section_of", "section_view"]


def section_of(
    body: m3.Manifold, area: Area, *, at: tuple[float, float] | None = None
) -> shapely.MultiPolygon:
    """What the cut meets, in (v, height) mm with the area's own skin at height 0 and v = 0 at the cut.

    Parameters
    ----------
    at : (u, v) where the cut is made, or None for the area's anchor
    """
    frame = cutting_frame(area, at or area.anchor)
    turned = body.transform(np.ascontiguousarray(frame[:3]))
    contours = turned.slice(0.0).to_polygons()
    rings = [shapely.Polygon(c) for c in contours if len(c) >= 3]
    # Outer rings run one way, inner ones the other; together they are an even-odd area.
    area_of = shapely.MultiPolygon()
    for ring in sorted(rings, key=lambda r: -r.area):
        area_of = area_of.symmetric_difference(ring)
    parts = [p for p in shapely.get_parts(area_of) if isinstance(p, shapely.Polygon) and p.area > 0]
    return shapely.MultiPolygon(parts)


def cutting_frame(area: Area, at: tuple[float, float]) -> FloatArray:
    """The matrix that takes space to (v, height, u) at a point of the area."""
    # Along a level line, which on a taper is an arc about the apex.
    apex = area.surface.apex
    level = np.array([1.0, 0.0])
    if apex is not None:
        out = np.array([at[0] - apex.u_mm, at[1] - apex.v_mm])
        level = np.array([out[1], -out[0]]) / np.linalg.norm(out)
        level = level if level[0] > 0 else -level
    step = 1e-3
    uv = np.array([at, (at[0] + step * level[0], at[1] + step * level[1]), at])
    foot, right, head = area.surface.place(uv, np.array([0.0, 0.0, 1.0]))
    normal = (head - foot) / np.linalg.norm(head - foot)
    along = right - foot
    along = along - normal * float(along @ normal)
    along /= np.linalg.norm(along)
    up = np.cross(normal, along)
    rows = np.array([up, normal, along])
    matrix = np.eye(4)
    matrix[:3, :3] = rows
    matrix[:3, 3] = -rows @ foot
    return matrix


def section_view(
    body: m3.Manifold, area: Area, treatment: Treatment, *, at: tuple[float, float] | None = None
) -> View | None:
    """The section with what the treatment's measures are of, to be drawn; None where nothing is cut.

    Parameters
    ----------
    at : (u, v) within a letter
    """
    u, v = at or area.anchor
    cut = section_of(body, area, at=(u, v))
    if cut.is_empty:
        return None
    # A ring is cut twice; only the side that is lettered is drawn.
    deepest = -1.2 * area.through_mm
    shown = shapely.MultiPolygon([p for p in cut.geoms if p.bounds[3] > deepest]) or cut
    return View(
        title="at the lettering", shape=shown, measures=tuple(_measures(treatment, shown)), is_cut=True
    )


def _measures(treatment: Treatment, shown: shapely.MultiPolygon) -> Iterator[Span | Pointed]:
    """Heights against the skin of the area; the cut is made where v is 0, within a letter."""
    right = shown.bounds[2]
    match treatment:
        case Engraved():
            yield Span(key="depth_mm", start=(0.0, -treatment.depth_mm), end=(right, 0.0), side="right")
        case Raised():
            yield Span(key="height_mm", start=(right, 0.0), end=(0.0, treatment.height_mm), side="right")
            yield Span(key="root_mm", start=(0.0, -treatment.root_mm), end=(0.0, 0.0), side="left")
        case InRecess():
            floor = -treatment.depth_mm
            yield Span(key="depth_mm", start=(0.0, floor), end=(right, 0.0), side="right")
            yield Span(
                key="height_mm", start=(0.0, floor), end=(0.0, floor + treatment.height_mm), side="left"
            )
            yield Span(key="root_mm", start=(0.0, floor - treatment.root_mm), end=(0.0, floor), side="left")
        case CutOut():
            yield Span(key="thickness_mm", start=(0.0, 0.0), end=(0.0, treatment.thickness_mm), side="right")
        case _:
            pass

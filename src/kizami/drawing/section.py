"""A section through a finished piece at its lettering, with its dimensions.

The cut stands square on the area at its anchor and runs along v, so that what is engraved, raised or
pierced there is seen in profile, with the wall behind it.
"""

from __future__ import annotations

import manifold3d as m3
import numpy as np
import shapely

from kizami.blanks.area import Area
from kizami.drawing.paths import number, path_data
from kizami.drawing.unrolled import Drawing
from kizami.surfaces.protocol import FloatArray

__all__ = ["cutting_frame", "section_drawing", "section_of"]


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


def section_drawing(
    body: m3.Manifold,
    area: Area,
    *,
    at: tuple[float, float] | None = None,
    px: tuple[float, float] = (420, 300),
) -> Drawing:
    """The section nearest to the lettering, with overall dimensions along both sides.

    Parameters
    ----------
    px : the space on the screen that it is drawn for, from which the size of the figures follows
    """
    cut = section_of(body, area, at=at)
    if cut.is_empty:
        return Drawing(view_box=(0.0, 0.0, 1.0, 1.0), content="")
    # A ring is cut twice; only the side that is lettered is drawn.
    deepest = -1.2 * area.through_mm
    shown = shapely.MultiPolygon([p for p in cut.geoms if p.bounds[3] > deepest])
    if shown.is_empty:
        shown = cut
    low_v, low_h, high_v, high_h = shown.bounds
    width, height = high_v - low_v, high_h - low_h
    text = max((width + 1e-9) / (px[0] - 120.0), (height + 1e-9) / (px[1] - 80.0)) * 13.0
    gap = text * 0.9
    parts = [
        f'<path class="k-cut" fill-rule="evenodd" d="{path_data(shown, top_mm=high_h)}"/>',
        _across(low_v, high_v, height + gap, text),
        _upward(high_v + gap, 0.0, height, text),
    ]
    return Drawing(
        view_box=(low_v - text, -text, width + text * 7.0, height + gap + text * 3.0), content="".join(parts)
    )


def _across(start: float, end: float, y: float, text: float) -> str:
    tick, long = number(text * 0.7), number(y - text * 0.35)
    a, b = number(start), number(end)
    line = f"M{a} {number(y)}H{b}M{a} {long}v{tick}M{b} {long}v{tick}"
    return _dimension(line, (start + end) / 2, y + text * 1.3, text, end - start, anchor="middle")


def _upward(x: float, start: float, end: float, text: float) -> str:
    tick, long = number(text * 0.7), number(x - text * 0.35)
    a, b = number(start), number(end)
    line = f"M{number(x)} {a}V{b}M{long} {a}h{tick}M{long} {b}h{tick}"
    return _dimension(
        line, x + text * 0.7, (start + end) / 2 + text * 0.35, text, end - start, anchor="start"
    )


def _dimension(line: str, x: float, y: float, text: float, length_mm: float, *, anchor: str) -> str:
    return (
        f'<path class="k-rule" fill="none" d="{line}"/><text class="k-label" x="{number(x)}" y="{number(y)}" '
        f'font-size="{number(text)}" text-anchor="{anchor}">{length_mm:.2f} mm</text>'
    )

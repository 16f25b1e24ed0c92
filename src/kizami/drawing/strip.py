"""The strip: a line's lettering on its area, at the one scale that all strips share.

Only the band of the area that carries the lettering is shown at that scale, so that a list of tall tags
stays as dense as a list of rings and letter heights can be compared down it.
"""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from kizami.blanks.area import Area
from kizami.drawing.paths import number, path_data
from kizami.drawing.unrolled import Drawing
from kizami.lettering.layout import Layout

__all__ = ["strip_drawing", "strips_drawing"]

#: Half a screen pixel at the size that strips are shown.
_TOLERANCE_MM = 0.05
_MARGIN_MM = 0.4
#: Shown above and below the lettering where the area goes on, and the least that is shown.
_AROUND_MM = 1.2
_LEAST_MM = 7.0
#: A band that is so much of the area shows its shape by itself.
_NEARLY_WHOLE = 0.9
#: The whole area in front of a band: its height, what it may be wide, and the room behind it.
_WHOLE_MM = 10.0
_WIDEST_WHOLE_MM = 18.0
_BETWEEN_WHOLE_MM = 2.5
#: Between the strips of two areas.
_BETWEEN_MM = 0.8


def strip_drawing(area: Area, layout: Layout) -> Drawing:
    """Draw the area and its lettering with little detail; one unit is one mm.

    Where only a band of the area is shown, the whole of it stands small in front: a heart is told from a
    disc.
    """
    low_u, bottom, high_u, top = area.bounds
    low_v, high_v = _band(area, layout)
    first, last = _reach(area, layout)
    window = shapely.box(low_u - 1.0, low_v, high_u + 1.0, high_v)
    ticks = "".join(
        f"M{number(low_u + mm)} {number(high_v - low_v + 0.3)}v{number(1.1 if mm % 10 == 0 else 0.6)}"
        for mm in range(0, int(high_u - low_u) + 1, 5)
    )
    band = Drawing(
        view_box=(
            first - _MARGIN_MM,
            -_MARGIN_MM,
            last - first + 2 * _MARGIN_MM,
            high_v - low_v + 1.4 + _MARGIN_MM,
        ),
        content=f'{_parts(area, layout, window)}<path class="k-rule" fill="none" d="{ticks}"/>',
    )
    if high_v - low_v > _NEARLY_WHOLE * (top - bottom):
        return band
    return _with_the_whole(band, area, layout)


def _parts(
    area: Area, layout: Layout, window: shapely.Polygon, *, tolerance_mm: float = _TOLERANCE_MM
) -> str:
    """What lies in a window, its top at 0. Where the window cuts the area, no line pretends an end of it."""
    top_mm = window.bounds[3]

    def data(shape: shapely.Geometry) -> str:
        return path_data(
            shapely.simplify(shape, tolerance_mm).intersection(window), top_mm=top_mm, decimals=2
        )

    outline = shapely.simplify(area.outline, tolerance_mm)
    ends = shapely.line_merge(outline.boundary.intersection(window))
    border = "".join(
        "M" + "L".join(f"{number(x)} {number(top_mm - y)}" for x, y in shapely.get_coordinates(line))
        for line in shapely.get_parts(ends)
    )
    standing = "" if area.standing is None else f'<path class="k-standing" d="{data(area.standing)}"/>'
    letters = path_data(shapely.simplify(layout.outlines, tolerance_mm), top_mm=top_mm, decimals=2)
    return (
        f'<path class="k-area k-ground" d="{data(area.outline)}"/>'
        f'<path class="k-keep-out" d="{"".join(data(spot.outline) for spot in area.spots)}"/>'
        f'<path class="k-border" d="{border}"/>'
        f"{standing}"
        f'<path class="k-letters" d="{letters}"/>'
    )


def _with_the_whole(band: Drawing, area: Area, layout: Layout) -> Drawing:
    """A band with the whole area, small, in front of it."""
    _, bottom, _, top = area.bounds
    low_u, high_u = _reach(area, layout)
    left, band_top, width, height = band.view_box
    scale = min(_WHOLE_MM / (top - bottom), _WIDEST_WHOLE_MM / (high_u - low_u))
    window = shapely.box(area.bounds[0] - 1.0, bottom - 1.0, area.bounds[2] + 1.0, top + 1.0)
    whole = _parts(area, layout, window, tolerance_mm=_TOLERANCE_MM / scale)
    before = (high_u - low_u) * scale + _BETWEEN_WHOLE_MM
    tallest = max(height, _WHOLE_MM + 2 * _MARGIN_MM)
    # Both stand in the middle of the strip; the window's top lies 1 mm above the area's.
    across = (tallest - (top - bottom) * scale) / 2.0 - scale
    down = (tallest - height) / 2.0
    content = (
        f'<g transform="translate({number(-low_u * scale)} {number(across)}) scale({scale:.4f})">{whole}</g>'
        f'<g transform="translate({number(before - left)} {number(down - band_top)})">{band.content}</g>'
    )
    return Drawing(view_box=(-_MARGIN_MM, 0.0, before + width + _MARGIN_MM, tallest), content=content)


def strips_drawing(strips: Sequence[Drawing]) -> Drawing:
    """Strips of several areas one below the other, each with its left end at the left; one scale for all.

    >>> one = Drawing(view_box=(-0.4, -0.4, 10.8, 7.8), content="<path/>")
    >>> both = strips_drawing([one, one])
    >>> both.view_box, both.content.count("<path/>")
    ((-0.4, -0.4, 10.8, 16.4), 2)
    """
    if len(strips) == 1:
        return strips[0]
    left, top, _, height = strips[0].view_box
    parts, lower = [strips[0].content], top + height
    for strip in strips[1:]:
        low_u, low_v, _, high = strip.view_box
        parts.append(
            f'<g transform="translate({number(left - low_u)} {number(lower + _BETWEEN_MM - low_v)})">'
            f"{strip.content}</g>"
        )
        lower += _BETWEEN_MM + high
    widest = max(strip.view_box[2] for strip in strips)
    return Drawing(view_box=(left, top, widest, lower - top), content="".join(parts))


def _band(area: Area, layout: Layout) -> tuple[float, float]:
    """Lower and upper v of what is shown: the area, or its part around the lettering."""
    _, bottom, _, top = area.bounds
    ink_bottom, ink_top = (
        (area.anchor[1], area.anchor[1]) if layout.is_empty else (layout.ink_bounds[1], layout.ink_bounds[3])
    )
    middle = (ink_bottom + ink_top) / 2.0
    half = max((ink_top - ink_bottom) / 2.0 + _AROUND_MM, _LEAST_MM / 2.0)
    # What lies outside its room must be seen doing so.
    return min(max(bottom, middle - half), ink_bottom), max(min(top, middle + half), ink_top)


def _reach(area: Area, layout: Layout) -> tuple[float, float]:
    """First and last u of what is shown: the area, and lettering that goes beyond it."""
    low_u, _, high_u, _ = area.bounds
    if layout.is_empty:
        return low_u, high_u
    ink_low, _, ink_high, _ = layout.ink_bounds
    return min(low_u, ink_low), max(high_u, ink_high)

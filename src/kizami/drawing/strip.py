"""The strip: a line's lettering on its area, at the one scale that all strips share.

Only the band of the area that carries the lettering is shown, so that a list of tall tags stays
as dense as a list of rings and letter heights can be compared down it.
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
#: Between the strips of two areas.
_BETWEEN_MM = 0.8


def strip_drawing(area: Area, layout: Layout) -> Drawing:
    """Draw the area and its lettering with little detail; one unit is one mm."""
    low_u, _, high_u, _ = area.bounds
    low_v, high_v = _band(area, layout)
    window = shapely.box(low_u - 1.0, low_v, high_u + 1.0, high_v)
    outline = shapely.simplify(area.outline, _TOLERANCE_MM).intersection(window)
    letters = shapely.simplify(layout.outlines, _TOLERANCE_MM)
    spots = "".join(
        path_data(shapely.simplify(k.outline, _TOLERANCE_MM).intersection(window), top_mm=high_v, decimals=2)
        for k in area.spots
    )
    standing = ""
    if area.standing is not None:
        frame = shapely.simplify(area.standing, _TOLERANCE_MM).intersection(window)
        standing = f'<path class="k-standing" d="{path_data(frame, top_mm=high_v, decimals=2)}"/>'
    ticks = "".join(
        f"M{number(low_u + mm)} {number(high_v - low_v + 0.3)}v{number(1.1 if mm % 10 == 0 else 0.6)}"
        for mm in range(0, int(high_u - low_u) + 1, 5)
    )
    content = (
        f'<path class="k-area" d="{path_data(outline, top_mm=high_v, decimals=2)}"/>'
        f'<path class="k-keep-out" d="{spots}"/>'
        f"{standing}"
        f'<path class="k-letters" d="{path_data(letters, top_mm=high_v, decimals=2)}"/>'
        f'<path class="k-rule" fill="none" d="{ticks}"/>'
    )
    return Drawing(
        view_box=(
            low_u - _MARGIN_MM,
            -_MARGIN_MM,
            high_u - low_u + 2 * _MARGIN_MM,
            high_v - low_v + 1.4 + _MARGIN_MM,
        ),
        content=content,
    )


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
    return max(bottom, middle - half), min(top, middle + half)

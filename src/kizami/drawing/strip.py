"""The strip: a line's lettering on its area, small, at the one scale that all strips share."""

from __future__ import annotations

import shapely

from kizami.blanks.area import Area
from kizami.drawing.paths import number, path_data
from kizami.drawing.unrolled import Drawing
from kizami.lettering.layout import Layout

__all__ = ["strip_drawing"]

#: Half a screen pixel at the size that strips are shown.
_TOLERANCE_MM = 0.05
_MARGIN_MM = 0.4


def strip_drawing(area: Area, layout: Layout) -> Drawing:
    """Draw the area and its lettering with little detail; one unit is one mm."""
    low_u, low_v, high_u, high_v = area.outline.bounds
    outline = shapely.simplify(area.outline, _TOLERANCE_MM)
    letters = shapely.simplify(layout.outlines, _TOLERANCE_MM)
    spots = "".join(
        path_data(shapely.simplify(k.outline, _TOLERANCE_MM), top_mm=high_v, decimals=2)
        for k in area.keep_outs
    )
    ticks = "".join(
        f"M{number(low_u + mm)} {number(high_v - low_v)}v{number(1.2 if mm % 10 == 0 else 0.7)}"
        for mm in range(0, int(high_u - low_u) + 1, 5)
    )
    content = (
        f'<path class="k-area" d="{path_data(outline, top_mm=high_v, decimals=2)}"/>'
        f'<path class="k-keep-out" d="{spots}"/>'
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

"""The unrolled views of a piece's areas on a page, all at one scale."""

from __future__ import annotations

from dataclasses import dataclass

from kizami.blanks.area import Area
from kizami.blanks.grid import area_grid
from kizami.drawing.unrolled import Drawing, unrolled_drawing
from kizami.lettering.layout import Layout
from kizami.pieces.laying_out import LaidOut

__all__ = ["UnrolledArea", "unrolled_areas"]

#: Height of figures and labels.
_FIGURE_PX = 13.0
#: What rule and labels take above and below an area.
_AROUND_PX = 76.0
#: The same where nothing is pointed at.
_RULE_PX = 44.0
#: What margins and the gap to the next one take beside an area.
_BESIDE_PX = 56.0


@dataclass(frozen=True, kw_only=True, slots=True)
class UnrolledArea:
    """One area as it is drawn.

    Attributes
    ----------
    width_px, height_px : of the drawing on the page
    is_further : not the area of the wording itself
    """

    area: Area
    layout: Layout
    drawing: Drawing
    width_px: int
    height_px: int
    is_further: bool


def unrolled_areas(
    laid_out: LaidOut, *, width_px: float, height_px: float, with_grid: bool = False, with_spots: bool = True
) -> list[UnrolledArea]:
    """Every lettered area, the wording's own first.

    Parameters
    ----------
    width_px, height_px : room for all of them; what is narrow enough stands side by side
    with_spots : what was measured is pointed at
    """
    parts = laid_out.every_area
    boxes = [part.area.bounds for part in parts]
    widths, heights = [b[2] - b[0] for b in boxes], [b[3] - b[1] for b in boxes]
    around_px = _AROUND_PX if with_spots else _RULE_PX
    room_px = max(height_px - around_px, 60.0)
    stacked = min(width_px / max(widths), max(room_px - around_px * (len(parts) - 1), 120.0) / sum(heights))
    beside = min((width_px - _BESIDE_PX * len(parts)) / sum(widths), room_px / max(heights))
    scale = max(stacked, beside) if len(parts) > 1 else min(width_px / widths[0], room_px / heights[0])
    out = []
    for part in parts:
        drawing = unrolled_drawing(
            part.area,
            part.layout,
            part.findings_here(laid_out.findings) if with_spots else (),
            text_mm=_FIGURE_PX / scale,
            grid=area_grid(part.area).flat if with_grid else (),
        )
        _, _, width_mm, height_mm = drawing.view_box
        out.append(
            UnrolledArea(
                area=part.area, layout=part.layout, drawing=drawing, is_further=part is not laid_out,
                width_px=round(width_mm * scale), height_px=round(height_mm * scale),
            )
        )  # fmt: skip
    return out

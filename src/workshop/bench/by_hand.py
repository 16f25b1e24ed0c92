"""Lettering that is taken hold of: what a page needs for that, and what is drawn where it is put."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import shapely

from kizami.as_made.treatment import CutOut
from kizami.blanks.area import Area
from kizami.drawing.paths import path_data
from kizami.lettering.fit_plan import HEIGHT_STEP_MM
from kizami.lettering.layout import Layout
from kizami.lettering.level import Level
from kizami.lettering.round_about import OneTurn, Spread
from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import LaidOut, drawn_layouts, part_on
from workshop.drawing.unrolled import UnrolledArea, unrolled_areas

__all__ = ["Hand", "areas_at_hand", "drawn_by_hand"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Hand:
    """What may be done with lettering by hand, and where it settles.

    Attributes
    ----------
    ink : box round it, “u low, v low, u high, v high”, mm
    room : box of what keeps clear of edges and keep-outs
    top : v of the drawing's upper edge, mm
    along, across, turned, height : as it is set now
    heights : cap heights on which it settles
    moves, turns : whether it may be moved and turned
    further : the name of the further area that it is on; "" on the wording's own
    """

    ink: str
    room: str
    top: float
    along: float
    across: float
    turned: float
    height: float
    heights: str
    moves: bool
    turns: bool
    further: str = ""


def areas_at_hand(
    laid_out: LaidOut, *, heights: list[float], width_px: float, height_px: float
) -> list[tuple[UnrolledArea, Hand | None]]:
    """Every lettered area, the wording's own first; without a hand where there is nothing to take hold of.

    Parameters
    ----------
    heights : of the others of its set
    width_px, height_px : room for all of them
    """
    own, *others = unrolled_areas(laid_out, width_px=width_px, height_px=height_px)
    further = (_hand_of(one, heights=[], further=one.area.name) for one in laid_out.others)
    return [(own, _hand_of(laid_out, heights=heights)), *zip(others, further, strict=True)]


def _hand_of(laid_out: LaidOut, *, heights: list[float], further: str = "") -> Hand | None:
    layout, area, product = laid_out.layout, laid_out.area, laid_out.inputs.product
    if layout.is_empty:
        return None
    arrangement, plan = product.arrangement, product.plan
    settle = {*heights, plan.lowest_height_mm, plan.greatest_height_mm}
    moves = not isinstance(product.treatment, CutOut)
    goes_round = isinstance(arrangement.turn, Spread) and area.is_closed
    return Hand(
        ink=_box(layout.ink_bounds),
        room=_box(_room(area, plan.clearance_mm)),
        top=area.bounds[3],
        along=arrangement.along_mm,
        across=arrangement.across_mm,
        turned=arrangement.turned_deg,
        height=layout.height_mm,
        heights=" ".join(f"{height:g}" for height in sorted(settle)),
        moves=moves,
        turns=moves and not goes_round and Level.of(area) is None and isinstance(arrangement.turn, OneTurn),
        further=further,
    )


def _room(area: Area, clearance_mm: float) -> tuple[float, float, float, float]:
    region = area.clear_region(clearance_mm)
    low_u, low_v, high_u, high_v = area.bounds if region.is_empty else region.bounds
    return low_u, low_v, high_u, high_v


def _box(bounds: tuple[float, float, float, float]) -> str:
    return " ".join(f"{value:.4f}" for value in bounds)


def drawn_by_hand(inputs: Inputs, further: str = "") -> dict[str, Any]:
    """Lettering as its fit plan draws it where it is put, with its distance to what is nearest.

    Nothing is made sound or checked: that follows when it is let go.

    Parameters
    ----------
    further : the name of the further area that is meant; the wording's own where there is none of this name
    """
    as_set = part_on(inputs, further)
    layout = _first_that_fits(as_set)
    if layout is None or layout.is_empty:
        return {"path": "", "said": "Nothing is set"}
    area = as_set.product.area_of(as_set.product.blank_for(as_set.size))
    gap = _gap_mm(area, layout)
    height = layout.height_mm
    where = f"{gap:.2f} mm to the nearest edge" if gap >= 0.0 else f"{-gap:.2f} mm over the edge"
    asked = as_set.product.plan.greatest_height_mm
    lowered = ", lowered to keep clear" if height < asked - HEIGHT_STEP_MM / 2.0 else ""
    return {
        "path": path_data(layout.outlines, top_mm=area.bounds[3]),
        "ink": [round(value, 4) for value in layout.ink_bounds],
        "height": height,
        "holds": layout.fits and height >= layout.lowest_height_mm - 1e-6 and gap >= 0.0,
        "said": f"{height:.2f} mm high{lowered}, {where}",
    }


def _first_that_fits(as_set: Inputs) -> Layout | None:
    first: Layout | None = None
    for layout in drawn_layouts(as_set):
        if layout.fits and layout.height_mm >= layout.lowest_height_mm - 1e-6:
            return layout
        first = first or layout
    return first


def _gap_mm(area: Area, layout: Layout) -> float:
    """Distance of lettering to the edge of its area and to keep-outs, unrolled; below 0 beyond it."""
    outlines = layout.outlines
    free = area.clear_region(0.0)
    if free.is_empty:
        return 0.0
    if shapely.covers(free, outlines):
        return float(shapely.distance(shapely.boundary(free), outlines))
    points = shapely.points(shapely.get_coordinates(outlines))
    return -float(shapely.distance(free, points).max())

"""The fit plan: the largest lettering that keeps its clearance, found on the real outlines."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import shapely

from kizami.blanks.area import Area
from kizami.lettering.layout import FitStep, Layout, PlacedGlyph
from kizami.lettering.outlines import FloatArray
from kizami.lettering.typeface import ShapedGlyph, Typeface, join_shapes, missing_characters

__all__ = ["HEIGHT_STEP_MM", "FitPlan", "fit_wording"]

#: The steps a bench would use, so that near-equal pieces come out equal.
HEIGHT_STEP_MM = 0.05
#: The search goes on below the lowest allowed height, to be able to say what would fit.
SMALLEST_TRIED_MM = 0.5


@dataclass(frozen=True, kw_only=True, slots=True)
class FitPlan:
    """What may be tried to make wording fit, with bounds.

    Attributes
    ----------
    greatest_height_mm : cap height to start from
    lowest_height_mm : a piece that needs less is held for a person
    clearance_mm : wanted distance from edges and keep-outs
    tracking : added between letters, as a share of the cap height
    """

    greatest_height_mm: float
    lowest_height_mm: float
    clearance_mm: float
    tracking: float = 0.0


def fit_wording(text: str, *, typeface: Typeface, area: Area, plan: FitPlan, sagitta_mm: float) -> Layout:
    """Set wording as large as the plan and the area allow, its ink centred both ways on the anchor.

    The cap height is a multiple of 0.05 mm. Feasibility of a height is tested on the flattened
    outlines themselves against the area less its clearance, so an ascender may pass beside a
    hole that its box would touch.

    Parameters
    ----------
    text : cleaned wording
    sagitta_mm : chord tolerance of the outlines at the height they are made

    Returns
    -------
    Layout; `fits` is False when the clearance is not kept even at 0.5 mm
    """
    run = typeface.shape(text, tracking_upem=plan.tracking * typeface.cap_height_upem)
    missing = missing_characters(run)
    cap = typeface.cap_height_upem
    # Outlines as fine as the greatest height asks: valid for every height that is tried.
    shapes = _shapes(run, typeface, sagitta_mm * cap / plan.greatest_height_mm)
    unit = join_shapes(shapes)
    if unit.is_empty:
        return _empty(text, plan, missing)
    coordinates = shapely.get_coordinates(unit)
    low, high = coordinates.min(axis=0), coordinates.max(axis=0)
    centre = (low + high) / 2.0
    anchor = np.array(area.anchor)
    region = area.clear_region(plan.clearance_mm)

    def fits(step: int) -> bool:
        scale = step * HEIGHT_STEP_MM / cap
        placed = shapely.transform(unit, lambda xy: (xy - centre) * scale + anchor)
        return bool(shapely.covers(region, placed))

    top = _step_at_most(plan.greatest_height_mm)
    bound = min(top, _box_bound(region, anchor, (high - low) / 2.0 / cap))
    step = _largest(fits, _step_at_most(SMALLEST_TRIED_MM), bound)
    found = step is not None
    height = (step if step is not None else _step_at_most(SMALLEST_TRIED_MM)) * HEIGHT_STEP_MM
    height = round(height, 2)
    scale = height / cap
    offset = anchor - centre * scale
    steps = [
        FitStep(
            name="natural size",
            said=f"tried at the greatest height, {plan.greatest_height_mm:.2f} mm",
            height_mm=plan.greatest_height_mm,
        )
    ]
    if height < top * HEIGHT_STEP_MM - 1e-9:
        said = f"lowered to {height:.2f} mm to keep {plan.clearance_mm:.2f} mm clear"
        steps.append(FitStep(name="lower the height", said=said, height_mm=height))
    if not found or height < plan.lowest_height_mm - 1e-9:
        said = f"below the lowest allowed height, {plan.lowest_height_mm:.2f} mm: held for a person"
        steps.append(FitStep(name="hold", said=said, height_mm=height))
    return _place(
        text=text,
        run=run,
        typeface=typeface,
        scale=scale,
        offset=offset,
        height=height,
        sagitta_mm=sagitta_mm,
        steps=tuple(steps),
        fits=found,
        missing=missing,
    )


def _shapes(
    run: tuple[ShapedGlyph, ...], typeface: Typeface, sagitta_upem: float
) -> list[shapely.MultiPolygon]:
    shapes = []
    for g in run:
        outline = typeface.outline(g.glyph, sagitta_upem=sagitta_upem).polygons
        empty = g.glyph == 0 or outline.is_empty
        shift = np.array([g.x, g.y])
        shapes.append(
            shapely.MultiPolygon() if empty else shapely.transform(outline, lambda xy, s=shift: xy + s)
        )
    return shapes


def _place(
    *,
    text: str,
    run: tuple[ShapedGlyph, ...],
    typeface: Typeface,
    scale: float,
    offset: np.ndarray,
    height: float,
    sagitta_mm: float,
    steps: tuple[FitStep, ...],
    fits: bool,
    missing: tuple[int, ...],
) -> Layout:
    placed: list[PlacedGlyph] = []
    shapes: list[shapely.MultiPolygon] = []
    contours: list[FloatArray] = []
    for g in run:
        origin = np.array([g.x, g.y]) * scale + offset
        placed.append(
            PlacedGlyph(glyph=g.glyph, cluster=g.cluster, u_mm=float(origin[0]), v_mm=float(origin[1]))
        )
        outline = typeface.outline(g.glyph, sagitta_upem=sagitta_mm / scale)
        if g.glyph == 0 or outline.polygons.is_empty:
            shapes.append(shapely.MultiPolygon())
            continue
        shapes.append(shapely.transform(outline.polygons, lambda xy, o=origin: xy * scale + o))
        contours.extend(contour * scale + origin for contour in outline.contours)
    return Layout(
        text=text,
        height_mm=height,
        scale_mm=scale,
        glyphs=tuple(placed),
        shapes=tuple(shapes),
        outlines=join_shapes(shapes),
        contours=tuple(contours),
        steps=steps,
        fits=fits,
        missing=missing,
    )


def _empty(text: str, plan: FitPlan, missing: tuple[int, ...]) -> Layout:
    said = "nothing to set" if not missing else "the typeface has none of the characters"
    return Layout(
        text=text,
        height_mm=0.0,
        scale_mm=0.0,
        glyphs=(),
        shapes=(),
        outlines=shapely.MultiPolygon(),
        contours=(),
        steps=(FitStep(name="hold", said=f"{said}: held for a person", height_mm=0.0),),
        fits=False,
        missing=missing,
    )


def _step_at_most(height_mm: float) -> int:
    return math.floor(height_mm / HEIGHT_STEP_MM + 1e-9)


def _box_bound(region: shapely.Geometry, anchor: np.ndarray, half_box: np.ndarray) -> int:
    """A bound on the height from the boxes alone: it saves tests, it never decides."""
    if region.is_empty:
        return 0
    low_u, low_v, high_u, high_v = region.bounds
    room = np.minimum(anchor - (low_u, low_v), (high_u, high_v) - anchor)
    heights = np.divide(room, half_box, out=np.full(2, np.inf), where=half_box > 0)
    return _step_at_most(max(0.0, float(min(heights.min(), 1e6))))


def _largest(fits: Callable[[int], bool], low: int, high: int) -> int | None:
    """Largest step from `low` to `high` that fits; the top first, as it usually does."""
    if high < low or not fits(low):
        return None
    if fits(high):
        return high
    while high - low > 1:
        middle = (low + high) // 2
        if fits(middle):
            low = middle
        else:
            high = middle
    return low

"""Strokes too thin for the process."""

from __future__ import annotations

from kizami.checks.finding import Finding, Level, Sense, Spot, judge
from kizami.checks.registry import FlatCase, flat_check

__all__ = ["stroke_width"]


@flat_check("stroke-width")
def stroke_width(case: FlatCase) -> Finding | None:
    """Thinnest stroke of any letter against the process.

    Strokes scale with the height, so each glyph of a typeface is measured once and for all.
    """
    layout, limits = case.layout, case.process.limits
    limit = limits.engraved_stroke_mm if case.treatment.kind == "engraved" else limits.raised_stroke_mm
    least: tuple[float, Spot] | None = None
    for placed, shape in zip(layout.glyphs, layout.shapes, strict=True):
        narrow = case.typeface.facts(placed.glyph).stroke if not shape.is_empty else None
        if narrow is None:
            continue
        width = narrow.width * layout.scale_mm
        if least is None or width < least[0]:
            spot = Spot(
                u_mm=placed.u_mm + narrow.x * layout.scale_mm,
                v_mm=placed.v_mm + narrow.y * layout.scale_mm,
                cluster=placed.cluster,
            )
            least = (width, spot)
    if least is None:
        return None
    width, spot = least
    level = judge(width, limit, Sense.AT_LEAST)
    letter = layout.text[spot.cluster] if spot.cluster is not None else ""
    needed = layout.height_mm * limit / width
    return Finding(
        code="stroke-width",
        title="Thinnest stroke",
        level=level,
        measured=width,
        limit=limit,
        unit="mm",
        sense=Sense.AT_LEAST,
        message=f"The thinnest stroke, in “{letter}”, is {width:.2f} mm; "
        f"{case.process.name} holds {limit:.2f} mm.",
        hint=f"At {needed:.2f} mm high it would hold; make the wording shorter or choose a bolder face."
        if level is Level.FAILS
        else "",
        spot=spot,
    )

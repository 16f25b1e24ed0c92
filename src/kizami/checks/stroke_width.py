"""Strokes too thin for the process."""

from __future__ import annotations

from kizami.checks.finding import Finding, Level, Sense, Spot, judge, said
from kizami.checks.registry import FlatCase, flat_check

__all__ = ["stroke_width"]


@flat_check("stroke-width")
def stroke_width(case: FlatCase) -> Finding | None:
    """Thinnest stroke of any letter against the process.

    Strokes scale with the height, so a glyph that is only scaled is measured once for its typeface.
    """
    layout, limits = case.layout, case.process.limits
    limit = limits.stroke_mm(sunk=case.treatment.sinks)
    strokes = [
        (facts.stroke, mark.cluster)
        for mark, facts in zip(layout.marks, layout.narrow, strict=True)
        if facts.stroke is not None
    ]
    if not strokes:
        return None
    narrow, cluster = min(strokes, key=lambda s: s[0].width)
    width, spot = narrow.width, Spot(u_mm=narrow.x, v_mm=narrow.y, cluster=cluster)
    level = judge(width, limit, Sense.AT_LEAST)
    letter = layout.letter(cluster)
    needed = layout.height_mm * limit / width
    return Finding(
        code="stroke-width",
        title="Thinnest stroke",
        level=level,
        measured=width,
        limit=limit,
        unit="mm",
        sense=Sense.AT_LEAST,
        message=f"The thinnest stroke, in “{letter}”, is {said(width, limit)} mm; "
        f"{case.process.name} holds {limit:.2f} mm.",
        hint=f"At {needed:.2f} mm high it would hold; make the wording shorter or choose a bolder face."
        if level is Level.FAILS
        else "",
        spot=spot,
    )

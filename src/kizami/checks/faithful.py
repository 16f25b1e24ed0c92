"""Thickened lettering that is no longer the same lettering, or that has closed up."""

from __future__ import annotations

from kizami.checks.finding import Finding, Level, Sense, judge, said
from kizami.checks.registry import FlatCase, flat_check

__all__ = ["departure", "openings_kept"]


@flat_check("departure")
def departure(case: FlatCase) -> Finding | None:
    """How far thickening moved an outline from the drawn one; none where nothing was thickened."""
    measured = case.layout.departure_mm
    if measured <= 0:
        return None
    limit = case.soundness.most_departure_mm
    level = judge(measured, limit, Sense.AT_MOST)
    return Finding(
        code="departure",
        title="Departure from the drawn letter",
        level=level,
        measured=measured,
        limit=limit,
        unit="mm",
        sense=Sense.AT_MOST,
        message=f"Thickening moves an outline by {said(measured, limit)} mm; "
        f"beyond {limit:.2f} mm it is another letter.",
        hint="Set it higher, or choose a bolder typeface." if level is Level.FAILS else "",
    )


@flat_check("openings-kept")
def openings_kept(case: FlatCase) -> Finding | None:
    """Closed middles and gaps between letters that thickening has closed; none may be."""
    if case.layout.departure_mm <= 0:
        return None
    closed = case.layout.closed
    return Finding(
        code="openings-kept",
        title="Openings closed",
        level=Level.FAILS if closed else Level.PASSES,
        measured=float(closed),
        limit=0.0,
        unit="",
        sense=Sense.AT_MOST,
        message=f"Thickening closes {closed} openings within letters or between them."
        if closed
        else "Thickening closes no opening.",
        hint="Set it higher or wider apart, or choose a bolder typeface." if closed else "",
    )

"""Lettering that had to be set lower than the product allows."""

from __future__ import annotations

from kizami.checks.finding import Finding, Level, Sense, judge, said
from kizami.checks.registry import FlatCase, flat_check

__all__ = ["lowest_height"]


@flat_check("lowest-height")
def lowest_height(case: FlatCase) -> Finding | None:
    """The cap height that fitted against the lowest that the product allows."""
    if case.layout.is_empty:
        return None
    height, limit = case.layout.height_mm, case.layout.lowest_height_mm
    level = judge(height, limit, Sense.AT_LEAST)
    return Finding(
        code="lowest-height",
        title="Lettering height",
        level=level,
        measured=height,
        limit=limit,
        unit="mm",
        sense=Sense.AT_LEAST,
        message=f"The largest height that fits is {said(height, limit)} mm; "
        f"the product allows no less than {limit:.2f} mm.",
        hint="Shorten the wording, or ask the customer for a shorter form." if level is Level.FAILS else "",
    )

"""Lettering too shallow to show after the process."""

from __future__ import annotations

from kizami.checks.finding import Finding, Level, Sense, judge, said
from kizami.checks.registry import FlatCase, flat_check
from kizami.solids.treatment import CutOut, Pierced, Scored

__all__ = ["lettering_depth"]


@flat_check("lettering-depth")
def lettering_depth(case: FlatCase) -> Finding | None:
    """Depth of engraving, or height of raising, against what the process still shows."""
    treatment = case.treatment
    if isinstance(treatment, Pierced | Scored | CutOut):
        return None
    engraved = treatment.sinks
    low, high = treatment.layer
    depth, limits = high - low, case.process.limits
    limit = limits.engraved_depth_mm if engraved else limits.raised_height_mm
    level = judge(depth, limit, Sense.AT_LEAST)
    what = "engraved" if engraved else "raised"
    return Finding(
        code="lettering-depth",
        title="Depth" if engraved else "Raised by",
        level=level,
        measured=depth,
        limit=limit,
        unit="mm",
        sense=Sense.AT_LEAST,
        message=f"The lettering is {what} {said(depth, limit)} mm; "
        f"less than {limit:.2f} mm is lost in finishing.",
        hint=f"Make it {limit:.2f} mm or more." if level is Level.FAILS else "",
    )

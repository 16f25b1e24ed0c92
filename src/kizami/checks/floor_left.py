"""Too little material left under the lettering; a pocket deeper than the body is thick."""

from __future__ import annotations

from kizami.checks.finding import Finding, Level, Sense, judge
from kizami.checks.registry import FlatCase, flat_check
from kizami.solids.treatment import CutOut, Pierced, Raised, Scored

__all__ = ["floor_left"]


@flat_check("floor-left")
def floor_left(case: FlatCase) -> Finding | None:
    """Wall under the area less the depth of engraving; for raised lettering less its root."""
    treatment = case.treatment
    if isinstance(treatment, Pierced | Scored | CutOut):
        return None
    reach = treatment.floor_below_mm
    wall = case.area.wall_mm
    engraved = not isinstance(treatment, Raised)
    left = wall - reach
    # A root is filled again with the same metal: it only must not come out at the back.
    limit = case.process.limits.floor_mm if engraved else 0.0
    level = judge(left, limit, Sense.AT_LEAST)
    what = "engraving" if engraved else "root"
    return Finding(
        code="floor-left",
        title="Floor left" if engraved else "Wall behind the root",
        level=level,
        measured=left,
        limit=limit,
        unit="mm",
        sense=Sense.AT_LEAST,
        message=f"A {what} {reach:.2f} mm deep in a wall of {wall:.2f} mm leaves {left:.2f} mm; "
        f"{limit:.2f} mm must be left.",
        hint=f"Make it at most {max(0.0, wall - limit):.2f} mm deep; was the depth typed in the wrong unit?"
        if level is Level.FAILS
        else "",
    )

"""Too little material left under the lettering; a pocket deeper than the body is thick."""

from __future__ import annotations

from kizami.checks.finding import Finding, Level, Sense, judge, said
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
    engraved = not isinstance(treatment, Raised)
    # Lettering on both sides of a wall may meet back to back.
    wall = case.area.wall_mm - (case.behind_mm if engraved else 0.0)
    left = wall - reach
    # A root is filled again with the same metal: it only must not come out at the back.
    limit = case.process.limits.floor_mm if engraved else 0.0
    level = judge(left, limit, Sense.AT_LEAST)
    what = "An engraving" if engraved else "A root"
    behind = f", cut {case.behind_mm:.2f} mm deep from its other side," if wall < case.area.wall_mm else ""
    return Finding(
        code="floor-left",
        title="Floor left" if engraved else "Wall behind the root",
        level=level,
        measured=left,
        limit=limit,
        unit="mm",
        sense=Sense.AT_LEAST,
        message=f"{what} {reach:.2f} mm deep in a wall of {case.area.wall_mm:.2f} mm{behind} "
        f"leaves {said(left, limit)} mm; {limit:.2f} mm must be left.",
        hint=f"Make it at most {max(0.0, wall - limit):.2f} mm deep; was the depth typed in the wrong unit?"
        if level is Level.FAILS
        else "",
    )

"""Parts of lettering that nothing holds, where the lettering must be one piece."""

from __future__ import annotations

from kizami.checks.finding import Finding, Level, Sense, Spot
from kizami.checks.registry import FlatCase, flat_check
from kizami.outlines.curves import bodies_of
from kizami.outlines.joining import loose_parts

__all__ = ["parts_loose"]


@flat_check("loose-parts")
def parts_loose(case: FlatCase) -> Finding | None:
    """Parts that are not attached to the largest one, after tying; none may be left."""
    standing = case.area.standing
    if case.layout.is_empty or (case.soundness.one_piece == "no" and standing is None):
        return None
    # Letters in a frame are held by it.
    whole = case.layout.outlines if standing is None else bodies_of(case.layout.outlines, standing)
    loose = loose_parts(whole)
    first = loose[0].centroid if loose else None
    return Finding(
        code="loose-parts",
        title="Loose parts",
        level=Level.FAILS if loose else Level.PASSES,
        measured=float(len(loose)),
        limit=0.0,
        unit="",
        sense=Sense.AT_MOST,
        message=f"{len(loose)} parts are attached to nothing; before tying there were "
        f"{case.layout.loose_before}.",
        hint="Choose wider bridges, or a base bar." if loose else "",
        spot=Spot(u_mm=first.x, v_mm=first.y) if first is not None else None,
    )

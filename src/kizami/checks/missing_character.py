"""Characters that the typeface lacks, and wording with nothing in it."""

from __future__ import annotations

from kizami.checks.finding import Finding, Level, Sense, Spot
from kizami.checks.registry import FlatCase, flat_check
from kizami.lettering.shipped import typefaces_with

__all__ = ["missing_character", "wording_present"]


@flat_check("missing-character")
def missing_character(case: FlatCase) -> Finding | None:
    """Characters that shaping could not find a glyph for; none may be missing."""
    lacking = [case.layout.text[i] for i in case.layout.missing]
    level = Level.FAILS if lacking else Level.PASSES
    named = ", ".join(f"“{c}”" for c in dict.fromkeys(lacking[:8]))
    first = next((g for g in case.layout.marks if g.cluster in case.layout.missing), None)
    return Finding(
        code="missing-character",
        title="Missing characters",
        level=level,
        measured=float(len(lacking)),
        limit=0.0,
        unit="",
        sense=Sense.AT_MOST,
        message=f"{case.typeface.name} has no {named}."
        if lacking
        else f"{case.typeface.name} has every character.",
        hint=_offer(case.layout.text) if lacking else "",
        spot=Spot(u_mm=first.u_mm, v_mm=first.v_mm, cluster=first.cluster) if first else None,
    )


def _offer(text: str) -> str:
    names = typefaces_with(text)
    if not names:
        return "No typeface has it; take the character out or write it another way."
    return f"Choose {' or '.join(names[:3])}, or write it another way."


@flat_check("wording-present")
def wording_present(case: FlatCase) -> Finding | None:
    """At least one letter must be there to make."""
    count = sum(1 for shape in case.layout.shapes if not shape.is_empty)
    level = Level.PASSES if count else Level.FAILS
    return Finding(
        code="wording-present",
        title="Letters",
        level=level,
        measured=float(count),
        limit=1.0,
        unit="",
        sense=Sense.AT_LEAST,
        message=f"{count} letters are set." if count else "There is nothing to set.",
        hint="" if count else "Write the wording for this line.",
    )

"""Wording with an open question: a date with two readings, a text that gives no initials."""

from __future__ import annotations

from kizami.checks.finding import Finding, Level, Sense
from kizami.checks.registry import FlatCase, flat_check

__all__ = ["wording_settled"]


@flat_check("wording-settled")
def wording_settled(case: FlatCase) -> Finding | None:
    """Open questions about the words; only a person can answer them."""
    if not case.open_question:
        return None
    return Finding(
        code="wording-settled",
        title="Open questions",
        level=Level.FAILS,
        measured=1.0,
        limit=0.0,
        unit="",
        sense=Sense.AT_MOST,
        message=case.open_question,
        hint="Write the wording as it is meant.",
    )

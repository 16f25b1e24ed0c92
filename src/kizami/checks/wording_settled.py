"""Wording with an open question: a date with two readings, a text that gives no initials."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import FlatCase, finding
from kizami.checks.finding import Finding

__all__ = ["wording_settled"]


def wording_settled(case: FlatCase) -> Iterator[Finding]:
    """Open questions about the words; only a person can answer them."""
    if case.open_question:
        yield finding("wording-settled", 1.0, 0.0, question=case.open_question)

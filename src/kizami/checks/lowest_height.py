"""Lettering that had to be set lower than the product allows."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import FlatCase, finding
from kizami.checks.finding import Finding

__all__ = ["lowest_height"]


def lowest_height(case: FlatCase) -> Iterator[Finding]:
    """The cap height against the lowest that the product allows, whatever the bench has set."""
    if not case.layout.is_empty:
        yield finding("lowest-height", case.layout.height_mm, case.least_height_mm)

"""Thickened lettering that is no longer the same lettering, or that has closed up."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import FlatCase, finding
from kizami.checks.finding import Finding

__all__ = ["departure", "openings_kept"]


def departure(case: FlatCase) -> Iterator[Finding]:
    """How far thickening moved an outline from the drawn one; none where nothing was thickened."""
    if case.layout.departure_mm > 0:
        yield finding("departure", case.layout.departure_mm, case.soundness.most_departure_mm)


def openings_kept(case: FlatCase) -> Iterator[Finding]:
    """Closed middles and gaps between letters that thickening has closed; none may be."""
    if case.layout.departure_mm > 0:
        yield finding("openings-kept", float(case.layout.closed), 0.0)

"""Lettering that found no room."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import FlatCase, finding
from kizami.checks.finding import Finding

__all__ = ["fits_area"]


def fits_area(case: FlatCase) -> Iterator[Finding]:
    """How far lettering reaches beyond the room that its product gives it; stated only when it does."""
    layout = case.layout
    if not layout.is_empty and not layout.fits:
        yield finding("fits-area", max(layout.beyond_mm, 0.01), 0.0, said=layout.beyond_said)

"""Softened edges and slanted walls that do not go onto the strokes: nothing is made smaller in silence."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import FlatCase, finding
from kizami.checks.finding import Finding

__all__ = ["draft_made", "edge_made"]


def edge_made(case: FlatCase) -> Iterator[Finding]:
    """Width of the softened edge that the thinnest stroke takes, against what the product asks for."""
    made = case.made
    if not made.outlines.is_empty and made.asked_edge_mm:
        yield finding("edge-made", made.made_edge_mm, made.asked_edge_mm)


def draft_made(case: FlatCase) -> Iterator[Finding]:
    """Slope of the walls that the thinnest stroke takes, against what the product asks for."""
    made = case.made
    if not made.outlines.is_empty and made.asked_draft_deg:
        yield finding("draft-made", made.made_draft_deg, made.asked_draft_deg)

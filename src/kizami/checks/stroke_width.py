"""Strokes too thin for the process."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import FlatCase, told_of_fine
from kizami.checks.finding import Finding

__all__ = ["stroke_width"]


def stroke_width(case: FlatCase) -> Iterator[Finding]:
    """Thinnest stroke of any part, at the narrower of face and floor or top, against the process."""
    limit = case.limits.of("stroke-width", sunk=case.treatment.sinks)
    return told_of_fine(
        "stroke-width",
        case,
        case.fineness.strokes,
        limit,
        height_mm=case.layout.height_mm,
        greatest_mm=case.greatest_height_mm,
    )

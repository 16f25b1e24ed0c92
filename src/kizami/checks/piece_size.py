"""Pieces larger than the process can take."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import finding
from kizami.checks.finding import Finding
from kizami.checks.solid_case import SolidCase

__all__ = ["piece_size"]


def piece_size(case: SolidCase) -> Iterator[Finding]:
    """The side of the finished piece that comes nearest to its limit, both sorted: pieces may be turned."""
    process = case.flats[0].process
    sides, room = sorted(case.solid.size_mm), sorted(process.limits.size_mm)
    side, limit = max(zip(sides, room, strict=True), key=lambda pair: pair[0] / pair[1])
    # Single precision makes a side longer by less than this.
    yield finding(
        "piece-size", side if side > limit + 1e-3 else min(side, limit), limit, process=process.name
    )

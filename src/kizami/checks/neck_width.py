"""Necks where parts meet that must hold each other."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import FlatCase, told_of_fine
from kizami.checks.finding import Finding

__all__ = ["neck_width"]


def neck_width(case: FlatCase) -> Iterator[Finding]:
    """Thinnest place where letters join each other, a bridge, a loop or a frame; none where they need not."""
    return told_of_fine("neck-width", case, case.fineness.necks, case.limits.of("neck-width"))

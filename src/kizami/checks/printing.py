"""What would be printed into the air."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import finding
from kizami.checks.finding import Finding
from kizami.checks.solid_case import SolidCase
from kizami.solids.printing import fewest_islands

__all__ = ["islands"]


def islands(case: SolidCase) -> Iterator[Finding]:
    """Places that begin with nothing under them, lying as few of them as there can be; for processes that
    print without supports."""
    limit = case.limits.get("islands")
    if limit is not None:
        yield finding("islands", float(fewest_islands(case.measured)), limit)

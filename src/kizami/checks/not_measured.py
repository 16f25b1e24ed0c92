"""Parts of which nothing is known, which is not the same as their being sound."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import FlatCase, causes_of, finding
from kizami.checks.finding import Finding

__all__ = ["not_measured"]


def not_measured(case: FlatCase) -> Iterator[Finding]:
    """Parts whose strokes and gaps could not be measured; stated only when there are any."""
    unmeasured = case.fineness.unmeasured
    if unmeasured:
        yield finding("not-measured", float(len(unmeasured)), 0.0, cause=causes_of(case.made, unmeasured))

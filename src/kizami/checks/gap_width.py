"""Gaps so fine that they fill in, webs so fine that they break, closed middles so small that they close."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.as_made.treatment import Pierced
from kizami.checks.cases import FlatCase, told_of_fine
from kizami.checks.finding import Finding

__all__ = ["gap_width", "middle_width", "web_width"]


def gap_width(case: FlatCase) -> Iterator[Finding]:
    """Narrowest gap within a part or between any two against the process. Parts that touch have no gap, but
    a slit may be left beside the place where they do."""
    if not isinstance(case.treatment, Pierced):
        yield from told_of_fine("gap-width", case, case.fineness.gaps, case.limits.of("gap-width"))


def web_width(case: FlatCase) -> Iterator[Finding]:
    """Where lettering is cut right through, what stands between two cuts is a web that must hold."""
    if isinstance(case.treatment, Pierced):
        limit = max(case.limits.of("web-width"), case.limits.of("gap-width"))
        yield from told_of_fine("web-width", case, case.fineness.gaps, limit)


def middle_width(case: FlatCase) -> Iterator[Finding]:
    """Largest disc in the smallest closed middle. Pierced ones drop out, whatever they measure."""
    if not isinstance(case.treatment, Pierced):
        yield from told_of_fine("middle-width", case, case.fineness.middles, case.limits.of("middle-width"))

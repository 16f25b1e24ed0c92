"""What would be printed into the air, or out over it."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import finding
from kizami.checks.finding import Finding, Spot
from kizami.checks.solid_case import SolidCase

__all__ = ["islands", "overhang"]


def islands(case: SolidCase) -> Iterator[Finding]:
    """Places that begin with nothing under them, lying as few of them as there can be; for processes that
    print without supports."""
    limit = case.limits.get("islands")
    if limit is not None:
        yield finding("islands", float(case.lain.islands), limit)


def overhang(case: SolidCase) -> Iterator[Finding]:
    """Area that leans out over air further than a print holds by itself, lying as it is best printed."""
    limit = case.limits.get("overhang")
    if limit is None:
        return
    lain = case.lain
    yield finding(
        "overhang",
        lain.overhang_mm2,
        limit,
        spot=None if lain.at_mm is None else Spot(xyz_mm=lain.at_mm),
        lying=lain.said,
        process=case.process_name,
    )

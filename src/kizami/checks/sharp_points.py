"""Points that prick, break off or do not fill."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import finding
from kizami.checks.finding import Finding, Spot
from kizami.checks.solid_case import SolidCase
from kizami.solids.sharpness import sharpest

__all__ = ["sharp_point"]


def sharp_point(case: SolidCase) -> Iterator[Finding]:
    """The corner that encloses least, where one is sharper than that of a box."""
    found = sharpest(case.measured)
    if found is not None:
        yield finding(
            "sharp-point", found.angle_deg, case.limits.of("sharp-point"), spot=Spot(xyz_mm=found.at_mm)
        )

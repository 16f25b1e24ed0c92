"""Whether a piece that hangs by one loop hangs straight."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from kizami.checks.cases import finding
from kizami.checks.finding import Finding, Spot
from kizami.checks.solid_case import SolidCase

__all__ = ["tilt"]


def tilt(case: SolidCase) -> Iterator[Finding]:
    """Angle by which the piece turns in its own plane until its centre of mass hangs under the loop."""
    if case.hangs_at_mm is None:
        return
    up = np.array(case.up)
    loop = np.array(case.hangs_at_mm)
    down = case.measured.centre_of_mass - loop
    flats = case.flats[0].made
    at = np.array([flats.area.anchor])
    foot, head = flats.place(at, np.zeros(1))[0], flats.place(at, np.ones(1))[0]
    normal = head - foot
    # Out of its plane a flat piece swings anyway.
    down = down - normal * float(down @ normal)
    below, aside = float(-down @ up), float(np.linalg.norm(down + up * float(-down @ up)))
    yield finding(
        "tilt",
        math.degrees(math.atan2(aside, below)),
        case.limits.of("tilt"),
        spot=Spot(xyz_mm=case.hangs_at_mm),
    )

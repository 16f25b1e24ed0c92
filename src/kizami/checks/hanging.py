"""Whether a piece hangs as it was meant to: straight, and the right way up."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from kizami.checks.cases import finding
from kizami.checks.finding import Finding, Spot
from kizami.checks.solid_case import SolidCase
from kizami.outlines.curves import FloatArray

__all__ = ["hangs_below", "tilt"]

#: Half of a chain between its clasp and a piece at its two ends, mm (common practice, no source).
_CHAIN_MM = 200.0


def tilt(case: SolidCase) -> Iterator[Finding]:
    """Angle by which the piece turns in its own plane until its centre of mass hangs under what holds it: its
    loop, or where the two halves of a chain meet that hold it at both ends."""
    loops = [np.array(at) for at in case.hangs_at_mm]
    if not loops:
        return
    up = _up(case)
    down = _in_plane(case, case.measured.centre_of_mass - _held_at(loops, up))
    below, aside = float(-down @ up), float(np.linalg.norm(down + up * float(-down @ up)))
    yield finding(
        "tilt",
        math.degrees(math.atan2(aside, below)),
        case.limits.of("tilt"),
        spot=Spot(xyz_mm=case.hangs_at_mm[0]),
        loops="loop" if len(loops) == 1 else "two loops",
    )


def hangs_below(case: SolidCase) -> Iterator[Finding]:
    """How far the centre of mass lies below the line between two loops; above it the piece turns over."""
    if len(case.hangs_at_mm) != 2:
        return
    one, other = (np.array(at) for at in case.hangs_at_mm)
    along = (other - one) / np.linalg.norm(other - one)
    down = _in_plane(case, case.measured.centre_of_mass - one)
    down = down - along * float(down @ along)
    yield finding(
        "hangs-below",
        float(-down @ _up(case)),
        case.limits.of("hangs-below"),
        spot=Spot(xyz_mm=case.hangs_at_mm[0]),
    )


#: Loops whose line leans less than this against upward, as a sine, stand above each other.
_ABOVE_EACH_OTHER = 1e-6


def _held_at(loops: list[FloatArray], up: FloatArray) -> FloatArray:
    """The one place under which the centre of mass comes to hang."""
    if len(loops) == 1:
        return loops[0]
    half = (loops[1] - loops[0]) / 2.0
    # Both halves of the chain are equally long, so they meet over the middle between the loops.
    across = up - half * float(up @ half) / float(half @ half)
    width = float(np.linalg.norm(across))
    if width < _ABOVE_EACH_OTHER:
        # Loops right above each other: the piece hangs from the upper one.
        return max(loops, key=lambda at: float(at @ up))
    across = across / width
    meet: FloatArray = loops[0] + half + across * math.sqrt(max(_CHAIN_MM**2 - float(half @ half), 0.0))
    return meet


def _up(case: SolidCase) -> FloatArray:
    """What is to be upward when it hangs, in space: up in the lettering, or where its first letter is."""
    made = case.flats[0].made
    at = np.array([made.area.anchor])
    way = np.array([-1e-3, 0.0]) if case.hangs_by_side else np.array([0.0, 1e-3])
    foot, head = (made.place(at + step, np.zeros(1))[0] for step in (np.zeros(2), way))
    up: FloatArray = (head - foot) / np.linalg.norm(head - foot)
    return up


def _in_plane(case: SolidCase, way: FloatArray) -> FloatArray:
    """Without its part out of the plane of the face: out of its plane a flat piece swings anyway."""
    made = case.flats[0].made
    at = np.array([made.area.anchor])
    foot, head = made.place(at, np.zeros(1))[0], made.place(at, np.ones(1))[0]
    normal = head - foot
    flat: FloatArray = way - normal * float(way @ normal)
    return flat

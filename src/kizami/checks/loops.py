"""Loops that a name hangs by: how level they are, how near its ends, and how strongly each is held."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import FlatCase, finding, spot_at
from kizami.checks.finding import Finding

__all__ = ["loop_hold", "loop_place", "loops_level"]


def loops_level(case: FlatCase) -> Iterator[Finding]:
    """Difference in height of two loops; a name that hangs by its ends hangs slanted by it."""
    loops = case.layout.loops
    if len(loops) != 2:
        return
    one, other = loops
    yield finding(
        "loops-level",
        abs(one.y - other.y),
        case.limits.of("loops-level"),
        spot=spot_at(case.made, one.x, one.y),
    )


def loop_place(case: FlatCase) -> Iterator[Finding]:
    """How far two loops stand from their ends, the further one's distance as a share of the width."""
    loops = case.layout.loops
    if len(loops) != 2:
        return
    low_u, _, high_u, _ = case.made.outlines.bounds
    shares = [(one, min(one.x - low_u, high_u - one.x) / (high_u - low_u)) for one in loops]
    worst, share = max(shares, key=lambda found: found[1])
    yield finding(
        "loop-place",
        100.0 * share,
        case.limits.of("loop-place"),
        spot=spot_at(case.made, worst.x, worst.y),
    )


def loop_hold(case: FlatCase) -> Iterator[Finding]:
    """Width of the neck of the loop that is held least, which is to be as strong as its own wall."""
    if not case.layout.loops:
        return
    worst = min(case.layout.loops, key=lambda one: one.hold)
    yield finding(
        "loop-hold",
        worst.hold,
        case.soundness.loop_wall_mm,
        spot=spot_at(case.made, worst.x, worst.y),
    )

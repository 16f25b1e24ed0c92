"""Pieces larger than the process can take."""

from __future__ import annotations

from kizami.checks.finding import Finding, Level, Sense
from kizami.checks.registry import SolidCase, solid_check

__all__ = ["piece_size"]


@solid_check("piece-size")
def piece_size(case: SolidCase) -> Finding:
    """The side of the finished piece that comes nearest to its limit, both sorted: pieces may be turned."""
    sides = sorted(case.solid.size_mm)
    room = sorted(case.flats[0].process.limits.size_mm)
    side, limit = max(zip(sides, room, strict=True), key=lambda pair: pair[0] / pair[1])
    # A size is known exactly, so it is never close: it goes in or it does not.
    level = Level.FAILS if side > limit + 1e-3 else Level.PASSES
    return Finding(
        code="piece-size",
        title="Size",
        level=level,
        measured=side,
        limit=limit,
        unit="mm",
        sense=Sense.AT_MOST,
        message=f"A side of {side:.1f} mm must go into {limit:.1f} mm for {case.flats[0].process.name}.",
        hint="Choose another process or a smaller blank." if level is Level.FAILS else "",
    )

"""A skin that every reader takes as it is: closed, without slivers, without cavities that nothing drains."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import finding
from kizami.checks.finding import Finding, Spot
from kizami.checks.solid_case import SolidCase
from kizami.solids.drains import trapped

__all__ = ["cavities", "slivers", "trapped_volume", "unit_slip"]

#: Longest side of a piece that anybody wears, hangs up or holds, mm (common practice, no source).
_SHORTEST_MM, _LONGEST_MM = 3.0, 400.0
_FACTORS = (
    (25.4, "it was measured in inches"),
    (1 / 25.4, "millimetres were taken for inches"),
    (10.0, "it was measured in centimetres"),
    (0.1, "millimetres were taken for centimetres"),
    (1000.0, "it was measured in metres"),
    (0.001, "millimetres were taken for metres"),
)


def slivers(case: SolidCase) -> Iterator[Finding]:
    """Facets without area and open sides, once vertices at one place are made one."""
    yield finding("slivers", float(case.measured.faults), 0.0)


def cavities(case: SolidCase) -> Iterator[Finding]:
    """Closed cavities, for processes that would leave something in them."""
    count = sum(shell.volume_mm3 < 0 for shell in case.measured.shells)
    yield finding("cavities", float(count), case.limits.of("cavities"))


def trapped_volume(case: SolidCase) -> Iterator[Finding]:
    """What never drains from a body that a customer supplied; the shop's own blanks are open or solid."""
    drain = case.limits.get("drain")
    # A closed cavity is told as one; while there is any, openings are not asked.
    closed = any(shell.volume_mm3 < 0 for shell in case.measured.shells)
    if drain is None or not case.is_supplied or closed:
        return
    found = trapped(case.measured, drain_mm=drain)
    spot = None if found.at_mm is None else Spot(xyz_mm=found.at_mm)
    yield finding("trapped-volume", found.volume_mm3, 0.0, spot=spot, drain_mm=drain)


def unit_slip(case: SolidCase) -> Iterator[Finding]:
    """A size that only a slip of the unit explains."""
    longest = max(case.solid.size_mm)
    if _SHORTEST_MM <= longest <= _LONGEST_MM:
        yield finding("unit-slip", longest, _LONGEST_MM)
        return
    guesses = [said for factor, said in _FACTORS if _SHORTEST_MM <= longest * factor <= _LONGEST_MM]
    limit = _LONGEST_MM if longest > _LONGEST_MM else min(_SHORTEST_MM, longest / 2.0)
    yield finding("unit-slip", longest, limit, guess=guesses[0] if guesses else "no piece is so long")

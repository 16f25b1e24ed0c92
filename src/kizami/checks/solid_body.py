"""The finished solid: one body, the right number of holes, the right volume."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import finding
from kizami.checks.finding import Finding
from kizami.checks.solid_case import SolidCase
from kizami.solids.predicted import changed_volume_mm3
from kizami.solids.predicted import through_holes as predicted_holes

__all__ = ["one_body", "right_volume", "through_holes"]

#: Share by which the changed volume may miss its closed formula, in %; over all products of the demo it
#: misses by 0.7 at most, and a depth that is 3.5 % short shows.
_SHARE_PERCENT = 0.8
#: Chords of 0.005 mm on either side of a layer take so much off it, or add it, over all of its area.
_CHORDS_MM = 0.0035


def one_body(case: SolidCase) -> Iterator[Finding]:
    """Number of connected bodies; a second one would fall off. The skin of a cavity is none."""
    yield finding("one-body", float(sum(shell.volume_mm3 > 0 for shell in case.measured.shells)), 1.0)


def through_holes(case: SolidCase) -> Iterator[Finding]:
    """Through holes as predicted: engraving and raising open none, each pierced part one."""
    expected = case.blank_genus
    for flat in case.flats:
        expected = predicted_holes(flat.made, blank_holes=expected)
    yield finding("through-holes", float(case.solid.genus), float(expected))


def right_volume(case: SolidCase) -> Iterator[Finding]:
    """Volume taken away or added against area times layer, the closed formula of the surface."""
    least = most = moved = area = 0.0
    for flat in case.flats:
        low, high = changed_volume_mm3(flat.made)
        least, most, moved = least + low, most + high, moved + max(abs(low), abs(high))
        area += flat.made.outlines.area
    changed = case.solid.volume_mm3 - case.blank_volume_mm3
    expected = min(max(changed, least), most)
    # Against all that was moved: what one area adds and another takes away must not cancel.
    off_percent = 100.0 * abs(changed - expected) / moved if moved > 0 else 0.0
    limit = _SHARE_PERCENT + (100.0 * area * _CHORDS_MM / moved if moved > 0 else 0.0)
    yield finding("right-volume", off_percent, limit, changed_mm3=abs(changed), expected_mm3=abs(expected))

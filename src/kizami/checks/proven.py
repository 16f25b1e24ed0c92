"""Whether every part is there, in its place and at its depth, and measures the same on paper and in metal."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

from kizami.as_made.treatment import CutOut, Pierced, Scored
from kizami.checks.cases import causes_of, finding, spot_at, spot_of
from kizami.checks.finding import Finding
from kizami.checks.solid_case import SolidCase
from kizami.solids.calipers import measured_across

__all__ = ["letters_proven", "measured_depth", "measured_twice"]

#: By how much one width may differ, told by the layout and by rays: chords on either side, the sampling of
#: the medial axis, and what a stroke changes across a ray.
_SAME_MM, _SAME_SHARE = 0.02, 0.05
#: Of wrong parts so many are named.
_MOST_NAMED = 4


def letters_proven(case: SolidCase) -> Iterator[Finding]:
    """Parts that are missing, in part or whole, that stand elsewhere, or that are not as deep as asked."""
    for flat, proved in zip(case.flats, case.proved, strict=True):
        if not proved:
            continue
        wrong = [one for one in proved if one.wrong]
        told = []
        for one in wrong[:_MOST_NAMED]:
            (cause,) = causes_of(flat.made, [one.part])
            place = "" if cause.cluster is None else f" at place {cause.cluster + 1}"
            told.append(f"{cause.named}{place} {one.wrong}")
        first = wrong[0] if wrong else None
        yield _in_area(
            case,
            flat.area.name,
            finding(
                "letters-proven",
                float(len(wrong)),
                0.0,
                spot=None if first is None else spot_at(flat.made, first.u_mm, first.v_mm),
                cause=causes_of(flat.made, [one.part for one in wrong]),
                told=told,
            ),
        )


def measured_depth(case: SolidCase) -> Iterator[Finding]:
    """The shallowest letter as rays find it."""
    for flat, proved in zip(case.flats, case.proved, strict=True):
        if isinstance(flat.treatment, Pierced | Scored | CutOut):
            continue
        known = [one for one in proved if math.isfinite(one.depth_mm)]
        if not known:
            continue
        least = min(known, key=lambda one: one.depth_mm)
        cluster = flat.made.parts[least.part].cluster
        limit = flat.limits.of("lettering-depth", sunk=flat.treatment.sinks)
        # Chords make it less by no more than they may, which is not told as a fault of its own.
        depth = limit if 0 <= limit - least.depth_mm < _CHORDS_MM else least.depth_mm
        yield _in_area(
            case,
            flat.area.name,
            finding(
                "measured-depth",
                depth,
                limit,
                spot=spot_at(flat.made, least.u_mm, least.v_mm, cluster=cluster),
                cause=causes_of(flat.made, [least.part]),
            ),
        )


_CHORDS_MM = 0.0065


def measured_twice(case: SolidCase) -> Iterator[Finding]:
    """The finest stroke, neck and gap of each area, measured again on the finished piece."""
    worst: Finding | None = None
    for flat in case.flats:
        if isinstance(flat.treatment, Scored):
            continue
        fine = flat.fineness
        for what, places, way in (
            ("The thinnest stroke", fine.strokes, -1.0),
            ("The thinnest neck", fine.necks, -1.0),
            ("The narrowest gap", fine.gaps, 1.0),
        ):
            # What is far wider than its limit is known between parts only, not beside what ties them.
            if not places or (way > 0 and places[0].width_mm > flat.looked_at_mm):
                continue
            caliper = measured_across(case.measured, flat.made, places[0], way=way)
            if caliper is None or not math.isfinite(caliper.measured_mm):
                continue
            off = caliper.expected_mm - caliper.measured_mm
            # A stroke that is far wider than its limit is known of its part alone: whatever lies over it, a
            # dot on its letter or a stroke that carries a loop, makes it wider still.
            if way > 0 or places[0].width_mm <= flat.looked_at_mm:
                off = abs(off)
            told = finding(
                "measured-twice",
                max(off, 0.0),
                _SAME_MM + _SAME_SHARE * caliper.expected_mm,
                spot=spot_of(flat.made, places[0]),
                cause=causes_of(flat.made, places[0].parts),
                what=what,
                flat_mm=caliper.expected_mm,
                solid_mm=caliper.measured_mm,
            )
            if worst is None or told.badness > worst.badness:
                worst = _in_area(case, flat.area.name, told)
    if worst is not None:
        yield worst


def _in_area(case: SolidCase, name: str, found: Finding) -> Finding:
    return replace(found, area=name) if len(case.flats) > 1 else found

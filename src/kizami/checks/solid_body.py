"""The finished solid: one body, the right number of holes, the right volume."""

from __future__ import annotations

from kizami.checks.finding import Finding, Level, Sense, judge
from kizami.checks.registry import SolidCase, solid_check
from kizami.solids.treat import changed_volume_mm3
from kizami.solids.treat import through_holes as predicted_holes

__all__ = ["one_body", "right_volume", "through_holes"]

#: Share by which the changed volume may miss its closed formula. Chords of 0.005 mm on lettering
#: 0.3 mm deep are 1.7 %; a letter that was lost is far more.
_VOLUME_SHARE = 0.04
#: Lettering so small that it is hardly deeper than that is off by more: half as much again as the chords,
#: over all of its area.
_CHORDS_MM = 1.5 * 0.005


@solid_check("one-body")
def one_body(case: SolidCase) -> Finding:
    """Number of connected bodies; a second one would fall off."""
    bodies = case.solid.bodies
    level = judge(bodies, 1, Sense.EXACTLY)
    return Finding(
        code="one-body",
        title="Bodies",
        level=level,
        measured=float(bodies),
        limit=1.0,
        unit="",
        sense=Sense.EXACTLY,
        message=f"The piece is {bodies} bod{'y' if bodies == 1 else 'ies'}; it must be one.",
        hint="Something is not attached, or the lettering cuts the body apart."
        if level is Level.FAILS
        else "",
    )


@solid_check("through-holes")
def through_holes(case: SolidCase) -> Finding:
    """Through holes as predicted: engraving and raising open none, each pierced part one."""
    expected = case.blank_genus
    for flat in case.flats:
        expected = predicted_holes(
            flat.layout.outlines, flat.treatment, blank_holes=expected, standing=flat.area.standing
        )
    level = judge(case.solid.genus, expected, Sense.EXACTLY)
    return Finding(
        code="through-holes",
        title="Through holes",
        level=level,
        measured=float(case.solid.genus),
        limit=float(expected),
        unit="",
        sense=Sense.EXACTLY,
        message=f"The piece has {case.solid.genus} through holes; {expected} are right.",
        hint="The lettering breaks through where it should not, or not where it should."
        if level is Level.FAILS
        else "",
    )


@solid_check("right-volume")
def right_volume(case: SolidCase) -> Finding:
    """Volume taken away or added against area times layer, the closed formula of the surface."""
    least = most = moved = area = 0.0
    for flat in case.flats:
        low, high = changed_volume_mm3(flat.area, flat.layout.outlines, flat.treatment, pull=flat.pull)
        least, most, moved = least + low, most + high, moved + max(abs(low), abs(high))
        area += flat.layout.outlines.area
    changed = case.solid.volume_mm3 - case.blank_volume_mm3
    expected = min(max(changed, least), most)
    # Against all that was moved: what one area adds and another takes away must not cancel.
    off_percent = 100.0 * abs(changed - expected) / moved if moved > 0 else 0.0
    limit = 100.0 * max(_VOLUME_SHARE, area * _CHORDS_MM / moved if moved > 0 else 0.0)
    # Closeness has no meaning here: a solid is right or it is not.
    level = Level.FAILS if off_percent > limit else Level.PASSES
    return Finding(
        code="right-volume",
        title="Volume as predicted",
        level=level,
        measured=off_percent,
        limit=limit,
        unit="%",
        sense=Sense.AT_MOST,
        message=f"The lettering changes {abs(changed):.2f} mm3; {abs(expected):.2f} mm3 were predicted.",
        hint="A letter was lost or cuts through; look at the solid." if level is Level.FAILS else "",
    )

"""Thinnest walls, edges, standing parts and slots of the finished piece, as rays through it find them."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.as_made.treatment import Engraved, Pierced
from kizami.checks.cases import finding
from kizami.checks.finding import Finding, Spot
from kizami.checks.solid_case import SolidCase
from kizami.solids.thickness import Thin

__all__ = ["edge_thickness", "slot_width", "standing_thickness", "wall_thickness"]

#: Chords on either side make what is just on its limit thinner by so much.
_CHORDS_MM = 0.012


def wall_thickness(case: SolidCase) -> Iterator[Finding]:
    """The thinnest wall of the body anywhere."""
    yield from _told("wall-thickness", case.thinnest.wall, case.limits.of("wall-thickness"), case)


def edge_thickness(case: SolidCase) -> Iterator[Finding]:
    """What is left between the side of lettering and an edge of the body."""
    yield from _told("edge-thickness", case.thinnest.edge, case.limits.of("edge-gap"), case)


def standing_thickness(case: SolidCase) -> Iterator[Finding]:
    """Between two sides of lettering, through metal: a stroke that stands, or what is left between cuts."""
    cuts = [flat.treatment for flat in case.flats if isinstance(flat.treatment, Engraved | Pierced)]
    limits = [case.limits.of("standing-thickness")] if len(cuts) < len(case.flats) else []
    limits += [case.limits.of("web-width" if isinstance(cut, Pierced) else "gap-width") for cut in cuts]
    if limits:
        yield from _told("standing-thickness", case.thinnest.standing, min(limits), case)


def slot_width(case: SolidCase) -> Iterator[Finding]:
    """Between two sides of lettering, through air: a gap between strokes, or a stroke that is cut."""
    sunk = [flat.treatment.sinks for flat in case.flats]
    limits = [case.limits.of("stroke-width", sunk=True)] if any(sunk) else []
    limits += [case.limits.of("slot-width")] if not all(sunk) else []
    if limits:
        yield from _told("slot-width", case.thinnest.slot, min(limits), case)


def _told(code: str, thin: Thin | None, limit: float, case: SolidCase) -> Iterator[Finding]:
    if thin is None:
        return
    width = limit if 0 < limit - thin.width_mm < _CHORDS_MM else thin.width_mm
    x, y, z = thin.at_mm
    yield finding(
        code,
        width,
        limit,
        spot=Spot(xyz_mm=thin.at_mm),
        process=case.process_name,
        where=f"at x {x:.1f}, y {y:.1f}, z {z:.1f} mm",
    )

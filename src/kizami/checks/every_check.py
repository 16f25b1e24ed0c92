"""Every check, and how they are run. A new check is added to one of these tuples."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from kizami.checks.cases import FlatCase, FlatCheck
from kizami.checks.edge_gap import edge_gap
from kizami.checks.edges_made import draft_made, edge_made
from kizami.checks.faithful import departure, openings_kept
from kizami.checks.finding import Finding, worst_first
from kizami.checks.fits_area import fits_area
from kizami.checks.floor_left import floor_left
from kizami.checks.gap_width import gap_width, middle_width, web_width
from kizami.checks.hanging import hangs_below, tilt
from kizami.checks.lettering_depth import lettering_depth
from kizami.checks.letters_in_shape import letter_stretch, letters_apart, letters_in_shape
from kizami.checks.logo_detail import logo_as_sent, logo_detail
from kizami.checks.loops import loop_hold, loop_place, loops_level
from kizami.checks.loose_parts import closed_middles, parts_loose
from kizami.checks.lowest_height import lowest_height
from kizami.checks.missing_character import missing_character, wording_present
from kizami.checks.moulding import draft_held, undercut
from kizami.checks.neck_width import neck_width
from kizami.checks.not_measured import not_measured
from kizami.checks.piece_size import piece_size
from kizami.checks.printing import islands, overhang
from kizami.checks.proven import letters_proven, measured_depth, measured_twice
from kizami.checks.read_back import read_back
from kizami.checks.sharp_points import sharp_point
from kizami.checks.solid_body import one_body, right_volume, through_holes
from kizami.checks.solid_case import SolidCase
from kizami.checks.stroke_width import stroke_width
from kizami.checks.thickness import edge_thickness, slot_width, standing_thickness, wall_thickness
from kizami.checks.whole_mesh import cavities, slivers, trapped_volume, unit_slip
from kizami.checks.wording_settled import wording_settled

__all__ = ["FLAT_CHECKS", "PROOFS", "SOLID_CHECKS", "run_flat", "run_proof", "run_solid"]

SolidCheck = Callable[[SolidCase], Iterator[Finding]]
FLAT_CHECKS: tuple[FlatCheck, ...] = (
    wording_settled,
    missing_character,
    wording_present,
    fits_area,
    edge_gap,
    lowest_height,
    letters_in_shape,
    letters_apart,
    letter_stretch,
    stroke_width,
    neck_width,
    gap_width,
    web_width,
    middle_width,
    not_measured,
    lettering_depth,
    floor_left,
    edge_made,
    draft_made,
    departure,
    openings_kept,
    read_back,
    parts_loose,
    closed_middles,
    loops_level,
    loop_place,
    loop_hold,
    logo_detail,
    logo_as_sent,
)
#: Whether a piece was built as it was to be; where one fails, it is built again by another road.
PROOFS: tuple[SolidCheck, ...] = (one_body, through_holes, right_volume, letters_proven)
SOLID_CHECKS: tuple[SolidCheck, ...] = (
    measured_depth,
    measured_twice,
    piece_size,
    unit_slip,
    wall_thickness,
    edge_thickness,
    standing_thickness,
    slot_width,
    slivers,
    cavities,
    trapped_volume,
    sharp_point,
    undercut,
    draft_held,
    islands,
    overhang,
    hangs_below,
    tilt,
)


def run_flat(case: FlatCase) -> tuple[Finding, ...]:
    """Every flat finding, worst first."""
    return worst_first(found for check in FLAT_CHECKS for found in check(case))


def run_proof(case: SolidCase) -> tuple[Finding, ...]:
    """Whether a piece holds just what was to be made."""
    return worst_first(found for check in PROOFS for found in check(case))


def run_solid(case: SolidCase) -> tuple[Finding, ...]:
    """What a finished piece measures, worst first."""
    return worst_first(found for check in SOLID_CHECKS for found in check(case))

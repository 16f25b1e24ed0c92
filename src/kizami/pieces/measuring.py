"""What the solid checks look at, and their findings."""

from __future__ import annotations

import numpy as np

from kizami.blanks.plate import Plate
from kizami.blanks.ring_frame import RingFrame
from kizami.blanks.supplied import SuppliedShape
from kizami.checks.every_check import run_proof, run_solid
from kizami.checks.finding import Finding, worst_first
from kizami.checks.solid_case import SolidCase
from kizami.pieces.building import body_sagitta_mm, in_order
from kizami.pieces.laying_out import LaidOut
from kizami.products.product import Blank
from kizami.remembering import remembered
from kizami.solids.solid import Solid, solid_of

__all__ = ["check_solid", "solid_case"]


def check_solid(laid_out: LaidOut, solid: Solid) -> tuple[Finding, ...]:
    """The findings on a finished body: whether it was built right, and what it measures."""
    case = solid_case(laid_out, solid)
    return worst_first((*run_proof(case), *run_solid(case)))


def solid_case(laid_out: LaidOut, solid: Solid) -> SolidCase:
    volume, genus = _blank_measures(laid_out.blank, body_sagitta_mm(laid_out))
    return SolidCase(
        flats=tuple(part.case for part in in_order(laid_out) if part.case is not None),
        solid=solid,
        blank_volume_mm3=volume,
        blank_genus=genus,
        hangs_at_mm=_hangs_at_mm(laid_out),
        hangs_by_side=_hangs_by_side(laid_out),
        is_supplied=isinstance(laid_out.blank, SuppliedShape),
    )


def _hangs_by_side(laid_out: LaidOut) -> bool:
    """Whether it hangs with its reading direction downward, as a key chain does."""
    return laid_out.inputs.product.soundness.loop == "left" and bool(laid_out.layout.loops)


def _hangs_at_mm(laid_out: LaidOut) -> tuple[tuple[float, float, float], ...]:
    """The places by which a flat piece hangs: the tops of the holes of a loop on top or of two at its ends,
    the left of one at its side; none where it does not hang."""
    blank, made = laid_out.blank, laid_out.made
    if isinstance(blank, Plate | RingFrame):
        top = blank.hangs_at_mm
        return () if top is None else ((*top, blank.thickness_mm / 2.0),)
    by_side = _hangs_by_side(laid_out)
    tops = [
        np.array([[one.opening.bounds[0], one.y] if by_side else [one.x, one.opening.bounds[3]]])
        for one in made.layout.loops
    ]
    places = sorted(tuple(made.place(top, np.zeros(1))[0].tolist()) for top in tops)
    return tuple((x, y, z) for x, y, z in places)


@remembered
def _blank_measures(blank: Blank, sagitta_mm: float) -> tuple[float, int]:
    """Volume and through holes of a bare body; a cavity in it is no hole."""
    bare = solid_of(blank.body(sagitta_mm))
    return bare.volume_mm3, bare.genus

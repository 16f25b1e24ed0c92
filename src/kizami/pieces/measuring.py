"""What the solid checks look at, and their findings."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from kizami.blanks.plate import Plate
from kizami.blanks.ring_frame import RingFrame
from kizami.checks.every_check import run_proof, run_solid
from kizami.checks.finding import Finding, worst_first
from kizami.checks.solid_case import SolidCase
from kizami.pieces.building import body_sagitta_mm, in_order
from kizami.pieces.laying_out import LaidOut
from kizami.products.product import Blank
from kizami.solids.solid import Solid, solid_of

__all__ = ["check_solid", "solid_case"]


def check_solid(laid_out: LaidOut, solid: Solid) -> tuple[Finding, ...]:
    """The findings on a finished body: whether it was built right, and what it measures."""
    case = solid_case(laid_out, solid)
    return worst_first((*run_proof(case), *run_solid(case)))


def solid_case(laid_out: LaidOut, solid: Solid) -> SolidCase:
    volume, genus = _blank_measures(laid_out.blank, body_sagitta_mm(laid_out))
    loop = _hangs_at_mm(laid_out)
    return SolidCase(
        flats=tuple(part.case for part in in_order(laid_out) if part.case is not None),
        solid=solid,
        blank_volume_mm3=volume,
        blank_genus=genus,
        hangs_at_mm=loop,
    )


def _hangs_at_mm(laid_out: LaidOut) -> tuple[float, float, float] | None:
    """The place by which a flat piece hangs upright: the top of the hole of its only loop, or None."""
    blank, made = laid_out.blank, laid_out.made
    if isinstance(blank, Plate | RingFrame):
        top = blank.hangs_at_mm
        return None if top is None else (*top, blank.thickness_mm / 2.0)
    opened = made.layout.opened
    if laid_out.inputs.product.soundness.loop != "balanced" or len(opened) != 1:
        return None
    u, v = opened[0].centroid.x, opened[0].bounds[3]
    x, y, z = made.place(np.array([[u, v]]), np.zeros(1))[0].tolist()
    return (x, y, z)


@lru_cache(maxsize=128)
def _blank_measures(blank: Blank, sagitta_mm: float) -> tuple[float, int]:
    """Volume and through holes of a bare body; a cavity in it is no hole."""
    bare = solid_of(blank.body(sagitta_mm))
    return bare.volume_mm3, bare.genus

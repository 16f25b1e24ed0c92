"""A piece that could not be built as a whole: built letter by letter, where that is better."""

from __future__ import annotations

from dataclasses import replace

from kizami.checks.every_check import run_proof, run_solid
from kizami.checks.finding import Finding, Level
from kizami.checks.letters_built import letters_built
from kizami.errors import SolidError
from kizami.pieces.building import bare_body, in_order
from kizami.pieces.laying_out import LaidOut
from kizami.pieces.measuring import solid_case
from kizami.solids.letter_by_letter import build_letters
from kizami.solids.solid import Solid, solid_of
from kizami.tolerance import SAGITTA_MM

__all__ = ["rescued"]


def rescued(
    laid_out: LaidOut, solid: Solid | None, proof: tuple[Finding, ...]
) -> tuple[Solid | None, tuple[Finding, ...]]:
    """The piece built letter by letter when that is better; else what was built as a whole."""

    def as_it_was() -> tuple[Solid | None, tuple[Finding, ...]]:
        return solid, proof if solid is None else (*proof, *run_solid(solid_case(laid_out, solid)))

    blank = bare_body(laid_out)
    body, told, lost = blank, [], False
    try:
        for part in in_order(laid_out):
            found = build_letters(body, part.made, sagitta_mm=SAGITTA_MM)
            said = letters_built(part.made, mended=found.mended, lost=found.lost)
            told.append(replace(said, area=part.area.name if laid_out.others else ""))
            body, lost = found.solid, lost or bool(found.lost)
    except SolidError:
        return as_it_was()
    assert body is not None
    again = solid_of(body, blank=blank)
    case = solid_case(laid_out, again)
    proved = run_proof(case)
    # A lost letter leaves much wrong as well; it is the letter that people must know of.
    if lost:
        proved = tuple(f for f in proved if f.level is not Level.FAILS)
        measured = tuple(f for f in run_solid(case) if f.code not in ("measured-depth", "measured-twice"))
        return again, (*told, *proved, *measured)
    if any(f.level is Level.FAILS for f in proved):
        return as_it_was()
    return again, (*told, *proved, *run_solid(case))

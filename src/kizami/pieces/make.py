"""The whole way of a piece: words in, a checked piece out. Each arrow is one pure function.

wording, product, size -> LaidOut -> flat findings -> Solid -> proof of build -> solid findings
"""

from __future__ import annotations

from dataclasses import dataclass

from kizami.checks.cases import finding
from kizami.checks.every_check import run_proof, run_solid
from kizami.checks.finding import Finding, Level, worst_first
from kizami.errors import SolidError
from kizami.pieces.building import make_solid
from kizami.pieces.inputs import Inputs, fingerprint
from kizami.pieces.laying_out import LaidOut, lay_out, not_made
from kizami.pieces.measuring import solid_case
from kizami.pieces.rescuing import rescued
from kizami.solids.solid import Solid

__all__ = ["Made", "as_drawn", "make_laid_out", "make_piece", "make_until_held"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Made:
    """A piece.

    Attributes
    ----------
    laid_out : its layout
    solid : the body, or None when there is nothing to build or it could not be built
    findings : all findings, worst first
    fingerprint : names the result; equal inputs have equal fingerprints
    """

    laid_out: LaidOut
    solid: Solid | None
    findings: tuple[Finding, ...]
    fingerprint: str

    @property
    def stage(self) -> str:
        """“ready”, or “held” for a person when a check fails."""
        return "held" if any(f.level is Level.FAILS for f in self.findings) else "ready"

    @property
    def weight_g(self) -> float | None:
        """Weight in the product's material."""
        if self.solid is None:
            return None
        return self.laid_out.inputs.product.made_of.weight_g(self.solid.volume_mm3)


def make_piece(inputs: Inputs) -> Made:
    """The whole way. A piece that can't be made comes back held, with the finding that says why."""
    return make_laid_out(lay_out(inputs))


def make_until_held(inputs: Inputs) -> Made:
    """A piece as far as it holds: what its drawing is held for is not built.

    For whoever looks for what cures it: each cure is made as a whole.
    """
    laid_out = lay_out(inputs)
    return as_drawn(laid_out) if laid_out.failing else make_laid_out(laid_out)


def as_drawn(laid_out: LaidOut) -> Made:
    """What is known of a piece before it is built."""
    return Made(
        laid_out=laid_out, solid=None, findings=laid_out.findings, fingerprint=fingerprint(laid_out.inputs)
    )


def make_laid_out(laid_out: LaidOut) -> Made:
    """The rest of the way, of a piece that is laid out already."""
    inputs = laid_out.inputs
    solid: Solid | None = None
    built: tuple[Finding, ...] = ()
    try:
        solid, built = _built(laid_out)
    except Exception as error:  # noqa: BLE001 - one piece must never stop a list
        built = (not_made(inputs, error),)
    findings = worst_first((*laid_out.findings, *built))
    return Made(laid_out=laid_out, solid=solid, findings=findings, fingerprint=fingerprint(inputs))


def _built(laid_out: LaidOut) -> tuple[Solid | None, tuple[Finding, ...]]:
    """The solid with its findings; built letter by letter where it can't be built as a whole."""
    try:
        solid = make_solid(laid_out)
        case = None if solid is None else solid_case(laid_out, solid)
        proof = () if case is None else run_proof(case)
    except SolidError as error:
        solid, case = None, None
        proof = (finding("built", 0.0, 1.0, message=str(error), hint=error.hint),)
    if any(f.level is Level.FAILS for f in proof):
        return rescued(laid_out, solid, proof)
    return solid, () if case is None else (*proof, *run_solid(case))

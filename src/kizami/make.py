"""The pipeline: words in, a checked piece out. Each arrow is one pure function.

wording, product, size -> Layout -> flat findings -> Solid -> solid findings -> files
"""

from __future__ import annotations

import hashlib
import json
from dataclasses import asdict, dataclass, replace
from functools import lru_cache

import kizami
from kizami.blanks.area import Area
from kizami.checks.every_check import FlatCase, SolidCase, run_flat, run_solid
from kizami.checks.finding import Finding, Level, Sense
from kizami.errors import SolidError
from kizami.lettering.fitting import fit_wording
from kizami.lettering.layout import FitStep, Layout
from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import Typeface
from kizami.processes import shipped_materials
from kizami.products import Blank, Product
from kizami.sizes import RingSize
from kizami.solids.treat import Solid, solid_of, treat

__all__ = [
    "SAGITTA_MM",
    "Inputs",
    "LaidOut",
    "Made",
    "check_solid",
    "finding_table",
    "fingerprint",
    "lay_out",
    "make_piece",
    "make_solid",
]

#: Largest distance between a chord and the curve or surface that it stands for.
SAGITTA_MM = 0.005


@dataclass(frozen=True, kw_only=True, slots=True)
class Inputs:
    """All that a piece depends on.

    Attributes
    ----------
    product : what is made
    wording : cleaned text
    size : ring size, or None
    second : an optional second wording, left out when there is no room
    height_cap_mm : height that a set shares, or None
    open_question : why the wording is not settled yet, or ""; holds the piece
    """

    product: Product
    wording: str
    size: RingSize | None
    second: str = ""
    height_cap_mm: float | None = None
    open_question: str = ""


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class LaidOut:
    """Wording in place on the blank, with the flat findings. Cheap enough for every keystroke."""

    inputs: Inputs
    blank: Blank
    area: Area
    layout: Layout
    findings: tuple[Finding, ...]


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
        return shipped_materials()[self.laid_out.inputs.product.material].weight_g(self.solid.volume_mm3)


def fingerprint(inputs: Inputs) -> str:
    """SHA-256 over everything that shapes the piece, as 64 hexadecimal digits.

    The way a size was written does not matter, only its bore; the product's name neither.
    """
    table = inputs.product.to_table()
    for label in ("name", "code", "size_system", "wording"):
        del table[label]
    facts = {
        "recipe": kizami.RECIPE,
        "sagitta_mm": SAGITTA_MM,
        "product": table,
        "typeface": shipped_typeface(inputs.product.typeface).fingerprint,
        "bore_mm": inputs.size.bore_mm if inputs.size else None,
        "wording": inputs.wording,
        "second": inputs.second,
        "height_cap_mm": inputs.height_cap_mm,
        "open_question": inputs.open_question,
    }
    text = json.dumps(facts, sort_keys=True, separators=(",", ":"), ensure_ascii=True)
    return hashlib.sha256(text.encode()).hexdigest()


def lay_out(inputs: Inputs) -> LaidOut:
    """Fit the wording and run the flat checks."""
    product = inputs.product
    blank = product.blank_for(inputs.size)
    area = blank.areas[0]
    typeface = shipped_typeface(product.typeface)
    layout = _fit(inputs, typeface, area)
    case = _flat_case(inputs, area, layout)
    return LaidOut(inputs=inputs, blank=blank, area=area, layout=layout, findings=run_flat(case))


def _fit(inputs: Inputs, typeface: Typeface, area: Area) -> Layout:
    """The wording with its second part if there is room for both, else without."""
    plan = inputs.product.plan
    if inputs.height_cap_mm is not None:
        capped = max(plan.lowest_height_mm, min(plan.greatest_height_mm, inputs.height_cap_mm))
        plan = replace(plan, greatest_height_mm=capped)

    def fit(text: str) -> Layout:
        return fit_wording(text, typeface=typeface, area=area, plan=plan, sagitta_mm=SAGITTA_MM)

    joint = inputs.product.wording.second_after
    if inputs.second and joint and inputs.wording:
        both = fit(f"{inputs.wording}{joint}{inputs.second}")
        if both.fits and both.height_mm >= plan.lowest_height_mm - 1e-9 and not both.missing:
            return both
        alone = fit(inputs.wording)
        said = f"“{inputs.second}” would lower the lettering to {both.height_mm:.2f} mm and was left out"
        step = FitStep(name="leave out the second part", said=said, height_mm=alone.height_mm)
        return replace(alone, steps=(*alone.steps, step))
    return fit(inputs.wording)


def make_solid(laid_out: LaidOut) -> Solid | None:
    """The body with its lettering, or None when there is nothing to set.

    Raises
    ------
    SolidError : it could not be built
    """
    if laid_out.layout.is_empty:
        return None
    manifold = treat(
        laid_out.blank.body(SAGITTA_MM),
        laid_out.layout.contours,
        surface=laid_out.area.surface,
        treatment=laid_out.inputs.product.treatment,
        sagitta_mm=SAGITTA_MM,
    )
    return solid_of(manifold)


def check_solid(laid_out: LaidOut, solid: Solid) -> tuple[Finding, ...]:
    """The findings on a finished body."""
    volume, genus = _blank_measures(laid_out.blank)
    flat = _flat_case(laid_out.inputs, laid_out.area, laid_out.layout)
    return run_solid(SolidCase(flat=flat, solid=solid, blank_volume_mm3=volume, blank_genus=genus))


def make_piece(inputs: Inputs) -> Made:
    """The whole way. A piece that can't be made comes back held, with the finding that says why."""
    laid_out = lay_out(inputs)
    findings = laid_out.findings
    solid: Solid | None = None
    try:
        solid = make_solid(laid_out)
    except SolidError as error:
        findings = (_not_built(error), *findings)
    if solid is not None:
        both = (*findings, *check_solid(laid_out, solid))
        findings = tuple(sorted(both, key=lambda f: (f.level.rank, -f.badness)))
    return Made(laid_out=laid_out, solid=solid, findings=findings, fingerprint=fingerprint(inputs))


def _flat_case(inputs: Inputs, area: Area, layout: Layout) -> FlatCase:
    product = inputs.product
    return FlatCase(
        layout=layout,
        area=area,
        typeface=shipped_typeface(product.typeface),
        treatment=product.treatment,
        plan=product.plan,
        process=product.process,
        open_question=inputs.open_question,
    )


@lru_cache(maxsize=128)
def _blank_measures(blank: Blank) -> tuple[float, int]:
    body = blank.body(SAGITTA_MM)
    return float(body.volume()), int(body.genus())


def _not_built(error: SolidError) -> Finding:
    return Finding(
        code="built",
        title="Built",
        level=Level.FAILS,
        measured=0.0,
        limit=1.0,
        unit="",
        sense=Sense.EXACTLY,
        message=str(error),
        hint="Make the lettering less deep or the wall thicker.",
    )


def finding_table(finding: Finding) -> dict[str, object]:
    """A finding as plain data, numbers rounded to a tenth of a micrometre for stable reports."""
    table = asdict(finding)
    table["level"], table["sense"] = finding.level.value, finding.sense.value
    table["measured"], table["limit"] = round(finding.measured, 4), round(finding.limit, 4)
    if finding.spot is not None:
        table["spot"] = {
            "u_mm": round(finding.spot.u_mm, 3),
            "v_mm": round(finding.spot.v_mm, 3),
            "cluster": finding.spot.cluster,
        }
    return table

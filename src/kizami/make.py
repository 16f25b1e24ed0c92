"""The pipeline: words in, a checked piece out. Each arrow is one pure function.

wording, product, size -> Layout -> flat findings -> Solid -> solid findings -> files
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Sequence
from dataclasses import asdict, dataclass, replace
from functools import lru_cache, partial

import manifold3d as m3

import kizami
from kizami.artwork.artwork import Artwork
from kizami.blanks.area import Area
from kizami.blanks.name_piece import NamePiece
from kizami.blanks.ornaments import with_ornaments
from kizami.checks.every_check import FlatCase, SolidCase, run_flat, run_solid
from kizami.checks.finding import Finding, Level, Sense
from kizami.checks.letters_built import letters_built
from kizami.errors import SolidError
from kizami.lettering.finish import finished, ornamented, room_taken_mm
from kizami.lettering.fitting import Request, fit
from kizami.lettering.layout import Layout
from kizami.lettering.shipped import bolder_cut, shipped_typeface
from kizami.lettering.typeface import Typeface
from kizami.outlines.curves import FloatArray, bodies_of
from kizami.processes import shipped_materials
from kizami.products import Blank, Carries, Product
from kizami.sizes import RingSize
from kizami.solids.body_mesh import BodyMesh
from kizami.solids.facets import Facets, facets_seen
from kizami.solids.letter_by_letter import build_letters
from kizami.solids.lettered import face_sagitta_mm, lettered
from kizami.solids.solid import Solid, solid_of
from kizami.solids.treat import pull_of
from kizami.solids.treatment import Engraved, InRecess, Pierced, Treatment, proud_mm

__all__ = [
    "SAGITTA_MM",
    "Inputs",
    "LaidOut",
    "Made",
    "bare_body",
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
    typeface : one that the shop added, or None for the product's own, which ships
    artwork : a logo or a code, or None
    height_cap_mm : height that a set shares, or None
    open_question : why the wording is not settled yet, or ""; holds the piece
    """

    product: Product
    wording: str
    size: RingSize | None
    second: str = ""
    typeface: Typeface | None = None
    artwork: Artwork | None = None
    height_cap_mm: float | None = None
    open_question: str = ""

    @property
    def face(self) -> Typeface:
        """The typeface that it is set in."""
        return self.typeface or shipped_typeface(self.product.typeface)


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class LaidOut:
    """Wording in place on the blank, with the flat findings. Cheap enough for every keystroke.

    Attributes
    ----------
    inputs : what was asked for
    blank : in its size
    area, layout : the area of the wording, and how it stands there
    findings : of every area, worst first
    others : what stands on further areas, each as if that area were the only one
    """

    inputs: Inputs
    blank: Blank
    area: Area
    layout: Layout
    findings: tuple[Finding, ...]
    others: tuple[LaidOut, ...] = ()

    @property
    def every_area(self) -> tuple[LaidOut, ...]:
        """All that is lettered, the area of the wording first."""
        return (self, *self.others)

    def findings_here(self, findings: Sequence[Finding]) -> tuple[Finding, ...]:
        """Those of the findings that are about this area, or about the piece as a whole."""
        return tuple(f for f in findings if f.area in ("", self.area.name))


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
    facts = {
        "recipe": kizami.RECIPE,
        "sagitta_mm": SAGITTA_MM,
        "product": _product_facts(inputs.product),
        "typeface": inputs.face.fingerprint,
        "further typefaces": [
            shipped_typeface(f.typeface).fingerprint for f in inputs.product.also if f.typeface
        ],
        "artwork": inputs.artwork.fingerprint if inputs.artwork else None,
        "bore_mm": inputs.size.bore_mm if inputs.size else None,
        "wording": inputs.wording,
        "second": inputs.second,
        "height_cap_mm": inputs.height_cap_mm,
        "open_question": inputs.open_question,
    }
    text = json.dumps(facts, sort_keys=True, separators=(",", ":"), ensure_ascii=True)
    return hashlib.sha256(text.encode()).hexdigest()


@lru_cache(maxsize=1024)
def _product_facts(product: Product) -> str:
    """What of a product shapes its pieces, as text; written once for all of them."""
    table = product.to_table()
    # What is only said or offered shapes nothing; of the wording plan only what joins its two parts does.
    for label in _SHAPES_NOTHING:
        del table[label]
    table["joint"] = product.wording.second_after
    return json.dumps(table, sort_keys=True, separators=(",", ":"), ensure_ascii=True)


_SHAPES_NOTHING = (
    "name", "code", "size_system", "wording", "finish", "finishes", "materials", "typefaces", "takes_logo",
)  # fmt: skip


def lay_out(inputs: Inputs) -> LaidOut:
    """Fit the wording on every area that has some, and run the flat checks."""
    blank = inputs.product.blank_for(inputs.size)
    laid = [_laid_on(part, blank) for part in (inputs, *_further(inputs))]
    if len(laid) == 1:
        ((area, layout),) = laid
        case = _flat_case(inputs, area, layout)
        return LaidOut(inputs=inputs, blank=blank, area=area, layout=layout, findings=run_flat(case))
    parts = []
    for part, (area, layout) in zip((inputs, *_further(inputs)), laid, strict=True):
        found = run_flat(_flat_case(part, area, layout, behind_mm=_behind_mm(inputs, area)))
        named = tuple(replace(f, area=area.name) for f in found)
        parts.append(LaidOut(inputs=part, blank=blank, area=area, layout=layout, findings=named))
    every = _worst_first(f for part in parts for f in part.findings)
    return replace(parts[0], findings=every, others=tuple(parts[1:]))


def _further(inputs: Inputs) -> tuple[Inputs, ...]:
    """What is set on further areas, as if each were the only one; areas that stay empty are left out."""
    product = inputs.product
    said = {Carries.SECOND: inputs.second, Carries.SAME: inputs.wording}
    return tuple(
        replace(
            inputs,
            product=product.on(further),
            wording=said.get(further.carries, further.text),
            second="",
            typeface=None if further.typeface else inputs.typeface,
            artwork=None,
            height_cap_mm=None,
            open_question="",
        )
        for further in product.also
        if said.get(further.carries, further.text)
    )


def _laid_on(inputs: Inputs, blank: Blank) -> tuple[Area, Layout]:
    """The area of a product, and its wording there."""
    area = _ornamented(inputs.product.area_of(blank), inputs.product.ornaments)
    return area, _fit(inputs, area)


def _behind_mm(inputs: Inputs, area: Area) -> float:
    """How deep the wall under an area is cut from its other side."""
    products = [part.product for part in (inputs, *_further(inputs))]
    behind = [p.treatment for p in products if area.back and p.area == area.back]
    return max((_cut_mm(treatment, area) for treatment in behind), default=0.0)


def _cut_mm(treatment: Treatment, area: Area) -> float:
    """How far a treatment cuts into a wall."""
    if isinstance(treatment, Pierced):
        return area.through_mm
    return treatment.floor_below_mm if isinstance(treatment, Engraved | InRecess) else 0.0


def _worst_first(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    return tuple(sorted(findings, key=lambda f: (f.level.rank, -f.badness)))


def _fit(inputs: Inputs, area: Area) -> Layout:
    """The wording as large as its product allows, then made sound."""
    product = inputs.product
    plan = product.plan
    if inputs.height_cap_mm is not None:
        capped = max(plan.lowest_height_mm, min(plan.greatest_height_mm, inputs.height_cap_mm))
        plan = replace(plan, greatest_height_mm=capped)
    joint = product.wording.second_after
    request = Request(
        text=inputs.wording,
        typeface=inputs.face,
        second=inputs.second if joint else "",
        joint=joint,
        bolder=bolder_cut(product.typeface) if inputs.typeface is None else None,
        artwork=inputs.artwork,
        arrangement=product.arrangement,
        overlap_mm=product.soundness.overlap_mm,
    )
    limits = product.process.limits
    stroke_mm = limits.stroke_mm(sunk=product.treatment.sinks)
    soundness = product.soundness
    layout = fit(
        request,
        area=area,
        plan=plan,
        sagitta_mm=SAGITTA_MM,
        thicker_mm=room_taken_mm(soundness),
    )
    sound = finished(layout, soundness, stroke_mm=stroke_mm, sagitta_mm=SAGITTA_MM)
    return ornamented(sound, area.ornaments)


#: One area for each blank and its ornaments, so that what is worked out of it is worked out once.
_ornamented = lru_cache(maxsize=512)(with_ornaments)


def make_solid(laid_out: LaidOut) -> Solid | None:
    """The body with its lettering, or None when there is nothing to set.

    Raises
    ------
    SolidError : it could not be built
    """
    if laid_out.layout.is_empty:
        return None
    blank = bare_body(laid_out)
    body: m3.Manifold | BodyMesh | None = blank
    for number, part in enumerate(_in_order(laid_out)):
        product, area = part.inputs.product, part.area
        # What is known of the bare blank holds for the first area only.
        known = partial(_facets, part.blank, _sagitta_mm(laid_out), area)
        body = lettered(
            body,
            part.layout.outlines,
            area=area,
            treatment=product.treatment,
            sagitta_mm=SAGITTA_MM,
            pull=_pull(product, area),
            facets=known if number == 0 else None,
        )
    assert body is not None
    return solid_of(body, blank=blank)


def bare_body(laid_out: LaidOut) -> m3.Manifold | None:
    """The body before lettering; None where the lettering is the piece."""
    return None if isinstance(laid_out.blank, NamePiece) else laid_out.blank.body(_sagitta_mm(laid_out))


def _sagitta_mm(laid_out: LaidOut) -> float:
    """How near the blank's chords come to its curves: near enough for what stands proud of them too."""
    return min(
        _face_sagitta_mm(part.area, max(0.0, proud_mm(part.inputs.product.treatment)))
        for part in laid_out.every_area
    )


@lru_cache(maxsize=512)
def _face_sagitta_mm(area: Area, top_mm: float) -> float:
    return face_sagitta_mm(area.surface, sagitta_mm=SAGITTA_MM, top_mm=top_mm)


@lru_cache(maxsize=64)
def _facets(blank: Blank, sagitta_mm: float, area: Area) -> Facets | None:
    """A blank's facets as an area sees them."""
    return facets_seen(blank.body(sagitta_mm), area.surface, middle_u_mm=area.anchor[0])


def _in_order(laid_out: LaidOut) -> list[LaidOut]:
    """Areas in the order in which they are worked: what is added first, so that no root fills a cut."""
    inked = [part for part in laid_out.every_area if not part.layout.is_empty]
    return sorted(inked, key=lambda part: part.inputs.product.treatment.sinks)


def check_solid(laid_out: LaidOut, solid: Solid) -> tuple[Finding, ...]:
    """The findings on a finished body."""
    volume, genus = _blank_measures(laid_out.blank, _sagitta_mm(laid_out))
    flats = tuple(_flat_case(part.inputs, part.area, part.layout) for part in _in_order(laid_out))
    return run_solid(SolidCase(flats=flats, solid=solid, blank_volume_mm3=volume, blank_genus=genus))


def make_piece(inputs: Inputs) -> Made:
    """The whole way. A piece that can't be made comes back held, with the finding that says why."""
    laid_out = lay_out(inputs)
    findings = laid_out.findings
    solid: Solid | None = None
    built: tuple[Finding, ...] = ()
    try:
        solid = make_solid(laid_out)
        built = check_solid(laid_out, solid) if solid is not None else ()
    except SolidError as error:
        built = (_not_built(error),)
    if any(f.level is Level.FAILS and f.code in _BUILT_WRONG for f in built):
        solid, built = _rescued(laid_out, solid, built)
    findings = _worst_first((*findings, *built))
    return Made(laid_out=laid_out, solid=solid, findings=findings, fingerprint=fingerprint(inputs))


#: Findings that say that building went wrong, not that the piece can't be made.
_BUILT_WRONG = ("built", "right-volume")


def _rescued(
    laid_out: LaidOut, solid: Solid | None, built: tuple[Finding, ...]
) -> tuple[Solid | None, tuple[Finding, ...]]:
    """The piece built letter by letter when that is better; else what was built as a whole."""
    blank = bare_body(laid_out)
    body, told, lost = blank, [], False
    try:
        for part in _in_order(laid_out):
            layout = part.layout
            # As finished: what bridges and loops took out of the letters stays out.
            letters = [bodies_of(s.intersection(layout.outlines)) for s in (*layout.shapes, layout.ties)]
            found = build_letters(
                body,
                letters,
                area=part.area,
                treatment=part.inputs.product.treatment,
                sagitta_mm=SAGITTA_MM,
                pull=_pull(part.inputs.product, part.area),
            )
            said = letters_built(layout, mended=found.mended, lost=found.lost)
            told.append(replace(said, area=part.area.name if laid_out.others else ""))
            body, lost = found.solid, lost or bool(found.lost)
    except SolidError:
        return solid, built
    assert body is not None
    again = solid_of(body, blank=blank)
    checked = check_solid(laid_out, again)
    # A lost letter leaves the volume wrong as well; it is the letter that people must know of.
    if not lost and any(f.level is Level.FAILS and f.code in _BUILT_WRONG for f in checked):
        return solid, built
    if lost:
        checked = tuple(f for f in checked if f.code not in _BUILT_WRONG)
    return again, (*told, *checked)


def _pull(product: Product, area: Area) -> FloatArray | None:
    """The direction that lettering is laid on along, or None for the normal."""
    return pull_of(area) if product.along_pull else None


def _flat_case(inputs: Inputs, area: Area, layout: Layout, *, behind_mm: float = 0.0) -> FlatCase:
    product = inputs.product
    return FlatCase(
        behind_mm=behind_mm,
        pull=_pull(product, area),
        layout=layout,
        area=area,
        typeface=inputs.face,
        treatment=product.treatment,
        process=product.process,
        soundness=product.soundness,
        shape=product.arrangement.shape,
        open_question=inputs.open_question,
    )


@lru_cache(maxsize=128)
def _blank_measures(blank: Blank, sagitta_mm: float) -> tuple[float, int]:
    body = blank.body(sagitta_mm)
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
        hint=error.hint,
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

"""The pipeline: words in, a checked piece out. Each arrow is one pure function.

wording, product, size -> Layout -> flat findings -> Solid -> solid findings -> files
"""

from __future__ import annotations

import hashlib
import json
import logging
from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass, replace
from functools import lru_cache, partial

import manifold3d as m3
import numpy as np
import shapely

import kizami
from kizami.artwork.artwork import Artwork
from kizami.as_made.as_made import AsMade, pull_of
from kizami.as_made.treatment import Engraved, InRecess, Pierced, Treatment, proud_mm
from kizami.blanks.area import Area
from kizami.blanks.name_piece import NamePiece
from kizami.blanks.ornaments import with_ornaments
from kizami.blanks.plate import Plate
from kizami.blanks.ring_frame import RingFrame
from kizami.checks.cases import FlatCase, finding
from kizami.checks.every_check import run_flat, run_proof, run_solid
from kizami.checks.finding import Finding, Level, worst_first
from kizami.checks.letters_built import letters_built
from kizami.checks.solid_case import SolidCase
from kizami.errors import SolidError
from kizami.lettering.finish import finished, ornamented, room_taken_mm
from kizami.lettering.fitting import Recess, Request, settings_that_fit
from kizami.lettering.layout import Layout
from kizami.lettering.shipped import bolder_cut, shipped_typeface
from kizami.lettering.typeface import Typeface
from kizami.outlines.curves import FloatArray
from kizami.processes import shipped_materials
from kizami.products import Blank, Carries, Product
from kizami.sizes import RingSize
from kizami.solids.body_mesh import BodyMesh
from kizami.solids.letter_by_letter import build_letters
from kizami.solids.lettered import face_sagitta_mm, facets_of_body, lettered
from kizami.solids.rays import Rays
from kizami.solids.solid import Solid, solid_of
from kizami.solids.soundings import wall_under_mm

__all__ = [
    "SAGITTA_MM",
    "Inputs",
    "LaidOut",
    "Made",
    "bare_body",
    "check_solid",
    "finding_table",
    "fine_body",
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
    made : the area of the wording as it is made
    case : what the checks have looked at; None where nothing could be laid out
    findings : of every area, worst first
    others : what stands on further areas, each as if that area were the only one
    """

    inputs: Inputs
    blank: Blank
    made: AsMade
    findings: tuple[Finding, ...]
    case: FlatCase | None = None
    others: tuple[LaidOut, ...] = ()

    @property
    def area(self) -> Area:
        """The area of the wording."""
        return self.made.area

    @property
    def layout(self) -> Layout:
        """How the wording stands there."""
        return self.made.layout

    @property
    def failing(self) -> tuple[Finding, ...]:
        """The findings that hold the piece."""
        return tuple(f for f in self.findings if f.level is Level.FAILS)

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
    """Fit the wording on every area that has some, and run the flat checks.

    The fit plan goes on until what it comes to is sound: a way of setting that leaves a failing check is
    not the end while a later one passes. Where none does, the one that is least wrong stands.

    Whatever goes wrong on the way holds this piece and no other: it comes back with nothing set.
    """
    try:
        return _lay_out(inputs)
    except Exception as error:  # noqa: BLE001 - one piece must never stop a list
        return _not_laid_out(inputs, error)


def _not_laid_out(inputs: Inputs, error: Exception) -> LaidOut:
    """What stands for a piece that could not be laid out."""
    nothing = Layout(
        text=inputs.wording, height_mm=0.0, lowest_height_mm=0.0, marks=(), shapes=(), steps=(), fits=False,
        outlines=shapely.MultiPolygon(), missing=(),
    )  # fmt: skip
    blank = inputs.product.blank_for(inputs.size)
    made = AsMade(area=inputs.product.area_of(blank), layout=nothing, treatment=inputs.product.treatment)
    return LaidOut(inputs=inputs, blank=blank, made=made, findings=(_not_made(inputs, error),))


def _not_made(inputs: Inputs, error: Exception) -> Finding:
    """The finding of a piece whose making ended in an error that nobody foresaw."""
    reference = fingerprint(inputs)[:8]
    logging.getLogger(__name__).error("Piece %s could not be made.", reference, exc_info=error)
    said = str(error).strip() or type(error).__name__
    return finding(
        "made",
        0.0,
        1.0,
        message=f"This piece could not be made: {said[:200]} (reference {reference} in the log)",
        hint=getattr(error, "hint", "") or "Set it otherwise, or ask whoever looks after Kizami.",
    )


def _lay_out(inputs: Inputs) -> LaidOut:
    blank = inputs.product.blank_for(inputs.size)
    parts = (inputs, *_further(inputs))
    laid = tuple(_laid_on(part, blank, behind_mm=_behind_mm(parts, part, blank)) for part in parts)
    if len(laid) == 1:
        return laid[0]
    named = [
        replace(one, findings=tuple(replace(f, area=one.area.name) for f in one.findings)) for one in laid
    ]
    every = worst_first(f for one in named for f in one.findings)
    return replace(named[0], findings=every, others=tuple(named[1:]))


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


def _laid_on(inputs: Inputs, blank: Blank, *, behind_mm: float) -> LaidOut:
    """One area: the first way of setting its wording that is sound, else the one that is least wrong."""
    area = _ornamented(inputs.product.area_of(blank), inputs.product.ornaments)
    best: LaidOut | None = None
    for layout in _layouts(inputs, area):
        made = AsMade(
            area=area, layout=layout, treatment=inputs.product.treatment, pull=_pull(inputs.product, area)
        )
        case = _flat_case(inputs, made, blank, behind_mm)
        laid = LaidOut(inputs=inputs, blank=blank, made=made, case=case, findings=run_flat(case))
        if not laid.failing:
            return laid
        if best is None or _wrongness(laid) < _wrongness(best):
            best = laid
    assert best is not None
    return best


def _wrongness(laid: LaidOut) -> tuple[float, ...]:
    """Which of two layouts is more wrong: by the gravest finding, then by how many there are."""
    failing = laid.failing
    return (max((f.weight for f in failing), default=0.0), len(failing))


def _behind_mm(parts: Sequence[Inputs], part: Inputs, blank: Blank) -> float:
    """How deep the wall under an area is cut from its other side."""
    area = part.product.area_of(blank)
    behind = [p.product.treatment for p in parts if area.back and p.product.area == area.back]
    return max((_cut_mm(treatment, area) for treatment in behind), default=0.0)


def _cut_mm(treatment: Treatment, area: Area) -> float:
    """How far a treatment cuts into a wall."""
    if isinstance(treatment, Pierced):
        return area.through_mm
    return treatment.floor_below_mm if isinstance(treatment, Engraved | InRecess) else 0.0


def _layouts(inputs: Inputs, area: Area) -> Iterator[Layout]:
    """Every way of setting the wording that its product allows and that fits, made sound."""
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
        # Who asks for a typeface is never given another one in its place.
        bolder=bolder_cut(product.typeface, own_family=product.typeface_asked)
        if inputs.typeface is None
        else None,
        artwork=inputs.artwork,
        arrangement=product.arrangement,
        overlap_mm=product.soundness.overlap_mm,
    )
    limits, treatment = product.process.limits, product.treatment
    soundness = product.soundness
    recess = None
    if isinstance(treatment, InRecess):
        recess = Recess(margin_mm=treatment.margin_mm, clear_mm=limits.of("edge-gap"))
    for layout in settings_that_fit(
        request,
        area=area,
        plan=plan,
        sagitta_mm=SAGITTA_MM,
        thicker_mm=room_taken_mm(soundness),
        recess=recess,
    ):
        stroke_mm = limits.of("stroke-width", sunk=treatment.sinks)
        sound = finished(
            layout, soundness, stroke_mm=stroke_mm, sagitta_mm=SAGITTA_MM, gap_mm=limits.of("gap-width")
        )
        yield ornamented(sound, area.ornaments)


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
        # What is known of the bare blank holds for the first area only.
        known = partial(facets_of_body, blank, part.area) if blank is not None and number == 0 else None
        body = lettered(body, part.made, sagitta_mm=SAGITTA_MM, facets=known)
    assert body is not None
    return solid_of(body, blank=blank)


def bare_body(laid_out: LaidOut) -> m3.Manifold | None:
    """The body before lettering; None where the lettering is the piece."""
    return None if isinstance(laid_out.blank, NamePiece) else laid_out.blank.body(_sagitta_mm(laid_out))


def fine_body(laid_out: LaidOut) -> m3.Manifold | None:
    """The body before lettering with curves as fine as a beam cuts them."""
    return None if isinstance(laid_out.blank, NamePiece) else laid_out.blank.body(_BEAM_SAGITTA_MM)


#: A tenth of what a beam is wide.
_BEAM_SAGITTA_MM = 0.001


def _sagitta_mm(laid_out: LaidOut) -> float:
    """How near the blank's chords come to its curves: near enough for what stands proud of them too."""
    return min(
        _face_sagitta_mm(part.area, max(0.0, proud_mm(part.made.treatment))) for part in laid_out.every_area
    )


@lru_cache(maxsize=512)
def _face_sagitta_mm(area: Area, top_mm: float) -> float:
    return face_sagitta_mm(area.surface, sagitta_mm=SAGITTA_MM, top_mm=top_mm)


def _in_order(laid_out: LaidOut) -> list[LaidOut]:
    """Areas in the order in which they are worked: what is added first, so that no root fills a cut."""
    inked = [part for part in laid_out.every_area if not part.layout.is_empty]
    return sorted(inked, key=lambda part: part.made.treatment.sinks)


def check_solid(laid_out: LaidOut, solid: Solid) -> tuple[Finding, ...]:
    """The findings on a finished body: whether it was built right, and what it measures."""
    case = _solid_case(laid_out, solid)
    return worst_first((*run_proof(case), *run_solid(case)))


def _solid_case(laid_out: LaidOut, solid: Solid) -> SolidCase:
    volume, genus = _blank_measures(laid_out.blank, _sagitta_mm(laid_out))
    loop = _hangs_at_mm(laid_out)
    return SolidCase(
        flats=tuple(part.case for part in _in_order(laid_out) if part.case is not None),
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


def make_piece(inputs: Inputs) -> Made:
    """The whole way. A piece that can't be made comes back held, with the finding that says why."""
    laid_out = lay_out(inputs)
    solid: Solid | None = None
    built: tuple[Finding, ...] = ()
    try:
        solid, built = _built(laid_out)
    except Exception as error:  # noqa: BLE001 - one piece must never stop a list
        built = (_not_made(inputs, error),)
    findings = worst_first((*laid_out.findings, *built))
    return Made(laid_out=laid_out, solid=solid, findings=findings, fingerprint=fingerprint(inputs))


def _built(laid_out: LaidOut) -> tuple[Solid | None, tuple[Finding, ...]]:
    """The solid with its findings; built letter by letter where it can't be built as a whole."""
    try:
        solid = make_solid(laid_out)
        case = None if solid is None else _solid_case(laid_out, solid)
        proof = () if case is None else run_proof(case)
    except SolidError as error:
        solid, case = None, None
        proof = (finding("built", 0.0, 1.0, message=str(error), hint=error.hint),)
    if any(f.level is Level.FAILS for f in proof):
        return _rescued(laid_out, solid, proof)
    return solid, () if case is None else (*proof, *run_solid(case))


def _rescued(
    laid_out: LaidOut, solid: Solid | None, proof: tuple[Finding, ...]
) -> tuple[Solid | None, tuple[Finding, ...]]:
    """The piece built letter by letter when that is better; else what was built as a whole."""

    def as_it_was() -> tuple[Solid | None, tuple[Finding, ...]]:
        return solid, proof if solid is None else (*proof, *run_solid(_solid_case(laid_out, solid)))

    blank = bare_body(laid_out)
    body, told, lost = blank, [], False
    try:
        for part in _in_order(laid_out):
            found = build_letters(body, part.made, sagitta_mm=SAGITTA_MM)
            said = letters_built(part.made, mended=found.mended, lost=found.lost)
            told.append(replace(said, area=part.area.name if laid_out.others else ""))
            body, lost = found.solid, lost or bool(found.lost)
    except SolidError:
        return as_it_was()
    assert body is not None
    again = solid_of(body, blank=blank)
    case = _solid_case(laid_out, again)
    proved = run_proof(case)
    # A lost letter leaves much wrong as well; it is the letter that people must know of.
    if lost:
        proved = tuple(f for f in proved if f.level is not Level.FAILS)
        measured = tuple(f for f in run_solid(case) if f.code not in ("measured-depth", "measured-twice"))
        return again, (*told, *proved, *measured)
    if any(f.level is Level.FAILS for f in proved):
        return as_it_was()
    return again, (*told, *proved, *run_solid(case))


def _pull(product: Product, area: Area) -> FloatArray | None:
    """The direction that lettering is laid on along, or None for the normal."""
    return pull_of(area) if product.along_pull else None


def _flat_case(inputs: Inputs, made: AsMade, blank: Blank, behind_mm: float) -> FlatCase:
    product = inputs.product
    walls = None
    if not isinstance(blank, NamePiece | RingFrame):
        walls = partial(_walls, blank, made)
    return FlatCase(
        walls=walls,
        made=made,
        behind_mm=behind_mm,
        typeface=inputs.face,
        process=product.process,
        soundness=product.soundness,
        shape=product.arrangement.shape,
        open_question=inputs.open_question,
        lowest_height_mm=made.layout.lowest_height_mm,
        greatest_height_mm=product.plan.greatest_height_mm,
    )


def _walls(blank: Blank, made: AsMade, uv: FloatArray) -> FloatArray:
    """Thickness of the bare body under places of an area."""
    return wall_under_mm(_bare_rays(blank), made, uv)


@lru_cache(maxsize=128)
def _bare_rays(blank: Blank) -> Rays:
    mesh = BodyMesh.of(blank.body(SAGITTA_MM))
    return Rays(mesh.points, mesh.triangles)


@lru_cache(maxsize=128)
def _blank_measures(blank: Blank, sagitta_mm: float) -> tuple[float, int]:
    """Volume and through holes of a bare body; a cavity in it is no hole."""
    bare = solid_of(blank.body(sagitta_mm))
    return bare.volume_mm3, bare.genus


def finding_table(finding: Finding) -> dict[str, object]:
    """A finding as plain data, numbers rounded to a tenth of a micrometre for stable reports."""
    table = asdict(finding)
    table["level"], table["sense"] = finding.level.value, finding.sense.value
    table["severity"] = finding.severity.value
    for name in ("measured", "limit", "needed"):
        table[name] = round(getattr(finding, name), 4)
    spot = finding.spot
    if spot is not None:
        table["spot"] = {
            "u_mm": None if spot.u_mm is None else round(spot.u_mm, 3),
            "v_mm": None if spot.v_mm is None else round(spot.v_mm, 3),
            "cluster": spot.cluster,
            "xyz_mm": None if spot.xyz_mm is None else [round(x, 3) for x in spot.xyz_mm],
        }
    return table

"""Wording laid out on every area of a blank that carries some, with the flat checks."""

from __future__ import annotations

import logging
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import partial

import shapely

from kizami.as_made.as_made import AsMade, pull_of
from kizami.as_made.drawn import drawn_stroke_mm
from kizami.as_made.fineness import Fineness
from kizami.as_made.narrow_gaps import with_gaps
from kizami.as_made.necks import with_necks
from kizami.as_made.treatment import Engraved, InRecess, Pierced, Treatment
from kizami.blanks.area import Area
from kizami.blanks.name_piece import NamePiece
from kizami.blanks.ornaments import with_ornaments
from kizami.blanks.ring_frame import RingFrame
from kizami.checks.cases import FlatCase, finding, looked_at_mm
from kizami.checks.every_check import run_flat
from kizami.checks.finding import Finding, Level, worst_first
from kizami.lettering.finish import finished, ornamented, room_taken_mm
from kizami.lettering.fitting import Recess, Request, settings_that_fit
from kizami.lettering.layout import Layout
from kizami.lettering.round_about import RoundAbout, Spread, WhenWide
from kizami.lettering.shipped import bolder_cut
from kizami.outlines.curves import FloatArray
from kizami.pieces.inputs import Inputs, fingerprint
from kizami.products.product import Blank, Carries, Product
from kizami.remembering import remembered
from kizami.solids.body_mesh import BodyMesh
from kizami.solids.rays import Rays
from kizami.solids.soundings import wall_under_mm
from kizami.tolerance import SAGITTA_MM

__all__ = ["LaidOut", "drawn_layouts", "lay_out", "not_made", "part_on"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class LaidOut:
    """Wording in place on the blank, with the flat findings. Cheap enough for every keystroke.

    Attributes
    ----------
    inputs : what was asked for, as it is set
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


def lay_out(inputs: Inputs, *, drawn: Iterable[Layout] | None = None) -> LaidOut:
    """Fit the wording on every area that has some, and run the flat checks.

    The fit plan goes on until what it comes to is sound: a way of setting that leaves a failing check is
    not the end while a later one passes. Where none does, the one that is least wrong stands.

    Whatever goes wrong on the way holds this piece and no other: it comes back with nothing set.

    Parameters
    ----------
    drawn : what `drawn_layouts` gives for these inputs, for whoever has looked at it already
    """
    inputs = inputs.as_set
    try:
        return _lay_out(inputs, drawn)
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
    return LaidOut(inputs=inputs, blank=blank, made=made, findings=(not_made(inputs, error),))


def not_made(inputs: Inputs, error: Exception) -> Finding:
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


def _lay_out(inputs: Inputs, drawn: Iterable[Layout] | None) -> LaidOut:
    blank = inputs.product.blank_for(inputs.size)
    parts = (inputs, *_further(inputs))
    laid = tuple(
        _laid_on(
            part, blank, behind_mm=_behind_mm(parts, part, blank), drawn=drawn if part is inputs else None
        )
        for part in parts
    )
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


def _laid_on(
    inputs: Inputs, blank: Blank, *, behind_mm: float, drawn: Iterable[Layout] | None = None
) -> LaidOut:
    """One area: the first way of setting its wording that is sound, else the one that is least wrong."""
    area = _ornamented(inputs.product.area_of(blank), inputs.product.ornaments)
    best: LaidOut | None = None
    for layout in _layouts(inputs, area, _settings(inputs, area) if drawn is None else drawn):
        made = AsMade(
            area=area, layout=layout, treatment=inputs.product.treatment, pull=_pull(inputs.product, area)
        )
        soundness = inputs.product.soundness
        how = soundness.gaps
        measured = None
        if how != "as drawn" and not layout.is_empty:
            mended = with_gaps(
                made,
                how,
                _kept_open_mm(inputs.product),
                reach_mm=looked_at_mm(inputs.product.process.limits, sunk=made.treatment.sinks),
                stroke_mm=_stroke_mm(inputs.product),
                departure_mm=soundness.most_departure_mm,
            )
            made, measured = mended.made, mended.fineness
        laid = _stronger(_judged(inputs, made, blank, behind_mm, measured), behind_mm)
        if not laid.failing:
            return laid
        if best is None or _wrongness(laid) < _wrongness(best):
            best = laid
    assert best is not None
    return best


def _judged(
    inputs: Inputs, made: AsMade, blank: Blank, behind_mm: float, measured: Fineness | None = None
) -> LaidOut:
    case = _flat_case(inputs, made, blank, behind_mm, measured)
    return LaidOut(inputs=inputs, blank=blank, made=made, case=case, findings=run_flat(case))


def _stronger(laid: LaidOut, behind_mm: float) -> LaidOut:
    """Where strokes may be thickened and letters joined, what is too fine about their joints is drawn again.

    What nothing else tells before it is measured: a notch beside a joint, the fine end of a stroke that
    another goes on from. What would be more wrong by it stays as it was.
    """
    product = laid.inputs.product
    soundness = product.soundness
    if soundness.one_piece == "no" or soundness.thicken != "where needed":
        return laid
    neck_mm, stroke_mm = product.process.limits.of("neck-width"), _stroke_mm(product)
    for _ in range(_MOST_TIMES_STRONGER):
        if laid.case is None or not {f.code for f in laid.failing} & {"neck-width", "stroke-width"}:
            return laid
        fine = laid.case.fineness
        thin = [one for one in fine.necks if one.width_mm < neck_mm]
        thin += [
            one
            for one in fine.strokes
            if one.width_mm < stroke_mm <= one.width_mm + 2.0 * soundness.most_departure_mm
        ]
        made = with_necks(laid.made, thin, max(neck_mm, stroke_mm))
        if made is laid.made:
            return laid
        again = _judged(laid.inputs, made, laid.blank, behind_mm)
        if _wrongness(again) >= _wrongness(laid):
            return laid
        laid = again
    return laid


#: Of one part only the narrowest place is told at a time.
_MOST_TIMES_STRONGER = 3


def _stroke_mm(product: Product) -> float:
    """The finest stroke that a process holds, cut in or standing."""
    return product.process.limits.of("stroke-width", sunk=product.treatment.sinks)


def _kept_open_mm(product: Product) -> float:
    """The narrowest gap that a process keeps open; of what is pierced, the narrowest web that holds."""
    limits = product.process.limits
    gap_mm = limits.of("gap-width")
    return max(gap_mm, limits.of("web-width")) if isinstance(product.treatment, Pierced) else gap_mm


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


def part_on(inputs: Inputs, area: str) -> Inputs:
    """What is set on a further area, as if it were the only one; the whole where nothing is on any such."""
    inputs = inputs.as_set
    return next((one for one in _further(inputs) if one.product.area == area), inputs)


def drawn_layouts(inputs: Inputs) -> Iterator[Layout]:
    """Every way of setting the wording that its product allows and that fits, as it is drawn.

    Nothing is made sound or checked: it is a small part of the work of laying it out.
    """
    inputs = inputs.as_set
    blank = inputs.product.blank_for(inputs.size)
    yield from _settings(inputs, _ornamented(inputs.product.area_of(blank), inputs.product.ornaments))


def _layouts(inputs: Inputs, area: Area, drawn: Iterable[Layout]) -> Iterator[Layout]:
    """Every way of setting the wording that its product allows and that fits, made sound."""
    product = inputs.product
    limits, treatment, soundness = product.process.limits, product.treatment, product.soundness
    for layout in drawn:
        stroke_mm = _stroke_mm(product)
        if soundness.thicken == "where needed" and not layout.is_empty:
            pull = _pull(product, area)
            stroke_mm = drawn_stroke_mm(stroke_mm, treatment, area.surface, layout.ink_bounds, pull=pull)
        sound = finished(
            layout, soundness, stroke_mm=stroke_mm, sagitta_mm=SAGITTA_MM, gap_mm=limits.of("gap-width")
        )
        yield ornamented(sound, area.ornaments)


def _settings(inputs: Inputs, area: Area) -> Iterator[Layout]:
    """Every way of setting the wording that its product allows and that fits, as it is drawn."""
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
        joined_by_mm=product.soundness.bridge_mm,
        open_mm=product.process.limits.of("gap-width"),
        may_rejoin=product.wording.line_breaks == "wish",
    )
    limits, treatment = product.process.limits, product.treatment
    recess = None
    if isinstance(treatment, InRecess):
        recess = Recess(margin_mm=treatment.margin_mm, clear_mm=limits.of("edge-gap"))
    yield from settings_that_fit(
        request,
        area=area,
        plan=plan,
        sagitta_mm=SAGITTA_MM,
        thicker_mm=room_taken_mm(product.soundness),
        recess=recess,
    )


#: One area for each blank and its ornaments, so that what is worked out of it is worked out once.
_ornamented = remembered(with_ornaments)


def _pull(product: Product, area: Area) -> FloatArray | None:
    """The direction that lettering is laid on along, or None for the normal."""
    return pull_of(area) if product.along_pull else None


def _flat_case(
    inputs: Inputs, made: AsMade, blank: Blank, behind_mm: float, measured: Fineness | None
) -> FlatCase:
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
        widest_gap=_widest_gap(product.arrangement.turn),
        measured=measured,
    )


def _widest_gap(turn: RoundAbout) -> float | None:
    """What may be added between letters to fill a turn; where wording ends instead, no more ever is."""
    return turn.widest_gap if isinstance(turn, Spread) and turn.when_wide is not WhenWide.ENDS else None


def _walls(blank: Blank, made: AsMade, uv: FloatArray) -> FloatArray:
    """Thickness of the bare body under places of an area."""
    return wall_under_mm(_bare_rays(blank), made, uv)


@remembered
def _bare_rays(blank: Blank) -> Rays:
    mesh = BodyMesh.of(blank.body(SAGITTA_MM))
    return Rays(mesh.points, mesh.triangles)

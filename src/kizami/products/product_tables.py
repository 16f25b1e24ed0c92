"""The table of a product, and what its parts ask of each other."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Any, Literal, Self

from pydantic import (
    BeforeValidator,
    Field,
    PrivateAttr,
    StrictBool,
    StringConstraints,
    ValidationError,
    ValidationInfo,
    model_validator,
)

from kizami.as_made.treatment import CutOut
from kizami.blanks.band_ring import BandRingSpec
from kizami.blanks.name_piece import NamePiece
from kizami.blanks.ring_frame import RingFrame
from kizami.blanks.signet import SignetSpec
from kizami.checks.limits_told import limit_told, value_told
from kizami.errors import CatalogueError, SizeError
from kizami.lettering.round_about import Spread
from kizami.lettering.shipped import shipped_typeface_codes
from kizami.processes import LIMITS_ASKED, LIMITS_KNOWN, Process
from kizami.products.blank_tables import BLANK_TABLES, AnyBlank, Bodies, no_bodies
from kizami.products.lettering_tables import (
    KINDS,
    AnyTreatment,
    ArrangementTable,
    FitTable,
    OrnamentTable,
    SoundnessTable,
    WordingTable,
)  # fmt: skip
from kizami.products.ornament_room import wrong_ornaments
from kizami.products.product import Carries, FixedBlank, FurtherArea, OwnLimit, Product, SizedBlank
from kizami.products.said import said
from kizami.products.values import Known, Table, Within, written, wrong
from kizami.sizes import SizeSystem
from kizami.standards import MOST_LIMIT, Standards, flat_limits, shipped_standards

__all__ = ["ProductTable", "read_table"]

#: As long as a line's own words may be.
_LONGEST_TEXT = 200
_MOST_ORNAMENTS = 12
_MOST_FINISHES = 40
#: A reason is a sentence: more than a sign, and short enough to be printed.
SHORTEST_REASON, _LONGEST_REASON = 8, 160


def _materials() -> tuple[str, ...]:
    return tuple(shipped_standards().materials)


def _processes() -> tuple[str, ...]:
    return tuple(shipped_standards().processes)


_Material = Annotated[str, Known(_materials, more="materials")]
_Process = Annotated[str, Known(_processes, more="processes")]
_Typeface = Annotated[str, Known(shipped_typeface_codes, more="typefaces")]
_Finish = Annotated[str, StringConstraints(min_length=1, max_length=40)]
_Colour = Annotated[str, written(r"#[0-9a-f]{6}", "must be a colour such as #1d5c4a")]
_Limit = Annotated[float, Within(0, MOST_LIMIT)]
_Code = Annotated[
    str, written(r"[A-Za-z0-9][A-Za-z0-9._-]{0,39}", "must be 1 to 40 letters, digits, dots or dashes")
]


def _flattened(limits: Any) -> Any:
    return dict(flat_limits(limits)) if isinstance(limits, dict) else limits


class ColoursTable(Table):
    """Colours of two-colour prints and of enamel."""

    body: _Colour
    lettering: _Colour


class LetteredTable(Table):
    """An area that is lettered."""

    area: str = ""
    treatment: AnyTreatment
    fit: FitTable
    wording: WordingTable = WordingTable()
    arrangement: ArrangementTable = ArrangementTable()
    soundness: SoundnessTable = SoundnessTable()
    along_pull: StrictBool = False
    ornaments: Annotated[tuple[OrnamentTable, ...], Field(max_length=_MOST_ORNAMENTS)] = ()

    def lettered(self) -> dict[str, Any]:
        """What a product and a further area have alike."""
        return {
            "treatment": self.treatment.made(),
            "plan": self.fit.made(),
            "wording": self.wording.made(),
            "arrangement": self.arrangement.made(),
            "soundness": self.soundness.made(),
            "along_pull": self.along_pull,
            "ornaments": tuple(ornament.made() for ornament in self.ornaments),
        }


class FurtherTable(LetteredTable):
    """A further area with wording of its own."""

    area: str
    carries: Carries
    text: Annotated[str, StringConstraints(max_length=_LONGEST_TEXT)] = ""
    typeface: _Typeface | Literal[""] = ""

    @model_validator(mode="after")
    def _can_be(self) -> Self:
        if bool(self.text.strip()) != (self.carries is Carries.FIXED):
            raise wrong(
                f"text belongs to “fixed”, and there it says in at most {_LONGEST_TEXT} characters what "
                "every piece carries"
            )
        if self.treatment.kind == "cut-out":
            raise wrong("treatment: a further area can't be cut out of its own piece")
        return self

    def made(self) -> FurtherArea:
        """The further area."""
        return FurtherArea(
            area=self.area, carries=self.carries, text=self.text.strip(), typeface=self.typeface,
            **self.lettered(),
        )  # fmt: skip


class ProductTable(LetteredTable):
    """A product."""

    code: _Code
    name: str = ""
    blank: AnyBlank
    size_system: str | None = None
    process: _Process
    material: _Material
    materials: tuple[_Material, ...] = ()
    typeface: _Typeface
    typefaces: tuple[_Typeface, ...] = ()
    finish: Annotated[str, StringConstraints(max_length=40)] = ""
    finishes: Annotated[tuple[_Finish, ...], Field(max_length=_MOST_FINISHES)] = ()
    takes_logo: StrictBool = False
    allowance_percent: Annotated[float, Within(0, 5)] = 0.0
    code_on: Literal["", "tab", "hidden face"] = ""
    also: tuple[FurtherTable, ...] = ()
    colours: ColoursTable | None = None
    limits: Annotated[dict[str, _Limit], BeforeValidator(_flattened)] = Field(default_factory=dict)
    looser_because: Annotated[str, StringConstraints(max_length=_LONGEST_REASON)] = ""
    _standards: Standards = PrivateAttr(default_factory=shipped_standards)

    @model_validator(mode="after")
    def _can_be(self, info: ValidationInfo) -> Self:
        self._standards = (info.context or {}).get("standards") or shipped_standards()
        sentence = next(filter(None, (rule(self) for rule in _RULES)), "")
        if sentence:
            raise wrong(sentence)
        return self

    def area_names(self) -> tuple[str, ...]:
        """What may be lettered of its blank."""
        blank = self.blank.made()
        if isinstance(blank, SizedBlank):
            return self.blank.areas
        return tuple(area.name for area in blank.areas)

    @property
    def shop_process(self) -> Process:
        """Its process as the shop has it."""
        return self._standards.process(self.process)

    def own_limits(self) -> tuple[OwnLimit, ...]:
        """Its limits beside those of its process; what is the same is none of its own."""
        usual = self.shop_process.limits
        rows = (OwnLimit(code=c, value=v, usual=usual.of(c)) for c, v in sorted(self.limits.items()))
        return tuple(row for row in rows if row.value != row.usual)

    def made(self) -> Product:
        """The product."""
        colours, process = self.colours, self.shop_process
        own = self.own_limits()
        limits = process.limits.with_limits((row.code, row.value) for row in own)
        named = dict.fromkeys((self.material, *self.materials))
        return Product(
            code=self.code,
            name=self.name or self.code,
            blank=self.blank.made(),
            size_system=SizeSystem.named(self.size_system) if self.size_system is not None else None,
            process=replace(process, limits=limits) if own else process,
            material=self.material,
            materials=self.materials,
            typeface=self.typeface,
            typefaces=self.typefaces,
            finish=self.finish,
            finishes=self.finishes,
            takes_logo=self.takes_logo,
            allowance_percent=self.allowance_percent,
            code_on=self.code_on,
            area=self.area or self.blank.areas[0],
            also=tuple(further.made() for further in self.also),
            body_colour=colours.body if colours else "",
            lettering_colour=colours.lettering if colours else "",
            stock=tuple(self._standards.material(code) for code in named),
            own_limits=own,
            looser_because=self.looser_because.strip() if any(row.is_looser for row in own) else "",
            **self.lettered(),
        )


def _wrong_limits(table: ProductTable) -> str:
    process = table.shop_process
    for code, value in table.limits.items():
        if code not in LIMITS_KNOWN:
            return f"limits: {code[:40]} is none of {', '.join(sorted(LIMITS_KNOWN))}"
        if not value and code in LIMITS_ASKED:
            return f"limits: {code} must be above 0"
        try:
            process.limits.of(code)
        except KeyError:
            return f"limits: {process.name} has no limit {code} that a product could change"
    looser = [row for row in table.own_limits() if row.is_looser]
    if looser and len(table.looser_because.strip()) < SHORTEST_REASON:
        told, row = limit_told(looser[0].code), looser[0]
        return (
            f"limits: {told.title.lower()} {told.word} {value_told(row.code, row.value)} lets more pass than "
            f"{process.name} holds, {value_told(row.code, row.usual)}; say in looser_because, in "
            f"{SHORTEST_REASON} to {_LONGEST_REASON} characters, why: it is printed on everything that leaves"
        )
    return ""


def _wrong_size_system(table: ProductTable) -> str:
    if not isinstance(table.blank.made(), SizedBlank):
        return "" if table.size_system is None else "size_system is for rings only"
    try:
        SizeSystem.named(table.size_system or "")
    except SizeError as error:
        return f"size_system: {error}".rstrip(".")
    return ""


def _wrong_treatment(table: ProductTable) -> str:
    is_cut_out = isinstance(table.treatment.made(), CutOut)
    if is_cut_out != isinstance(table.blank.made(), NamePiece | RingFrame):
        return "“cut-out” belongs to a name piece or a ring frame, and these are cut out"
    return ""


def _wrong_allowance(table: ProductTable) -> str:
    if table.allowance_percent and table.shop_process.is_flat:
        return "allowance_percent is for patterns; what is cut from a sheet does not shrink"
    return ""


def _wrong_code(table: ProductTable) -> str:
    if not table.code_on:
        return ""
    if table.shop_process.is_flat:
        return "code_on is for what is printed or cast; what is cut from a sheet is told by its place map"
    if table.colours is not None:
        return "code_on and colours: a piece in two colours can carry no code: it would lose the second"
    return ""


def _wrong_areas(table: ProductTable) -> str:
    """One wording for each area that there is, and one place for a second wording."""
    known, rows = table.area_names(), (table, *table.also)
    names = [row.area or known[0] for row in rows]
    for number, (row, name) in enumerate(zip(rows, names, strict=True)):
        where = f"also {number}: " if number else ""
        if name not in known:
            return f"{where}area “{name[:40]}” is none of {', '.join(known)}"
        is_spread = isinstance(row.arrangement.turn.made(), Spread)
        if is_spread and not _closes(table.blank.made(), name):
            return (
                f"{where}arrangement: turn “spread” needs an area that closes on itself without a seam; "
                "choose “repeated” or “sector”"
            )
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice is not None:
        return f"area “{twice}” is lettered twice"
    seconds = sum(further.carries is Carries.SECOND for further in table.also)
    if seconds + bool(table.wording.second_after) > 1:
        return (
            "a second wording can only go to one place: to an area of its own, or after the first wording "
            "with second_after"
        )
    return ""


def _closes(blank: SizedBlank | FixedBlank, area: str) -> bool:
    if isinstance(blank, SignetSpec):
        return area == "inside"
    if isinstance(blank, BandRingSpec):
        return area != "outside" or blank.outer != "tapered" or not blank.seam_mm
    return any(one.is_closed for one in blank.areas if one.name == area)


def _wrong_ornaments(table: ProductTable) -> str:
    made = table.made()
    said = next(filter(None, map(wrong_ornaments, (made, *map(made.on, made.also)))), "")
    return f"ornaments: {said}" if said else ""


#: In this order: each counts on those before it.
_RULES = (
    _wrong_limits,
    _wrong_size_system,
    _wrong_treatment,
    _wrong_allowance,
    _wrong_code,
    _wrong_areas,
    _wrong_ornaments,
)


def read_table(
    table: Any,
    *,
    typefaces: tuple[str, ...] = (),
    bodies: Bodies = no_bodies,
    standards: Standards | None = None,
) -> Product:
    """A product from its table.

    Parameters
    ----------
    typefaces : codes of typefaces that the shop added to those that ship
    bodies : finds the bodies that supplied shapes name
    standards : what the shop holds to; None for those that ship

    Raises
    ------
    CatalogueError : a key is missing, unknown or out of bounds, or the whole can't be
    """
    code = str(table.get("code", ""))[:40] if isinstance(table, dict) else ""
    try:
        standards = standards or shipped_standards()
        known = {"processes": tuple(standards.processes), "materials": tuple(standards.materials)}
        read = ProductTable.model_validate(
            table, context={"typefaces": typefaces, "bodies": bodies, "standards": standards, **known}
        )
    except ValidationError as error:
        where = f"Product {code}" if code else "A product without a code"
        kinds = {"blank": tuple(BLANK_TABLES), **KINDS}
        raise CatalogueError(said(error, where=where, kinds=kinds)) from error
    return read.made()

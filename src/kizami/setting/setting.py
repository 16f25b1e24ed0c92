"""How one piece is set otherwise than its product: a value that can be kept, compared, told and taken back.

Nothing is baked in: leaving a value out brings the product's own back. Limits stand out of its reach.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass, fields, replace
from typing import Any

from kizami.as_made.treatment import CutOut, Engraved, InRecess, Pierced, Raised, Scored, Treatment
from kizami.errors import AdjustmentError, SizeError
from kizami.lettering.arrangement import Arrangement
from kizami.lettering.capitals import in_capitals
from kizami.lettering.fit_plan import FitPlan, Step
from kizami.lettering.line_breaks import broken_at
from kizami.lettering.round_about import ONE_TURN, Repeated
from kizami.lettering.shapes import STRAIGHT, Arc, Arched, Filled, LetterShape
from kizami.lettering.shipped import shipped_typeface_codes
from kizami.outlines.soundness import Soundness
from kizami.products.product import FurtherArea, Product, Word
from kizami.setting.on_blank import blank_as_set
from kizami.setting.typed import typed_number, unit_of
from kizami.setting.values import (
    BOUNDS,
    DIRECTIONS,
    GAPS,
    LABELS,
    MOST_LINES,
    MOST_TIMES,
    ON_AREA,
    SHAPES,
    TIES,
    TREATMENTS,
)
from kizami.sizes import RingSize

__all__ = [
    "AS_THE_PRODUCT",
    "Setting",
    "depth_of",
    "on_area",
]

#: Characters of a second wording; longer ones fit on nothing that is lettered.
_LONGEST_SECOND = 200
_LONGEST_WORD, _LONGEST_SIZE = 60, 20


@dataclass(frozen=True, kw_only=True, slots=True)
class Setting:
    """What of a piece is set otherwise; None, or "" for words, where the product's own holds.

    Attributes
    ----------
    typeface, material, finish : by code
    second : the second wording; None for the one that was received
    height_mm : cap height at most
    tracking : added between letters, as a share of the cap height
    lowest_mm : cap height at least, where that is more than the product asks: other steps of its fit plan are
        taken before lettering is lower
    tightest : spacing may be tightened down to this
    narrowest : letters may be condensed down to this share of their width
    most_lines : the wording may be broken into so many lines
    breaks : how many parts of the wording stand on each line, “2 1”; broken so and not otherwise
    leading : from line to line, cap heights
    thicken_by_mm : strokes are thicker by this on each side, or thinner
    shape, shape_amount : form of the lettering, see `SHAPES`
    one_piece : how loose parts are tied, see `TIES`
    depth_mm : how deep lettering is cut, how high it stands, or how thick it is cut out
    without_second : the second wording is left out
    gaps : what is done with slits that would fill in, see `GAPS`
    treatment : how lettering meets the body, see `TREATMENTS`
    along_mm, across_mm : how far it stands from the area's own place
    turned_deg : how far it is turned, anticlockwise
    upside_down : it reads the other way up
    times : the wording stands so often around an area that closes on itself
    bridge_mm : width of bridges and bars
    overlap_mm : how far neighbouring letters are drawn into each other
    capitals : it is set in capitals; only the customer can say so
    word_space : added between words, as a share of the cap height
    direction : which way it is read, see `DIRECTIONS`
    size : another size than was received, as it is written; only the customer can say so
    body_mm : thickness of the blank, or of its wall
    band_mm : width of a band
    further : what is set otherwise on further areas, each by its name; there only what `ON_AREA` names
    """

    typeface: str = ""
    material: str = ""
    finish: str = ""
    second: str | None = None
    height_mm: float | None = None
    lowest_mm: float | None = None
    tracking: float | None = None
    tightest: float | None = None
    narrowest: float | None = None
    most_lines: int | None = None
    breaks: str = ""
    leading: float | None = None
    thicken_by_mm: float | None = None
    shape: str = ""
    shape_amount: float | None = None
    one_piece: str = ""
    depth_mm: float | None = None
    without_second: bool = False
    gaps: str = ""
    treatment: str = ""
    along_mm: float | None = None
    across_mm: float | None = None
    turned_deg: float | None = None
    upside_down: bool = False
    times: int | None = None
    bridge_mm: float | None = None
    overlap_mm: float | None = None
    capitals: bool = False
    word_space: float | None = None
    direction: str = ""
    size: str = ""
    body_mm: float | None = None
    band_mm: float | None = None
    further: tuple[tuple[str, Setting], ...] = ()

    @classmethod
    def names(cls) -> tuple[str, ...]:
        """The names of all that may be set."""
        return tuple(field.name for field in fields(cls))

    @classmethod
    def from_table(cls, table: Mapping[str, Any]) -> Setting:
        """From what `to_table` gave; what is no setting any more is passed over: old lines can be made."""
        known = {name: table[name] for name in cls.names() if table.get(name) is not None}
        areas = {area: cls.from_table(own) for area, own in known.pop("further", {}).items()}
        return cls(**known, further=_by_area(areas))

    def to_table(self) -> dict[str, Any]:
        """Plain data, without what is as the product has it.

        >>> Setting(height_mm=4.5).to_table()
        {'height_mm': 4.5}
        """
        table = {
            name: value
            for name in self.names()
            if (value := getattr(self, name)) not in (None, "", ()) and value is not False
        }
        if self.further:
            table["further"] = {area: own.to_table() for area, own in self.further}
        return table

    def to_fields(self) -> dict[str, Any]:
        """As form fields have it; `read` gives the same setting back.

        >>> Setting(further=(("back", Setting(height_mm=4.5)),)).to_fields()
        {'on.back.height_mm': 4.5}
        """
        own = replace(self, further=()).to_table()
        fields = {name: "on" if value is True else value for name, value in own.items()}
        for area, there in self.further:
            fields |= {on_area(area, name): value for name, value in there.to_fields().items()}
        return fields

    @classmethod
    def is_field(cls, name: str, areas: Collection[str] = ()) -> bool:
        """Whether a form field of this name is one of a setting on a product with these further areas.

        >>> [Setting.is_field(n, ["back"]) for n in ("height_mm", "on.back.height_mm", "on.edge.height_mm")]
        [True, True, False]
        """
        return name in cls.names() or any(area in areas for area, _, _ in _on_areas({name: ""}))

    def there(self, area: str) -> Setting:
        """What is set otherwise on a further area."""
        return next((own for name, own in self.further if name == area), AS_THE_PRODUCT)

    def changed(self, changes: Mapping[str, Any]) -> Setting:
        """With other values, by the names of its fields.

        >>> Setting(height_mm=4.0).changed({"height_mm": 5.0, "on.back.depth_mm": 0.4}).to_table()
        {'height_mm': 5.0, 'further': {'back': {'depth_mm': 0.4}}}
        """
        areas = dict(self.further)
        for area, name, value in _on_areas(changes):
            areas[area] = replace(areas.get(area, AS_THE_PRODUCT), **{name: value})
        own = {name: value for name, value in changes.items() if not name.startswith(_ON)}
        return replace(self, further=_by_area(areas), **own)

    @classmethod
    def read(cls, given: Mapping[str, str]) -> Setting:
        """From the text of form fields; empty fields leave the product's own.

        Raises
        ------
        AdjustmentError : a value is no number, out of bounds or unknown; names the field
        """
        areas: dict[str, dict[str, str]] = {}
        for area, name, text in _on_areas(given):
            if name in ON_AREA:
                areas.setdefault(area, {})[name] = text
        numbers: dict[str, Any] = {
            name: typed_number(given.get(name, ""), unit_of(name), low=low, high=high, label=LABELS[name])
            for name, (low, high) in BOUNDS.items()
        }
        amount, shape = numbers.pop("shape_amount"), given.get("shape", "")
        if not shape and given.get("shape_amount", "").strip():
            raise AdjustmentError(
                "“How much” says how far lettering is bent: choose its form beside it, or clear the number."
            )
        shape = _one_of(shape, SHAPES, "form")
        if shape:
            amount = SHAPES[shape][1] if amount is None or shape == "straight" else amount
        return cls(
            **{name: value for name, value in numbers.items() if value is not None},
            typeface=given.get("typeface", "")[:_LONGEST_WORD],
            material=given.get("material", "")[:_LONGEST_WORD],
            finish=given.get("finish", "")[:_LONGEST_WORD],
            second=given.get("second", "").strip()[:_LONGEST_SECOND] or None,
            most_lines=_count(given.get("most_lines", ""), MOST_LINES, "a wording stands in {} lines"),
            breaks=_line_parts(given.get("breaks", "")),
            times=_count(given.get("times", ""), MOST_TIMES, "a wording stands {} times around"),
            shape=shape,
            shape_amount=amount if shape else None,
            one_piece=_one_of(given.get("one_piece", ""), TIES, "way to tie parts"),
            gaps=_one_of(given.get("gaps", ""), GAPS, "way with narrow slits"),
            treatment=_one_of(given.get("treatment", ""), TREATMENTS, "treatment"),
            direction=_one_of(given.get("direction", ""), DIRECTIONS, "direction"),
            size=" ".join(given.get("size", "").split())[:_LONGEST_SIZE],
            **{flag: given.get(flag, "") == "on" for flag in ("without_second", "upside_down", "capitals")},
            further=_by_area({area: cls._read_there(area, fields) for area, fields in areas.items()}),
        )

    @classmethod
    def _read_there(cls, area: str, given: Mapping[str, str]) -> Setting:
        try:
            return cls.read(given)
        except AdjustmentError as error:
            raise AdjustmentError(f"On the {area[:_LONGEST_WORD]}: {error}") from error

    def on(self, product: Product) -> Product:
        """The product as one piece is set.

        Any typeface that there is may be set; one of the shop's own is known to whoever has its file. Words
        for material and finish that it no longer offers are passed over.

        Raises
        ------
        AdjustmentError : there can be no such blank
        """
        words = {Word.MATERIAL: self.material, Word.FINISH: self.finish}
        chosen = {w: code for w, code in words.items() if code in product.choices(w)}
        if self.typeface in shipped_typeface_codes() or self.typeface.startswith(_OWN_TYPEFACE):
            chosen[Word.TYPEFACE] = self.typeface
        product = product.chosen(chosen)
        if self.breaks:
            # Who says where lines are broken wants them neither joined nor broken otherwise.
            product = replace(product, wording=replace(product.wording, line_breaks="kept"))
        return replace(
            product,
            plan=self._on_plan(product.plan),
            soundness=self._on_soundness(product.soundness),
            arrangement=self._on_arrangement(product.arrangement, product.treatment),
            treatment=self._on_treatment(product.treatment),
            blank=blank_as_set(product.blank, thickness_mm=self.body_mm, width_mm=self.band_mm),
            also=tuple(self.there(further.area)._on_further(further) for further in product.also),
        )

    def _on_further(self, further: FurtherArea) -> FurtherArea:
        if self == AS_THE_PRODUCT:
            return further
        return replace(
            further,
            # A shop's own typeface comes with a wording, not with an area.
            typeface=self.typeface if self.typeface in shipped_typeface_codes() else further.typeface,
            plan=self._on_plan(further.plan),
            soundness=self._on_soundness(further.soundness),
            arrangement=self._on_arrangement(further.arrangement, further.treatment),
            treatment=self._on_treatment(further.treatment),
        )

    def _on_treatment(self, treatment: Treatment) -> Treatment:
        return _as_deep(_treated(treatment, self.treatment), self.depth_mm)

    def _on_plan(self, plan: FitPlan) -> FitPlan:
        if self.height_mm is not None:
            # What the product allows stays the limit: a piece that is set lower is held for it.
            lowest = plan.lowest_height_mm if Step.LOWER in plan.steps else plan.greatest_height_mm
            plan = replace(plan, greatest_height_mm=self.height_mm, lowest_height_mm=lowest)
        if self.lowest_mm is not None:
            # Stricter than the product, never looser.
            lowest = max(plan.lowest_height_mm, self.lowest_mm)
            plan = replace(
                plan, lowest_height_mm=lowest, greatest_height_mm=max(plan.greatest_height_mm, lowest)
            )
        if self.tracking is not None:
            plan = replace(plan, tracking=self.tracking, tightest=min(plan.tightest, self.tracking))
        if self.tightest is not None:
            plan = replace(
                plan,
                tightest=min(self.tightest, plan.tracking),
                steps=_with(plan.steps, Step.TIGHTEN, self.tightest < plan.tracking),
            )
        if self.most_lines is not None:
            plan = replace(
                plan, most_lines=self.most_lines, steps=_with(plan.steps, Step.BREAK, self.most_lines > 1)
            )
        if self.breaks:
            plan = replace(plan, steps=_with(plan.steps, Step.BREAK, False))
        if self.narrowest is not None:
            plan = replace(
                plan, narrowest=self.narrowest, steps=_with(plan.steps, Step.CONDENSE, self.narrowest < 1.0)
            )
        return plan if self.leading is None else replace(plan, leading=self.leading)

    def _on_soundness(self, soundness: Soundness) -> Soundness:
        changed: dict[str, Any] = {
            name: value for name in ("bridge_mm", "overlap_mm") if (value := getattr(self, name)) is not None
        }
        if self.thicken_by_mm is not None:
            by = self.thicken_by_mm
            changed |= {"thicken": "all over" if by else "never", "thicken_by_mm": by}
        if self.one_piece:
            changed["one_piece"] = self.one_piece
        if self.gaps:
            changed["gaps"] = self.gaps
        return replace(soundness, **changed)

    def _on_arrangement(self, arrangement: Arrangement, treatment: Treatment) -> Arrangement:
        if self.shape:
            shape = _shape(self.shape, self.shape_amount or 0.0, before=arrangement.shape)
            arrangement = replace(arrangement, shape=shape)
        if self.times is not None:
            arrangement = replace(
                arrangement, turn=ONE_TURN if self.times == 1 else Repeated(times=self.times)
            )
        if self.upside_down:
            arrangement = replace(arrangement, upside_down=not arrangement.upside_down)
        if self.word_space is not None:
            arrangement = replace(arrangement, word_space=self.word_space)
        if self.direction:
            vertical = self.direction == "top to bottom"
            arrangement = replace(
                arrangement, vertical=vertical, direction="" if vertical else self.direction
            )
        if isinstance(treatment, CutOut):
            # Lettering that is the piece stands nowhere but where it is.
            return arrangement
        moved = {
            name: getattr(arrangement, name) + value
            for name in ("along_mm", "across_mm", "turned_deg")
            if (value := getattr(self, name)) is not None
        }
        return replace(arrangement, **moved)

    @property
    def line_parts(self) -> tuple[int, ...]:
        """How many parts of the wording stand on each line; none where that is the fit plan's to say."""
        return tuple(int(part) for part in self.breaks.split())

    def is_broken(self, wording: str) -> bool:
        """Whether a wording has the parts that are set line by line; it may have been another one then."""
        return bool(self.breaks) and broken_at(wording, self.line_parts) is not None

    def lines_of(self, wording: str) -> str:
        """The wording in the lines that are set, where it has so many parts."""
        return (broken_at(wording, self.line_parts) if self.breaks else None) or wording

    def words_of(self, wording: str, language: str = "") -> str:
        """The wording as it is set."""
        return in_capitals(wording, language) if self.capitals else wording

    def size_of(self, product: Product, received: RingSize | None) -> RingSize | None:
        """The size of a piece; what has no sizes has none whatever is set.

        Raises
        ------
        AdjustmentError : what is set is no size
        """
        if not self.size or product.size_system is None:
            return received
        try:
            return product.read_size(self.size)
        except SizeError as error:
            raise AdjustmentError(f"Size: {error}") from error

    def second_of(self, received: str) -> str:
        """The second wording of a piece."""
        if self.without_second:
            return ""
        return received if self.second is None else self.second


#: Fields of a further area begin so, and then comes its name.
_ON = "on."


def on_area(area: str, name: str) -> str:
    """The name of a field of a further area."""
    return f"{_ON}{area}.{name}"


def _on_areas(given: Mapping[str, Any]) -> Iterator[tuple[str, str, Any]]:
    """Area, name and value of the fields of further areas."""
    for field, value in given.items():
        area, _, name = field.removeprefix(_ON).rpartition(".")
        if field.startswith(_ON) and area:
            yield area, name, value


def _by_area(areas: Mapping[str, Setting]) -> tuple[tuple[str, Setting], ...]:
    return tuple(sorted((area, own) for area, own in areas.items() if own != AS_THE_PRODUCT))


#: What the codes of typefaces begin with that a shop added.
_OWN_TYPEFACE = "own-"
#: Nothing is set otherwise.
AS_THE_PRODUCT = Setting()


def _with(steps: tuple[Step, ...], step: Step, wanted: bool) -> tuple[Step, ...]:
    """The steps with one more at their end, or without it."""
    if not wanted:
        return tuple(s for s in steps if s is not step)
    return steps if step in steps else (*steps, step)


def depth_of(treatment: Treatment) -> float | None:
    """How deep lettering is cut, how high it stands, how thick it is cut out; None where it has no depth."""
    if isinstance(treatment, Engraved | InRecess):
        return treatment.depth_mm
    if isinstance(treatment, Raised):
        return treatment.height_mm
    return treatment.thickness_mm if isinstance(treatment, CutOut) else None


#: What lettering is that a product treats otherwise, mm (common practice, no source).
_USUAL_DEPTH_MM, _USUAL_ROOT_MM = 0.4, 0.3


def _treated(treatment: Treatment, kind: str) -> Treatment:
    """Another treatment as deep as the product's own; what is cut out of nothing stays as it is."""
    if kind in ("", treatment.kind) or isinstance(treatment, CutOut):
        return treatment
    depth_mm = depth_of(treatment) or _USUAL_DEPTH_MM
    if kind == "engraved":
        return Engraved(depth_mm=depth_mm)
    if kind == "raised":
        return Raised(height_mm=depth_mm, root_mm=_USUAL_ROOT_MM)
    return Pierced() if kind == "pierced" else Scored()


def _as_deep(treatment: Treatment, depth_mm: float | None) -> Treatment:
    if depth_mm is None:
        return treatment
    if isinstance(treatment, Engraved | InRecess):
        return replace(treatment, depth_mm=depth_mm)
    if isinstance(treatment, Raised):
        return replace(treatment, height_mm=depth_mm)
    return replace(treatment, thickness_mm=depth_mm) if isinstance(treatment, CutOut) else treatment


def _count(text: str, most: int, said: str) -> int | None:
    if not text.strip():
        return None
    if not (text.isascii() and text.isdigit() and 1 <= int(text[:4]) <= most):
        raise AdjustmentError(f"“{text[:20]}”: {said.format(f'1 to {most}')}.")
    return int(text)


def _line_parts(text: str) -> str:
    parts = text.split()
    if len(parts) > MOST_LINES or not all(re.fullmatch(r"[1-9][0-9]?", part) for part in parts):
        raise AdjustmentError(
            f"“{text[:20]}”: say how many words stand on each line, “2 1”, on {MOST_LINES} lines at most."
        )
    return " ".join(parts)


def _one_of(text: str, known: Mapping[str, Any] | tuple[str, ...], what: str) -> str:
    if text and text not in known:
        raise AdjustmentError(f"There is no {what} “{text[:30]}”; choose {', '.join(known)}.")
    return text


def _shape(name: str, amount: float, *, before: LetterShape) -> LetterShape:
    if name in ("on an arc", "on a hanging arc"):
        return Arc(radius_mm=max(amount, 1.0), hollow=name == "on a hanging arc")
    if name == "arched":
        return Arched(rise=amount / 100.0)
    if name in ("round", "oval", "diamond", "heart"):
        filled = Filled(outline=name, width=max(amount / 100.0, 0.3))  # type: ignore[arg-type]
        # How far letters may be stretched is the product's to say.
        return replace(filled, most_stretch=before.most_stretch) if isinstance(before, Filled) else filled
    return STRAIGHT

"""How one piece is set otherwise than its product: a value that can be kept, compared, told and taken back.

Nothing is baked in: leaving a value out brings the product's own back. Limits stand out of its reach.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from typing import Any

from kizami.as_made.treatment import CutOut, Engraved, InRecess, Pierced, Raised, Scored, Treatment
from kizami.errors import AdjustmentError, SizeError
from kizami.lettering.arrangement import Arrangement
from kizami.lettering.capitals import in_capitals
from kizami.lettering.fit_plan import FitPlan, Step
from kizami.lettering.round_about import ONE_TURN, Repeated
from kizami.lettering.shapes import STRAIGHT, Arc, Arched, Filled, LetterShape
from kizami.lettering.shipped import shipped_typeface_codes
from kizami.outlines.soundness import Soundness
from kizami.products.product import Product, Word
from kizami.setting.on_blank import blank_as_set
from kizami.setting.typed import typed_number, unit_of
from kizami.sizes import RingSize

__all__ = [
    "AS_THE_PRODUCT",
    "BOUNDS",
    "DIRECTIONS",
    "GAPS",
    "LABELS",
    "MOST_LINES",
    "MOST_TIMES",
    "SHAPES",
    "TIES",
    "TREATMENTS",
    "Setting",
    "depth_of",
]

#: Bounds of what may be set, shown beside the fields.
BOUNDS: dict[str, tuple[float, float]] = {
    "height_mm": (0.5, 100.0),
    "lowest_mm": (0.5, 100.0),
    "tracking": (-0.2, 1.0),
    "tightest": (-0.2, 1.0),
    "narrowest": (0.6, 1.0),
    "leading": (0.8, 4.0),
    "thicken_by_mm": (-0.5, 1.0),
    "shape_amount": (0.1, 500.0),
    "depth_mm": (0.05, 20.0),
    "along_mm": (-200.0, 200.0),
    "across_mm": (-200.0, 200.0),
    "turned_deg": (-180.0, 180.0),
    "bridge_mm": (0.2, 10.0),
    "overlap_mm": (0.0, 5.0),
    "word_space": (-0.5, 3.0),
    "body_mm": (0.3, 40.0),
    "band_mm": (1.0, 30.0),
}
#: What the values are called on screens.
LABELS = {
    "typeface": "Typeface",
    "material": "Material",
    "finish": "Finish",
    "height_mm": "Height at most",
    "lowest_mm": "Height at least",
    "tracking": "Spacing between letters",
    "word_space": "Added between words",
    "tightest": "Tightened down to",
    "narrowest": "Condensed down to",
    "most_lines": "Lines at most",
    "leading": "Line to line",
    "thicken_by_mm": "Thicker by",
    "gaps": "Narrow slits",
    "shape": "Form",
    "shape_amount": "How much",
    "one_piece": "Loose parts",
    "bridge_mm": "Bridges",
    "overlap_mm": "Letters overlap",
    "treatment": "Treatment",
    "depth_mm": "Depth",
    "along_mm": "Moved along",
    "across_mm": "Moved across",
    "turned_deg": "Turned",
    "times": "Times around",
    "upside_down": "The other way up",
    "direction": "Read",
    "size": "Size",
    "body_mm": "Thickness of the blank",
    "band_mm": "Width of the band",
    "capitals": "In capitals",
    "without_second": "Leave out the second wording",
}
#: Forms of lettering by the words of the bench, with what their amount means and a usual value.
SHAPES: dict[str, tuple[str, float]] = {
    "straight": ("", 0.0),
    "on an arc": ("radius, mm", 30.0),
    "on a hanging arc": ("radius, mm", 30.0),
    "arched": ("rise, % of the height", 40.0),
    "round": ("width, % of the height", 100.0),
    "oval": ("width, % of the height", 160.0),
    "diamond": ("width, % of the height", 120.0),
    "heart": ("width, % of the height", 100.0),
}
#: How loose parts may be tied to the rest.
TIES = ("no", "bridges", "base bar", "underline")
#: What may be done with slits that are narrower than the process keeps open.
GAPS = ("as drawn", "opened", "closed")
#: How lettering may meet the body. What is cut out of nothing has no body to be lettered otherwise.
TREATMENTS = ("engraved", "raised", "pierced", "scored")
#: Which way a line of mixed directions is read; as its first letter is where nothing is said.
DIRECTIONS = ("left to right", "right to left", "top to bottom")
MOST_LINES = 4
#: Wordings around a closed area.
MOST_TIMES = 6
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

    @classmethod
    def names(cls) -> tuple[str, ...]:
        """The names of all that may be set."""
        return tuple(field.name for field in fields(cls))

    @classmethod
    def from_table(cls, table: Mapping[str, Any]) -> Setting:
        """From what `to_table` gave; what is no setting any more is passed over: old lines can be made."""
        known = {name: table[name] for name in cls.names() if table.get(name) is not None}
        return cls(**known)

    def to_table(self) -> dict[str, Any]:
        """Plain data, without what is as the product has it.

        >>> Setting(height_mm=4.5).to_table()
        {'height_mm': 4.5}
        """
        return {
            name: value
            for name in self.names()
            if (value := getattr(self, name)) not in (None, "") and value is not False
        }

    def to_fields(self) -> dict[str, Any]:
        """As form fields have it; `read` gives the same setting back."""
        return {name: "on" if value is True else value for name, value in self.to_table().items()}

    @classmethod
    def read(cls, given: Mapping[str, str]) -> Setting:
        """From the text of form fields; empty fields leave the product's own.

        Raises
        ------
        AdjustmentError : a value is no number, out of bounds or unknown; names the field
        """
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
            times=_count(given.get("times", ""), MOST_TIMES, "a wording stands {} times around"),
            shape=shape,
            shape_amount=amount if shape else None,
            one_piece=_one_of(given.get("one_piece", ""), TIES, "way to tie parts"),
            gaps=_one_of(given.get("gaps", ""), GAPS, "way with narrow slits"),
            treatment=_one_of(given.get("treatment", ""), TREATMENTS, "treatment"),
            direction=_one_of(given.get("direction", ""), DIRECTIONS, "direction"),
            size=" ".join(given.get("size", "").split())[:_LONGEST_SIZE],
            **{flag: given.get(flag, "") == "on" for flag in ("without_second", "upside_down", "capitals")},
        )

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
        return replace(
            product,
            plan=self._on_plan(product.plan),
            soundness=self._on_soundness(product.soundness),
            arrangement=self._on_arrangement(product.arrangement, product.treatment),
            treatment=_as_deep(_treated(product.treatment, self.treatment), self.depth_mm),
            blank=blank_as_set(product.blank, thickness_mm=self.body_mm, width_mm=self.band_mm),
        )

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

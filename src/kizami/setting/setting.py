"""How one piece is set otherwise than its product: a value that can be kept, compared, told and taken back.

Nothing is baked in: leaving a value out brings the product's own back. Limits stand out of its reach.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from typing import Any, Literal

from kizami.as_made.treatment import CutOut, Engraved, InRecess, Raised, Treatment
from kizami.errors import AdjustmentError
from kizami.lettering.fit_plan import FitPlan, Step
from kizami.lettering.shapes import STRAIGHT, Arc, Arched, Filled, LetterShape
from kizami.outlines.soundness import Soundness
from kizami.products.product import Product, Word

__all__ = ["AS_THE_PRODUCT", "BOUNDS", "MOST_LINES", "SHAPES", "TIES", "Setting", "depth_of"]

#: Bounds of what may be set, shown beside the fields.
BOUNDS: dict[str, tuple[float, float]] = {
    "height_mm": (0.5, 100.0),
    "tracking": (-0.2, 1.0),
    "narrowest": (0.6, 1.0),
    "thicken_by_mm": (-0.5, 1.0),
    "shape_amount": (0.1, 500.0),
    "depth_mm": (0.05, 20.0),
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
MOST_LINES = 4
#: Characters of a second wording; longer ones fit on nothing that is lettered.
_LONGEST_SECOND = 200
_LONGEST_WORD = 60


@dataclass(frozen=True, kw_only=True, slots=True)
class Setting:
    """What of a piece is set otherwise; None, or "" for words, where the product's own holds.

    Attributes
    ----------
    typeface, material, finish : by code
    second : the second wording; None for the one that was received
    height_mm : cap height at most
    tracking : added between letters, as a share of the cap height
    narrowest : letters may be condensed down to this share of their width
    most_lines : the wording may be broken into so many lines
    thicken_by_mm : strokes are thicker by this on each side, or thinner
    shape, shape_amount : form of the lettering, see `SHAPES`
    one_piece : how loose parts are tied, see `TIES`
    depth_mm : how deep lettering is cut, how high it stands, or how thick it is cut out
    without_second : the second wording is left out
    """

    typeface: str = ""
    material: str = ""
    finish: str = ""
    second: str | None = None
    height_mm: float | None = None
    tracking: float | None = None
    narrowest: float | None = None
    most_lines: int | None = None
    thicken_by_mm: float | None = None
    shape: str = ""
    shape_amount: float | None = None
    one_piece: str = ""
    depth_mm: float | None = None
    without_second: bool = False

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
        numbers: dict[str, Any] = {name: _number(given.get(name, ""), name) for name in BOUNDS}
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
            most_lines=_lines(given.get("most_lines", "")),
            shape=shape,
            shape_amount=amount if shape else None,
            one_piece=_one_of(given.get("one_piece", ""), TIES, "way to tie parts"),
            without_second=given.get("without_second", "") == "on",
        )

    def on(self, product: Product) -> Product:
        """The product as one piece is set. Words that it no longer offers are passed over."""
        words = {word: getattr(self, word.value) for word in _WORDS}
        product = product.chosen({w: code for w, code in words.items() if code in product.choices(w)})
        arrangement = product.arrangement
        if self.shape:
            arrangement = replace(
                arrangement, shape=_shape(self.shape, self.shape_amount or 0.0, before=arrangement.shape)
            )
        return replace(
            product,
            plan=self._on_plan(product.plan),
            soundness=self._on_soundness(product.soundness),
            arrangement=arrangement,
            treatment=_as_deep(product.treatment, self.depth_mm),
        )

    def _on_plan(self, plan: FitPlan) -> FitPlan:
        if self.height_mm is not None:
            # What the product allows stays the limit: a piece that is set lower is held for it.
            lowest = plan.lowest_height_mm if Step.LOWER in plan.steps else plan.greatest_height_mm
            plan = replace(plan, greatest_height_mm=self.height_mm, lowest_height_mm=lowest)
        if self.tracking is not None:
            plan = replace(plan, tracking=self.tracking, tightest=min(plan.tightest, self.tracking))
        if self.most_lines is not None:
            plan = replace(
                plan, most_lines=self.most_lines, steps=_with(plan.steps, Step.BREAK, self.most_lines > 1)
            )
        if self.narrowest is not None:
            plan = replace(
                plan, narrowest=self.narrowest, steps=_with(plan.steps, Step.CONDENSE, self.narrowest < 1.0)
            )
        return plan

    def _on_soundness(self, soundness: Soundness) -> Soundness:
        if self.thicken_by_mm is not None:
            by = self.thicken_by_mm
            soundness = replace(soundness, thicken="all over" if by else "never", thicken_by_mm=by)
        if self.one_piece:
            tie: Literal["no", "bridges", "base bar", "underline"] = self.one_piece  # type: ignore[assignment]
            soundness = replace(soundness, one_piece=tie)
        return soundness

    def second_of(self, received: str) -> str:
        """The second wording of a piece."""
        if self.without_second:
            return ""
        return received if self.second is None else self.second


#: Nothing is set otherwise.
AS_THE_PRODUCT = Setting()
_WORDS = (Word.TYPEFACE, Word.MATERIAL, Word.FINISH)


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


def _as_deep(treatment: Treatment, depth_mm: float | None) -> Treatment:
    if depth_mm is None:
        return treatment
    if isinstance(treatment, Engraved | InRecess):
        return replace(treatment, depth_mm=depth_mm)
    if isinstance(treatment, Raised):
        return replace(treatment, height_mm=depth_mm)
    return replace(treatment, thickness_mm=depth_mm) if isinstance(treatment, CutOut) else treatment


def _number(text: str, name: str) -> float | None:
    text = text.strip().replace(",", ".")
    if not text:
        return None
    low, high = BOUNDS[name]
    try:
        value = float(text)
    except ValueError:
        raise AdjustmentError(f"“{text[:20]}” is not a number.") from None
    if not low <= value <= high:
        raise AdjustmentError(f"{text[:20]} must be from {low:g} to {high:g}.")
    return value


def _lines(text: str) -> int | None:
    if not text.strip():
        return None
    if not (text.isascii() and text.isdigit() and 1 <= int(text[:4]) <= MOST_LINES):
        raise AdjustmentError(f"“{text[:20]}”: a wording stands in 1 to {MOST_LINES} lines.")
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

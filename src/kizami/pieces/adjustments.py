"""What the bench changes on one piece: the product stays, the piece is set otherwise.

Every value is an input like the words themselves: nothing is baked in, and leaving one out again
brings the product's own back.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from kizami.errors import AdjustmentError
from kizami.lettering.fit_plan import Step
from kizami.lettering.shapes import STRAIGHT, Arc, Arched, Filled, LetterShape
from kizami.products.product import Product, Word

__all__ = ["BOUNDS", "SHAPES", "adjusted", "read_adjustments"]

#: Bounds of what the bench may set, shown beside the fields.
BOUNDS: dict[str, tuple[float, float]] = {
    "height_mm": (0.5, 100.0),
    "tracking": (-0.2, 1.0),
    "thicken_by_mm": (-0.5, 1.0),
    "shape_amount": (0.1, 500.0),
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


def read_adjustments(given: Mapping[str, str]) -> dict[str, Any]:
    """Adjustments from the text of form fields; empty fields leave the product's own.

    Raises
    ------
    AdjustmentError : a value is no number, out of bounds or unknown; names the field
    """
    found: dict[str, Any] = {}
    for name in ("height_mm", "tracking", "thicken_by_mm"):
        value = _number(given.get(name, ""), name)
        if value is not None:
            found[name] = value
    shape = given.get("shape", "")
    if not shape and given.get("shape_amount", "").strip():
        raise AdjustmentError(
            "“How much” says how far lettering is bent: choose its form beside it, or clear the number."
        )
    if shape:
        if shape not in SHAPES:
            raise AdjustmentError(f"There is no form “{shape[:30]}”; choose {', '.join(SHAPES)}.")
        amount = _number(given.get("shape_amount", ""), "shape_amount")
        found["shape"] = shape
        found["shape_amount"] = SHAPES[shape][1] if amount is None or shape == "straight" else amount
    for word in (Word.TYPEFACE, Word.MATERIAL, Word.FINISH):
        if given.get(word.value):
            found[word.value] = given[word.value][:60]
    if given.get("second", "").strip():
        found["second"] = given["second"].strip()[:_LONGEST_SECOND]
    return found


#: Characters of a second wording; longer ones fit on nothing that is lettered.
_LONGEST_SECOND = 200


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


def adjusted(product: Product, adjustments: Mapping[str, Any]) -> Product:
    """The product as one piece is set.

    Words that the product no longer offers are passed over, so that an old line can always be made.
    """
    words = {
        word: str(adjustments[word.value])
        for word in (Word.TYPEFACE, Word.MATERIAL, Word.FINISH)
        if adjustments.get(word.value) in product.choices(word)
    }
    product = product.chosen(words)
    plan = product.plan
    if "height_mm" in adjustments:
        height = float(adjustments["height_mm"])
        # What the product allows stays the limit: a piece that is set lower is held for it.
        lowest = plan.lowest_height_mm if Step.LOWER in plan.steps else plan.greatest_height_mm
        plan = replace(plan, greatest_height_mm=height, lowest_height_mm=lowest)
    if "tracking" in adjustments:
        tracking = float(adjustments["tracking"])
        plan = replace(plan, tracking=tracking, tightest=min(plan.tightest, tracking))
    soundness = product.soundness
    if "thicken_by_mm" in adjustments:
        by = float(adjustments["thicken_by_mm"])
        soundness = replace(soundness, thicken="all over" if by else "never", thicken_by_mm=by)
    arrangement = product.arrangement
    if "shape" in adjustments:
        shape = _shape(
            str(adjustments["shape"]), float(adjustments.get("shape_amount", 0.0)), before=arrangement.shape
        )
        arrangement = replace(arrangement, shape=shape)
    return replace(product, plan=plan, soundness=soundness, arrangement=arrangement)


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

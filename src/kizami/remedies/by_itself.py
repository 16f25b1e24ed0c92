"""Remedies that a product takes without asking: only those that it names, and only up to a departure."""

from __future__ import annotations

import math
from dataclasses import replace

from kizami.lettering.layout import FitStep
from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import LaidOut, lay_out
from kizami.pieces.make import Made, as_drawn, make_laid_out
from kizami.products.product import Word
from kizami.remedies.departing import departure
from kizami.remedies.remedy import Remedy
from kizami.remedies.search import search_remedies

__all__ = ["FIELDS", "cured_by_itself", "made_with_remedy", "make_by_itself", "taken_by_itself"]

#: Fields of a setting that each kind of remedy may change.
FIELDS: dict[str, tuple[str, ...]] = {
    "slits": ("gaps",),
    "spacing": ("tracking", "tightest", "leading"),
    "width": ("narrowest",),
    "strokes": ("thicken_by_mm",),
    "height": ("height_mm", "lowest_mm"),
    "lines": ("most_lines", "breaks"),
    "typeface": ("typeface",),
    "loose parts": ("one_piece", "bridge_mm"),
    "depth": ("depth_mm",),
}
#: So many settings are tried, whatever time that takes: the same piece comes out the same everywhere.
_TRIALS = 40


def taken_by_itself(inputs: Inputs, made: Made) -> Remedy | None:
    """The remedy that its product takes by itself for a held piece; None where it takes none.

    Nothing that only the customer can say is ever taken, nor a typeface that the product does not offer.

    Parameters
    ----------
    inputs : of the piece, with its setting
    made : the piece as it is set now
    """
    product = inputs.as_set.product
    plan = product.plan
    if not plan.remedies or made.stage == "ready":
        return None
    if made.laid_out.failing:
        # What its drawing is held for is cured first, whether anybody built the piece by now or not.
        made = as_drawn(made.laid_out)
    may_change = frozenset(field for kind in plan.remedies for field in FIELDS[kind])
    found = search_remedies(
        inputs, made, seconds=math.inf, most=1, trials=_TRIALS, may_change=may_change, with_nearest=False
    ).cures
    for remedy in found:
        typeface = remedy.setting.typeface
        offered = not typeface or typeface in inputs.product.choices(Word.TYPEFACE)
        further = departure(inputs, remedy.made.laid_out) - departure(inputs, made.laid_out)
        if offered and max(remedy.cost, further) <= plan.most_departure + 1e-9 and not remedy.asks:
            return _told(remedy)
    return None


def made_with_remedy(inputs: Inputs, laid_out: LaidOut | None = None) -> tuple[Made, Remedy | None]:
    """A piece, with the remedy that its product takes by itself where it does.

    Parameters
    ----------
    laid_out : what `lay_out` gives for these inputs, for whoever has it already
    """
    laid_out = lay_out(inputs) if laid_out is None else laid_out
    made = None if laid_out.failing else make_laid_out(laid_out)
    remedy = taken_by_itself(inputs, made or as_drawn(laid_out))
    if remedy is not None:
        return remedy.made, remedy
    return made or make_laid_out(laid_out), None


def make_by_itself(inputs: Inputs, laid_out: LaidOut | None = None) -> Made:
    """A piece as its product makes it by itself, which its steps tell."""
    made, _ = made_with_remedy(inputs, laid_out)
    return made


def cured_by_itself(inputs: Inputs) -> bool:
    """Whether a piece is ready once its product has done what it does by itself."""
    return make_by_itself(inputs).stage == "ready"


def _told(remedy: Remedy) -> Remedy:
    """With what was done told like every other step of the fit plan."""
    laid = remedy.made.laid_out
    said = f"{'; '.join(remedy.said)}, taken by itself; departs by {remedy.cost:.2f}"
    step = FitStep(name="remedy", said=said, height_mm=laid.layout.height_mm)
    layout = replace(laid.layout, steps=(*laid.layout.steps, step))
    told = replace(laid, made=replace(laid.made, layout=layout))
    return replace(remedy, made=replace(remedy.made, laid_out=told))

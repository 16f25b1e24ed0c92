"""What may be tried to make wording fit: the ordered steps that a product allows, each with its bound."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

__all__ = ["HEIGHT_STEP_MM", "SMALLEST_TRIED_MM", "FitPlan", "Step", "check_fit_plan"]

#: The steps a bench would use, so that near-equal pieces come out equal.
HEIGHT_STEP_MM = 0.05
#: The search goes on below the lowest allowed height, to be able to say what would fit.
SMALLEST_TRIED_MM = 0.5


class Step(Enum):
    """Steps of a fit plan, by the words that products use for them."""

    TIGHTEN = "tighten"
    LOWER = "lower"
    CONDENSE = "condense"
    BREAK = "break"
    LEAVE_OUT = "leave out"
    BOLDER = "bolder"

    @property
    def is_gradual(self) -> bool:
        """Turns a value bit by bit, where the others choose another setting."""
        return self in (Step.TIGHTEN, Step.LOWER, Step.CONDENSE)


@dataclass(frozen=True, kw_only=True, slots=True)
class FitPlan:
    """The steps that are tried in order until the wording keeps its clearance, and their bounds.

    Attributes
    ----------
    greatest_height_mm : cap height to start from
    lowest_height_mm : a piece that needs less is held for a person
    clearance_mm : wanted distance from edges and keep-outs
    tracking : added between letters, as a share of the cap height
    steps : in the order in which they are tried
    tightest : bound of “tighten”, tracking as a share of the cap height
    narrowest : bound of “condense”, width as a share of the natural one
    most_lines : bound of “break”
    leading : from line to line, in cap heights
    bolder_lowest_height_mm : lowest height of the bolder cut, for “bolder”
    remedies : kinds of remedies that are taken without asking when a piece would be held, see
        `kizami.remedies.by_itself`
    most_departure : a remedy that departs by more is for a person
    exact_width_mm, exact_height_mm : the outlines are made exactly this wide, or this high, whatever
        cap height that gives; 0 is free, and only one of the two may be fixed
    """

    greatest_height_mm: float
    lowest_height_mm: float
    clearance_mm: float
    tracking: float = 0.0
    steps: tuple[Step, ...] = (Step.LOWER, Step.LEAVE_OUT)
    tightest: float = 0.0
    narrowest: float = 1.0
    most_lines: int = 1
    leading: float = 1.5
    bolder_lowest_height_mm: float = 0.0
    exact_width_mm: float = 0.0
    exact_height_mm: float = 0.0
    remedies: tuple[str, ...] = ()
    most_departure: float = 0.0

    @property
    def is_exact(self) -> bool:
        """One measure of the outlines is fixed, so that nothing is searched."""
        return bool(self.exact_width_mm or self.exact_height_mm)


def check_fit_plan(plan: FitPlan) -> str:
    """What is wrong with a plan, or ""."""
    if plan.lowest_height_mm > plan.greatest_height_mm:
        return "lowest_height_mm is above greatest_height_mm"
    if plan.exact_width_mm and plan.exact_height_mm:
        return "exact_width_mm and exact_height_mm can't both be fixed: letters keep their proportions"
    if len(set(plan.steps)) != len(plan.steps):
        return "a step stands twice"
    if Step.TIGHTEN in plan.steps and plan.tightest > plan.tracking:
        return "tightest is above tracking, so there is nothing to tighten"
    if Step.BREAK in plan.steps and plan.most_lines < 2:
        return "most_lines must be 2 or more for the step “break”"
    if Step.CONDENSE in plan.steps and not plan.narrowest < 1.0:
        return "narrowest must be below 1 for the step “condense”"
    if Step.BOLDER in plan.steps and not 0 < plan.bolder_lowest_height_mm <= plan.greatest_height_mm:
        return "bolder_lowest_height_mm must be given, up to greatest_height_mm, for the step “bolder”"
    if plan.remedies and not plan.most_departure > 0.0:
        return "most_departure must say how far a remedy may depart that is taken without asking"
    return ""

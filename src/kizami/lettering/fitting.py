"""The fit plan at work: the largest lettering that keeps its clearance, found on the real outlines.

A setting is one way of setting the wording: on one line or several, with its second part or
without, in the typeface asked for or in its bolder cut. Settings are tried in the plan's order.
Within each the gradual steps turn one value after the other, each only as far as is needed.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import replace

import shapely

from kizami.artwork.artwork import Artwork
from kizami.blanks.area import Area
from kizami.lettering.arrangement import Arrangement
from kizami.lettering.capitals import in_capitals
from kizami.lettering.fit_plan import HEIGHT_STEP_MM, SMALLEST_TRIED_MM, FitPlan, Step
from kizami.lettering.layout import FitStep, Layout, PlacedMark
from kizami.lettering.line_breaks import best_breaks
from kizami.lettering.placing import Placing
from kizami.lettering.request import Recess, Request, Setting, Values, whole_steps
from kizami.lettering.shapes import Filled
from kizami.lettering.typeface import glyph_in_mm, join_shapes

__all__ = ["Recess", "Request", "fit", "settings_that_fit"]

_TRACKING_STEP, _WIDTH_STEP = 0.01, 0.01
#: So many times a height is guessed before it is halved.
_GUESSES = 3
#: What does not fit, though by no length that can be told, mm.
_HARDLY_MM = 0.01


def fit(request: Request, *, area: Area, plan: FitPlan, sagitta_mm: float, thicker_mm: float = 0.0) -> Layout:
    """Set wording as large as the plan and the area allow: the first of `settings_that_fit`."""
    return next(
        settings_that_fit(request, area=area, plan=plan, sagitta_mm=sagitta_mm, thicker_mm=thicker_mm)
    )


def settings_that_fit(
    request: Request,
    *,
    area: Area,
    plan: FitPlan,
    sagitta_mm: float,
    thicker_mm: float = 0.0,
    recess: Recess | None = None,
) -> Iterator[Layout]:
    """Wording as large as the plan and the area allow, set in every way that fits, in the plan's order.

    The cap height is a multiple of 0.05 mm. Whether a setting fits is tested on the flattened
    outlines themselves against the area less its clearance, so an ascender may pass beside a
    hole that its box would touch. Its outlines are centred both ways on the anchor.

    Each way is worked out only when it is asked for: whoever finds a layout sound asks no further.

    Parameters
    ----------
    sagitta_mm : chord tolerance of the outlines at the height they are made
    thicker_mm : outlines will be thickened by this much all round, which takes its room
    recess : that is cut around the lettering, and must have room too

    Returns
    -------
    At least one layout; where nothing fits, one that comes nearest, whose `fits` is False when the
    clearance is not kept even at 0.5 mm
    """
    request, said = _as_the_shape_asks(request)
    bench = _Search(Placing(request, area, plan, sagitta_mm=sagitta_mm, thicker_mm=thicker_mm, recess=recess))
    nearest: tuple[float, Setting, Values] | None = None
    lacking: list[tuple[Setting, Values]] = []
    found_any = False
    for candidate in _candidates(request, plan, said):
        values, found = bench.search(candidate)
        if found:
            if not bench.placing.missing(candidate):
                found_any = True
                yield bench.layout(candidate, values, fits=True)
            else:
                # A later candidate may do without the character that is missing.
                lacking.append((candidate, values))
            continue
        below = bench.below(candidate, values)
        if below is not None and (nearest is None or below.height / candidate.lowest_mm > nearest[0]):
            nearest = (below.height / candidate.lowest_mm, candidate, below)
    if found_any:
        return
    if lacking:
        yield bench.layout(*lacking[0], fits=True)
    elif nearest is not None:
        yield bench.layout(nearest[1], nearest[2], fits=True)
    else:
        yield bench.not_fitting(next(_candidates(request, plan, said)))


def _as_the_shape_asks(request: Request) -> tuple[Request, tuple[tuple[str, str], ...]]:
    """A request in capitals where letters fill an outline, and what is said of it."""
    arrangement = request.arrangement
    shape = arrangement.shape
    if not isinstance(shape, Filled) or not shape.capitals:
        return request, ()
    text, second = (in_capitals(t, arrangement.language) for t in (request.text, request.second))
    if (text, second) == (request.text, request.second):
        return request, ()
    said = (("capitals", "set in capitals, which fill the outline from edge to edge"),)
    return replace(request, text=text, second=second), said


def _candidates(
    request: Request, plan: FitPlan, always_said: tuple[tuple[str, str], ...] = ()
) -> Iterator[Setting]:
    """Settings in the order in which the plan tries them, the least given up first."""
    both = (
        f"{request.text}{request.joint}{request.second}" if request.second and request.text else request.text
    )
    # A plan that may not lower the height allows none but the greatest.
    may_lower = Step.LOWER in plan.steps or plan.is_exact
    lowest_mm = plan.lowest_height_mm
    if not may_lower:
        lowest_mm = max(lowest_mm, plan.greatest_height_mm)

    def plain(text: str, said: tuple[tuple[str, str], ...] = ()) -> Setting:
        lines, start = [], 0
        for line in text.split("\n"):
            lines.append((start, line))
            start += len(line) + 1
        return Setting(
            text=text,
            lines=tuple(lines),
            typeface=request.typeface,
            lowest_mm=lowest_mm,
            said=(*always_said, *said),
        )

    tried = [plain(both)]
    yield tried[0]
    breaks_allowed = False
    for step in plan.steps:
        fresh: list[Setting] = []
        if step is Step.BREAK:
            breaks_allowed = True
            fresh = _broken(tried[-1], plan, request.arrangement)
            if request.may_rejoin and "\n" in request.text:
                said = ((step.value, "the lines that the customer wrote were undone"),)
                one = plain(both.replace("\n", " "), said)
                # What is broken anew may come out as it was written, and that was tried already.
                anew = (c for c in _broken(one, plan, request.arrangement) if c.lines != tried[0].lines)
                fresh = [one, *anew]
        elif step is Step.LEAVE_OUT and both != request.text:
            said = ((step.value, f"“{request.second}” was left out, as there is no room for it"),)
            alone = plain(request.text, said)
            fresh = [alone, *(_broken(alone, plan, request.arrangement) if breaks_allowed else [])]
        elif step is Step.BOLDER and request.bolder is not None:
            bolder = request.bolder
            fresh = [
                replace(
                    c,
                    typeface=bolder,
                    lowest_mm=plan.bolder_lowest_height_mm,
                    said=(*c.said, (step.value, f"set in {bolder.name}, which holds when it is smaller")),
                )
                for c in tried
            ]
        tried.extend(fresh)
        yield from fresh


def _broken(candidate: Setting, plan: FitPlan, arrangement: Arrangement) -> list[Setting]:
    if len(candidate.lines) > 1:
        return []
    out = []
    for count in range(2, plan.most_lines + 1):
        lines = best_breaks(candidate.text, count, candidate.typeface, arrangement.style(plan.tracking))
        if lines is None:
            break
        said = (*candidate.said, (Step.BREAK.value, f"broken into {count} lines"))
        out.append(replace(candidate, lines=lines, said=said))
    return out


class _Search:
    """The search for one request: turns the values of a setting until it fits."""

    def __init__(self, placing: Placing) -> None:
        self.placing, self.plan = placing, placing.plan

    def search(self, candidate: Setting) -> tuple[Values, bool]:
        """Turn the gradual values in the plan's order until the candidate fits, and fills its turn."""
        values, found = self._fitted(candidate)
        return (self._filling(candidate, values) if found else values), found

    def _filling(self, candidate: Setting, values: Values) -> Values:
        """Lower, where spread wording would stand too far apart and, lower, stands once more around.

        Between once and twice around there are heights that no filling suits.
        """
        placing = self.placing
        if not placing.is_too_far_apart(candidate, values) or Step.LOWER not in self.plan.steps:
            return values
        for height in range(math.floor(values.height), _steps_up(candidate.lowest_mm) - 1, -1):
            lower = replace(values, height=height)
            if not placing.is_too_far_apart(candidate, lower) and placing.fits(candidate, lower):
                return lower
        return values

    def _fitted(self, candidate: Setting) -> tuple[Values, bool]:
        """Turn the gradual values in the plan's order until the candidate fits."""
        plan = self.plan
        # A product's own height is tried as it is, even between two steps; what is searched is in steps.
        values = Values(tracking=plan.tracking, width=1.0, height=plan.greatest_height_mm / HEIGHT_STEP_MM)
        if plan.is_exact:
            return self._exact(candidate, values)
        if self.placing.fits(candidate, values):
            return values, True
        for step in plan.steps:
            if step is Step.TIGHTEN and not self.placing.is_spread:
                trackings = _down(plan.tracking, plan.tightest, _TRACKING_STEP)
                values, found = self._gentlest(candidate, [replace(values, tracking=t) for t in trackings])
            elif step is Step.CONDENSE:
                widths = _down(1.0, plan.narrowest, _WIDTH_STEP)
                values, found = self._gentlest(candidate, [replace(values, width=w) for w in widths])
            elif step is Step.LOWER or (step is Step.BOLDER and self._is_bolder(candidate)):
                # A bolder cut is there to be smaller, whether or not the plain one may be.
                values, found = self._lowered(candidate, values, _steps_up(candidate.lowest_mm))
            else:
                continue
            if found:
                return self._relaxed(candidate, values), True
        return values, False

    def _is_bolder(self, candidate: Setting) -> bool:
        return candidate.typeface is self.placing.request.bolder

    def below(self, candidate: Setting, values: Values) -> Values | None:
        """What would fit if the lettering might be lower than the plan allows, or None."""
        if self.plan.is_exact:
            return None
        found, fits = self._lowered(
            candidate, values, whole_steps(min(SMALLEST_TRIED_MM, candidate.lowest_mm))
        )
        return found if fits else None

    def _gentlest(self, candidate: Setting, ladder: list[Values]) -> tuple[Values, bool]:
        """The first rung that fits; the last one with False when none does."""
        if not self.placing.fits(candidate, ladder[-1]):
            return ladder[-1], False
        low, high = 0, len(ladder) - 1
        while low < high:
            middle = (low + high) // 2
            if self.placing.fits(candidate, ladder[middle]):
                high = middle
            else:
                low = middle + 1
        return ladder[high], True

    def _lowered(self, candidate: Setting, values: Values, lowest: int) -> tuple[Values, bool]:
        """The largest height from `lowest` up that fits."""
        fits = self.placing.fits

        def at(height: int) -> Values:
            return replace(values, height=height)

        highest = math.floor(values.height + 1e-9)
        if not self.placing.is_turned:
            highest = min(highest, self.placing.box_bound(candidate, values))
        if highest < lowest:
            return replace(values, height=min(lowest, values.height)), False
        if fits(candidate, at(highest)):
            return at(highest), True
        low, high = self._near(candidate, at, lowest, highest)
        if low is None:
            if not fits(candidate, at(lowest)):
                return replace(values, height=min(lowest, values.height)), False
            low = lowest
        while high - low > 1:
            middle = (low + high) // 2
            if fits(candidate, at(middle)):
                low = middle
            else:
                high = middle
        return at(low), True

    def _near(
        self, candidate: Setting, at: Callable[[int], Values], lowest: int, high: int
    ) -> tuple[int | None, int]:
        """A height that fits, or None where none was come upon, and a higher one that does not.

        What changes its form with its height is dear to try, and the box of its room tells very nearly how
        high it may be; what only grows is tried in no time.
        """
        placing = self.placing
        if placing.is_spread or not placing.is_turned:
            return None, high
        for _ in range(_GUESSES):
            guess = min(placing.height_in_the_box(candidate, at(high)), high - 1)
            if guess <= lowest:
                break
            if placing.fits(candidate, at(guess)):
                if guess + 1 < high and not placing.fits(candidate, at(guess + 1)):
                    high = guess + 1
                return guess, high
            high = guess
        return None, high

    def _relaxed(self, candidate: Setting, values: Values) -> Values:
        """Give spacing and width back what a later step has made needless."""
        plan = self.plan
        if values.width < 1.0:
            ladder = [replace(values, width=w) for w in _down(1.0, values.width, _WIDTH_STEP)]
            values, _ = self._gentlest(candidate, ladder)
        if values.tracking < plan.tracking:
            ladder = [
                replace(values, tracking=t) for t in _down(plan.tracking, values.tracking, _TRACKING_STEP)
            ]
            values, _ = self._gentlest(candidate, ladder)
        return values

    def _exact(self, candidate: Setting, values: Values) -> tuple[Values, bool]:
        """The height at which the outlines measure what the product fixes; not in bench steps."""
        unit = self.placing.unit(candidate, values)
        if unit.outlines.is_empty:
            return values, False
        plan = self.plan
        wanted, half = (
            (plan.exact_width_mm, unit.half_box[0])
            if plan.exact_width_mm
            else (plan.exact_height_mm, unit.half_box[1])
        )
        height = float(wanted / (2.0 * half))
        values = replace(values, height=height / HEIGHT_STEP_MM)
        in_bounds = candidate.lowest_mm <= height <= self.plan.greatest_height_mm
        return values, in_bounds and self.placing.fits(candidate, values)

    def not_fitting(self, candidate: Setting) -> Layout:
        """The layout of a candidate that has no room at any height, and by how much it has none."""
        plan = self.plan
        if plan.is_exact:
            values, _ = self.search(candidate)
        else:
            lowest = whole_steps(min(SMALLEST_TRIED_MM, plan.lowest_height_mm))
            values = Values(tracking=plan.tracking, width=1.0, height=lowest)
        layout = self.layout(candidate, values, fits=False)
        if layout.is_empty:
            return layout
        beyond = self.placing.beyond_mm(layout.outlines)
        said = f"it reaches {beyond:.2f} mm beyond the room that it has"
        if not beyond:
            too_high = layout.height_mm - plan.greatest_height_mm
            beyond = max(too_high, _HARDLY_MM)
            said = (
                f"its capitals are {layout.height_mm:.2f} mm high, where the product allows "
                f"{plan.greatest_height_mm:.2f} mm"
                if too_high > 0
                else "its letters stand nearer to each other than the product allows"
            )
        return replace(layout, beyond_mm=beyond, beyond_said=said)

    def layout(self, candidate: Setting, values: Values, *, fits: bool) -> Layout:
        """The finished layout of a candidate."""
        missing = self.placing.missing(candidate)
        drawn, marks, stretch = self.placing.placed(candidate, values)
        shapes = [self._in_form(mark, shape) for mark, shape in zip(marks, drawn, strict=True)]
        outlines = join_shapes([s for s in shapes if not s.is_empty])
        if outlines.is_empty:
            return self._empty(candidate, missing)
        height = values.height_mm
        return Layout(
            # Right round, a separator may have come in or a shared letter gone.
            text=self.placing.block(candidate, values).text,
            height_mm=height,
            lowest_height_mm=candidate.lowest_mm,
            marks=tuple(marks),
            shapes=tuple(shapes),
            outlines=outlines,
            steps=self._steps_taken(candidate, values, height, fits=fits),
            fits=fits,
            missing=missing,
            stretch=stretch,
            tracking=values.tracking,
            width=values.width,
            turn_gap=self.placing.spread_tracking(candidate, values) if self.placing.is_spread else None,
            times=self.placing.times(candidate, values),
        )

    def _in_form(self, mark: PlacedMark, drawn: shapely.MultiPolygon) -> shapely.MultiPolygon:
        """A glyph that is only scaled and moved, in the very form that it has everywhere at this height."""
        if drawn.is_empty or not mark.plain or mark.angle_rad or isinstance(mark.source, Artwork):
            return drawn
        return mark.place(
            glyph_in_mm(mark.source, mark.glyph, scale_mm=mark.scale_mm, sagitta_mm=self.placing.sagitta_mm)
        )

    def _steps_taken(
        self, candidate: Setting, values: Values, height: float, *, fits: bool
    ) -> tuple[FitStep, ...]:
        plan = self.plan
        top = plan.greatest_height_mm / HEIGHT_STEP_MM - 1e-9

        def step(name: str, said: str) -> FitStep:
            return FitStep(name=name, said=said, height_mm=height)

        taken = [
            FitStep(
                name="natural size",
                said=f"tried at the greatest height, {plan.greatest_height_mm:.2f} mm",
                height_mm=plan.greatest_height_mm,
            )
        ]
        taken.extend(step(name, said) for name, said in candidate.said)
        if self.placing.is_spread:
            taken.append(step("spread", self._said_of_turn(candidate, values)))
        elif values.tracking < plan.tracking - 1e-9:
            less = (plan.tracking - values.tracking) * height
            taken.append(step(Step.TIGHTEN.value, f"spacing tightened by {less:.2f} mm a letter"))
        if plan.exact_width_mm:
            taken.append(step("exact width", f"set {plan.exact_width_mm:.2f} mm wide, {height:.2f} mm high"))
        elif plan.exact_height_mm:
            said = f"set {plan.exact_height_mm:.2f} mm high overall, capitals {height:.2f} mm"
            taken.append(step("exact height", said))
        elif values.height < top:
            clear = f"to keep {plan.clearance_mm:.2f} mm clear"
            parted_mm = self.placing.parted_mm(values)
            if parted_mm is not None and parted_mm > plan.clearance_mm:
                clear += f", and {parted_mm:.2f} mm where it comes round to itself"
            taken.append(step(Step.LOWER.value, f"lowered to {height:.2f} mm {clear}"))
        if values.width < 1.0 - 1e-9:
            taken.append(step(Step.CONDENSE.value, f"condensed to {values.width * 100:.0f} % of its width"))
        arrangement = self.placing.request.arrangement
        for is_so, name in ((arrangement.upside_down, "upside down"), (arrangement.mirrored, "mirrored")):
            if is_so:
                taken.append(step(name, f"{name}, as the product asks"))
        if not fits or height < candidate.lowest_mm - 1e-9:
            said = f"below the lowest allowed height, {candidate.lowest_mm:.2f} mm: held for a person"
            taken.append(step("hold", said))
        return tuple(taken)

    def _said_of_turn(self, candidate: Setting, values: Values) -> str:
        added = f"{self.placing.spread_tracking(candidate, values) * values.height_mm:+.2f} mm a gap"
        filling = self.placing.filling(candidate, values)
        if filling.ends:
            return f"set with {added}, the widest allowed; the rest of the turn stays bare"
        if filling.times > 1:
            said = f"set {filling.times} times around, as once its letters would stand too far apart"
        elif filling.ornaments:
            said = (
                f"followed by {filling.ornaments} ornaments, as alone its letters would stand too far apart"
            )
        else:
            said = "spread over the whole turn"
        return f"{said}, {added}"

    def _empty(self, candidate: Setting, missing: tuple[int, ...]) -> Layout:
        said = "nothing to set" if not missing else "the typeface has none of the characters"
        return Layout(
            text=candidate.text,
            height_mm=0.0,
            lowest_height_mm=candidate.lowest_mm,
            marks=(),
            shapes=(),
            outlines=shapely.MultiPolygon(),
            steps=(FitStep(name="hold", said=f"{said}: held for a person", height_mm=0.0),),
            fits=False,
            missing=missing,
        )


def _steps_up(height_mm: float) -> int:
    return math.ceil(height_mm / HEIGHT_STEP_MM - 1e-9)


def _down(start: float, bound: float, step: float) -> list[float]:
    """Rungs from a value down to its bound, both among them."""
    count = max(0, math.ceil((start - bound) / step - 1e-9))
    return [*(round(start - place * step, 6) for place in range(count)), bound] if count else [start]

"""How far a piece departs from what its product intended: one number, its parts, and what is beyond it.

Each part is judged by eye (common practice, no source); docs/remedies.md tells them.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

from kizami.lettering.fit_plan import Step
from kizami.lettering.line_breaks import parts_on_lines
from kizami.lettering.round_about import ONE_TURN, RoundAbout, Spread
from kizami.lettering.shipped import is_other_cut
from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import LaidOut
from kizami.products.product import Product, Word
from kizami.setting.on_blank import thickness_of, width_of
from kizami.setting.setting import Setting, depth_of

__all__ = ["asked_of_customer", "departure", "departure_parts", "outside_of"]

#: What a product's own fit plan may do counts as much less than what is beyond it.
_WITHIN = 0.25


def departure(inputs: Inputs, laid: LaidOut) -> float:
    """How far a piece departs from what its product intended.

    Parameters
    ----------
    inputs : of the piece, whatever its setting
    laid : as it is set
    """
    return sum(departure_parts(inputs, laid).values())


def departure_parts(inputs: Inputs, laid: LaidOut) -> dict[str, float]:
    """What it departs by, by the name of the part; without what is as the product has it."""
    parts = {name: cost for name, cost in _parts(inputs, laid) if cost > 1e-9}
    for area, own, there in _further(inputs, laid):
        parts |= {f"{area}: {name}": cost for name, cost in _parts(own, there) if cost > 1e-9}
    return parts


def _further(inputs: Inputs, laid: LaidOut) -> Iterator[tuple[str, Inputs, LaidOut]]:
    """Each further area by its name: as the product has it, on the blank as it is set, and as it is set."""
    for there in laid.others:
        area = there.area.name
        further = next(one for one in inputs.product.also if one.area == area)
        own = replace(inputs.product.on(further), blank=there.inputs.product.blank)
        yield area, replace(there.inputs, product=own), there


def _parts(inputs: Inputs, laid: LaidOut) -> Iterator[tuple[str, float]]:
    own, now, layout = inputs.product, laid.inputs.product, laid.layout
    height = layout.height_mm
    yield from _of_fit(own, laid)
    if height > 0.0:
        weight = abs(_weight(now) - _weight(own)) + (
            layout.departure_mm if now.soundness.gaps != own.soundness.gaps else 0.0
        )
        yield "strokes", weight / (0.1 * height)
        moved = math.hypot(
            now.arrangement.along_mm - own.arrangement.along_mm,
            now.arrangement.across_mm - own.arrangement.across_mm,
        )
        yield "place", 0.3 * moved / height
    yield "turn", 1.5 * abs(now.arrangement.turned_deg - own.arrangement.turned_deg) / 90.0
    yield "other way up", 1.0 * (now.arrangement.upside_down != own.arrangement.upside_down)
    yield "times around", _of_turn(own.arrangement.turn, now.arrangement.turn)
    gaps = {"as drawn": 0.0, "opened": 0.05, "closed": 0.25}
    yield "slits", abs(gaps[now.soundness.gaps] - gaps[own.soundness.gaps])
    before, after = depth_of(own.treatment), depth_of(now.treatment)
    if now.treatment.kind != own.treatment.kind:
        yield "treatment", 2.2
    elif before and after:
        yield "depth", 2.0 * abs(math.log(after / before))
    yield "typeface", _of_typeface(own, now.typeface)
    yield "form", 1.0 * (now.arrangement.shape != own.arrangement.shape)
    yield "loose parts", 0.3 * (now.soundness.one_piece != own.soundness.one_piece)
    bridges = own.soundness.bridge_mm, now.soundness.bridge_mm
    if own.soundness.one_piece != "no" and now.soundness.one_piece != "no":
        yield "bridges", 0.5 * abs(math.log(bridges[1] / bridges[0]))
    yield "letters joined", _of_overlap(own.soundness.overlap_mm, now.soundness.overlap_mm)
    yield "second wording", 1.0 * bool(inputs.second and not laid.inputs.second)
    yield "words apart", abs(now.arrangement.word_space - own.arrangement.word_space)
    yield "direction", 0.5 * (_reading(now) != _reading(own))
    yield "blank", _of_blank(own, now)
    yield "size", 2.3 * (laid.inputs.size != inputs.size)
    yield "capitals", 1.6 * (_letters(laid.inputs.wording) != _letters(inputs.wording))
    yield "broken elsewhere", _of_breaks(inputs.wording, laid.inputs.wording)


def _of_fit(own: Product, laid: LaidOut) -> Iterator[tuple[str, float]]:
    """How the wording fits: within a product's own bounds it means every value, though the first one most."""
    plan, layout = own.plan, laid.layout
    height = layout.height_mm
    if height > 0.0:
        low, high = plan.lowest_height_mm, plan.greatest_height_mm
        beyond = max(low / height, height / high, 1.0)
        yield "height", 4.0 * math.log(beyond) + math.log(max(high / height, 1.0))
    tightest = plan.tightest if Step.TIGHTEN in plan.steps else plan.tracking
    yield "spacing", 3.0 * _beyond(layout.tracking, tightest, plan.tracking)
    narrowest = plan.narrowest if Step.CONDENSE in plan.steps else 1.0
    yield "width", 3.0 * _beyond(layout.width, narrowest, 1.0)
    lines = layout.text.count("\n") - laid.inputs.wording.count("\n")
    yield "lines", 0.3 * max(0, lines)
    yield "distance of the lines", abs(laid.inputs.product.plan.leading - plan.leading)


def _of_breaks(received: str, now: str) -> float:
    """Lines that are set otherwise than they were received, by hand or by a remedy."""
    if parts_on_lines(now) == parts_on_lines(received):
        return 0.0
    return 0.15 + 0.3 * abs(now.count("\n") - received.count("\n"))


def _letters(wording: str) -> str:
    return "".join(wording.split())


def _beyond(value: float, low: float, high: float) -> float:
    """How far a value is from `high`: fully beyond the bounds, and little within them."""
    outside = max(0.0, low - value) + max(0.0, value - high)
    return outside + _WITHIN * max(0.0, high - max(value, low))


def _weight(product: Product) -> float:
    soundness = product.soundness
    return soundness.thicken_by_mm if soundness.thicken == "all over" else 0.0


def _of_typeface(own: Product, now: str) -> float:
    if now == own.typeface:
        return 0.0
    if is_other_cut(own.typeface, now):
        return 0.4
    return 0.8 if now in own.choices(Word.TYPEFACE) else 1.6


def _of_turn(own: RoundAbout, now: RoundAbout) -> float:
    """Another number of times around; wording that was to fill its turn and leaves some of it bare."""
    return 0.5 * (now != own) + 0.4 * (isinstance(own, Spread) and now == ONE_TURN)


def _of_overlap(before_mm: float, after_mm: float) -> float:
    """Letters drawn into each other that stood apart, or further than they were."""
    if not before_mm or not after_mm:
        return 0.3 * (before_mm != after_mm)
    return 0.5 * abs(math.log(after_mm / before_mm))


def _reading(product: Product) -> tuple[bool, str]:
    return product.arrangement.vertical, product.arrangement.direction


def _of_blank(own: Product, now: Product) -> float:
    """How much thicker or wider a blank is."""
    changed = [
        abs(math.log(after / before))
        for measure in (thickness_of, width_of)
        if (before := measure(own.blank)) and (after := measure(now.blank)) and after != before
    ]
    return sum(0.5 + 2.0 * change for change in changed)


def outside_of(inputs: Inputs, laid: LaidOut) -> tuple[str, ...]:
    """What is beyond what a product offers, in words."""
    said = list(_outside(inputs, laid))
    for area, own, there in _further(inputs, laid):
        said += [f"on the {area} {what}" for what in _outside(own, there)]
    return tuple(said)


def _outside(inputs: Inputs, laid: LaidOut) -> Iterator[str]:
    own, now, height = inputs.product, laid.inputs.product, laid.layout.height_mm
    if now.typeface not in own.choices(Word.TYPEFACE):
        yield "a typeface that the product does not offer"
    if now.treatment.kind != own.treatment.kind:
        yield "not the product’s treatment"
    if height > own.plan.greatest_height_mm + 1e-6:
        yield "higher than the product’s greatest height"
    if laid.layout.width < (own.plan.narrowest if Step.CONDENSE in own.plan.steps else 1.0) - 1e-6:
        yield "narrower letters than the product’s"
    for measure, what in ((thickness_of, "thickness"), (width_of, "width")):
        if measure(now.blank) != measure(own.blank):
            yield f"not the product’s {what} of the blank"


def asked_of_customer(inputs: Inputs, setting: Setting) -> tuple[str, ...]:
    """What of a setting only the customer can say, in words ready to send."""
    asked = []
    if setting.capitals:
        said = setting.words_of(inputs.wording)
        asked.append(f"May we set “{inputs.wording}” in capitals, as “{said}”?")
    lines = setting.lines_of(inputs.wording)
    if "\n" in inputs.wording and parts_on_lines(lines) != parts_on_lines(inputs.wording):
        before, after = (text.replace("\n", " / ") for text in (inputs.wording, lines))
        asked.append(f"May we set the lines “{before}” as “{after}”?")
    if setting.without_second and inputs.second:
        asked.append(f"May we leave out “{inputs.second}”, for which there is no room?")
    size = setting.size_of(inputs.product, inputs.size)
    if size != inputs.size:
        asked.append(f"Would a ring of size {size} do, instead of {inputs.size}?")
    width = width_of(inputs.product.blank)
    if setting.band_mm is not None and width not in (None, setting.band_mm):
        asked.append(f"Would a band {setting.band_mm:g} mm wide do, instead of {width:g} mm?")
    return tuple(asked)

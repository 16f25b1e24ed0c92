"""Ways that may cure what is wrong with a piece: each a change of its setting, by what a finding measured."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import replace
from types import MappingProxyType
from typing import Any

from kizami.as_made.treatment import CutOut
from kizami.checks.finding import Finding, Sense
from kizami.lettering.capitals import in_capitals
from kizami.lettering.fit_plan import HEIGHT_STEP_MM
from kizami.lettering.layout import Layout
from kizami.lettering.units import units_of
from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import LaidOut
from kizami.products.product import Carries
from kizami.remedies.foreseeing import gap_between_mm
from kizami.remedies.sight import NARROW, Sight, Way, Ways, way
from kizami.remedies.ways_of_lines import broken_otherwise, fewer_lines, more_lines
from kizami.remedies.ways_of_the_body import (
    fewer_times,
    larger_size,
    moved,
    repeated,
    thicker_blank,
    wider_band,
)
from kizami.remedies.ways_of_typefaces import another_typeface, heavier_cut, lighter_cut
from kizami.setting.setting import Setting, depth_of, on_area
from kizami.setting.values import ON_AREA

__all__ = ["Way", "ways_for"]


def ways_for(
    inputs: Inputs,
    setting: Setting,
    layout: Layout,
    failing: Sequence[Finding],
    others: Sequence[LaidOut] = (),
) -> list[tuple[Way, ...]]:
    """For each check that fails its ways, the nearest to the product first.

    Parameters
    ----------
    inputs : of the piece, whatever its setting
    setting : how it was set when these findings were made
    others : what stands on further areas, so set
    """
    by_code: dict[tuple[str, str], list[Finding]] = {}
    further = {other.area.name: other for other in others}
    for finding in failing:
        area = finding.area if finding.area in further else ""
        by_code.setdefault((area, finding.code), []).append(finding)
    as_set = replace(inputs, setting=setting).as_set
    found = []
    for (area, code), findings in by_code.items():
        sight = Sight(
            inputs=as_set,
            own=inputs.product,
            setting=setting,
            product=as_set.product,
            layout=layout,
            findings=tuple(findings),
        )
        ways = _ways_there(sight, further[area], code) if area else _ways_of(sight, code)
        found.append(tuple(sorted(ways, key=lambda way: way.cost)))
    return found


def _ways_of(sight: Sight, code: str) -> Iterator[Way]:
    return (way for kind in _CURES.get(code, ()) for way in kind(sight))


def _ways_there(sight: Sight, there: LaidOut, code: str) -> Iterator[Way]:
    """Ways for what fails on a further area, as if it were the only one."""
    area = there.area.name
    further = next(one for one in sight.own.also if one.area == area)
    if further.carries is Carries.SECOND:
        yield from _second(sight)
    alone = replace(
        sight,
        inputs=there.inputs,
        own=sight.own.on(further),
        product=there.inputs.product,
        layout=there.layout,
    )
    # What holds for the whole piece is set on the whole; what is of one area, on this one.
    yield from (way for way in _ways_of(alone, code) if ON_AREA.isdisjoint(way.changes))
    for one in _ways_of(replace(alone, setting=sight.setting.there(area)), code):
        if ON_AREA.issuperset(one.changes):
            changes = {on_area(area, name): value for name, value in one.changes.items()}
            yield Way(cost=one.cost, changes=MappingProxyType(changes))


#: Down to here spacing is tightened, cap heights.
_TIGHT = -0.08


def _tightest(sight: Sight) -> float | None:
    """How tight letters may stand so that the process still keeps them apart; None where they do already."""
    plan, height = sight.product.plan, sight.layout.height_mm
    if sight.setting.tightest is not None or not height:
        return None
    tightest = _TIGHT
    between = gap_between_mm(sight.layout)
    if between is not None:
        spare = between - sight.product.process.limits.of("gap-width") * 1.03
        tightest = max(tightest, math.ceil((sight.layout.tracking - spare / height) * 1000.0) / 1000.0)
    return tightest if tightest < plan.tightest - 0.004 else None


def _tighter(sight: Sight) -> Iterator[Way]:
    tightest = _tightest(sight)
    if tightest is not None:
        yield from way(0.2, tightest=tightest)


def _narrower(sight: Sight) -> Iterator[Way]:
    # How narrow they get is what their room asks for: a fit plan condenses no more than it must.
    if sight.product.plan.narrowest > NARROW:
        yield from way(0.5, narrowest=NARROW)


def _tighter_and_narrower(sight: Sight) -> Iterator[Way]:
    tightest = _tightest(sight)
    if tightest is not None and sight.product.plan.narrowest > NARROW:
        yield from way(0.6, tightest=tightest, narrowest=NARROW)


def _second(sight: Sight) -> Iterator[Way]:
    if sight.inputs.second:
        yield from way(1.0, without_second=True)


def _capitals(sight: Sight) -> Iterator[Way]:
    wording = sight.inputs.wording
    if not sight.setting.capitals and wording != in_capitals(wording, sight.product.arrangement.language):
        yield from way(1.6, capitals=True)


def _within(sight: Sight) -> bool:
    """Whether the worst gap is within one letter, or beside a joint, not between two that stand apart.

    What was measured on the solid may be anywhere.
    """
    letters = {cause.cluster for cause in sight.worst.cause if cause.kind == "letter"}
    return bool(sight.worst.cause) and len(letters) < 2


def _opened(sight: Sight) -> Iterator[Way]:
    if sight.product.soundness.gaps == "as drawn":
        yield from way(0.1, gaps="opened")


def _closed(sight: Sight) -> Iterator[Way]:
    if sight.product.soundness.gaps == "as drawn":
        yield from way(0.3, gaps="closed")


def _stand_apart(layout: Layout, letters: list[int]) -> bool:
    """Whether letters stand one above the other, in two lines."""
    feet = [mark.v_mm for mark in layout.marks if mark.cluster in letters]
    return max(feet) - min(feet) > 0.6 * layout.height_mm


def _stay_together(sight: Sight, letters: list[int]) -> bool:
    """Whether no spacing parts letters: a hand or a script joins them, or they are brought together."""
    text = sight.layout.text
    if not letters or max(letters) >= len(text):
        return False
    if sight.product.soundness.overlap_mm:
        return not any(c.isspace() for c in text[min(letters) : max(letters) + 1])
    units = units_of(text, sight.inputs.face.hand_joins)
    return len({units[letter] for letter in letters}) == 1


#: Letters further apart in the wording than this are no neighbours, a space or two between them or not.
_NEIGHBOURS = 3


def _other_lines(sight: Sight) -> Iterator[Way]:
    """Other lines, where it is two of them that meet."""
    letters = [cause.cluster for cause in sight.worst.cause if cause.cluster is not None]
    if letters and _stand_apart(sight.layout, letters):
        yield from (way for kind in (broken_otherwise, fewer_lines) for way in kind(sight))


#: Letters are drawn into each other by this share of what parts must be tied with, and then by more.
_INTO, _FURTHER_INTO = 0.3, 1.6


def _drawn_together(sight: Sight) -> Iterator[Way]:
    """Neighbours brought together until they join, or further into each other where they do."""
    soundness, limits = sight.product.soundness, sight.product.process.limits
    if sight.product.treatment.sinks or sight.product.arrangement.turn.kind == "spread":
        return
    if isinstance(sight.product.treatment, CutOut) or soundness.overlap_mm:
        least = max(limits.of("stroke-width"), limits.of("neck-width"))
        deeper = max(soundness.overlap_mm * _FURTHER_INTO, soundness.bridge_mm * _INTO, least)
        yield from way(0.3 + 0.2 * bool(soundness.overlap_mm), overlap_mm=round(deeper, 2))


def _looser(sight: Sight) -> Iterator[Way]:
    height = sight.layout.height_mm
    if _within(sight) or not height:
        return
    letters = [cause.cluster for cause in sight.worst.cause if cause.cluster is not None]
    if _stay_together(sight, letters):
        return
    if letters and _stand_apart(sight.layout, letters):
        # One line stands too near above the other.
        now = sight.product.plan.leading
        for share in (1.1, 2.0):
            by = sight.missing_mm / height * share
            yield from way(by + 0.05, leading=math.ceil((now + by) * 1000.0) / 1000.0)
        return
    far = max(letters, default=0) - min(letters, default=0) > _NEIGHBOURS
    if sight.product.arrangement.turn.kind == "once" and far:
        # The end meets the beginning: it is too long for its turn.
        yield from (way for kind in (_tighter, _narrower) for way in kind(sight))
        return
    plan = sight.product.plan
    now, narrowest = sight.layout.tracking, plan.narrowest
    is_tightened = sight.setting.tightest is not None or now < plan.tracking - 1e-6
    for share in (1.1, 2.5):
        by = max(0.01, sight.missing_mm / height * share)
        wider = math.ceil((now + by) * 1000.0) / 1000.0
        if not is_tightened:
            yield from way(3.0 * by, tracking=wider)
        else:
            # It was tightened too far: more spacing would be taken away again. What room is lacking then is
            # for condensing to give.
            yield from way(3.0 * by, tightest=wider)
            if narrowest > NARROW:
                yield from way(3.0 * by + 0.4, tightest=wider, narrowest=NARROW)


#: Strokes change by this at least on each side, and by this for what is not measured in mm.
_STEP_MM, _WEIGHT_MM = 0.005, 0.04


def _thicker(sight: Sight) -> Iterator[Way]:
    yield from _weighed(sight, 1.0)


def _thinner(sight: Sight) -> Iterator[Way]:
    yield from _weighed(sight, -1.0)


def _weighed(sight: Sight, sign: float) -> Iterator[Way]:
    """Half of what is missing on each side of a stroke, and twice that."""
    missing = sight.missing_mm / 2.0 if sight.worst.unit == "mm" else _WEIGHT_MM
    now = sight.setting.thicken_by_mm
    if now is None:
        soundness = sight.product.soundness
        now = soundness.thicken_by_mm if soundness.thicken == "all over" else 0.0
    height = max(sight.layout.height_mm, 1.0)
    for share in (1.06, 2.2):
        by = math.ceil(max(_STEP_MM, missing * share) / _STEP_MM - 1e-9) * _STEP_MM
        value = round(now + sign * by, 3)
        if value:
            yield from way(0.1 + by / (0.1 * height), thicken_by_mm=value)


def _higher(sight: Sight) -> Iterator[Way]:
    """As much higher as makes the worst place hold, whatever room that takes."""
    worst, height = sight.worst, sight.layout.height_mm
    share = 1.15
    if worst.unit == "mm" and worst.measured > 0.0 and worst.limit > 0.0 and height:
        ratio = worst.limit / worst.measured
        share = min(1.01 * (ratio if worst.sense is Sense.AT_LEAST else 1.0 / ratio), 4.0)
    asked = _step_up(height * share)
    plan, setting = sight.product.plan, sight.setting
    changes: dict[str, Any] = {"lowest_mm": asked}
    if asked > plan.greatest_height_mm - 1e-9 or setting.height_mm is not None:
        changes["height_mm"] = max(asked, setting.height_mm or 0.0)
    beyond = 4.0 * math.log(max(asked / plan.greatest_height_mm, 1.0))
    yield from way(0.1 + beyond, **changes)
    if setting.narrowest is None:
        # More height takes more room, which condensing may give.
        tightest = _tightest(sight)
        tight = {} if tightest is None else {"tightest": tightest}
        yield from way(0.6 + beyond, **changes, **tight, narrowest=NARROW)


def _step_up(height_mm: float) -> float:
    return round(math.ceil(height_mm / HEIGHT_STEP_MM - 1e-9) * HEIGHT_STEP_MM, 2)


def _lower(sight: Sight) -> Iterator[Way]:
    height = sight.layout.height_mm
    for share in (0.94, 0.82):
        asked = round(math.floor(height * share / HEIGHT_STEP_MM) * HEIGHT_STEP_MM, 2)
        yield from way(1.0 - share, height_mm=asked)


def _tied(sight: Sight) -> Iterator[Way]:
    now = sight.product.soundness.one_piece
    for tie in ("bridges", "base bar"):
        if tie != now:
            yield from way(0.3 + 0.2 * (tie == "base bar"), one_piece=tie)


#: Bridges are made slimmer by this share, and never slimmer than a stroke must be.
_SLIMMER = 0.7


def _slimmer(sight: Sight) -> Iterator[Way]:
    """Slimmer bridges or bars, where parts are tied."""
    soundness, limits = sight.product.soundness, sight.product.process.limits
    least = max(limits.of("stroke-width"), limits.of("neck-width")) * 1.05
    slimmer = round(max(soundness.bridge_mm * _SLIMMER, least), 2)
    if soundness.one_piece != "no" and slimmer < soundness.bridge_mm - 0.05:
        yield from way(0.3, bridge_mm=slimmer)


def _a_little(sight: Sight) -> Iterator[Way]:
    """Lower by a step or two, which moves every corner."""
    for steps in (1, 2):
        lower = sight.layout.height_mm - steps * HEIGHT_STEP_MM
        yield from way(0.05 * steps, height_mm=round(lower, 2))


def _deeper(sight: Sight) -> Iterator[Way]:
    yield from _deep(sight, 1.0)


def _shallower(sight: Sight) -> Iterator[Way]:
    yield from _deep(sight, -1.0)


def _less_deep(sight: Sight) -> Iterator[Way]:
    """By shares, where what is measured is no depth."""
    now = depth_of(sight.product.treatment)
    if now is None:
        return
    for share in (0.8, 0.6):
        yield from way(2.0 * abs(math.log(share)), depth_mm=round(now * share, 2))


def _deep(sight: Sight, sign: float) -> Iterator[Way]:
    now = depth_of(sight.product.treatment)
    if now is None or sight.worst.unit != "mm":
        return
    for share in (1.02, 1.4):
        value = round(now + sign * sight.missing_mm * share + sign * 0.005, 2)
        if value > 0.0:
            yield from way(2.0 * abs(math.log(value / now)), depth_mm=value)


def _straight(sight: Sight) -> Iterator[Way]:
    if sight.product.arrangement.shape.kind != "straight":
        yield from way(1.0, shape="straight", shape_amount=None)


def _flatter(sight: Sight) -> Iterator[Way]:
    """A wider outline, or an arc with a greater radius."""
    shape = sight.product.arrangement.shape
    if shape.kind == "arc" and shape.radius_mm:
        name = "on a hanging arc" if shape.hollow else "on an arc"
        yield from way(0.5, shape=name, shape_amount=round(shape.radius_mm * 1.4, 1))
    elif shape.kind == "filled" and shape.outline in ("round", "oval", "diamond", "heart"):
        amount = round(shape.width * 130.0)
        yield from way(0.5, shape=shape.outline, shape_amount=float(amount))


def _quarter(sight: Sight) -> Iterator[Way]:
    """Along the longer side of a plate that stands."""
    arrangement = sight.product.arrangement
    area = sight.product.area_of(sight.product.blank_for(sight.inputs.size))
    low_u, low_v, high_u, high_v = area.bounds
    if area.is_closed or high_v - low_v < 1.1 * (high_u - low_u):
        return
    if not arrangement.turned_deg and arrangement.turn.kind == "once":
        yield from way(1.5, turned_deg=90.0)


def _otherwise(sight: Sight) -> Iterator[Way]:
    """Raised instead of engraved, or the other way round."""
    other = {"engraved": "raised", "raised": "engraved"}.get(sight.product.treatment.kind)
    if other is not None:
        yield from way(2.2, treatment=other)


_ROOM: tuple[Ways, ...] = (
    _tighter, _narrower, _tighter_and_narrower, more_lines, broken_otherwise, fewer_lines, _second, _capitals,
    another_typeface, _flatter, _straight,
    _quarter, moved, fewer_times, larger_size, wider_band,
)  # fmt: skip
_FINE: tuple[Ways, ...] = (_thicker, heavier_cut, _higher, another_typeface)
_GAP: tuple[Ways, ...] = (
    _opened, _looser, _thinner, lighter_cut, _higher, _closed, _other_lines, _drawn_together,
    another_typeface,
)  # fmt: skip
#: Which ways may cure which checks.
_CURES: dict[str, tuple[Ways, ...]] = {
    "lowest-height": _ROOM,
    "fits-area": (*_ROOM, _lower),
    "edge-gap": (_lower, *_ROOM),
    "stroke-width": (*_FINE, _otherwise),
    "neck-width": (*_FINE, _looser, _drawn_together),
    "standing-thickness": (*_FINE, _otherwise),
    "gap-width": _GAP,
    "slot-width": (*_GAP, _otherwise),
    "web-width": (
        _opened,
        _looser,
        _thinner,
        lighter_cut,
        _higher,
        _other_lines,
        another_typeface,
        _otherwise,
    ),
    "middle-width": (_thinner, lighter_cut, _higher, another_typeface, _straight),
    "openings-kept": (_higher, _thinner, _looser, _slimmer, another_typeface),
    "read-back": (_looser, _higher, _slimmer, _tied, _thinner, _opened, _other_lines, another_typeface),
    "slivers": (_a_little, another_typeface),
    "departure": (_higher, _thinner, another_typeface),
    "closed-middles": (_tied, another_typeface),
    "loose-parts": (_tied, _tighter, _drawn_together, _thicker, another_typeface),
    "one-body": (_tied, _tighter, _drawn_together, _thicker, another_typeface),
    "islands": (_tied, _tighter, _drawn_together, another_typeface),
    "floor-left": (_shallower, thicker_blank, _otherwise),
    "wall-thickness": (_shallower, thicker_blank, _lower),
    "edge-thickness": (_lower, moved, _shallower, thicker_blank),
    "lettering-depth": (_deeper, _thicker, _higher),
    "measured-depth": (_deeper, _thicker, _higher),
    "measured-twice": (_closed, _opened, _thicker),
    "edge-made": _FINE,
    "draft-made": _FINE,
    "missing-character": (another_typeface,),
    "letters-in-shape": (_straight, another_typeface),
    "letters-apart": (repeated, _higher, another_typeface),
    "letter-stretch": (_flatter, _straight, another_typeface),
    "loop-hold": (_thicker, _higher),
    "sharp-point": (_closed, _opened, _thicker, another_typeface, _higher),
    "undercut": (_lower, _shallower),
    "overhang": (_less_deep, _otherwise),
}

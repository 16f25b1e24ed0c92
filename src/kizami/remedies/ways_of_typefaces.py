"""Ways that set the wording in another typeface: another cut of its own family first, then others."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from kizami.lettering.shipped import shipped_facts, shipped_typeface, shipped_typefaces
from kizami.lettering.typeface import Typeface
from kizami.products.product import Word
from kizami.remedies.sight import Sight, Way, way

__all__ = ["another_typeface", "heavier_cut", "lighter_cut"]

#: Another cut of the same family departs by so much, see `kizami.remedies.departing`.
_OWN_FAMILY = 0.4


def heavier_cut(sight: Sight) -> Iterator[Way]:
    """The bolder cut of its own family."""
    rows = shipped_typefaces()
    own = rows.get(sight.product.typeface)
    if own is not None and own.bolder and rows[own.bolder].family == own.family:
        yield from _in_cut(sight, own.bolder)


def lighter_cut(sight: Sight) -> Iterator[Way]:
    """The cut of its own family whose bolder one it is."""
    rows = shipped_typefaces()
    own = rows.get(sight.product.typeface)
    for code, row in rows.items():
        if own is not None and row.bolder == own.code and row.family == own.family:
            yield from _in_cut(sight, code)


def _in_cut(sight: Sight, code: str) -> Iterator[Way]:
    if _letters(sight) <= shipped_typeface(code).characters:
        yield from way(_OWN_FAMILY, typeface="" if code == sight.own.typeface else code)


def _letters(sight: Sight) -> set[int]:
    return {ord(c) for c in sight.inputs.wording + sight.inputs.second if not c.isspace()}


#: So many typefaces that the product does not offer are tried.
_MOST_OUTSIDE = 6
_OFFERED, _OUTSIDE = 0.8, 1.6


def another_typeface(sight: Sight) -> Iterator[Way]:
    """Those that the product offers, then others, the likeliest to hold first; none that finds no room."""
    letters, own = _letters(sight), sight.product.typeface
    offered = sight.own.choices(Word.TYPEFACE)
    able = [c for c in shipped_typefaces() if c != own and letters <= shipped_typeface(c).characters]
    room = _Room.of(sight)
    promise = {code: _promise(sight, room, code) for code in able}
    outside = sorted((c for c in able if c not in offered), key=lambda code: -promise[code])
    likely = [
        *(code for code in offered if code in able),
        *[code for code in outside if promise[code] >= _LIKELY][:_MOST_OUTSIDE],
    ]
    for rank, code in enumerate(likely):
        cost = _OFFERED if code in offered else _OUTSIDE
        # What the product is set in by itself is set otherwise by nothing.
        yield from way(cost + 0.03 * rank, typeface="" if code == sight.own.typeface else code)


#: Below this a typeface is not worth a trial, see `_promise`.
_LIKELY = 0.9


@dataclass(frozen=True, kw_only=True, slots=True)
class _Room:
    """What a wording has to stand in, mm; infinite where nothing is known of it."""

    wide_mm: float
    high_mm: float

    @classmethod
    def of(cls, sight: Sight) -> _Room:
        """From the area, and from how high the wording came in its own typeface."""
        product, layout = sight.product, sight.layout
        area = product.area_of(product.blank_for(sight.inputs.size))
        region = area.clear_region(product.plan.clearance_mm)
        wide, high = _ink(sight.inputs.wording, sight.inputs.face)
        if region.is_empty or not wide or not high or "\n" in layout.text:
            return cls(wide_mm=math.inf, high_mm=math.inf)
        low_u, low_v, high_u, high_v = region.bounds
        in_box = min((high_u - low_u) / wide, (high_v - low_v) / high)
        # Round areas and curved lines give less than their box.
        share = min(1.0, layout.height_mm / in_box) if sight.worst.code == "lowest-height" else 1.0
        return cls(wide_mm=(high_u - low_u) * share, high_mm=(high_v - low_v) * share)


def _promise(sight: Sight, room: _Room, code: str) -> float:
    """How likely a typeface holds: the height that it finds room for against the height that it needs."""
    face, facts = shipped_typeface(code), shipped_facts().get(code)
    wide, high = _ink(sight.inputs.wording, face)
    if not wide or not high or facts is None:
        return 0.0
    plan, limits = sight.product.plan, sight.product.process.limits
    height = min(room.wide_mm / wide, room.high_mm / high, plan.greatest_height_mm)
    needed = facts.lowest_height_mm(limits, engraved=sight.product.treatment.sinks)
    if height < plan.lowest_height_mm * 0.97 and sight.worst.code == "lowest-height":
        return 0.0
    # One letter of a face that is finer than all others need not be in this wording.
    holds = min(1.2, height / max(0.8 * needed, plan.lowest_height_mm, 0.1))
    # A hand is no replacement for a plain face, nor the other way round, while either would do.
    own_facts = shipped_facts().get(sight.own.typeface)
    alike = own_facts is None or own_facts.joins == facts.joins
    return holds + 0.1 * alike


def _ink(text: str, face: Typeface) -> tuple[float, float]:
    """About how wide and how high a wording is on one line, cap heights."""
    unit = face.cap_height_upem
    low_x = low_y = math.inf
    high_x = high_y = -math.inf
    for glyph in face.shape(text.replace("\n", " ")):
        bounds = face.extents(glyph.glyph)
        if bounds is None:
            continue
        at = glyph.x * unit, glyph.y * unit
        low_x, high_x = min(low_x, at[0] + bounds[0]), max(high_x, at[0] + bounds[2])
        low_y, high_y = min(low_y, at[1] + bounds[1]), max(high_y, at[1] + bounds[3])
    if low_x > high_x:
        return 0.0, 0.0
    return (high_x - low_x) / unit, (high_y - low_y) / unit

"""Ways that leave the letters as they are: another place for them, or another body under them."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
import shapely

from kizami.as_made.treatment import CutOut
from kizami.lettering.layout import Layout
from kizami.lettering.round_about import Repeated, Spread
from kizami.remedies.sight import NARROW, Sight, Way, way
from kizami.setting.on_blank import thickness_of, width_of
from kizami.setting.values import MOST_TIMES
from kizami.sizes import larger_sizes
from kizami.surfaces.protocol import FloatArray

__all__ = ["fewer_times", "larger_size", "moved", "repeated", "thicker_blank", "wider_band"]

#: Places that are looked at, along and across, and how often, each time more closely about the best.
_ALONG, _ACROSS, _LOOKS = 15, 9, 3
#: Lettering must come larger by this share for another place to be worth it, and moves in such steps, mm.
_WORTH, _STEP_MM = 1.03, 0.05


def moved(sight: Sight) -> Iterator[Way]:
    """To where its box has most room: past a hole, or to the wide end of a shape."""
    layout, product = sight.layout, sight.product
    area = product.area_of(product.blank_for(sight.inputs.size))
    if area.is_closed or isinstance(product.treatment, CutOut) or layout.is_empty:
        return
    region = area.clear_region(product.plan.clearance_mm)
    if region.is_empty:
        return
    low_u, low_v, high_u, high_v = layout.outlines.bounds
    now = np.array([(low_u + high_u) / 2.0, (low_v + high_v) / 2.0])
    half = np.array([high_u - low_u, high_v - low_v]) / 2.0
    best, share = _roomiest(region, half)
    if best is None or share < _WORTH * float(_shares(region, now[None], half)[0]):
        return
    by = np.round((best - now) / _STEP_MM) * _STEP_MM
    arrangement, own = product.arrangement, sight.own.arrangement
    along = round(arrangement.along_mm - own.along_mm + float(by[0]), 2)
    across = round(arrangement.across_mm - own.across_mm + float(by[1]), 2)
    cost = 0.3 * math.hypot(*by) / max(layout.height_mm, 1.0)
    yield from way(cost, along_mm=along or None, across_mm=across or None)


def _roomiest(region: shapely.Geometry, half: FloatArray) -> tuple[FloatArray | None, float]:
    """The middle of the largest box of these proportions in a region, and its share of the box."""
    low, high = np.reshape(region.bounds, (2, 2))
    best, share = None, 0.0
    for _ in range(_LOOKS):
        places = np.linspace(low[0], high[0], _ALONG), np.linspace(low[1], high[1], _ACROSS)
        middles = np.stack(np.meshgrid(*places), axis=-1).reshape(-1, 2)
        shares = _shares(region, middles, half)
        found = int(np.argmax(shares))
        if shares[found] > share + 1e-9:
            best, share = middles[found], float(shares[found])
        if best is None:
            break
        # From here on between the neighbours of the best one.
        apart = (high - low) / (_ALONG - 1, _ACROSS - 1)
        low, high = best - apart, best + apart
    return best, share


def _shares(region: shapely.Geometry, middles: FloatArray, half: FloatArray) -> FloatArray:
    """How large a box about each of these middles may be, against one of half sides `half`; 0 outside."""
    low, high = np.zeros(len(middles)), np.full(len(middles), 4.0)
    for _ in range(8):
        share = (low + high) / 2.0
        reach = share[:, None] * half
        boxes = shapely.box(*(middles - reach).T, *(middles + reach).T)
        within = shapely.contains(region, boxes)
        low, high = np.where(within, share, low), np.where(within, high, share)
    return low


def fewer_times(sight: Sight) -> Iterator[Way]:
    """Once less around, where it stands several times."""
    turn = sight.product.arrangement.turn
    if isinstance(turn, Repeated):
        for times in range(turn.times - 1, 0, -1):
            yield from way(0.5 + 0.1 * (turn.times - times), times=times)


def repeated(sight: Sight) -> Iterator[Way]:
    """Once more around, where wording does not fill its turn, narrower where that gives it the room; or so
    often as it stands, with its ends to be seen."""
    times = sight.layout.times + 1
    if isinstance(sight.product.arrangement.turn, Spread) and times <= MOST_TIMES:
        yield from way(0.5, times=times)
        yield from way(0.6, times=times, narrowest=NARROW)
        yield from way(0.9, times=times - 1)


#: So many sizes larger are tried.
_SIZES = 3


def larger_size(sight: Sight) -> Iterator[Way]:
    """A larger ring, where its lettering goes round it."""
    size, product = sight.inputs.size, sight.product
    if size is None or not product.area_of(product.blank_for(size)).is_closed:
        return
    for count, larger in enumerate(larger_sizes(size, _SIZES), start=1):
        yield from way(2.0 + 0.3 * count, size=str(larger))


#: A band is made wider in such steps, mm, by a third at most.
_BAND_STEP_MM, _MOST_WIDER = 0.5, 1.34


def wider_band(sight: Sight) -> Iterator[Way]:
    """A wider band, where the lettering is too low for want of width."""
    width = width_of(sight.product.blank)
    worst, layout = sight.worst, sight.layout
    if width is None or worst.code != "lowest-height" or not layout.height_mm:
        return
    asked = width + (worst.limit - worst.measured) * _high(layout) / layout.height_mm
    wider = math.ceil(asked / _BAND_STEP_MM - 1e-9) * _BAND_STEP_MM
    if width < wider <= _MOST_WIDER * width:
        yield from way(1.0 + 2.0 * math.log(wider / width), band_mm=wider)


def _high(layout: Layout) -> float:
    _, low, _, high = layout.outlines.bounds
    return float(high - low)


#: A blank gets thicker in such steps, mm.
_THICKER_STEP_MM = 0.1


def thicker_blank(sight: Sight) -> Iterator[Way]:
    """As much thicker as is missing under the lettering."""
    now = thickness_of(sight.product.blank)
    if now is None or not sight.missing_mm:
        return
    thicker = round(math.ceil((now + sight.missing_mm) / _THICKER_STEP_MM - 1e-9) * _THICKER_STEP_MM, 2)
    yield from way(0.5 + 2.0 * math.log(thicker / now), body_mm=thicker)

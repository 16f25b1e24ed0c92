"""Laying what is nearly round: row upon row, each circle dropped into the hollow between two of the row
before.

Equal circles come to lie in the densest lattice there is, that of bees; circles of different sizes near to
it.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import shapely

from kizami.outlines.moving import rotated
from kizami.runs.laying import Ground, Item, Place

__all__ = ["hexagonal_count", "lay_circles"]


def hexagonal_count(diameter_mm: float, width_mm: float, depth_mm: float, *, gap_mm: float) -> int:
    """How many equal circles a rectangle holds in rows that are set into each other, the better way round.

    A row is sqrt(3)/2 of a circle and its gap above the one before; every other row is half a step aside
    (plane geometry).

    >>> hexagonal_count(10.0, 25.0, 30.0, gap_mm=0.0), hexagonal_count(10.0, 9.0, 30.0, gap_mm=0.0)
    (6, 0)
    """
    return max(_rows(diameter_mm, width_mm, depth_mm, gap_mm), _rows(diameter_mm, depth_mm, width_mm, gap_mm))


def _rows(diameter: float, width: float, depth: float, gap: float) -> int:
    step = diameter + gap
    if min(width, depth) < diameter - 1e-9:
        return 0
    full = math.floor((width - diameter) / step + 1e-9) + 1
    odd = math.floor((width - diameter - step / 2.0) / step + 1e-9) + 1
    rows = math.floor((depth - diameter) / (step * math.sqrt(0.75)) + 1e-9) + 1
    square = math.floor((depth - diameter) / step + 1e-9) + 1
    return max((rows + 1) // 2 * full + rows // 2 * max(odd, 0), full * square)


def lay_circles(items: Sequence[Item], ground: Ground) -> list[Place]:
    """Lay the first pieces, as many as find room, by the circles around them.

    Parameters
    ----------
    items : all round, in the order of their urgency
    """
    low_x, low_y, high_x, high_y = ground.room
    width, depth = high_x - low_x, high_y - low_y
    if not items:
        return []
    mean = sum(item.shape.round_mm for item in items) / len(items)
    count = min(len(items), hexagonal_count(mean, width, depth, gap_mm=ground.gap_mm) + 3)
    best: list[tuple[Item, float, float]] = []
    # The first few are tried, one less each time, until all of them have a place.
    while count > len(best):
        chosen = sorted(items[:count], key=lambda item: -item.shape.round_mm)
        for across in (False, True):
            for set_in in (True, False):
                size = (depth, width) if across else (width, depth)
                laid = _drop(chosen, size, ground.gap_mm, set_in=set_in)
                if len(laid) > len(best):
                    best = [(item, y, x) if across else (item, x, y) for item, x, y in laid]
        if len(best) == count:
            break
        count -= 1
    turn = ground.turns_deg[0]
    return [_place(item, low_x + x, low_y + y, turn) for item, x, y in best]


def _drop(
    items: Sequence[Item], size: tuple[float, float], gap: float, *, set_in: bool
) -> list[tuple[Item, float, float]]:
    """Circles in rows from below; centres from the corner of the room."""
    width, depth = size
    laid: list[tuple[Item, float, float]] = []
    # Only the last two rows can be in the way of the next.
    before: list[tuple[float, float, float]] = []
    last: list[tuple[float, float, float]] = []
    waiting = list(items)
    row = 0
    while waiting:
        first = waiting[0].shape.round_mm / 2.0
        x = first + ((first + gap / 2.0) if set_in and row % 2 else 0.0)
        this: list[tuple[float, float, float]] = []
        while waiting:
            radius = waiting[0].shape.round_mm / 2.0
            if this:
                x = this[-1][0] + this[-1][2] + gap + radius
            if x + radius > width + 1e-9:
                break
            y = max([radius, *(_above(x, radius, other, gap) for other in (*before, *last))])
            if y + radius > depth + 1e-9:
                return laid
            this.append((x, y, radius))
            laid.append((waiting.pop(0), x, y))
        if not this:
            return laid
        before, last = last, this
        row += 1
    return laid


def _above(x: float, radius: float, other: tuple[float, float, float], gap: float) -> float:
    """How high a centre must be so that its circle clears another one."""
    apart = radius + other[2] + gap
    aside = abs(x - other[0])
    return other[1] + math.sqrt(apart**2 - aside**2) if aside < apart else 0.0


def _place(item: Item, x: float, y: float, turn: float) -> Place:
    """The place of a piece whose circle has its centre there."""
    around = rotated(shapely.minimum_bounding_circle(item.shape.outline), turn).centroid
    return Place(key=item.key, x_mm=x - around.x, y_mm=y - around.y, turn_deg=turn)

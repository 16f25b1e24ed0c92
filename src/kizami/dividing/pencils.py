"""Lines in pencils: all parallel or all through one point, so that sorting finds which a segment crosses."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np

from kizami.dividing.rows import steps_of
from kizami.dividing.segments import Segments, clustered
from kizami.dividing.tolerances import TOLERANCES
from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray

__all__ = ["Pencil", "pencils_of"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Pencil:
    """Some of the lines, by the carriers that they lie on.

    Attributes
    ----------
    apex : (2,) the point that all go through, or None where they are parallel
    middle : (2,) unit vector along the middle one
    keys : (k,) in order: the angle of each carrier about the apex, or else how far to the left it lies
    feet, ways : (k, 2) a point of each carrier and the unit vector along it
    carriers : (n,) on which each line lies, carrier by carrier and line by line along it
    lows, highs : (n,) where each line begins and ends along its carrier
    """

    apex: FloatArray | None
    middle: FloatArray
    keys: FloatArray
    feet: FloatArray
    ways: FloatArray
    carriers: IntArray
    lows: FloatArray
    highs: FloatArray

    def __len__(self) -> int:
        return len(self.carriers)

    def lines(self) -> Segments:
        """All of them."""
        feet, ways = (at.take(self.carriers, axis=0) for at in (self.feet, self.ways))
        return Segments(starts=feet + self.lows[:, None] * ways, ends=feet + self.highs[:, None] * ways)

    def off(self, places: FloatArray, carriers: IntArray) -> FloatArray:
        """How far to the left of a carrier each place lies."""
        to, way = places - self.feet.take(carriers, axis=0), self.ways.take(carriers, axis=0)
        result: FloatArray = way[:, 0] * to[:, 1] - way[:, 1] * to[:, 0]
        return result

    def along(self, places: FloatArray, carriers: IntArray) -> FloatArray:
        """How far along a carrier each place lies."""
        result: FloatArray = np.einsum(
            "nd,nd->n", places - self.feet.take(carriers, axis=0), self.ways.take(carriers, axis=0)
        )
        return result

    def beside(self, places: FloatArray) -> tuple[IntArray, IntArray]:
        """How many carriers lie to the right of each place, and the one that it lies on, or -1."""
        right = np.searchsorted(self.keys, _keys(places, self.apex, self.middle))
        on = np.full(len(places), -1)
        for carrier in (right - 1, right):
            held = np.clip(carrier, 0, len(self.keys) - 1)
            on = np.where(np.abs(self.off(places, held)) < TOLERANCES.on_line_mm, held, on)
        return np.where(on >= 0, on, right), on

    def crossed(
        self, right: IntArray, on: IntArray, tails: IntArray, heads: IntArray
    ) -> tuple[IntArray, IntArray]:
        """Which carriers lie strictly between the ends of each segment.

        Parameters
        ----------
        tails, heads : numbers of places
        right, on : of places, see `beside`

        Returns
        -------
        numbers of segments, and of the carriers that they cross
        """
        first = np.minimum(right[tails], right[heads])
        last = np.maximum(right[tails], right[heads])
        # The lower end may lie on a carrier, which is not crossed then; that of the upper one is not counted.
        lower = np.where(right[tails] <= right[heads], tails, heads)
        first = first + (on[lower] >= 0)
        count = np.maximum(last - first, 0)
        segment = np.repeat(np.arange(len(tails)), count)
        return segment, np.repeat(first, count) + steps_of(count)

    def line_at(self, carriers: IntArray, at: FloatArray) -> IntArray:
        """The line that lies at a place along a carrier, or -1 where there is none."""
        reach = 4.0 * (
            max(np.abs(self.lows).max(), np.abs(self.highs).max(), np.abs(at).max(initial=0.0)) + 1.0
        )
        begins = self.carriers * reach + self.lows - TOLERANCES.on_line_mm
        place = np.maximum(np.searchsorted(begins, carriers * reach + at, side="right") - 1, 0)
        held = (self.carriers[place] == carriers) & (at <= self.highs[place] + TOLERANCES.on_line_mm)
        held &= at >= self.lows[place] - TOLERANCES.on_line_mm
        return np.where(held, place, -1)


def pencils_of(lines: Segments) -> list[Pencil]:
    """All lines in few pencils, those that go on in one another made one.

    >>> starts, ends = np.array([[0.0, 0], [2, 0], [0, 3]]), np.array([[1.0, 0], [1, 0], [4, 3]])
    >>> (pencil,) = pencils_of(Segments(starts=starts, ends=ends))
    >>> pencil.keys.tolist(), pencil.lows.tolist(), pencil.highs.tolist()
    ([0.0, 3.0], [0.0, 0.0], [2.0, 4.0])
    >>> starts = np.array([[1.0, 0], [1, 1], [1, 2]])
    >>> [pencil.apex.tolist() for pencil in pencils_of(Segments(starts=starts, ends=2 * starts))]
    [[0.0, 0.0]]
    """
    if not len(lines):
        return []
    ways = lines.ends - lines.starts
    ways = ways / np.hypot(*ways.T)[:, None]
    # To and fro is the same way; the cut lies where few lines run.
    slope = clustered(
        np.remainder(np.arctan2(ways[:, 1], ways[:, 0]) + 0.1, math.pi), apart=TOLERANCES.same_way_rad
    )
    if slope.max() < 2:
        return [_parallel(lines.take(np.flatnonzero(slope == n))) for n in range(slope.max() + 1)]
    apex = _common_point(lines.starts, ways)
    if apex is not None:
        return [_about(lines, apex)]
    return [_parallel(lines.take(np.flatnonzero(slope == n))) for n in range(slope.max() + 1)]


def _common_point(starts: FloatArray, ways: FloatArray) -> FloatArray | None:
    across = ways[0, 0] * ways[:, 1] - ways[0, 1] * ways[:, 0]
    other = int(np.abs(across).argmax())
    to = starts[other] - starts[0]
    apex = starts[0] + (to[0] * ways[other, 1] - to[1] * ways[other, 0]) / across[other] * ways[0]
    off = (apex - starts)[:, 0] * ways[:, 1] - (apex - starts)[:, 1] * ways[:, 0]
    return apex if np.abs(off).max() < TOLERANCES.through_mm else None


def _keys(places: FloatArray, apex: FloatArray | None, middle: FloatArray) -> FloatArray:
    """Where places lie among carriers: how far to the left of the middle, or at which angle from it."""
    u, v = (places if apex is None else places - apex).T
    left: FloatArray = middle[0] * v - middle[1] * u
    return left if apex is None else np.arctan2(left, middle[0] * u + middle[1] * v)


def _parallel(lines: Segments) -> Pencil:
    way = lines.ends[0] - lines.starts[0]
    way = way / math.hypot(*way)
    way = way if way[0] + 1e-3 * way[1] > 0.0 else -way
    carriers = clustered(_keys(lines.starts, None, way), apart=TOLERANCES.same_place_mm)
    feet = lines.starts[np.unique(carriers, return_index=True)[1]]
    keys, ways = _keys(feet, None, way), np.broadcast_to(way, feet.shape)
    on = _on_carriers(lines, carriers, feet, ways)
    return Pencil(apex=None, middle=way, keys=keys, feet=feet, ways=ways, **on)


def _about(lines: Segments, apex: FloatArray) -> Pencil:
    outward = np.linalg.norm(lines.ends - apex, axis=1) > np.linalg.norm(lines.starts - apex, axis=1)
    far = np.where(outward[:, None], lines.ends, lines.starts)
    angles = np.sort(np.arctan2(*(far - apex).T[::-1]))
    # The middle lies opposite to the widest gap.
    gaps = np.append(angles[1:], angles[0] + 2.0 * math.pi) - angles
    widest = int(gaps.argmax())
    opposite = angles[widest] + gaps[widest] / 2.0 + math.pi
    middle = np.array([math.cos(opposite), math.sin(opposite)])
    carriers = clustered(_keys(far, apex, middle), apart=TOLERANCES.same_way_rad)
    ways = (far - apex)[np.unique(carriers, return_index=True)[1]]
    ways = ways / np.hypot(*ways.T)[:, None]
    keys, feet = _keys(apex + ways, apex, middle), np.broadcast_to(apex, ways.shape)
    on = _on_carriers(lines, carriers, feet, ways)
    return Pencil(apex=apex, middle=middle, keys=keys, feet=feet, ways=ways, **on)


def _on_carriers(lines: Segments, carriers: IntArray, feet: FloatArray, ways: FloatArray) -> dict[str, Any]:
    """Lines along their carriers, those that go on in one another made one."""
    starts, ends = (
        np.einsum("nd,nd->n", at - feet[carriers], ways[carriers]) for at in (lines.starts, lines.ends)
    )
    low, high = np.minimum(starts, ends), np.maximum(starts, ends)
    order = np.lexsort((low, carriers))
    carriers, low, high = carriers[order], low[order], high[order]
    begins = (carriers[1:] != carriers[:-1]) | (low[1:] > high[:-1] + TOLERANCES.same_place_mm)
    first = np.flatnonzero(np.append(True, begins))
    last = np.append(first[1:], len(low)) - 1
    return {"carriers": carriers[first], "lows": low[first], "highs": high[last]}

"""Letters drawn anew so that together they fill an outline, all with one stroke.

Letters that are bent into an outline get strokes of every weight: upright ones stay as they were, level ones
grow with the height. Here the line that a pen would follow through each letter is laid into its share of the
outline, and one pen is drawn along all of them: every stroke has one weight, heads and feet end on the
outline itself, corners stay corners.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from kizami.outlines.centre_lines import CentreLines
from kizami.outlines.curves import FloatArray, bodies_of

__all__ = ["DrawnFilled", "fill"]

#: Upper and lower edge of the outline at places across it.
Edge = Callable[[FloatArray], tuple[FloatArray, FloatArray]]

#: Width of the openings in a letter such as H, and of the gaps between letters, in strokes (common practice,
#: no source: a stroke and the white beside it weigh the same).
_OPENING, _GAP = 1.0, 0.7
#: No stroke is heavier than this share of what it would be if the letters kept their own proportions.
_HEAVIEST = 0.66
#: An H is so wide between the middles of its strokes, in cap heights, in most faces (common practice, no
#: source).
_USUAL_WIDTH = 0.52
#: A letter is never drawn wider than this against its height and own proportions.
_WIDEST = 2.0
#: Marks lower than this, in cap heights, keep their place: a hyphen is not drawn over the whole height.
_LETTER_HEIGHT = 0.4
#: A stroke that ends so near to a head or foot line, in cap heights, is led out to the outline.
_RUNS_OUT = 0.2
#: Pieces of a line that are bent, in strokes: short against any curve of an outline.
_STEP = 0.25
#: An outline is left where it is lower than this share of its height.
_LOWEST_SHARE = 0.42


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class DrawnFilled:
    """Letters in their shares of an outline.

    Attributes
    ----------
    outlines : one a letter
    stretch : of each, its width against its height over its own proportions, or the other way round
    stroke : of all
    """

    outlines: tuple[shapely.MultiPolygon, ...]
    stretch: tuple[float, ...]
    stroke: float

    def is_whole(self, parts: Sequence[CentreLines]) -> bool:
        """Whether every part has its openings, and its dots and accents apart."""
        return all(
            sum(len(body.interiors) for body in shape.geoms) >= part.openings
            and len(shape.geoms) >= min(part.bodies, 2)
            for shape, part in zip(self.outlines, parts, strict=True)
        )


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Slot:
    """Where a letter goes: its own box in cap heights, and from where to where across the outline."""

    low: float
    bottom: float
    wide: float
    tall: float
    left: float
    scale: float

    @property
    def right(self) -> float:
        """Where its last stroke has its middle."""
        return self.left + self.wide * self.scale


def fill(
    groups: Sequence[Sequence[CentreLines]], outline: shapely.Polygon, *, cap: float, sagitta: float
) -> DrawnFilled:
    """Draw letters into an outline, from left to right.

    Parameters
    ----------
    groups : lines of the parts of each letter, its accents with it, cap heights, where they stand in it
    outline : to be filled
    cap : what a cap height would be if the letters kept their own size: no stroke is heavier than theirs
    sagitta : largest distance between a curve and its chords

    Returns
    -------
    one outline a part, in the order of the groups
    """
    boxes = [_box_of(parts) for parts in groups]
    weight = float(np.median([part.width for parts in groups for part in parts]))
    low, high = _usable(outline)
    stroke = _stroke((high - low), [box[2] - box[0] for box in boxes], _HEAVIEST * weight * cap)
    parts = [part for several in groups for part in several]
    first = _drawn_with(stroke, groups, outline, boxes=boxes, usable=(low, high), sagitta=sagitta)
    for share in _LIGHTER:
        # A pen that fills the ring of an Å, or joins dots to their letter, is too heavy for this line.
        if first.is_whole(parts):
            break
        lighter = _drawn_with(
            share * stroke, groups, outline, boxes=boxes, usable=(low, high), sagitta=sagitta
        )
        if lighter.is_whole(parts):
            return lighter
    return first


#: Pens that are tried one after the other where openings would be filled.
_LIGHTER = (0.85, 0.7, 0.58)


def _drawn_with(
    stroke: float,
    groups: Sequence[Sequence[CentreLines]],
    outline: shapely.Polygon,
    *,
    boxes: Sequence[tuple[float, float, float, float]],
    usable: tuple[float, float],
    sagitta: float,
) -> DrawnFilled:
    """The letters with a pen of one width, their gaps evened."""
    inner = outline.buffer(-stroke / 2.0, join_style="mitre")
    edge = _edge_of(inner if not inner.is_empty else outline)
    is_round = sum(part.is_round for parts in groups for part in parts) * 2 > sum(map(len, groups))
    gaps = np.full(max(len(groups) - 1, 0), _GAP * stroke)
    drawn: list[list[shapely.MultiPolygon]] = []
    pens: list[_Pen] = []
    for again in reversed(range(_TIMES_EVENED + 1)):
        slots = _slots(boxes, edge, low=usable[0], high=usable[1], stroke=stroke, gaps=gaps)
        pens = [_Pen(slot=s, edge=edge, stroke=stroke, is_round=is_round, sagitta=sagitta) for s in slots]
        drawn = [
            [bodies_of(pen.drawn(part).intersection(outline)) for part in parts]
            for parts, pen in zip(groups, pens, strict=True)
        ]
        if not again or not len(gaps):
            break
        # Slanted and round letters come nearer or stay further off than their boxes.
        whole = [shapely.union_all(parts) for parts in drawn]
        found = np.array([one.distance(other) for one, other in itertools.pairwise(whole)])
        if np.abs(found - _GAP * stroke).max() < _EVEN_ENOUGH * stroke:
            break
        gaps = np.clip(gaps + _GAP * stroke - found, -stroke, 2.0 * _GAP * stroke)
    return DrawnFilled(
        outlines=tuple(shape for parts in drawn for shape in parts),
        stretch=tuple(pen.stretch for parts, pen in zip(groups, pens, strict=True) for _ in parts),
        stroke=stroke,
    )


#: Times that the gaps are corrected by what they turn out to be, and how near is enough, in strokes.
_TIMES_EVENED, _EVEN_ENOUGH = 3, 0.15


def _box_of(parts: Sequence[CentreLines]) -> tuple[float, float, float, float]:
    boxes = np.array([part.box for part in parts])
    low, bottom = boxes[:, :2].min(axis=0)
    high, top = boxes[:, 2:].max(axis=0)
    if top - bottom < _LETTER_HEIGHT:
        bottom, top = min(bottom, 0.0), max(top, 1.0)
    return (float(low), float(bottom), float(high), float(top))


def _stroke(width: float, wide: Sequence[float], heaviest: float) -> float:
    """The one weight with which strokes, openings and gaps take the whole width."""
    count = len(wide)
    strokes = (1.0 + _OPENING) / _USUAL_WIDTH * sum(wide) + count + _GAP * (count - 1)
    return min(width / strokes, heaviest)


def _slots(
    boxes: Sequence[tuple[float, float, float, float]],
    edge: Edge,
    *,
    low: float,
    high: float,
    stroke: float,
    gaps: FloatArray,
) -> list[_Slot]:
    """Shares of the outline: wider where it is higher, so that no letter is much narrower than the others."""
    count = len(boxes)
    left_over = (high - low) - stroke * count - float(gaps.sum())
    heights = np.full(count, _mean_height(edge, low, high))
    slots: list[_Slot] = []
    for _ in range(_ROUNDS):
        own = np.array([right - left for left, _, right, _ in boxes])
        share = np.sqrt(heights / heights.mean())
        scales = share * (left_over / max(float((own * share).sum()), 1e-9))
        scales = np.minimum(scales, _WIDEST * heights)
        taken = float((own * scales).sum()) + stroke * count + float(gaps.sum())
        at = (low + high - taken) / 2.0
        slots = []
        after = [*gaps.tolist(), 0.0]
        for (left, bottom, right, top), scale, gap in zip(boxes, scales.tolist(), after, strict=True):
            slot = _Slot(
                low=left,
                bottom=bottom,
                wide=right - left,
                tall=top - bottom,
                left=at + stroke / 2.0,
                scale=scale,
            )
            slots.append(slot)
            at = slot.right + stroke / 2.0 + gap
        upper, lower = edge(np.array([(slot.left + slot.right) / 2.0 for slot in slots]))
        heights = np.maximum(upper - lower, 1e-9)
    return slots


#: Times that shares are evened by the heights that they turn out to have.
_ROUNDS = 4


def _edge_of(outline: shapely.Geometry) -> Edge:
    """Its upper and lower edge, as if what is enclosed were filled."""
    body = max(bodies_of(outline).geoms, key=lambda b: float(b.area))
    ring = np.asarray(body.exterior.coords)
    at = np.linspace(ring[:, 0].min(), ring[:, 0].max(), _LINES + 2)[1:-1]
    start, end = ring[:-1], ring[1:]
    # Where every edge of it stands over every upright line; (lines, edges).
    run = end[:, 0] - start[:, 0]
    with np.errstate(divide="ignore", invalid="ignore"):
        share = (at[:, None] - start[:, 0]) / run
    crossed = (share >= 0.0) & (share <= 1.0)
    height = start[:, 1] + np.where(crossed, share, 0.0) * (end[:, 1] - start[:, 1])
    top = np.where(crossed, height, -np.inf).max(axis=1)
    foot = np.where(crossed, height, np.inf).min(axis=1)

    def edge(x: FloatArray) -> tuple[FloatArray, FloatArray]:
        return np.interp(x, at, top), np.interp(x, at, foot)

    return edge


#: Upright lines on which an outline is looked at.
_LINES = 240


def _usable(outline: shapely.Polygon) -> tuple[float, float]:
    """From where to where an outline is high enough for letters."""
    low, _, high, _ = outline.bounds
    at = np.linspace(low, high, _LINES)
    upper, lower = _edge_of(outline)(at)
    enough = at[(upper - lower) >= _LOWEST_SHARE * float((upper - lower).max())]
    return float(enough.min()), float(enough.max())


def _mean_height(edge: Edge, low: float, high: float) -> float:
    upper, lower = edge(np.linspace(low, high, _LINES))
    return float(np.mean(upper - lower))


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Pen:
    """One pen on one letter."""

    slot: _Slot
    edge: Edge
    stroke: float
    is_round: bool
    sagitta: float

    @property
    def stretch(self) -> float:
        """How far the letter's proportions are from its own."""
        slot = self.slot
        middle = np.array([(slot.left + slot.right) / 2.0])
        upper, lower = self.edge(middle)
        up = float(upper[0] - lower[0]) / slot.tall
        return max(up / slot.scale, slot.scale / up) if slot.scale > 0 and up > 0 else 1.0

    def laid(self, points: FloatArray) -> FloatArray:
        """Points of the letter where they go."""
        slot = self.slot
        x = slot.left + (points[:, 0] - slot.low) * slot.scale
        upper, lower = self.edge(x)
        level = (points[:, 1] - slot.bottom) / slot.tall
        return np.column_stack((x, lower + level * (upper - lower)))

    def drawn(self, letter: CentreLines) -> shapely.Geometry:
        """The strokes of a letter."""
        half = self.stroke / 2.0
        quads = max(2, math.ceil(math.pi / 4 / math.acos(max(0.0, 1.0 - self.sagitta / max(half, 1e-9)))))
        parts = []
        for line in letter.lines:
            fine = shapely.get_coordinates(
                shapely.segmentize(shapely.LineString(line.points), _STEP * letter.width)
            )
            laid = self.laid(fine)
            for at_end in (False, True):
                laid = self._led_out(laid, line.points[-at_end], line.ends[at_end], at_end=at_end)
            laid = shapely.get_coordinates(shapely.simplify(shapely.LineString(laid), self.sagitta / 2.0))
            closed = bool(np.allclose(laid[0], laid[-1]))
            path: shapely.Geometry = (
                shapely.LinearRing(laid) if closed and len(laid) > 3 else shapely.LineString(laid)
            )
            parts.append(
                path.buffer(
                    half,
                    quad_segs=quads,
                    cap_style="round" if self.is_round else "flat",
                    join_style="round" if self.is_round else "mitre",
                    mitre_limit=_MITRE if letter.bodies == 1 else _MITRE_BELOW,
                )
            )
        if len(letter.joints):
            parts.extend(shapely.buffer(shapely.points(self.laid(letter.joints)), half, quad_segs=quads))
        parts.extend(self._dots(letter, quads))
        return shapely.union_all(parts)

    def _dots(self, letter: CentreLines, quads: int) -> Iterator[shapely.Geometry]:
        """Marks without a line of their own; those beside each other stay apart."""
        if not len(letter.dots):
            return
        laid = self.laid(letter.dots[:, :2])
        apart = [float(np.hypot(*(one - other))) for one, other in itertools.combinations(laid, 2)]
        half = self.stroke / 2.0
        for middle, radius in zip(laid, letter.dots[:, 2].tolist(), strict=True):
            size = half * max(2.0 * radius / letter.width, 1.0) if letter.lines else half * _DOT
            # Where they can't, they become one mark.
            size = max(min([size, *(_OF_APART * distance for distance in apart)]), _LEAST_DOT * half)
            yield shapely.Point(*middle).buffer(size, quad_segs=quads)

    def _led_out(self, laid: FloatArray, point: FloatArray, end: str, *, at_end: bool) -> FloatArray:
        """A line that goes on as far as its stroke, or beyond the outline, which cuts it off."""
        if end == "joint" or self.is_round:
            return laid
        ordered = laid[::-1] if at_end else laid
        way = ordered[0] - ordered[min(2, len(ordered) - 1)]
        way = way / max(float(np.hypot(*way)), 1e-12)
        level = float(point[1] - self.slot.bottom) / self.slot.tall
        upper, lower = self.edge(ordered[:1, 0])
        short_of = min(level, 1.0 - level)
        reach = self.stroke / 2.0
        outward = way[1] if level > 0.5 else -way[1]
        if short_of < _RUNS_OUT and outward > abs(way[0]):
            reach = 2.0 * self.stroke + short_of * float(upper[0] - lower[0])
        ordered = np.concatenate(((ordered[0] + way * reach)[None], ordered))
        return ordered[::-1] if at_end else ordered


#: Corners are led out to a point up to this length, in halves of a stroke; the outline cuts them off.
#: Below an accent nothing does.
_MITRE, _MITRE_BELOW = 9.0, 2.5
#: A dot by itself is this much wider than a stroke.
_DOT = 1.15
#: Radius of dots at most, as a share of how far their middles are apart, and at least, in half strokes.
_OF_APART, _LEAST_DOT = 0.34, 0.9

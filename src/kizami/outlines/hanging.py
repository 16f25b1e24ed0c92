"""Where loops go that a name hangs by: places along its whole outline, weighed against each other.

A loop is a ring that stands into the lettering by a part of its wall. Its middle therefore lies on a line at
one distance around the outline, and every place on that line is looked at: whether the ring meets one stroke
there and no other, whether that stroke is as strong as the ring, and whether the piece then hangs level.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
import numpy.typing as npt
import shapely
from scipy import ndimage

from kizami.outlines.boxed import boxed
from kizami.outlines.crossings import crossings
from kizami.outlines.curves import FloatArray
from kizami.outlines.ring import Ring
from kizami.outlines.swash import LAST_WORTH, Swashes
from kizami.prepared import prepared

__all__ = ["END_SHARE", "Loop", "held_by", "hung"]

_QUARTER = 24
#: Two loops stand within this share of the width from either end (common practice, no source).
END_SHARE = 0.2
#: Angles at which the surroundings of a ring are looked at, and levels that are tried.
_ANGLES, _RADII, _LEVELS = 90, 4, 40
_COARSE = 0.015
#: How far above the centre of mass two loops stand at least, as a share of the height of the lettering.
_ABOVE_SHARE = 0.06
#: One loop is looked for within this lean of the centre of mass, degrees.
_MOST_LEAN_DEG = 2.0
#: Places to either side of the centre of mass that are tried for one loop.
_ASIDE = 9
#: So little within an edge counts as within, as a share of a neck: the edge of the ring is its own.
_EDGE_SHARE = 0.01
#: How often a lifted loop is weighed again.
_WEIGHED_AGAIN = 3
#: How far a loop at the side may stand in over its letter, in its radii.
_LET_IN = 0.25
#: Radius of a ring that may be read as the bowl of a letter, as a share of the height of the whole; how much
#: further it stands off, in its radii; where the middle of a bar's end lies outside its stroke, in walls.
_BOWL_SHARE, _NECK_SHARE, _BACK_SHARE = 0.17, 0.6, 0.1
#: What a place is worth on a stroke of no width, as a share of the same on one as strong as the ring.
_FINE_WORTH = 0.2
#: How far the middle of a ring stands outside of all that its letter spans, in its radii, and what a place is
#: worth where it does not, as a share: in the hollow of an n a ring makes another letter of it.
_OUTSIDE_SHARE, _HOLLOW_WORTH = 0.5, 0.35


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Loop:
    """A loop.

    Attributes
    ----------
    ring : its material
    opening : its hole, which stays open
    carrier : a bar that holds it where no stroke does, or None
    x, y : its middle
    hold : width of the neck that holds it
    """

    ring: shapely.Polygon
    opening: shapely.Polygon
    carrier: shapely.Polygon | None
    x: float
    y: float
    hold: float


def held_by(one: Loop, whole: shapely.Geometry) -> float:
    """Width of all that holds a loop in a whole that it is part of: what of its outer edge lies inside."""
    disc = shapely.union_all([one.ring, one.opening])
    edge = _EDGE_SHARE * one.hold
    here = boxed(whole, disc, room=4.0 * edge)
    inside = shapely.line_merge(disc.exterior.intersection(here.buffer(-edge)))
    width = 0.0
    for line in shapely.get_parts(inside):
        ends = shapely.get_coordinates(line)[[0, -1]]
        width += float(np.hypot(*(ends[1] - ends[0])))
    return width


#: Of a wall: openings narrower than twice that are eyelets; a ring goes no further into a middle.
_EYELET, _INTO_MIDDLE = 0.12, 0.1


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Places:
    """Places for a ring, (n,) each: middles (n, 2), width of what holds it there, where it is held, as an
    angle, and whether it meets one stroke and is near no other."""

    middles: FloatArray
    hold: FloatArray
    towards: FloatArray
    is_clear: npt.NDArray[np.bool_]


def hung(
    shape: shapely.MultiPolygon,
    *,
    place: str,
    hole: float,
    wall: float,
    gap: float,
    stroke: float,
    ends: tuple[shapely.Geometry, shapely.Geometry] | None = None,
    avoid: shapely.Geometry | None = None,
    bar: shapely.Geometry | None = None,
) -> tuple[Loop, ...]:
    """Find where the loops of a name go.

    Parameters
    ----------
    shape : the lettering in one piece
    place : “ends”: two at one level, one near each end; “balanced”: one over the centre of mass, so that it
        hangs level; “left”: one at the left end, level with the centre of mass, so that it hangs straight
    hole, wall : diameter of the hole, material around it
    gap : that a ring keeps from all that does not hold it
    stroke : thinnest stroke that may hold one
    ends : the first and the last letter, which alone carry the loops at the ends; None for all of it
    avoid : accents and bridges, which hold no loop
    bar : that runs under all letters and carries a loop at the side, as it is the sturdiest part there and
        the same on every piece

    Returns
    -------
    the loops, from left to right; where no stroke can hold one, it stands on one of its own
    """
    ring = Ring(hole=hole, wall=wall, gap=gap, least_hold=min(stroke, wall))
    search = _Search(shape, ring, ends or (shape, shape), avoid)
    if place == "ends":
        return search.at_the_ends()
    if place == "balanced":
        return (search.over_the_middle(),)
    return (search.beside(bar),)


class _Search:
    """One search; the line that middles lie on is found once."""

    def __init__(
        self,
        shape: shapely.MultiPolygon,
        ring: Ring,
        ends: tuple[shapely.Geometry, shapely.Geometry],
        avoid: shapely.Geometry | None,
    ) -> None:
        # Places are looked for on a coarser outline: the loop itself is joined to the fine one.
        shape = shapely.simplify(shape, _COARSE * ring.wall)
        self.shape, self.ring = prepared(shape), ring
        self.ends = {-1: ends[0], 1: ends[1]}
        self.avoid = None if avoid is None or avoid.is_empty else avoid
        self.low_x, self.low_y, self.high_x, self.high_y = shape.bounds
        self.mass = np.array([shape.centroid.x, shape.centroid.y])
        around = shape.buffer(ring.reach, quad_segs=_QUARTER // 2)
        # Only what lies outside of everything: a ring in a closed middle could not be got at.
        outside = shapely.union_all([shapely.Polygon(body.exterior) for body in shapely.get_parts(around)])
        self.line = outside.boundary
        # Where a pen merely turned is no middle that could be closed.
        holes = [shapely.Polygon(hole) for body in shapely.get_parts(shape) for hole in body.interiors]
        self.middles = shapely.union_all(
            [hole for hole in holes if not hole.buffer(-_EYELET * ring.wall).is_empty]
        )

    @property
    def width(self) -> float:
        return float(self.high_x - self.low_x)

    @property
    def height(self) -> float:
        return float(self.high_y - self.low_y)

    def at_the_ends(self) -> tuple[Loop, ...]:
        """Two at one level: of all levels the one whose weaker end is best."""
        lowest = self.mass[1] + _ABOVE_SHARE * self.height
        levels = np.linspace(lowest, self.high_y + self.ring.reach, _LEVELS)
        middles = self._crossings(levels, axis=1)
        sides = self._sides(middles)
        ends = np.array([self.ends[1 if side > 0 else -1] for side in sides.tolist()], dtype=object)
        near = (sides != 0) & shapely.dwithin(ends, shapely.points(middles), self.ring.reach + self.ring.wall)
        # What hangs over its letter is worth nothing, and need not be looked at.
        near &= np.where(sides < 0, self._beyond(middles, -1), self._beyond(middles, 1)) > -self.ring.outer
        middles, sides = middles[near], sides[near]
        places = self._looked_at(middles)
        worth = np.where(sides < 0, self._worth(places, side=-1), self._worth(places, side=1))
        held = {side: np.zeros(_LEVELS) for side in (-1, 1)}
        which = {side: np.full(_LEVELS, -1) for side in (-1, 1)}
        number = np.searchsorted(levels, places.middles[:, 1])
        for one in np.argsort(worth, kind="stable").tolist():
            if worth[one] > 0:
                held[int(sides[one])][number[one]], which[int(sides[one])][number[one]] = worth[one], one
        own = {side: Swashes(self.shape, self.ends[side], side, levels, self.ring) for side in (-1, 1)}
        most = [np.maximum(held[side], own[side].worth) for side in (-1, 1)]
        # A chain carries no more than its weaker end does.
        hoped = np.minimum(*most) + 0.25 * (most[0] + most[1])
        best: tuple[float, list[Callable[[], Loop]]] | None = None
        made: list[Callable[[], Loop]]
        for level in np.argsort(-hoped, kind="stable").tolist():
            if best is not None and hoped[level] <= best[0]:
                break
            value, made = [], []
            for side in (-1, 1):
                there = held[side][level]
                swash = own[side].best(level) if own[side].worth[level] > there else None
                if swash is not None and swash[0] > there:
                    value.append(swash[0])
                    made.append(partial(self._on_stroke, swash[1], swash[2]))
                elif there > 0:
                    value.append(there)
                    made.append(partial(self._loop, places.middles[which[side][level]]))
            if len(value) < len(most):
                continue
            whole = min(value) + 0.25 * sum(value)
            if best is None or whole > best[0]:
                best = (whole, made)
        if best is None:
            level = self.high_y + self.ring.gap + self.ring.outer
            return tuple(self._carried(self._free_at(side, level)) for side in (-1, 1))
        return tuple(make() for make in best[1])

    def _on_stroke(self, middle: FloatArray, stroke: shapely.Geometry) -> Loop:
        plain = self._loop(middle)
        return replace(plain, carrier=stroke.difference(plain.opening), hold=self.ring.wall)

    def _free_at(self, side: int, level: float) -> FloatArray:
        """A place near an end at a level where a ring keeps clear of everything."""
        inset = 0.5 * END_SHARE * self.width
        start = self.low_x + inset if side < 0 else self.high_x - inset
        for step in range(_LEVELS):
            x = start + side * step * 0.25 * self.ring.wall
            if shapely.distance(self.shape, shapely.Point(x, level)) >= self.ring.outer + self.ring.gap:
                return np.array([x, level])
        return np.array([start + side * (inset + self.ring.outer + self.ring.gap), level])

    def over_the_middle(self) -> Loop:
        """One over the centre of mass; of all that hang level the one that is held best."""
        top = self.high_y + self.ring.reach
        lean = np.tan(np.radians(_MOST_LEAN_DEG)) * max(top - self.mass[1], self.ring.outer)
        across = self.mass[0] + np.linspace(-lean, lean, _ASIDE)
        middles = self._crossings(across, axis=0)
        middles = middles[middles[:, 1] > self.mass[1] + _ABOVE_SHARE * self.height]
        places = self._looked_at(middles)
        if len(middles):
            worth = self._worth(places)
            # A ring among the letters reads as one of them: it stands above all that is beside it.
            beside = np.array([self._top_about(x) for x in places.middles[:, 0].tolist()])
            worth = np.where(places.middles[:, 1] >= beside, worth, 0.0)
            aside = np.abs(places.middles[:, 0] - self.mass[0])
            most = np.tan(np.radians(_MOST_LEAN_DEG)) * (places.middles[:, 1] - self.mass[1])
            worth = np.where(aside <= most, worth - 0.1 * aside / np.maximum(most, 1e-9), 0.0)
            best = int(np.argmax(worth))
            if worth[best] > 0:
                return self._loop(places.middles[best])
        # On a bar that lifts it over its neighbours, and that weighs something itself.
        x = float(self.mass[0])
        for _ in range(_WEIGHED_AGAIN):
            level = self._top_about(x) + self.ring.outer + 1.5 * self.ring.gap
            carried = self._carried(np.array([x, level]))
            whole = shapely.union_all([self.shape, carried.ring, carried.carrier])
            x = whole.centroid.x
        return carried

    def _top_about(self, x: float) -> float:
        """The highest ink beside a place, as far as a ring reaches."""
        reach = self.ring.outer + self.ring.gap
        here = self.shape.intersection(shapely.box(x - reach, self.low_y - 1.0, x + reach, self.high_y + 1.0))
        return float(self.mass[1]) if here.is_empty else float(here.bounds[3])

    def beside(self, bar: shapely.Geometry | None = None) -> Loop:
        """One at the left end, level with the centre of mass."""
        outside = np.array([self.low_x - self.ring.outer - self.ring.gap, self.mass[1]])
        if bar is not None:
            # Into the middle of its end, so that no corner of either stands out.
            core = bar.buffer(-self.ring.wall / 2.0, quad_segs=1)
            return self._carried(outside, bar if core.is_empty else core)
        lean = np.tan(np.radians(_MOST_LEAN_DEG)) * self.width / 2.0
        levels = self.mass[1] + np.linspace(-lean, lean, _ASIDE)
        middles = self._crossings(levels, axis=1)
        middles = middles[middles[:, 0] < self.low_x + END_SHARE * self.width]
        places = self._looked_at(middles)
        if len(middles):
            worth = self._worth(places, side=-1)
            worth = worth - (places.middles[:, 0] - self.low_x) / self.width
            beyond = self._beyond(middles, -1) > -_LET_IN * self.ring.outer
            worth = np.where(places.is_clear & (worth > 0) & beyond, worth, 0.0)
            best = int(np.argmax(worth))
            if worth[best] > 0:
                return self._beside_letters(places.middles[best])
        own = Swashes(self.shape, self.ends[-1], -1, levels, self.ring)
        for level in np.argsort(-own.worth, kind="stable").tolist():
            swash = own.best(level)
            # What is drawn where nothing else stands clear runs right round and reads as another letter: a
            # short bar does better.
            if swash is None or swash[0] <= LAST_WORTH:
                continue
            if swash[1][0] < self.low_x + _LET_IN * self.ring.outer:
                return self._on_stroke(swash[1], swash[2])
        return self._carried(outside)

    def _beside_letters(self, middle: FloatArray) -> Loop:
        """At a place beside the first letter. One as large as the bowl of a letter stands off on a neck:
        with a stem it would read as one."""
        if self.ring.outer < _BOWL_SHARE * self.height:
            return self._loop(middle)
        return self._carried(middle - np.array([_NECK_SHARE * self.ring.outer, 0.0]))

    def _crossings(self, levels: FloatArray, *, axis: int) -> FloatArray:
        """Where the line of middles crosses straight lines: (n, 2), one line after the other.

        Parameters
        ----------
        levels : u of upright lines (axis 0) or v of level ones (axis 1); each place has the very number
        """
        which, along = crossings(self.line, levels, axis=axis)
        found = np.empty((len(which), 2))
        found[:, axis], found[:, 1 - axis] = levels[which], along
        return found

    def _looked_at(self, middles: FloatArray) -> _Places:
        """What a ring would meet at some places."""
        ring = self.ring
        angles = np.linspace(0.0, 2.0 * np.pi, _ANGLES, endpoint=False)
        way = np.column_stack((np.cos(angles), np.sin(angles)))
        # From well within the wall out to where something else would be too near.
        radii = np.linspace(ring.outer - 0.15 * ring.wall, ring.outer + ring.gap, _RADII)
        held_at = ring.outer + 0.35 * ring.wall
        around = np.stack([self._inked(middles, way, radius) for radius in radii], axis=1)
        at = around[:, 0]
        return _Places(
            middles=middles,
            hold=_chord(self._inked(middles, way, held_at), held_at),
            towards=np.angle((at * np.exp(1j * angles)).sum(axis=1)),
            is_clear=(_runs(at) == 1) & (_pieces(around) == 1),
        )

    def _inked(self, middles: FloatArray, way: FloatArray, radius: float) -> npt.NDArray[np.bool_]:
        points = middles[:, None, :] + radius * way[None, :, :]
        flat = points.reshape(-1, 2)
        inside = np.asarray(shapely.contains_xy(self.shape, flat[:, 0], flat[:, 1]), dtype=bool)
        return inside.reshape(len(middles), len(way))

    def _worth(self, places: _Places, *, side: int = 0) -> FloatArray:
        """What places are worth; 0 where no loop may stand.

        Parameters
        ----------
        side : -1 or 1 for a loop at the left or right end, 0 for one on top
        """
        ring, middles = self.ring, places.middles
        may = places.is_clear & (places.hold >= ring.least_hold)
        foot = shapely.points(
            middles + ring.outer * np.column_stack((np.cos(places.towards), np.sin(places.towards)))
        )
        if self.avoid is not None:
            may &= ~shapely.dwithin(self.avoid, foot, ring.wall * 0.5)
        may &= ~shapely.dwithin(self.middles, shapely.points(middles), ring.outer - _INTO_MIDDLE * ring.wall)
        if side:
            spanned = prepared(shapely.convex_hull(self.ends[side]))
            hollow = shapely.dwithin(spanned, shapely.points(middles), _OUTSIDE_SHARE * ring.outer)
            may &= shapely.dwithin(self.ends[side], foot, ring.wall * 0.5)
            may &= self._beyond(middles, side) > -ring.outer
        worth = 1.0 + 0.6 * np.minimum(places.hold / ring.wall, 1.6)
        if side:
            # At the very end, beside its letter rather than over it, where it would read as an accent.
            out = self._beyond(middles, side) / ring.outer
            worth += 0.7 * -side * np.cos(places.towards) + 0.5 * np.clip(out, -1.0, 1.0)
            worth += 0.3 * -np.sin(places.towards)
            worth = np.where(hollow, _HOLLOW_WORTH * worth, worth)
        else:
            worth += 0.7 * -np.sin(places.towards)
        # A stroke much finer than the ring would have to be filled up beside it.
        worth = worth * (_FINE_WORTH + (1.0 - _FINE_WORTH) * np.minimum(places.hold / ring.wall, 1.0))
        return np.where(may, np.maximum(worth, 1e-3), 0.0)

    def _beyond(self, middles: FloatArray, side: int) -> FloatArray:
        """How far places lie beyond the first or last letter; below 0 they lie over it."""
        low_x, _, high_x, _ = self.ends[side].bounds
        beyond: FloatArray = low_x - middles[:, 0] if side < 0 else middles[:, 0] - high_x
        return beyond

    def _sides(self, middles: FloatArray) -> npt.NDArray[np.int64]:
        """-1 near the left end, 1 near the right one, 0 between."""
        outer = self.ring.outer
        x = middles[:, 0]
        low, high = np.minimum(self.low_x, x - outer), np.maximum(self.high_x, x + outer)
        share = (x - low) / (high - low)
        return np.where(share <= END_SHARE, -1, np.where(share >= 1.0 - END_SHARE, 1, 0)).astype(np.int64)

    def _loop(self, middle: FloatArray) -> Loop:
        ring = self.ring
        disc = shapely.Point(middle).buffer(ring.outer, quad_segs=_QUARTER)
        opening = shapely.Point(middle).buffer(ring.hole / 2.0, quad_segs=_QUARTER)
        return Loop(
            ring=disc.difference(opening),
            opening=opening,
            carrier=None,
            x=float(middle[0]),
            y=float(middle[1]),
            hold=self._chord_at(middle),
        )

    def _chord_at(self, middle: FloatArray) -> float:
        """Straight width of what a ring meets."""
        rim = shapely.Point(middle).buffer(self.ring.outer, quad_segs=_QUARTER).exterior
        met = shapely.line_merge(rim.intersection(self.shape))
        ends = [shapely.get_coordinates(line)[[0, -1]] for line in shapely.get_parts(met)]
        return float(sum(np.hypot(*(b - a)) for a, b in ends))

    def _carried(self, middle: FloatArray, holder: shapely.Geometry | None = None) -> Loop:
        """On a bar to what lies nearest of a holder; of letters rather than accents where there is none."""
        ring, point = self.ring, shapely.Point(middle)
        if holder is None:
            letters = self.shape if self.avoid is None else self.shape.difference(self.avoid)
            # Where there is nothing but what holds no loop, that has to.
            holder = self.shape if letters.is_empty else letters
        foot = np.asarray(shapely.shortest_line(point, holder).coords)[-1]
        way = foot - middle
        length = float(np.hypot(*way))
        unit = way / length if length else np.array([0.0, -1.0])
        # Its round end stays within the stroke that it meets.
        end = foot - unit * (_BACK_SHARE * ring.wall)
        bar = shapely.LineString([middle, end]).buffer(ring.wall / 2.0, quad_segs=_QUARTER)
        plain = self._loop(middle)
        carrier = bar.difference(plain.opening)
        return replace(plain, carrier=carrier, hold=ring.wall)


def _runs(inside: npt.NDArray[np.bool_]) -> npt.NDArray[np.int64]:
    """How many runs of True there are around each ring, (n, angles) -> (n,)."""
    starts: npt.NDArray[np.int64] = (inside & ~np.roll(inside, 1, axis=1)).sum(axis=1)
    return np.where(inside.all(axis=1), 1, starts)


def _pieces(around: npt.NDArray[np.bool_]) -> npt.NDArray[np.int64]:
    """How many pieces of ink lie around each ring: (n, radii, angles) -> (n,)."""
    count, _, angles = around.shape
    bare = ~around.any(axis=1)
    # Cut open where there is nothing, so that no piece is cut.
    turned = (np.arange(angles) + np.argmax(bare, axis=1)[:, None]) % angles
    opened = np.take_along_axis(around, turned[:, None, :], axis=2)
    piece, pieces = ndimage.label(opened, structure=_NEIGHBOURS)
    _, first = np.unique(piece, return_index=True)
    owner = first // (around.shape[1] * angles)
    # The first of all is what bears no ink, where there is such.
    return np.bincount(owner[len(owner) - pieces :], minlength=count).astype(np.int64)


#: Round about and outward, but never from one ring to the next.
_NEIGHBOURS = np.stack((np.zeros((3, 3)), np.ones((3, 3)), np.zeros((3, 3)))).astype(int)


def _chord(inside: npt.NDArray[np.bool_], radius: float) -> FloatArray:
    """Straight width of the part of a circle that is inked."""
    angle = inside.sum(axis=1) * (2.0 * np.pi / inside.shape[1])
    chord: FloatArray = 2.0 * radius * np.sin(np.minimum(angle, np.pi) / 2.0)
    return chord

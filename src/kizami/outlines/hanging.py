"""Where loops go that a name hangs by: places along its whole outline, weighed against each other.

A loop is a ring that stands into the lettering by a part of its wall. Its middle therefore lies on a line at
one distance around the outline, and every place on that line is looked at: whether the ring meets one stroke
there and no other, whether that stroke is as strong as the ring, and whether the piece then hangs level.
"""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import shapely
from scipy import ndimage

from kizami.outlines.boxed import boxed
from kizami.outlines.crossings import crossings
from kizami.outlines.curves import FloatArray
from kizami.outlines.drawn_strokes import bezier, swelling
from kizami.prepared import prepared

__all__ = ["END_SHARE", "Loop", "held_by", "hung"]

_QUARTER = 24
#: Two loops stand within this share of the width from either end (common practice, no source).
END_SHARE = 0.2
#: Share of its wall by which a ring stands into a stroke: its hole stays clear of it by the rest.
_SUNK_SHARE = 0.7
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
#: Radii by which a stroke of its own goes further out, and how often a lifted loop is weighed again.
_FURTHER_OUT, _WEIGHED_AGAIN = (0.0, 0.6, 1.4), 3
#: How far a loop at the side may stand in over its letter, in its radii.
_LET_IN = 0.25
#: What a stroke of its own is worth against the letter's, and what each radius costs that it rises.
_SWASH_WORTH, _RISE_COSTS = 1.35, 0.12


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


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Ring:
    """Measures of a ring."""

    hole: float
    wall: float
    gap: float
    least_hold: float

    @property
    def outer(self) -> float:
        return self.hole / 2.0 + self.wall

    @property
    def reach(self) -> float:
        """From its middle to the outline that it stands into."""
        return self.hole / 2.0 + self.wall * (1.0 - _SUNK_SHARE)


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Terminal:
    """Where a letter ends at its side, and the direction in which its stroke goes there, outward."""

    side: int
    x: float
    y: float
    width: float
    way: FloatArray

    @classmethod
    def of(cls, letter: shapely.Geometry, side: int) -> _Terminal:
        """The outermost place of a letter.

        >>> stroke = shapely.LineString([(0, 0), (10, 0)]).buffer(0.5)
        >>> _Terminal.of(stroke, 1).way.round(3).tolist()
        [1.0, 0.0]
        """
        points = shapely.get_coordinates(letter)
        far = points[:, 0] * side
        size = float(np.ptp(points, axis=0).max())
        outermost = points[np.argmax(far)]
        # A straight end has two corners: its middle is meant, but not that of two arms above each other.
        is_end = (far >= far.max() - _END_SIZE * size) & (
            np.hypot(*(points - outermost).T) < _NEAR_SHARE * size
        )
        at = points[is_end].mean(axis=0)
        near = letter.intersection(shapely.Point(outermost).buffer(_NEAR_SHARE * size))
        back = at - np.array([near.centroid.x, near.centroid.y])
        around = shapely.Point(outermost).buffer(_NEAR_SHARE * size).exterior.intersection(letter)
        if len(shapely.get_parts(shapely.line_merge(around))) > 1:
            # The stroke only turns here: what branches off leaves it along its edge, upward.
            back = np.array([_BRANCH * side, 1.0])
        # Whatever the stroke does, what goes on from it goes outward.
        way = np.array([max(abs(back[0]), 1e-9) * side, back[1]])
        # A stroke is as wide as what of it lies about its end.
        width = float(near.area / (_NEAR_SHARE * size))
        return cls(side=side, x=float(at[0]), y=float(at[1]), width=width, way=way / np.hypot(*way))


#: Of a letter's size: what is at its very end, and what is near that.
_END_SIZE, _NEAR_SHARE = 0.01, 0.15
#: Of a wall: openings narrower than twice that are eyelets; a ring goes no further into a middle.
_EYELET, _INTO_MIDDLE = 0.12, 0.1
#: How far outward a branch goes while it rises by one.
_BRANCH = 0.45


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

    Returns
    -------
    the loops, from left to right; where no stroke can hold one, it stands on one of its own
    """
    ring = _Ring(hole=hole, wall=wall, gap=gap, least_hold=min(stroke, wall))
    search = _Search(shape, ring, ends or (shape, shape), avoid)
    if place == "ends":
        return search.at_the_ends()
    if place == "balanced":
        return (search.over_the_middle(),)
    return (search.beside(),)


class _Search:
    """One search; the line that middles lie on is found once."""

    def __init__(
        self,
        shape: shapely.MultiPolygon,
        ring: _Ring,
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
        swashes = {side: _Terminal.of(self.ends[side], side) for side in (-1, 1)}
        best: tuple[float, list[tuple[int, int | None]], float] | None = None
        for y in levels.tolist():
            value, chosen = [], []
            for side in (-1, 1):
                here = np.flatnonzero((places.middles[:, 1] == y) & (sides == side))
                one = int(here[np.argmax(worth[here])]) if len(here) else None
                held = float(worth[one]) if one is not None else 0.0
                # A stroke of its own does where none of the letter's suits; the shorter, the better.
                rise = y - swashes[side].y
                own = _SWASH_WORTH - rise / self.ring.outer * _RISE_COSTS if rise > 0 else 0.0
                value.append(max(held, own))
                chosen.append((side, one if held >= own else None))
            if min(value) <= 0:
                continue
            # A chain carries no more than its weaker end does.
            whole = min(value) + 0.25 * sum(value)
            if best is None or whole > best[0]:
                best = (whole, chosen, y)
        if best is None:
            level = self.high_y + self.ring.gap + self.ring.outer
            return tuple(self._carried(self._free_at(side, level)) for side in (-1, 1))
        return tuple(
            self._loop(places.middles[one]) if one is not None else self._on_swash(swashes[side], best[2])
            for side, one in best[1]
        )

    def _on_swash(self, terminal: _Terminal, level: float) -> Loop:
        """On a stroke that goes on from the end of a letter, as a hand would draw it.

        It goes the further out the more it would close between itself and the letter.
        """
        drawn = [self._swash(terminal, level, further * self.ring.outer) for further in _FURTHER_OUT]
        middles = _middles(self.shape)
        clear = (one for one in drawn if _middles(shapely.union(self.shape, one.carrier)) <= middles)
        return next(clear, drawn[0])

    def _swash(self, terminal: _Terminal, level: float, further: float) -> Loop:
        ring = self.ring
        end = np.array([terminal.x, terminal.y])
        # So far out that the ring stands clear beside the letter, and the stroke has room to turn up.
        out = ring.outer + max(ring.gap, 0.35 * (level - terminal.y)) + further
        middle = np.array([terminal.x + terminal.side * out, level])
        foot = middle - np.array([0.0, ring.hole / 2.0 + ring.wall / 2.0])
        reach = 0.55 * float(np.hypot(*(foot - end)))
        start = end - terminal.way * ring.wall
        curve = bezier(start, end + terminal.way * reach, foot - np.array([0.0, reach]), foot)
        # As wide as the letter's own stroke where it leaves it, as the ring where it holds that.
        widths = np.linspace(min(max(terminal.width, ring.least_hold), ring.wall), ring.wall, len(curve))
        plain = self._loop(middle)
        return replace(plain, carrier=swelling(curve, widths).difference(plain.opening), hold=ring.wall)

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

    def beside(self) -> Loop:
        """One at the left end, level with the centre of mass."""
        lean = np.tan(np.radians(_MOST_LEAN_DEG)) * self.width / 2.0
        levels = self.mass[1] + np.linspace(-lean, lean, _ASIDE)
        middles = self._crossings(levels, axis=1)
        middles = middles[middles[:, 0] < self.low_x + END_SHARE * self.width]
        places = self._looked_at(middles)
        if len(middles):
            worth = self._worth(places, side=-1)
            worth = worth - (places.middles[:, 0] - self.low_x) / self.width
            outside = self._beyond(middles, -1) > -_LET_IN * self.ring.outer
            worth = np.where(places.is_clear & (worth > 0) & outside, worth, 0.0)
            best = int(np.argmax(worth))
            if worth[best] > 0:
                return self._loop(places.middles[best])
        x = self.low_x - self.ring.outer - self.ring.gap
        return self._carried(np.array([x, float(self.mass[1])]))

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
            may &= shapely.dwithin(self.ends[side], foot, ring.wall * 0.5)
            may &= self._beyond(middles, side) > -ring.outer
        worth = 1.0 + 0.6 * np.minimum(places.hold / ring.wall, 1.6)
        if side:
            # At the very end, beside its letter rather than over it, where it would read as an accent.
            out = self._beyond(middles, side) / ring.outer
            worth += 0.7 * -side * np.cos(places.towards) + 0.5 * np.clip(out, -1.0, 1.0)
            worth += 0.3 * -np.sin(places.towards)
        else:
            worth += 0.7 * -np.sin(places.towards)
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

    def _carried(self, middle: FloatArray) -> Loop:
        """On a bar to what lies nearest, of letters rather than accents."""
        ring, point = self.ring, shapely.Point(middle)
        letters = self.shape if self.avoid is None else self.shape.difference(self.avoid)
        foot = np.asarray(shapely.shortest_line(point, letters).coords)[-1]
        way = foot - middle
        length = float(np.hypot(*way))
        unit = way / length if length else np.array([0.0, -1.0])
        bar = shapely.LineString([middle, foot + unit * ring.wall]).buffer(
            ring.wall / 2.0, quad_segs=_QUARTER
        )
        plain = self._loop(middle)
        carrier = bar.difference(plain.opening)
        return replace(plain, carrier=carrier, hold=ring.wall)


def _middles(shape: shapely.Geometry) -> int:
    """Closed middles."""
    return sum(len(body.interiors) for body in shapely.get_parts(shape))


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

"""Thin bars that have one long edge, serifs above all: made thicker as an engraver would cut them.

The long edge is what the eye sees, as it stands on the line or closes the letter: it stays where it is as far
as that goes, without a bulge or a dip. What is missing goes to the other side, up to where the bar meets its
stem, and its ends stay square.
"""

from __future__ import annotations

import itertools
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry.polygon import orient
from shapely.ops import substring

from kizami.outlines.curves import FloatArray, bodies_of

__all__ = ["one_sided"]

#: Outlines are looked at within this, cap heights; where they turn by more than this they have a corner,
#: degrees, and an edge that bends by more in all is a curve.
_WITHIN, _CORNER_DEG, _BENT_DEG = 0.006, 25.0, 40.0
#: Sharper turns count as this one, or what meets there would reach far beyond it.
_SHARPEST_DEG = 150.0
#: At a tip the outline turns by this at least, degrees.
_TIP_DEG = 35.0
#: A long edge is so long at least, cap heights, and longer by this than what lies opposite.
_LONG, _LONGER = 0.12, 1.3
#: It is looked at in so many places, and what lies opposite is parallel: cosine of their normals.
_LOOKS, _PARALLEL = 21, -0.8
#: Where it has one tip only that is square, degrees, and the bar straight up to its stem, cosine of its
#: normals, and no longer than this, cap heights: what is longer is the stroke of a hand.
_SQUARE_DEG, _STRAIGHT, _SERIF = (60.0, 120.0), 0.985, 0.12
#: What is added reaches into the bar by this share of its width.
_INTO = 0.9
#: Where an edge has one tip only it comes back to where it was over so many times what it moved, at least
#: and at most, and in so many steps.
_LEAST_RAMP, _MOST_RAMP, _RAMP_LOOKS = 3.0, 12.0, 81
#: The side of a tip is no longer than this share of its edge.
_SHORT = 0.5
#: Of what an outline may move so much is taken, as it is measured on a sampled outline.
_OF_MOST = 0.97


def one_sided(
    shape: shapely.MultiPolygon, *, least: float, most: float, cap_height: float
) -> list[shapely.Geometry]:
    """What makes bars with one long edge `least` thick; none where there are no such.

    Parameters
    ----------
    shape : one letter
    least : wanted thickness
    most : an edge moves by no more; where that is not enough the long edge moves for the rest

    >>> foot = shapely.union_all([shapely.box(0, 0, 6, 0.3), shapely.box(2.5, 0, 3.5, 10)])
    >>> slab, = one_sided(shapely.MultiPolygon([foot]), least=0.5, most=1.0, cap_height=10)
    >>> [round(float(v), 6) for v in slab.bounds]
    [0.0, 0.0, 6.0, 0.5]
    >>> one_sided(shapely.MultiPolygon(), least=0.5, most=1.0, cap_height=10)
    []
    """
    bounds = _Bounds(least=least, most=most, long=_LONG * cap_height, serif=_SERIF * cap_height)
    slabs: list[shapely.Geometry] = []
    for body in shape.geoms:
        rings = [_edges_of(ring, cap_height) for ring in _rings(body)]
        sides = _Sides.of([edge for edges in rings for edge in edges])
        for edges in rings:
            bars = _bars(body, edges, sides, bounds)
            for place, here in enumerate(bars):
                after = (place + 1) % len(edges)
                beside = _moving(bars[place - 1], -1), _moving(bars[after], 0)
                for bar in here:
                    slab = _slab(bar, (edges[place - 1], edges[after]), beside, least)
                    if not slab.is_empty:
                        slabs.append(_rounded(slab, body, bar, *beside))
    return slabs


def _rounded(slab: shapely.Geometry, body: shapely.Polygon, *bars: _Bar | None) -> shapely.Geometry:
    """Where two edges move out, the corner between them is rounded, or it would move by more than they do."""
    moves = [by for bar in bars if bar is not None for by in (bar.outward, bar.inward)]
    return slab.intersection(body.buffer(max(moves)))


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Bar:
    """How a thin bar grows.

    Attributes
    ----------
    edge : its long edge
    thin : from where to where along that it is thin
    outward, inward : by how much it grows to the side of its edge, and to the other one
    tip : the end of its edge, 0 or -1, where it has its only tip; None where it has two
    """

    edge: _Edge
    thin: tuple[float, float]
    outward: float
    inward: float
    tip: int | None = None


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Edge:
    """An outline from corner to corner with the shape to its left.

    Attributes
    ----------
    drawn, plain : (n, 2) its points as it is drawn, and as few as tell it
    turns : at the points of the plain one, degrees
    """

    drawn: FloatArray
    plain: FloatArray
    turns: FloatArray

    @property
    def line(self) -> shapely.LineString:
        return shapely.LineString(self.drawn)

    @property
    def length(self) -> float:
        return float(_lengths(np.diff(self.drawn, axis=0)).sum())

    @property
    def is_between_tips(self) -> bool:
        """All but straight, and turned away to the inside at both ends, as from tip to tip of a serif."""
        within = float(np.abs(self.turns[1:-1]).sum())
        return min(self.turns[0], self.turns[-1]) >= _TIP_DEG and within <= _BENT_DEG

    def from_tip(self, end: int) -> _Edge | None:
        """The part of it from a tip at one end (0 or -1) to where it bends away; None where there is none."""
        if not _SQUARE_DEG[0] <= self.turns[end] <= _SQUARE_DEG[1]:
            return None
        away = np.cumsum(np.abs(self.turns[1:-1] if end == 0 else self.turns[-2:0:-1]))
        count = min(int(np.searchsorted(away, _BENT_DEG)) + 2, len(self.plain))
        kept = slice(0, count) if end == 0 else slice(len(self.plain) - count, None)
        plain, turns = self.plain[kept], self.turns[kept].copy()
        turns[-1 if end == 0 else 0] = 0.0
        last = np.flatnonzero((self.drawn == plain[-1 if end == 0 else 0]).all(axis=1))
        drawn = self.drawn[: int(last[0]) + 1] if end == 0 else self.drawn[int(last[-1]) :]
        return _Edge(drawn=drawn, plain=plain, turns=turns)

    def at(self, places: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Points at distances from its beginning, and unit normals to the inside there, both (n, 2)."""
        steps = np.diff(self.drawn, axis=0)
        lengths = _lengths(steps)
        ends = np.cumsum(lengths)
        which = np.minimum(np.searchsorted(ends, places), len(steps) - 1)
        along = steps[which] / lengths[which, None]
        points = self.drawn[which + 1] - (ends[which] - places)[:, None] * along
        return points, np.column_stack([-along[:, 1], along[:, 0]])


def _lengths(steps: FloatArray) -> FloatArray:
    lengths: FloatArray = np.hypot(steps[:, 0], steps[:, 1])
    return lengths


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Sides:
    """Every straight piece of an outline."""

    tree: shapely.STRtree
    lengths: FloatArray
    inward: FloatArray
    edges: tuple[_Edge, ...]

    @classmethod
    def of(cls, edges: list[_Edge]) -> _Sides:
        pairs = [(edge, xy) for edge in edges for xy in itertools.pairwise(edge.plain)]
        ends = np.array([xy for _, xy in pairs]).reshape(-1, 2, 2)
        along = ends[:, 1] - ends[:, 0]
        lengths = _lengths(along)
        inward = np.column_stack([-along[:, 1], along[:, 0]]) / lengths[:, None]
        return cls(
            tree=shapely.STRtree(shapely.linestrings(ends)),
            lengths=lengths,
            inward=inward,
            edges=tuple(edge for edge, _ in pairs),
        )


def _rings(body: shapely.Polygon) -> tuple[shapely.LinearRing, ...]:
    body = orient(shapely.remove_repeated_points(body))
    return (body.exterior, *body.interiors)


def _edges_of(ring: shapely.LinearRing, cap_height: float) -> list[_Edge]:
    drawn = shapely.get_coordinates(ring)[:-1]
    plain = shapely.get_coordinates(shapely.simplify(ring, _WITHIN * cap_height))[:-1]
    if len(plain) < 3:
        return []
    turns = _turns(plain)
    corners = np.flatnonzero(np.abs(turns) > _CORNER_DEG)
    where = {(x, y): place for place, (x, y) in enumerate(drawn.tolist())}
    edges = []
    for first, last in zip(corners.tolist(), np.roll(corners, -1).tolist(), strict=True):
        begins, ends = where[tuple(plain[first].tolist())], where[tuple(plain[last].tolist())]
        along, at = _around(first, last, len(plain)), _around(begins, ends, len(drawn))
        edges.append(_Edge(drawn=drawn[at], plain=plain[along], turns=turns[along]))
    return edges


def _around(first: int, last: int, count: int) -> list[int]:
    """Places on a closed line of so many points from one to the next, once round where they are one."""
    return [place % count for place in range(first, first + ((last - first) % count or count) + 1)]


def _turns(xy: FloatArray) -> FloatArray:
    """By how much a closed line turns to the left at each of its points, degrees."""
    before, after = xy - np.roll(xy, 1, axis=0), np.roll(xy, -1, axis=0) - xy
    cross = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0]
    turns: FloatArray = np.degrees(np.arctan2(cross, np.sum(before * after, axis=1)))
    return turns


def _bars(
    body: shapely.Polygon, edges: list[_Edge], sides: _Sides, bounds: _Bounds
) -> list[tuple[_Bar, ...]]:
    """For each edge how the bars behind it grow; none where there is none, or a thick one."""
    found: list[tuple[_Bar, ...]] = []
    for place, edge in enumerate(edges):
        neighbours = edges[place - 1], edges[(place + 1) % len(edges)]
        bars: list[_Bar | None] = []
        if edge.length >= bounds.long and edge.is_between_tips:
            thin = _thin(body, edge, neighbours, bounds.least, sides)
            bars = [None if thin is None else bounds.bar(edge, *thin)]
        elif edge.length >= bounds.long:
            bars = [_at_one_tip(body, edge, neighbours, (sides, end), bounds) for end in _ENDS]
        found.append(tuple(bar for bar in bars if bar is not None))
    return found


#: Of an edge: the first, and the last.
_ENDS = (0, -1)


def _moving(bars: tuple[_Bar, ...], end: int) -> _Bar | None:
    """Which of the bars of an edge moves its first (0) or its last (-1) end."""
    return next((bar for bar in bars if bar.tip in (None, end)), None)


def _at_one_tip(
    body: shapely.Polygon,
    edge: _Edge,
    neighbours: tuple[_Edge, _Edge],
    looked_at: tuple[_Sides, int],
    bounds: _Bounds,
) -> _Bar | None:
    """The bar at one end of an edge that runs on, as the head of an R's stem does into its bowl.

    Parameters
    ----------
    looked_at : all sides of the letter, and the end, 0 or -1
    """
    sides, end = looked_at
    begun, side = edge.from_tip(end), neighbours[end]
    if begun is None or side.length > bounds.least or begun.length < bounds.long:
        return None
    thin = _thin(body, begun, (side,), bounds.least, sides, tip=end)
    if thin is None:
        return None
    width, (begins, ends) = thin
    run = ends - begins
    # It ends within its stem, which may begin anywhere between two looks.
    look = begun.length / _LOOKS
    begins, ends = (begins, ends + look / 2.0) if end == 0 else (begins - look / 2.0, ends)
    bar = replace(bounds.bar(begun, width, (begins, ends)), tip=end)
    is_serif = run <= bounds.serif and begun.length - run > max(_LEAST_RAMP * bar.outward, 0.0)
    return bar if is_serif else None


@dataclass(frozen=True, kw_only=True, slots=True)
class _Bounds:
    """Wanted thickness of a bar, the most that an edge moves, how long one must be, and how long one with a
    single tip may be."""

    least: float
    most: float
    long: float
    serif: float

    def bar(self, edge: _Edge, width: float, places: tuple[float, float]) -> _Bar:
        """How a bar grows that is so wide where it is thinnest, between these places."""
        missing = self.least - width
        # Both sides alike where either would have to move by more than it may.
        outward = min(max(0.0, missing - _OF_MOST * self.most), missing / 2.0)
        return _Bar(edge=edge, thin=places, outward=outward, inward=missing - outward)


def _thin(
    body: shapely.Polygon,
    edge: _Edge,
    neighbours: tuple[_Edge, ...],
    least: float,
    sides: _Sides,
    *,
    tip: int | None = None,
) -> tuple[float, tuple[float, float]] | None:
    """How thick a bar is behind its long edge where it is thinnest, and from where to where it is thin; None
    where there is none.

    Parameters
    ----------
    tip : the end of its edge, 0 or -1, where it has its only tip: the bar goes on until it is thick
    """
    places = (np.arange(_LOOKS) + 0.5) / _LOOKS * edge.length
    feet, inward = edge.at(places)
    # Begun a hair within: the outline may lie there beside its plain edge.
    rays = shapely.linestrings(np.stack([feet + 0.02 * least * inward, feet + least * inward], axis=1))
    across = shapely.intersection(rays, body.boundary)
    thin = np.flatnonzero(~shapely.is_empty(across))
    if tip is not None:
        thin = _run_from(thin, inward, tip)
    if not len(thin):
        return None
    widths = shapely.distance(shapely.points(feet[thin]), across[thin])
    opposite = sides.tree.nearest(shapely.points(feet[thin] + widths[:, None] * inward[thin]))
    is_parallel = np.sum(sides.inward[opposite] * inward[thin], axis=1) < _PARALLEL
    tips = [side for side in neighbours if _is_tip(edge, side)]
    is_bar = is_parallel | np.array([any(sides.edges[n] is side for side in tips) for n in opposite.tolist()])
    if not is_parallel.any() or np.any(is_parallel & (_LONGER * sides.lengths[opposite] > edge.length)):
        return None
    # At either end it may be another side of the letter that is met first, where there is no tip.
    first = 0 if thin[0] or is_bar[0] else int(np.argmax(is_bar))
    last = -1 if thin[-1] < _LOOKS - 1 or is_bar[-1] else len(thin) - 1 - int(np.argmax(is_bar[::-1]))
    # What is thin at the first look is thin from the end on.
    half = 0.5 / _LOOKS * edge.length
    width = float(widths[is_parallel].min())
    return width, (float(places[thin[first]]) - half, float(places[thin[last]]) + half)


def _run_from(thin: npt.NDArray[np.int64], inward: FloatArray, tip: int) -> npt.NDArray[np.int64]:
    """Those looks that are thin without a break from one end on; none where all are, or where they go round a
    bend, as the stroke does by which a hand leaves its letter."""
    runs = np.split(thin, np.flatnonzero(np.diff(thin) > 1) + 1)
    run = runs[tip]
    begins = len(run) and run[tip] == (0 if tip == 0 else _LOOKS - 1)
    is_bar = begins and len(run) < _LOOKS and float(np.min(inward[run] @ inward[run[tip]])) > _STRAIGHT
    return run if is_bar else run[:0]


def _slab(
    bar: _Bar, sides: tuple[_Edge, _Edge], beside: tuple[_Bar | None, _Bar | None], thick: float
) -> shapely.Geometry:
    """What is added on both sides of a long edge, with what it covers; nothing where it bends too much.

    Parameters
    ----------
    sides, beside : the edges before and after it, and how their own bars grow
    """
    line, turns = bar.edge.line, np.radians(np.minimum(bar.edge.turns[[0, -1]], _SHARPEST_DEG))
    parts = []
    if bar.outward:
        # Each end of the edge comes to lie where it crosses the edge beside it.
        others = np.array([0.0 if other is None else other.outward for other in beside])
        # It reaches into the bar, so that two that meet in a corner leave nothing open between them.
        into = _INTO * (thick - bar.outward - bar.inward)
        if bar.tip is None:
            longer = (others - bar.outward * np.cos(turns)) / np.sin(turns)
            out = _stretched(_beside(line, -bar.outward), longer)
            covered = _stretched(_beside(line, into), np.minimum(into / np.tan(turns), 0.0))
        else:
            turn, longer, shorter = turns[bar.tip], np.zeros(2), np.zeros(2)
            longer[bar.tip] = (others[bar.tip] - bar.outward * np.cos(turn)) / np.sin(turn)
            shorter[bar.tip] = min(into / np.tan(turn), 0.0)
            moved, under = _running_out(bar, into)
            out, covered = _stretched(moved, longer), _stretched(under, shorter)
        if out is None or covered is None:
            return shapely.Polygon()
        parts.append(shapely.Polygon(np.vstack([out, covered[::-1]])))
    begins, ends = bar.thin
    # Where it is thin up to its tip it ends as the tip does; else it ends within the stem.
    low = _tip(bar.edge, sides[0], first=True) if begins < 1e-9 else 0.0
    high = _tip(bar.edge, sides[1], first=False) if ends > line.length - 1e-9 else 0.0
    bare = substring(line, max(begins, 0.0), min(ends, line.length))
    within = _stretched(_beside(bare, thick - bar.outward), np.array([low, high]))
    if within is None:
        return shapely.Polygon()
    parts.append(shapely.Polygon(np.vstack([shapely.get_coordinates(bare), within[::-1]])))
    sound = shapely.make_valid(parts, method="structure", keep_collapsed=False)
    return bodies_of(*sound)


def _running_out(bar: _Bar, into: float) -> tuple[FloatArray, FloatArray]:
    """A long edge with one tip moved outward, all of it where it is thin and evenly less until it is back
    where it was; and the same edge moved inward."""
    edge, (begins, ends) = bar.edge, bar.thin
    ramp = min(edge.length - ends if bar.tip == 0 else begins, _MOST_RAMP * bar.outward)
    span = (0.0, ends + ramp) if bar.tip == 0 else (begins - ramp, edge.length)
    places = np.linspace(*span, _RAMP_LOOKS)
    share = np.clip(1.0 - (places - ends if bar.tip == 0 else begins - places) / ramp, 0.0, 1.0)
    points, inward = edge.at(places)
    return points - (bar.outward * share**2 * (3.0 - 2.0 * share))[:, None] * inward, points + into * inward


def _is_tip(edge: _Edge, side: _Edge) -> bool:
    """Whether a side beside a long edge is that of a tip, not another side of the letter."""
    return side.length <= _SHORT * edge.length


def _tip(edge: _Edge, side: _Edge, *, first: bool) -> float:
    """How far the further end of a tip stands out beyond the end of its edge, along that."""
    if not _is_tip(edge, side):
        return 0.0
    xy = edge.drawn if first else edge.drawn[::-1]
    far = side.drawn[0] if first else side.drawn[-1]
    out = xy[0] - xy[1]
    return float((far - xy[0]) @ out / np.hypot(*out))


def _beside(line: shapely.LineString, by: float) -> FloatArray | None:
    """A line moved to its left, or to its right; None where it bends too much for that."""
    moved = line.offset_curve(by, join_style="mitre") if by else line
    if moved.is_empty or not isinstance(moved, shapely.LineString):
        return None
    xy: FloatArray = shapely.get_coordinates(moved)
    return xy


def _stretched(xy: FloatArray | None, by: FloatArray) -> FloatArray | None:
    """A line that begins and ends further out."""
    if xy is None:
        return None
    first, last = xy[0] - xy[1], xy[-1] - xy[-2]
    first, last = (share * way / np.hypot(*way) for share, way in zip(by, (first, last), strict=True))
    stretched: FloatArray = np.vstack([xy[0] + first, xy[1:-1], xy[-1] + last])
    return stretched

"""Shapes that a line of lettering can take: straight, on an arc, along a path, arched, filled in.

A shape takes the letters of a block in mm, set straight with the baseline at y = 0, and gives them
back with the line's middle at x = 0, where the shape puts it. On an arc and along a path every
letter turns as a whole and keeps its form; an arched line and a filled outline bend the letters,
and then the stretch of each is measured.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Literal, Protocol

import numpy as np
import shapely

from kizami.lettering.filled import DrawnFilled, fill
from kizami.outlines.centre_lines import CentreLines
from kizami.outlines.curves import FloatArray, bodies_of
from kizami.remembering import remembered

__all__ = [
    "STRAIGHT",
    "Arc",
    "Arched",
    "Filled",
    "Letter",
    "LetterShape",
    "Path",
    "Shaped",
    "Straight",
    "is_scale_free",
    "shape_letters",
    "turned_about_middle",
]

#: Letters in a filled outline that can still be read: five to six (common practice, no source).
MOST_LETTERS_FILLED = 6


@dataclass(frozen=True, kw_only=True, slots=True)
class Straight:
    """On a straight line."""

    kind: Literal["straight"] = "straight"


@dataclass(frozen=True, kw_only=True, slots=True)
class Arc:
    """On a circle, by its radius or by the angle that the line takes of it.

    Attributes
    ----------
    radius_mm : of the baseline, or 0 when the angle says it
    angle_deg : angle that the line spans from outline to outline, or 0 when the radius says it
    hollow : the line hangs like a bowl instead of standing like a bridge
    bent : letters are bent with the line, as joined scripts need; otherwise each turns as a whole
    """

    radius_mm: float = 0.0
    angle_deg: float = 0.0
    hollow: bool = False
    bent: bool = False
    kind: Literal["arc"] = "arc"


@dataclass(frozen=True, kw_only=True, slots=True)
class Path:
    """Along a path of straight pieces, mm, its middle under the line's middle."""

    points: tuple[tuple[float, float], ...]
    kind: Literal["path"] = "path"


@dataclass(frozen=True, kw_only=True, slots=True)
class Arched:
    """Feet on a straight line, heads on an arch: the middle is `rise` higher, as a share of the height."""

    rise: float
    kind: Literal["arched"] = "arched"


#: A letter twice as high for its width as it was drawn can still be told (common practice, no source).
MOST_STRETCH = 2.2
#: Letters that are drawn anew with one pen are read when they are far narrower (common practice, no source).
MOST_STRETCH_FILLED = 7.0


@dataclass(frozen=True, kw_only=True, slots=True)
class Filled:
    """Every letter's head and foot follow an outline that the line fills.

    Attributes
    ----------
    outline : "round", "oval", "diamond", "heart" or "free"; as high as the lettering's height says
    width : against the height
    points : corners of a free outline, in any unit; where it is folded its outermost edges count
    most_stretch : how far a letter's proportions may go from its own; more where the frame tells it is a name
    capitals : wording is set in capitals, which are all of one height
    """

    outline: Literal["round", "oval", "diamond", "heart", "free"]
    width: float = 1.0
    points: tuple[tuple[float, float], ...] = ()
    most_stretch: float = MOST_STRETCH_FILLED
    capitals: bool = True
    kind: Literal["filled"] = "filled"


LetterShape = Straight | Arc | Path | Arched | Filled
STRAIGHT = Straight()


def is_scale_free(shape: LetterShape) -> bool:
    """Whether larger letters on it are the same drawing, larger; on a given radius or path they are not.

    >>> is_scale_free(Filled(outline="round")), is_scale_free(Arc(radius_mm=9.0))
    (True, False)
    """
    return isinstance(shape, Straight | Arched | Filled) or (isinstance(shape, Arc) and not shape.radius_mm)


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Letter:
    """One mark of a line.

    Attributes
    ----------
    outline : mm
    cluster : the character that it belongs to (an accent to its letter)
    lines : the middles of its strokes, cap heights, in the block; None where it is to be bent or has none
    line_mm : how far the baseline of its line is above the first one; below 0 for lines under it
    """

    outline: shapely.MultiPolygon
    cluster: int
    lines: CentreLines | None = None
    line_mm: float = 0.0


@dataclass(frozen=True, kw_only=True, slots=True)
class Move:
    """A letter turned about its foot (x, 0), which comes to stand at a place."""

    foot: float = 0.0
    x: float = 0.0
    y: float = 0.0
    angle_rad: float = 0.0

    def apply(self, x: float, y: float) -> tuple[float, float]:
        """Where a point of the letter goes."""
        cos, sin = math.cos(self.angle_rad), math.sin(self.angle_rad)
        return (self.x + (x - self.foot) * cos - y * sin, self.y + (x - self.foot) * sin + y * cos)


_STAY = Move()


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Shaped:
    """Letters where a shape puts them.

    Attributes
    ----------
    outlines : one a letter, mm
    stretch : of each letter, the largest over the smallest scale that its middle underwent; 1 is none
    moves : how each letter was moved as a whole, None when it was bent
    """

    outlines: tuple[shapely.MultiPolygon, ...]
    stretch: tuple[float, ...]
    moves: tuple[Move | None, ...]


def shape_letters(
    letters: Sequence[Letter],
    shape: LetterShape,
    *,
    height_mm: float,
    sagitta_mm: float,
    joined: bool = False,
    as_spaced: bool = False,
) -> Shaped:
    """Put the letters of a straight line on a shape.

    Parameters
    ----------
    letters : mm, baseline at y = 0
    height_mm : cap height
    sagitta_mm : largest distance between a bent edge and its chords
    joined : letters run into each other: they are bent with the line, as turned by themselves they would part
    as_spaced : letters are not opened up in a hollow, as those that meet themselves right round must not be

    Returns
    -------
    Shaped; where it stands is the caller's choice
    """
    inked = [letter.outline for letter in letters if not letter.outline.is_empty]
    if isinstance(shape, Straight) or not inked:
        count = len(letters)
        return Shaped(
            outlines=tuple(x.outline for x in letters), stretch=(1.0,) * count, moves=(_STAY,) * count
        )
    low, bottom, high, top = shapely.total_bounds(np.array(inked, dtype=object))
    middle = (low + high) / 2.0
    if isinstance(shape, Arched):
        return _bend(
            letters,
            _arched(shape, low, high),
            sagitta_mm,
            bend_radius_mm=_arch_radius(shape, high - low, height_mm),
        )
    if isinstance(shape, Filled):
        if all(letter.lines is not None for letter in letters if not letter.outline.is_empty):
            return _drawn_anew(letters, shape, height_mm, sagitta_mm)
        warp = _filled(shape, (low, bottom, high, top), height_mm)
        return _bend(letters, warp, sagitta_mm, bend_radius_mm=height_mm / 4.0)
    if isinstance(shape, Arc):
        radius = shape.radius_mm or (high - low) / math.radians(shape.angle_deg)
        signed = -radius if shape.hollow else radius
        if shape.bent or joined:
            warps = {line: _arc(signed, middle, line) for line in _lines_under_each_other(letters)}
            return _bend_lines(letters, warps, sagitta_mm, bend_radius_mm=radius)
        is_tight = shape.hollow and radius < _TIGHT * height_mm and not as_spaced
        return _turn(
            letters, lambda x, line_mm: _on_arc(x - middle, signed, line_mm), step=is_tight * height_mm
        )
    paths = {line: _Along(shape.points, line) for line in _lines_under_each_other(letters)}
    if joined:
        warps = {line: along.warp(middle, height_mm) for line, along in paths.items()}
        return _bend_lines(letters, warps, sagitta_mm, bend_radius_mm=height_mm)
    return _turn(
        letters, lambda x, line_mm: paths[line_mm].at(x - middle), step=0.0 if as_spaced else height_mm
    )


def _lines_under_each_other(letters: Sequence[Letter]) -> set[float]:
    """How far the baselines of lines are above the first one: each line is spaced along its own curve."""
    return {letter.line_mm for letter in letters}


#: Heads of letters come nearer to each other in a hollow of a radius of less than so many heights.
_TIGHT = 8.0


def turned_about_middle(shaped: Shaped, degrees: float) -> Shaped:
    """Letters turned together, anticlockwise, about the middle of the box round them."""
    inked = [outline for outline in shaped.outlines if not outline.is_empty]
    if not degrees or not inked:
        return shaped
    low_x, low_y, high_x, high_y = shapely.total_bounds(np.array(inked, dtype=object)).tolist()
    middle = ((low_x + high_x) / 2.0, (low_y + high_y) / 2.0)
    angle = math.radians(degrees)
    cos, sin = math.cos(angle), math.sin(angle)
    turn = np.array([[cos, sin], [-sin, cos]])

    def moved(move: Move | None) -> Move | None:
        if move is None:
            return None
        x, y = (np.array([move.x, move.y]) - middle) @ turn + middle
        return replace(move, x=float(x), y=float(y), angle_rad=move.angle_rad + angle)

    return Shaped(
        outlines=tuple(
            shapely.transform(outline, lambda xy: (xy - middle) @ turn + middle)
            for outline in shaped.outlines
        ),
        stretch=shaped.stretch,
        moves=tuple(moved(move) for move in shaped.moves),
    )


class _At(Protocol):
    """The foot of a letter on the first line's curve, and its angle, by its place along its own line."""

    def __call__(self, x: float, line_mm: float) -> tuple[float, float, float]: ...


def _turn(letters: Sequence[Letter], at: _At, *, step: float = 0.0) -> Shaped:
    """Turn every letter as a whole, its accents with it.

    Parameters
    ----------
    step : a cap height where letters may come too near to each other and are opened up, else 0
    """
    middles: dict[int, list[float]] = {}
    for letter in letters:
        if not letter.outline.is_empty:
            low, _, high, _ = letter.outline.bounds
            middles.setdefault(letter.cluster, []).extend((low, high))
    feet = {cluster: (min(ends) + max(ends)) / 2.0 for cluster, ends in middles.items()}
    lines = {letter.cluster: letter.line_mm for letter in letters}
    further = dict.fromkeys(feet, 0.0)
    for line in _lines_under_each_other(letters) if step else ():
        on_it = {cluster: foot for cluster, foot in feet.items() if lines[cluster] == line}
        if _is_one_line(on_it):
            further |= _opened_up(letters, on_it, partial(at, line_mm=line), step)
    out: list[shapely.MultiPolygon] = []
    moves: list[Move | None] = []
    for letter in letters:
        if letter.outline.is_empty:
            out.append(letter.outline)
            moves.append(_STAY)
            continue
        foot = feet[letter.cluster]
        x, y, angle = at(foot + further[letter.cluster], lines[letter.cluster])
        out.append(_stood(letter.outline, foot, (x, y, angle)))
        moves.append(Move(foot=foot, x=x, y=y, angle_rad=angle))
    return Shaped(outlines=tuple(out), stretch=(1.0,) * len(out), moves=tuple(moves))


def _is_one_line(feet: dict[int, float]) -> bool:
    """Whether letters stand beside each other as they are read; those of two lines do not."""
    along = np.diff([feet[cluster] for cluster in sorted(feet)])
    return len(along) > 0 and bool((along > 0).all() or (along < 0).all())


def _stood(outline: shapely.Geometry, foot: float, there: tuple[float, float, float]) -> shapely.Geometry:
    """An outline turned about its foot and moved there."""
    x, y, angle = there
    turn = np.array([[math.cos(angle), math.sin(angle)], [-math.sin(angle), math.cos(angle)]])
    return shapely.transform(outline, lambda xy: (xy - (foot, 0.0)) @ turn + (x, y))


def _opened_up(
    letters: Sequence[Letter],
    feet: dict[int, float],
    at: Callable[[float], tuple[float, float, float]],
    height: float,
) -> dict[int, float]:
    """How much further along each letter stands, so that none comes much nearer than on a straight line.

    In a hollow heads come together: an engraver opens the line there, and no more than needed. The whole
    stays about its middle.
    """
    order = sorted(feet, key=feet.__getitem__)
    flat = [
        shapely.union_all([letter.outline for letter in letters if letter.cluster == cluster])
        for cluster in order
    ]
    wanted = _KEPT_APART * shapely.distance(flat[:-1], flat[1:])
    opened = np.zeros(len(order) - 1)
    further = np.zeros(len(order))
    for _ in range(_TIMES_OPENED):
        stood = [
            _stood(outline, feet[cluster], at(feet[cluster] + float(more)))
            for cluster, outline, more in zip(order, flat, further, strict=True)
        ]
        apart = shapely.distance(stood[:-1], stood[1:])
        lacking = np.maximum(wanted - apart, 0.0)
        if lacking.max() <= _NEAR_ENOUGH * height:
            break
        # How deep two lie in each other no distance says.
        opened += lacking + (apart <= 0.0) * (wanted > 0.0) * _A_STEP * height
        further = np.concatenate(([0.0], np.cumsum(opened)))
        further -= further[-1] / 2.0
    return dict(zip(order, further.tolist(), strict=True))


#: Of the gap on a straight line so much is left on a bent one (common practice, no source: eyes allow some).
_KEPT_APART = 0.7
#: Times that a line is opened at most; by how much where two letters cross, and when it is enough, heights.
_TIMES_OPENED, _A_STEP, _NEAR_ENOUGH = 24, 0.05, 0.002


def _on_arc(x: float, radius: float, line_mm: float = 0.0) -> tuple[float, float, float]:
    """Foot on a circle through the origin: the point and the angle that a letter there is turned by.

    A line above or under it has a circle of its own about the same middle, along which its places are told.
    """
    angle = x / _radius_of(radius, line_mm)
    return (radius * math.sin(angle), radius * (math.cos(angle) - 1.0), -angle)


def _radius_of(radius: float, line_mm: float) -> float:
    """The radius of a line's own circle; one that would lie beyond the middle keeps a little of it."""
    own = radius + line_mm
    least = _LEAST_RADIUS * abs(radius)
    return own if own * radius > 0.0 and abs(own) > least else math.copysign(least, radius)


#: A line that is set near the middle of its arc, or beyond it, can't be read there; it stays finite.
_LEAST_RADIUS = 0.05


class _Along:
    """Points and directions along a path, by length from its middle.

    A line above or under the path is told along its own, everywhere as far from it; its feet are on the path.
    """

    def __init__(self, points: Sequence[tuple[float, float]], line_mm: float = 0.0) -> None:
        path = shapely.LineString(points)
        beside = path.offset_curve(line_mm) if line_mm else path
        # Where it winds so tightly that nothing runs beside it, the path itself has to do.
        is_whole = isinstance(beside, shapely.LineString) and not beside.is_empty
        self._line, self._line_mm = (beside, line_mm) if is_whole else (path, 0.0)

    def at(self, x: float, step: float | None = None) -> tuple[float, float, float]:
        """The foot at a place and the direction there, taken over `step` to either side."""
        reach = self._line.length / 2.0 + x
        inside = min(max(reach, 0.0), self._line.length)
        step = min(0.05, self._line.length / 100.0) if step is None else step
        before = self._line.interpolate(max(inside - step, 0.0))
        after = self._line.interpolate(min(inside + step, self._line.length))
        foot = self._line.interpolate(inside)
        angle = math.atan2(after.y - before.y, after.x - before.x)
        # Beyond its ends the path goes straight on, so that nothing is piled up there.
        over = reach - inside
        x, y = foot.x + over * math.cos(angle), foot.y + over * math.sin(angle)
        return (x + self._line_mm * math.sin(angle), y - self._line_mm * math.cos(angle), angle)

    def warp(self, middle: float, height_mm: float) -> _Warp:
        """Every point as high above the path as it stood above the line, whose middle is given.

        A path has corners, letters have none: what stands on it leans by the direction of about a letter's
        length of it.
        """

        def warped(xy: FloatArray) -> FloatArray:
            feet = np.array([self.at(x, height_mm) for x in (xy[:, 0] - middle).tolist()]).reshape(-1, 3)
            aside = np.column_stack((-np.sin(feet[:, 2]), np.cos(feet[:, 2])))
            stood: FloatArray = feet[:, :2] + xy[:, 1:] * aside
            return stood

        return warped


_Warp = Callable[[FloatArray], FloatArray]


def _arc(radius: float, middle: float, line_mm: float) -> _Warp:
    own = _radius_of(radius, line_mm)

    def warp(xy: FloatArray) -> FloatArray:
        angle, reach = (xy[:, 0] - middle) / own, radius + xy[:, 1]
        return np.column_stack((reach * np.sin(angle), reach * np.cos(angle) - radius))

    return warp


def _arched(shape: Arched, low: float, high: float) -> _Warp:
    def warp(xy: FloatArray) -> FloatArray:
        share = (2.0 * xy[:, 0] - low - high) / (high - low)
        return np.column_stack((xy[:, 0], xy[:, 1] * (1.0 + shape.rise * (1.0 - share**2))))

    return warp


def _arch_radius(shape: Arched, width_mm: float, height_mm: float) -> float:
    """Radius of the parabola h r (1 - (2x/w)^2) at its top: 1 / |y''| = w^2 / (8 h r)."""
    return width_mm**2 / (8.0 * height_mm * max(abs(shape.rise), 1e-3))


def _filled(shape: Filled, box: tuple[float, float, float, float], height_mm: float) -> _Warp:
    low, bottom, high, top = box
    width_mm = height_mm * shape.width
    edge = _free_edge(shape.points) if shape.outline == "free" else _EDGES[shape.outline]

    def warp(xy: FloatArray) -> FloatArray:
        # Not quite to the ends: there the outline has no height left for a letter.
        share = (xy[:, 0] - low) / (high - low) * 2.0 - 1.0
        upper, lower = edge(share * _FILLED_REACH)
        level = (xy[:, 1] - bottom) / (top - bottom)
        x = share * _FILLED_REACH * width_mm / 2.0
        return np.column_stack((x, (lower + level * (upper - lower)) * height_mm / 2.0))

    return warp


def _drawn_anew(letters: Sequence[Letter], shape: Filled, height_mm: float, sagitta_mm: float) -> Shaped:
    """Letters in an outline, drawn with one pen."""
    order: dict[int, list[int]] = {}
    for place, letter in enumerate(letters):
        if letter.lines is not None and not letter.outline.is_empty:
            order.setdefault(letter.cluster, []).append(place)
    several = sorted(order.values(), key=lambda places: min(_lines_of(letters[p]).box[0] for p in places))
    # Rounded down to a power of two, so that letters of like height share one drawing.
    fineness = math.floor(math.log2(sagitta_mm / height_mm))
    drawn = _drawn_once(
        tuple(tuple(_lines_of(letters[place]) for place in places) for places in several), shape, fineness
    )
    outlines, stretch = [shapely.MultiPolygon()] * len(letters), [1.0] * len(letters)
    flat = [place for places in several for place in places]
    for place, outline, ratio in zip(flat, drawn.outlines, drawn.stretch, strict=True):
        outlines[place], stretch[place] = shapely.transform(outline, lambda xy: xy * height_mm), ratio
    return Shaped(outlines=tuple(outlines), stretch=tuple(stretch), moves=(None,) * len(letters))


@remembered
def _drawn_once(lines: tuple[tuple[CentreLines, ...], ...], shape: Filled, fineness: int) -> DrawnFilled:
    """At a cap height of 1: lines that are the same ones fill the same outline alike at every height."""
    return fill(lines, _outline_of(shape), cap=1.0, sagitta=2.0**fineness)


def _lines_of(letter: Letter) -> CentreLines:
    assert letter.lines is not None
    return letter.lines


@remembered
def _outline_of(shape: Filled) -> shapely.Polygon:
    """The outline that is filled, at a cap height of 1, its middle at (0, 0)."""
    edge = _free_edge(shape.points) if shape.outline == "free" else _EDGES[shape.outline]
    across = np.sin(np.linspace(-math.pi / 2, math.pi / 2, _FREE_LINES))
    upper, lower = edge(across)
    x = across * shape.width
    points = np.concatenate((np.column_stack((x, upper)), np.column_stack((x, lower))[::-1])) / 2.0
    return max(bodies_of(shapely.Polygon(points).buffer(0)).geoms, key=lambda body: float(body.area))


#: How far towards the outline's ends the line is drawn: there a circle still has 0.6 of its height.
_FILLED_REACH = 0.8


def _round(x: FloatArray) -> tuple[FloatArray, FloatArray]:
    half = np.sqrt(np.maximum(1.0 - x**2, 0.0))
    return half, -half


def _diamond(x: FloatArray) -> tuple[FloatArray, FloatArray]:
    half = 1.0 - np.abs(x) * 0.75
    return half, -half


def _heart(x: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Two round shoulders with a notch between, a point below."""
    reach = np.abs(x)
    upper = 0.62 + 0.38 * np.sqrt(np.maximum(1.0 - ((reach - 0.5) / 0.5) ** 2, 0.0))
    lower = -1.0 + reach * 1.2
    return upper, lower


#: Upright lines on which a free outline is looked at; between them its edges are straight.
_FREE_LINES = 241


@remembered
def _free_edge(
    points: tuple[tuple[float, float], ...],
) -> Callable[[FloatArray], tuple[FloatArray, FloatArray]]:
    """Upper and lower edge of any outline, its box drawn to -1 .. 1 both ways."""
    # The line itself, not what it encloses: that of a folded one is not defined.
    outline = shapely.LineString([*points, points[0]])
    low_x, low_y, high_x, high_y = outline.bounds
    box = np.array([low_x, low_y]), np.array([high_x - low_x, high_y - low_y])
    square = shapely.transform(outline, lambda xy: 2.0 * (xy - box[0]) / box[1] - 1.0)
    at = np.linspace(-1.0, 1.0, _FREE_LINES)
    # Not quite on the ends, where an outline may be a mere corner.
    lines = shapely.linestrings([[(x * (1 - 1e-9), -2.0), (x * (1 - 1e-9), 2.0)] for x in at])
    bounds = shapely.bounds(shapely.intersection(lines, square))

    def edge(x: FloatArray) -> tuple[FloatArray, FloatArray]:
        return np.interp(x, at, bounds[:, 3]), np.interp(x, at, bounds[:, 1])

    return edge


_EDGES: dict[str, Callable[[FloatArray], tuple[FloatArray, FloatArray]]] = {
    "round": _round,
    "oval": _round,
    "diamond": _diamond,
    "heart": _heart,
}


def _bend(letters: Sequence[Letter], warp: _Warp, sagitta_mm: float, *, bend_radius_mm: float) -> Shaped:
    """Bend outlines. Edges are first cut so short that their chords stay true: c^2 / 8R = sagitta."""
    step = math.sqrt(8.0 * bend_radius_mm * sagitta_mm)
    outlines = np.array([letter.outline for letter in letters], dtype=object)
    stretch = np.ones(len(outlines))
    inked = np.flatnonzero(~shapely.is_empty(outlines))
    bent = shapely.transform(shapely.segmentize(outlines[inked], step), warp)
    crossing = ~shapely.is_valid(bent)
    bent[~crossing] = [_as_bodies(shape) for shape in shapely.orient_polygons(bent[~crossing])]
    bent[crossing] = [_mended(shape) for shape in bent[crossing]]
    stretch[inked] = _stretch_at(warp, shapely.bounds(outlines[inked]))
    outlines[inked] = bent
    return Shaped(outlines=tuple(outlines), stretch=tuple(stretch.tolist()), moves=(None,) * len(outlines))


def _bend_lines(
    letters: Sequence[Letter], warps: dict[float, _Warp], sagitta_mm: float, *, bend_radius_mm: float
) -> Shaped:
    """Bend each line of letters by its own warp."""
    outlines, stretch = [shapely.MultiPolygon()] * len(letters), [1.0] * len(letters)
    for line, warp in warps.items():
        places = [place for place, letter in enumerate(letters) if letter.line_mm == line]
        bent = _bend([letters[p] for p in places], warp, sagitta_mm, bend_radius_mm=bend_radius_mm)
        for place, outline, ratio in zip(places, bent.outlines, bent.stretch, strict=True):
            outlines[place], stretch[place] = outline, ratio
    return Shaped(outlines=tuple(outlines), stretch=tuple(stretch), moves=(None,) * len(letters))


def _as_bodies(shape: shapely.Polygon | shapely.MultiPolygon) -> shapely.MultiPolygon:
    """Bodies stay bodies where a library gives a single one back alone."""
    return shapely.MultiPolygon([shape]) if isinstance(shape, shapely.Polygon) else shape


def _mended(shape: shapely.MultiPolygon) -> shapely.MultiPolygon:
    """A bent outline that crosses itself, made whole."""
    return bodies_of(shapely.make_valid(shape, method="structure", keep_collapsed=False))


def _stretch_at(warp: _Warp, boxes: FloatArray) -> FloatArray:
    """Largest over smallest singular value of the warp's derivative in the middle of each letter's box."""
    low, high = boxes[:, :2], boxes[:, 2:]
    step = (high - low).max(axis=1, keepdims=True) * 1e-4
    middle, none = (low + high) / 2.0, np.zeros_like(step)
    right, up = np.hstack((step, none)), np.hstack((none, step))
    east, west, north, south = np.split(
        warp(np.concatenate((middle + right, middle - right, middle + up, middle - up))), 4
    )
    jacobian = np.stack((east - west, north - south), axis=2) / (2.0 * step[:, :, None])
    values = np.linalg.svd(jacobian, compute_uv=False)
    ratio: FloatArray = values[:, 0] / np.maximum(values[:, -1], 1e-9)
    return ratio

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

from kizami.lettering.bending import Along, Warp, arc_warp, arch_radius_mm, arched_warp, bend, on_arc
from kizami.lettering.edges import filled_outline, filled_warp
from kizami.lettering.filled import DrawnFilled, fill
from kizami.outlines.centre_lines import CentreLines
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
        radius = arch_radius_mm(shape.rise, high - low, height_mm)
        return _bent(letters, lambda _: arched_warp(shape.rise, low, high), sagitta_mm, radius)
    if isinstance(shape, Filled):
        if all(letter.lines is not None for letter in letters if not letter.outline.is_empty):
            return _drawn_anew(letters, shape, height_mm, sagitta_mm)
        box = low, bottom, high, top
        warp = filled_warp(shape.outline, shape.width, shape.points, box, height_mm)
        return _bent(letters, lambda _: warp, sagitta_mm, height_mm / 4.0)
    if isinstance(shape, Arc):
        radius = shape.radius_mm or (high - low) / math.radians(shape.angle_deg)
        signed = -radius if shape.hollow else radius
        if shape.bent or joined:
            return _bent(letters, partial(arc_warp, signed, middle), sagitta_mm, radius)
        is_tight = shape.hollow and radius < _TIGHT * height_mm and not as_spaced
        return _turn(
            letters, lambda x, line_mm: on_arc(x - middle, signed, line_mm), step=is_tight * height_mm
        )
    paths = {line: Along(shape.points, line) for line in _lines_under_each_other(letters)}
    if joined:
        return _bent(letters, lambda line: paths[line].warp(middle, height_mm), sagitta_mm, height_mm)
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
    return fill(
        lines, filled_outline(shape.outline, shape.width, shape.points), cap=1.0, sagitta=2.0**fineness
    )


def _lines_of(letter: Letter) -> CentreLines:
    assert letter.lines is not None
    return letter.lines


def _bent(
    letters: Sequence[Letter], warp_of: Callable[[float], Warp], sagitta_mm: float, radius_mm: float
) -> Shaped:
    """Bend each line of letters by its own warp, which its distance from the first line tells."""
    outlines, stretch = [shapely.MultiPolygon()] * len(letters), [1.0] * len(letters)
    for line in _lines_under_each_other(letters):
        places = [place for place, letter in enumerate(letters) if letter.line_mm == line]
        on_it = [letters[place].outline for place in places]
        bent = bend(on_it, warp_of(line), sagitta_mm, radius_mm=radius_mm)
        for place, outline, ratio in zip(places, *bent, strict=True):
            outlines[place], stretch[place] = outline, ratio
    return Shaped(outlines=tuple(outlines), stretch=tuple(stretch), moves=(None,) * len(letters))

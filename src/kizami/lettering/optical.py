"""Spacing by eye: the white between neighbouring letters is measured and evened.

What the eye takes for the space between two letters is the area between them, as far as it reaches into
their open sides by a small depth only: the hollow of an L counts as if it ended there. With a depth of 0.2 of
the height that both letters have, the kerning by which ten faces spaced by hand set their diagonals is
neither called too tight nor too loose (0.01 cap heights apart on the mean; measured for this purpose): the
measure is their designers' own. Slanted faces are measured upright.

A pair whose white is near the usual one of its kind stays as its designer set it. A hole is closed down to
that bound, no further than the face's own kerning goes and never so that letters or their marks come too
near to each other; a pair that all but touches is opened by a little. Writing whose letters join is left
alone.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import shapely
from fontTools import unicodedata

from kizami.lettering.typeface import PLAIN, ShapedGlyph, Style, Typeface
from kizami.lettering.units import units_of
from kizami.outlines.crossings import crossings
from kizami.outlines.curves import FloatArray
from kizami.prepared import prepared
from kizami.remembering import remembered

__all__ = ["Evened", "evenings", "set_evenly"]

#: Scripts whose letters stand apart and are spaced by their outlines. Others have squares, joins or clusters
#: of their own.
_SPACED = frozenset(("Latn", "Grek", "Cyrl", "Armn", "Geor", "Hebr", "Copt", "Goth", "Runr", "Cher"))
#: How deep the white reaches into a letter's open side, as a share of the height that both letters have.
_DEPTH = 0.2
#: A pair whose white is within these shares of the usual one stays as the face sets it. Tight pairs are
#: mostly diagonals, whose white goes on above and below.
_TIGHT, _LOOSE = 0.88, 1.05
#: Kerning that a face may always take, and the most that a pair is opened by, cap heights (common practice,
#: no source).
_CLOSER, _OPENED = 0.12, 0.08
#: A space between words grows or shrinks by this share of itself at most: narrower it would no longer part
#: them.
_OF_A_SPACE = 0.15
#: Letters may come as near to each other as this share of the usual white.
_NEAREST = 0.36
#: Levels at which letters are looked at.
_LEVELS = 32
#: As high as a capital, in cap heights.
_TALL = 0.86
#: What begins higher is a dot or an accent, cap heights; letters of a stencil are in pieces too.
_MARKS_FROM = 0.6
#: Lower than this, in cap heights, a letter has no side to speak of.
_LOWEST = 0.2
#: Letters of a kind that its usual white is taken from, and the fewest that tell it.
_LOOKED_AT, _FEWEST_PAIRS = 9, 6
_LATIN = {"Lu": "HNOERISAU", "Ll": "anoeirsuhdl"}
_DIGITS = "0123456789"

#: Script and general category of a letter or digit.
_Kind = tuple[str, str]


@dataclass(frozen=True, kw_only=True, slots=True)
class Evened:
    """A pair of neighbours and what was done to it.

    Attributes
    ----------
    left, right : index of their first characters
    white : mean width of the white between them as the face sets it, cap heights
    usual : of pairs of their kind in this face, with the space between them if there is one
    move : of the right one, cap heights; negative is nearer
    """

    left: int
    right: int
    white: float
    usual: float
    move: float


@dataclass(frozen=True, eq=False, kw_only=True)
class _Letter:
    """The glyphs of one unit.

    Attributes
    ----------
    outline : cap heights, about its first glyph's origin
    slant : how far the face leans to the right for one height
    """

    outline: shapely.MultiPolygon
    slant: float

    @cached_property
    def top(self) -> float:
        """Of what begins in its lower half: dots and accents do not make it higher."""
        tops = [float(body.bounds[3]) for body in self.outline.geoms if body.bounds[1] < _MARKS_FROM]
        return max(tops, default=0.0)

    @property
    def is_tall(self) -> bool:
        return self.top >= _TALL

    def sides(self, height: float) -> tuple[FloatArray, FloatArray]:
        """Where it begins and ends at every level up to a height; nan where there is nothing of it."""
        levels = (np.arange(_LEVELS) + 0.5) / _LEVELS * height
        which, along = crossings(self.outline.boundary, levels, axis=1)
        first, last = np.full(_LEVELS, np.inf), np.full(_LEVELS, -np.inf)
        np.minimum.at(first, which, along)
        np.maximum.at(last, which, along)
        first[np.isinf(first)] = last[np.isinf(last)] = np.nan
        upright = self.slant * levels
        return first - upright, last - upright


def set_evenly(text: str, typeface: Typeface, style: Style = PLAIN) -> tuple[ShapedGlyph, ...]:
    """One line of text as the typeface shapes it, its letters evened where the style asks for it.

    Returns
    -------
    as `Typeface.shape`
    """
    run = typeface.shape(text, style)
    moves = evenings(text, typeface, style)
    if not moves:
        return run
    unit = typeface.cap_height_upem
    # What stands to the right of a pair moves with its right letter.
    starts = {pair.right: pair.move * unit for pair in moves if pair.move}
    units = units_of(text, typeface.hand_joins)
    out, shift, seen = [], 0.0, -1
    for glyph in run:
        if units[glyph.cluster] != seen:
            seen = units[glyph.cluster]
            shift += starts.get(seen, 0.0)
        out.append(replace(glyph, x=glyph.x + shift) if shift else glyph)
    return tuple(out)


@remembered
def evenings(text: str, typeface: Typeface, style: Style = PLAIN) -> tuple[Evened, ...]:
    """Every pair of neighbours in a line that is measured, in visual order from left to right.

    Two words are a pair too: the white between them is a space wider than usual.
    """
    if not style.evened or style.vertical or typeface.hand_joins or len(text) < 2:
        return ()
    run = typeface.shape(text, style)
    units = units_of(text, typeface.hand_joins)
    groups = [(start, list(several)) for start, several in itertools.groupby(run, lambda g: units[g.cluster])]
    out: list[Evened] = []
    before: tuple[int, list[ShapedGlyph]] | None = None
    between = 0.0
    for place, (start, glyphs) in enumerate(groups):
        character = text[start]
        if character == " " and before is not None and place + 1 < len(groups):
            between += (groups[place + 1][1][0].x - glyphs[0].x) / typeface.cap_height_upem
            continue
        if _kind(character) is None or any(g.glyph == 0 for g in glyphs):
            before, between = None, 0.0
            continue
        if before is not None:
            pair = _evened(
                text, before, (start, glyphs), typeface=typeface, between=between, tracking=style.tracking
            )
            if pair is not None:
                out.append(pair)
        before, between = (start, glyphs), 0.0
    return tuple(out)


def _evened(
    text: str,
    one: tuple[int, list[ShapedGlyph]],
    other: tuple[int, list[ShapedGlyph]],
    *,
    typeface: Typeface,
    between: float,
    tracking: float,
) -> Evened | None:
    kinds = _kind(text[one[0]]), _kind(text[other[0]])
    if kinds[0] is None or kinds[1] is None or kinds[0][0] != kinds[1][0]:
        return None
    # Spacing that a product asks for, and a space, are there with every pair.
    added = between + tracking * (2.0 if between else 1.0)
    apart = (other[1][0].x - one[1][0].x) / typeface.cap_height_upem - added
    pair = _Pair(typeface=typeface, left=_form(one[1]), right=_form(other[1]), apart=apart)
    tall = tuple(_letter(typeface, form).is_tall for form in (pair.left, pair.right))
    usual = _usual(typeface, (kinds[0], kinds[1]), tall)
    white = _white(pair) if usual is not None else None
    if usual is None or white is None:
        return None
    move = _move(pair, white, usual)
    if between:
        move = math.copysign(min(abs(move), _OF_A_SPACE * between), move)
    return Evened(left=one[0], right=other[0], white=white + added, usual=usual + added, move=move)


_Form = tuple[tuple[int, float, float], ...]


@dataclass(frozen=True, kw_only=True, slots=True)
class _Pair:
    """Two units of a face and how far the origins of their first glyphs are apart, cap heights."""

    typeface: Typeface
    left: _Form
    right: _Form
    apart: float


def _form(glyphs: Sequence[ShapedGlyph]) -> _Form:
    """A unit wherever it stands."""
    first = glyphs[0]
    return tuple((g.glyph, round(g.x - first.x, 3), round(g.y, 3)) for g in glyphs)


@remembered
def _letter(typeface: Typeface, form: _Form) -> _Letter:
    unit = typeface.cap_height_upem
    bodies = [
        body
        for glyph, x, y in form
        for body in shapely.transform(
            typeface.outline(glyph, sagitta_upem=unit / 200).polygons,
            lambda xy, at=(x, y): (xy + np.array(at)) / unit,
        ).geoms
    ]
    return _Letter(outline=shapely.MultiPolygon(bodies), slant=typeface.slant)


@remembered
def _sides(typeface: Typeface, form: _Form, height: float) -> tuple[FloatArray, FloatArray]:
    return _letter(typeface, form).sides(height)


@remembered
def _white(pair: _Pair) -> float | None:
    """Mean width of the white between two letters, cap heights; None where they have no height in common."""
    one, other = _letter(pair.typeface, pair.left), _letter(pair.typeface, pair.right)
    if one.outline.is_empty or other.outline.is_empty:
        return None
    height = round(min(one.top, other.top), 2)
    if height < _LOWEST:
        return None
    ends = _sides(pair.typeface, pair.left, height)[1]
    begins = _sides(pair.typeface, pair.right, height)[0]
    if np.isnan(ends).all() or np.isnan(begins).all():
        return None
    depth = _DEPTH * height
    ends = np.fmax(ends, np.nanmax(ends) - depth)
    begins = np.fmin(begins, np.nanmin(begins) + depth)
    return float(np.mean(pair.apart + begins - ends))


def _move(pair: _Pair, white: float, usual: float) -> float:
    """How far the right letter of a pair goes, cap heights."""
    low, high = usual * _TIGHT, usual * _LOOSE
    if white < low:
        return min(low - white, _OPENED)
    if white <= high:
        return 0.0
    own = pair.apart - _advance(pair.typeface, pair.left)
    wanted = max(high - white, min(0.0, -_own_kerning(pair.typeface) - own))
    return _held_off(pair, wanted, _NEAREST * usual) if wanted < 0 else 0.0


@remembered
def _held_off(pair: _Pair, wanted: float, nearest: float) -> float:
    """The part of a move to the left that keeps letters, their marks among them, off each other."""
    one, other = (_letter(pair.typeface, form).outline for form in (pair.left, pair.right))
    one = prepared(one)

    def clear(move: float) -> bool:
        moved = shapely.transform(other, lambda xy: xy + np.array([pair.apart + move, 0.0]))
        return not bool(shapely.dwithin(one, moved, nearest))

    if clear(wanted):
        return wanted
    low, high = wanted, 0.0
    if not clear(high):
        return 0.0
    for _ in range(7):
        middle = (low + high) / 2.0
        low, high = (low, middle) if clear(middle) else (middle, high)
    return high


def _advance(typeface: Typeface, form: _Form) -> float:
    """How far a unit takes the pen by itself, cap heights."""
    last = form[-1]
    return (last[1] + max(typeface.advance(glyph) for glyph, _, _ in form)) / typeface.cap_height_upem


#: Pairs that faces kern most; those of other scripts that are built alike are kerned as far.
_KERNED = (
    "AV",
    "VA",
    "AT",
    "LT",
    "LV",
    "LY",
    "TA",
    "Ta",
    "To",
    "Va",
    "Ye",
    "PA",
    "AY",
    "FA",
    "rt",
    "ff",
    "Ty",
)


@remembered
def _own_kerning(typeface: Typeface) -> float:
    """How far a face brings letters together at most, cap heights."""
    found = []
    for pair in _KERNED:
        run = typeface.shape(pair)
        if len(run) == 2 and all(g.glyph for g in run):
            found.append((run[1].x - typeface.advance(run[0].glyph)) / typeface.cap_height_upem)
    return max([_CLOSER, *(-kern for kern in found)])


@remembered
def _usual(typeface: Typeface, kinds: tuple[_Kind, _Kind], tall: tuple[bool, ...]) -> float | None:
    """The white of most pairs of two kinds in this face as it sets them, cap heights."""
    whites = []
    for left, right in itertools.product(*(_samples(typeface, kind) for kind in kinds)):
        run = typeface.shape(left + right)
        if len(run) != 2 or run[0].cluster == run[1].cluster or not (run[0].glyph and run[1].glyph):
            continue
        forms = _form(run[:1]), _form(run[1:])
        if tuple(_letter(typeface, f).is_tall for f in forms) != tall:
            continue
        apart = (run[1].x - run[0].x) / typeface.cap_height_upem
        white = _white(_Pair(typeface=typeface, left=forms[0], right=forms[1], apart=apart))
        if white is not None:
            whites.append(white)
    usual = float(np.median(whites)) if len(whites) >= _FEWEST_PAIRS else 0.0
    # Letters that overlap by design are no measure of anything.
    return usual if usual > 0.03 else None


@remembered
def _samples(typeface: Typeface, kind: _Kind) -> str:
    """Letters of one kind that a face has, spread over all of them."""
    script, category = kind
    if category == "Nd":
        letters = list(_DIGITS)
    elif script == "Latn" and category in _LATIN:
        letters = list(_LATIN[category])
    else:
        letters = list(_letters_of(typeface, kind))
        letters = letters[:: max(1, math.ceil(len(letters) / _LOOKED_AT))]
    return "".join(c for c in letters if ord(c) in typeface.characters)


def _letters_of(typeface: Typeface, kind: _Kind) -> Iterator[str]:
    for code in sorted(typeface.characters):
        if _kind(chr(code)) == kind and not unicodedata.decomposition(chr(code)):
            yield chr(code)


@remembered
def _kind(character: str) -> _Kind | None:
    """Script and category of what is spaced by its outline, None for all else."""
    category = unicodedata.category(character)
    if category == "Nd" and character in _DIGITS:
        return "Zyyy", category
    script = unicodedata.script(character)
    return (script, category) if script in _SPACED and category in ("Lu", "Ll", "Lo", "Lt") else None

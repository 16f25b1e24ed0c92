"""Single-stroke lettering: letters that are paths for a point, not outlines.

For scoring and diamond-drag engraving. Two kinds of file ship: the Hershey alphabets (A. V. Hershey,
U.S. National Bureau of Standards, 1967) in James Hurt's JHF form, and a font in the SVG 1.1 form
whose glyphs are open paths.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files

import numpy as np
import svgelements as se
from defusedxml.ElementTree import fromstring

from kizami.errors import TypefaceError
from kizami.outlines.curves import FloatArray

__all__ = [
    "SingleStroke",
    "Stroke",
    "StrokeGlyph",
    "StrokeLine",
    "shipped_single_stroke",
    "single_stroke_codes",
]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class StrokeGlyph:
    """A letter as strokes.

    Attributes
    ----------
    advance : how far the pen goes on, in cap heights
    strokes : open paths, arrays of shape (n, 2), cap heights, baseline at y = 0
    """

    advance: float
    strokes: tuple[FloatArray, ...]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class SingleStroke:
    """A single-stroke typeface.

    Attributes
    ----------
    code, name : as other typefaces
    glyphs : by character
    """

    code: str
    name: str
    glyphs: Mapping[str, StrokeGlyph]

    def missing(self, text: str) -> tuple[int, ...]:
        """Indices of the characters that it lacks."""
        return tuple(i for i, c in enumerate(text) if c not in self.glyphs and not c.isspace())

    def set_line(self, text: str, *, height_mm: float, tracking: float = 0.0) -> StrokeLine:
        """Set one line.

        Parameters
        ----------
        height_mm : cap height
        tracking : added between letters, as a share of the cap height

        Raises
        ------
        TypefaceError : a character is missing; names it
        """
        lacking = self.missing(text)
        if lacking:
            raise TypefaceError(f"{self.name} has no “{text[lacking[0]]}”.")
        pen = 0.0
        strokes: list[Stroke] = []
        for place, character in enumerate(text):
            glyph = self.glyphs.get(character) or self.glyphs[" "]
            shift = np.array([pen, 0.0])
            strokes.extend(Stroke(points=(s + shift) * height_mm, cluster=place) for s in glyph.strokes)
            pen += glyph.advance + tracking
        return StrokeLine(text=text, height_mm=height_mm, strokes=tuple(strokes))


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Stroke:
    """One path of the point: (n, 2) mm, and the index of its character."""

    points: FloatArray
    cluster: int


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class StrokeLine:
    """A line of single-stroke lettering in mm, baseline at y = 0."""

    text: str
    height_mm: float
    strokes: tuple[Stroke, ...]

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """(x low, y low, x high, y high); zeros when nothing is drawn."""
        if not self.strokes:
            return (0.0, 0.0, 0.0, 0.0)
        points = np.vstack([s.points for s in self.strokes])
        low, high = points.min(axis=0), points.max(axis=0)
        return (float(low[0]), float(low[1]), float(high[0]), float(high[1]))

    @property
    def length_mm(self) -> float:
        """Length of all paths: what a scoring machine's time goes by."""
        return float(sum(np.hypot(*np.diff(s.points, axis=0).T).sum() for s in self.strokes))

    def centred(self, u_mm: float, v_mm: float) -> StrokeLine:
        """The line with the middle of its box at a place."""
        low_x, low_y, high_x, high_y = self.bounds
        shift = np.array([u_mm - (low_x + high_x) / 2.0, v_mm - (low_y + high_y) / 2.0])
        moved = tuple(Stroke(points=s.points + shift, cluster=s.cluster) for s in self.strokes)
        return StrokeLine(text=self.text, height_mm=self.height_mm, strokes=moved)


_SHIPPED = {
    "hershey-simplex": ("Hershey Roman Simplex", "rowmans.jhf"),
    "hershey-script": ("Hershey Script Simplex", "scripts.jhf"),
    "ems-readability": ("EMS Readability", "EMSReadability.svg"),
}


def single_stroke_codes() -> tuple[str, ...]:
    """Codes of the single-stroke typefaces that ship."""
    return tuple(_SHIPPED)


@cache
def shipped_single_stroke(code: str) -> SingleStroke:
    """A single-stroke typeface that ships.

    Raises
    ------
    TypefaceError : no such code; the text lists the valid ones
    """
    if code not in _SHIPPED:
        raise TypefaceError(f"There is no single-stroke typeface “{code}”; known: {', '.join(_SHIPPED)}.")
    name, file = _SHIPPED[code]
    text = (files("kizami") / "data" / "typefaces" / "single-stroke" / file).read_text("utf-8")
    glyphs = _read_jhf(text) if file.endswith(".jhf") else _read_svg_font(text)
    return SingleStroke(code=code, name=name, glyphs=glyphs)


#: In Hershey's grid a Roman capital stands from y = 9 (its foot) up to y = -12.
_JHF_BASE, _JHF_CAP = 9.0, 21.0


def _read_jhf(text: str) -> dict[str, StrokeGlyph]:
    """Letters of a JHF file: the printable characters from space on, in order.

    A record is a number of five digits, a count of three, then pairs of characters: the left and
    right edge, then points, each as its distance from “R”. “ R” lifts the pen. Long records go on
    over several lines.
    """
    records = re.findall(r"^([ \d]{5})([ \d]{3})((?:.|\n(?![ \d]{5}[ \d]{3}))*)$", text, re.M)
    glyphs: dict[str, StrokeGlyph] = {}
    for place, (_, _, wrapped) in enumerate(records[:96]):
        body = wrapped.replace("\n", "")
        left, right = ord(body[0]) - ord("R"), ord(body[1]) - ord("R")
        strokes: list[FloatArray] = []
        points: list[tuple[float, float]] = []
        for i in range(2, len(body) - 1, 2):
            pair = body[i : i + 2]
            if pair == " R":
                _add(strokes, points)
                points = []
                continue
            x, y = ord(pair[0]) - ord("R"), ord(pair[1]) - ord("R")
            points.append(((x - left) / _JHF_CAP, (_JHF_BASE - y) / _JHF_CAP))
        _add(strokes, points)
        glyphs[chr(32 + place)] = StrokeGlyph(advance=(right - left) / _JHF_CAP, strokes=tuple(strokes))
    return glyphs


def _add(strokes: list[FloatArray], points: list[tuple[float, float]]) -> None:
    if len(points) >= 2:
        strokes.append(np.array(points))


def _read_svg_font(text: str) -> dict[str, StrokeGlyph]:
    """Glyphs of an SVG 1.1 font. Its stated cap height is not trusted: H is measured."""
    root = fromstring(text, forbid_dtd=False)
    font = next(e for e in root.iter() if e.tag.endswith("}font"))
    usual = float(font.get("horiz-adv-x", "500"))
    raw: dict[str, tuple[float, tuple[FloatArray, ...]]] = {}
    for element in font:
        character = element.get("unicode")
        if character is None or len(character) != 1:
            continue
        raw[character] = (float(element.get("horiz-adv-x", usual)), _strokes_of(element.get("d", "")))
    h = np.vstack(raw["H"][1])
    foot, cap = float(h[:, 1].min()), float(np.ptp(h[:, 1]))
    base = np.array([0.0, foot])
    return {
        c: StrokeGlyph(advance=advance / cap, strokes=tuple((s - base) / cap for s in strokes))
        for c, (advance, strokes) in raw.items()
    }


def _strokes_of(data: str) -> tuple[FloatArray, ...]:
    strokes: list[FloatArray] = []
    points: list[tuple[float, float]] = []
    for segment in se.Path(data):
        if isinstance(segment, se.Move):
            _add(strokes, points)
            points = [(segment.end.x, segment.end.y)]
        elif isinstance(segment, se.Line | se.Close):
            if segment.end is not None:
                points.append((segment.end.x, segment.end.y))
        else:
            # Curves of this font are short: sixteen chords leave none by a hundredth of its height.
            points.extend((p.x, p.y) for p in (segment.point(t / 16.0) for t in range(1, 17)))
    _add(strokes, points)
    return tuple(strokes)

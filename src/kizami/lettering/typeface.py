"""A typeface: shaping, outlines and measured facts, each worked out once."""

from __future__ import annotations

import hashlib
import io
import math
import struct
import zlib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import brotli
import numpy as np
import pathops
import shapely
import uharfbuzz as hb
from fontTools import unicodedata
from fontTools.ttLib import TTFont, TTLibError

from kizami.errors import TypefaceError
from kizami.lettering.bidi import embedding_levels, is_plain_ltr, visual_runs
from kizami.lettering.units import has_joined_units, units_of
from kizami.outlines.centre_lines import CentreLines, centre_lines
from kizami.outlines.clean import clean, mend_slits
from kizami.outlines.curves import FloatArray, bodies_of, clean_path, flatten, polygons_from_contours
from kizami.outlines.narrow import MedialAxis, ShapeFacts, measure_shape, medial_axis
from kizami.remembering import remembered

__all__ = [
    "BROKEN",
    "PLAIN",
    "GlyphShape",
    "ShapedGlyph",
    "Style",
    "Typeface",
    "condensed_facts",
    "join_shapes",
    "missing_characters",
]

#: Letters that the height of a typeface is measured on: the first that it has.
_REFERENCE_LETTERS = "H\u05d4\u0627\u56fdI1"
#: So many letters tell how high those of a script stand.
_MOST_LOOKED_AT = 60
#: Scripts that are written mixed and shaped as one.
_JAPANESE = {"Hira", "Kana", "Hani"}


#: A file that states more is mistaken.
_MOST_SLANT_DEG = 45.0
#: Slits and hairs narrower than this share of the cap height are faults of drawing, not of letters.
_SLIT_SHARE = 0.006


@dataclass(frozen=True, kw_only=True, slots=True)
class Style:
    """How text is set in a typeface.

    Attributes
    ----------
    tracking : added between letters, as a share of the cap height; ligatures open up when not zero
    features : OpenType features by tag with their values, such as (("smcp", 1),)
    language : BCP 47 tag, or "" for the script's default
    vertical : from top to bottom
    direction : “left to right” or “right to left” for a line of mixed directions; "" is as its first letter
    word_space : added between words, as a share of the cap height
    evened : the white between letters is evened by eye, see `kizami.lettering.optical`
    """

    tracking: float = 0.0
    features: tuple[tuple[str, int], ...] = ()
    language: str = ""
    vertical: bool = False
    direction: str = ""
    word_space: float = 0.0
    evened: bool = False


PLAIN = Style()


@dataclass(frozen=True, kw_only=True, slots=True)
class ShapedGlyph:
    """One glyph of shaped text.

    Attributes
    ----------
    glyph : glyph number in the typeface
    cluster : index of the first character it stands for
    x, y : origin, in font units (upem)
    """

    glyph: int
    cluster: int
    x: float
    y: float


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class GlyphShape:
    """A glyph's outline in font units, flattened to a tolerance.

    Attributes
    ----------
    polygons : bodies with holes, font units
    contours : the same as arrays of shape (n, 2); bodies anticlockwise, holes clockwise
    """

    polygons: shapely.MultiPolygon
    contours: tuple[FloatArray, ...]


class Typeface:
    """A typeface file. Lookups are remembered, as a list sets the same letters again and again.

    Parameters
    ----------
    data : a TTF or OTF file, or one packed as WOFF or WOFF2
    name : what the workshop calls it
    code : its name in products, or ""

    Raises
    ------
    TypefaceError : not a typeface, or without a letter to measure
    """

    def __init__(self, data: bytes, *, name: str, code: str = "") -> None:
        self.name, self.code = name, code
        self.fingerprint = hashlib.sha256(data).hexdigest()
        try:
            data = _unpacked(data)
            self._font = TTFont(io.BytesIO(data), lazy=True)
            self._glyphs = self._font.getGlyphSet()
            self._order = self._font.getGlyphOrder()
            self._hb_font = hb.Font(hb.Face(data))
            self.units_per_em = int(self._font["head"].unitsPerEm)
            self._cmap = self._font.getBestCmap() or {}
        except BROKEN as error:
            why = _why(error, data)
            raise TypefaceError(f"“{name}” is not a typeface that can be read: {why}.") from error
        self._paths: dict[int, pathops.Path] = {}
        self._shapes: dict[tuple[int, int], GlyphShape] = {}
        self._facts: dict[int, ShapeFacts] = {}
        self._runs: dict[tuple[str, Style], tuple[ShapedGlyph, ...]] = {}
        self.cap_height_upem = self._measure_cap_height()

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Typeface) and other.fingerprint == self.fingerprint

    def __hash__(self) -> int:
        return hash(self.fingerprint)

    @cached_property
    def characters(self) -> frozenset[int]:
        """Code points that it has."""
        return frozenset(self._cmap)

    @property
    def tables(self) -> TTFont:
        """The file's tables, for what only they know: names, embedding rights."""
        return self._font

    @property
    def substitutions(self) -> frozenset[str]:
        """Tags of the features by which it sets other glyphs."""
        return self._features("GSUB")

    def _features(self, table: str) -> frozenset[str]:
        found = self._font[table].table.FeatureList if table in self._font else None
        return frozenset(record.FeatureTag for record in found.FeatureRecord) if found else frozenset()

    def has_feature(self, tag: str) -> bool:
        """Whether the typeface reacts to an OpenType feature, such as “smcp”."""
        return tag in self._features("GSUB") or tag in self._features("GPOS")

    def shape(self, text: str, style: Style = PLAIN) -> tuple[ShapedGlyph, ...]:
        """Set one line of text with HarfBuzz.

        Every run of one script and one direction is shaped on its own, with the rest of the line
        as its surroundings; runs stand in the order of UAX 9.

        Parameters
        ----------
        text : cleaned wording

        Returns
        -------
        glyphs in visual order, left to right (or top to bottom); origins in font units, first pen
        position 0
        """
        key = (text, style)
        run = self._runs.get(key)
        if run is None:
            if len(self._runs) > 4096:
                self._runs.clear()
            run = self._runs[key] = self._shape(text, style)
        return run

    def _shape(self, text: str, style: Style) -> tuple[ShapedGlyph, ...]:
        features: dict[str, Any] = dict(style.features)
        # Figures that stand on the line at one height: old-style ones look like a mistake in a date.
        features.setdefault("lnum", 1)
        tracking = style.tracking * self.cap_height_upem
        word_space = style.word_space * self.cap_height_upem
        units = units_of(text, self.hand_joins) if tracking else ()
        if tracking and not has_joined_units(text, self.hand_joins):
            features |= {"liga": False, "clig": False}
        codes = [ord(c) for c in text]
        set_glyphs: list[tuple[Any, Any]] = []
        for start, end, script, from_right in _itemised(text, style.direction):
            buffer = hb.Buffer()
            buffer.add_codepoints(codes, start, end - start)
            buffer.guess_segment_properties()
            if script:
                buffer.script = script
            buffer.direction = "ttb" if style.vertical else "rtl" if from_right else "ltr"
            if style.language:
                buffer.language = style.language
            hb.shape(self._hb_font, buffer, features)
            set_glyphs.extend(zip(buffer.glyph_infos, buffer.glyph_positions, strict=True))
        x = y = 0.0
        run = []
        for place, (info, position) in enumerate(set_glyphs):
            run.append(
                ShapedGlyph(
                    glyph=info.codepoint,
                    cluster=info.cluster,
                    x=x + position.x_offset,
                    y=y + position.y_offset,
                )
            )
            x += position.x_advance
            y += position.y_advance
            if tracking and (
                place + 1 == len(set_glyphs) or units[info.cluster] != units[set_glyphs[place + 1][0].cluster]
            ):
                x, y = (x, y - tracking) if style.vertical else (x + tracking, y)
            if word_space and text[info.cluster] == " ":
                x, y = (x, y - word_space) if style.vertical else (x + word_space, y)
        return tuple(run)

    def advance(self, glyph: int) -> float:
        """How far a glyph takes the pen, font units."""
        return float(self._hb_font.get_glyph_h_advance(glyph))

    def extents(self, glyph: int) -> tuple[float, float, float, float] | None:
        """The box round a glyph, (x low, y low, x high, y high), font units; None for one without ink."""
        found = self._hb_font.get_glyph_extents(glyph)
        if found is None or not (found.width or found.height):
            return None
        low_x, high_y = float(found.x_bearing), float(found.y_bearing)
        return low_x, high_y + float(found.height), low_x + float(found.width), high_y

    @cached_property
    def slant(self) -> float:
        """How far it leans to the right for one height, by what the file states."""
        angle = float(self._font["post"].italicAngle) if "post" in self._font else 0.0
        return math.tan(math.radians(-angle)) if abs(angle) < _MOST_SLANT_DEG else 0.0

    @cached_property
    def hand_joins(self) -> bool:
        """Whether its small letters run into each other, as those of a script face do."""
        return _hand_joins(self)

    def outline(self, glyph: int, *, sagitta_upem: float) -> GlyphShape:
        """The outline of a glyph, overlaps resolved, chords within `sagitta_upem` of the curve.

        The tolerance is rounded down to a power of two, so that pieces of like size share their
        outlines.
        """
        fineness = math.floor(math.log2(sagitta_upem))
        key = (glyph, fineness)
        shape = self._shapes.get(key)
        if shape is None:
            # A tenth of the tolerance is kept for leaving out points that the chords do not need.
            contours = flatten(self._path(glyph), sagitta=0.9 * 2.0**fineness)
            polygons = clean(polygons_from_contours(contours), tolerance=0.1 * 2.0**fineness)
            polygons = mend_slits(polygons, width=_SLIT_SHARE * self.cap_height_upem)
            rings = [
                np.asarray(ring.coords)[:-1]
                for body in polygons.geoms
                for ring in (body.exterior, *body.interiors)
            ]
            shape = self._shapes[key] = GlyphShape(polygons=polygons, contours=tuple(rings))
        return shape

    def facts(self, glyph: int) -> ShapeFacts:
        """Thinnest stroke and narrowest gap within a glyph, font units. They scale with the height."""
        facts = self._facts.get(glyph)
        if facts is None:
            # 1/1000 of the cap height: 0.003 mm on a 3 mm letter, far below any limit.
            shape = self.outline(glyph, sagitta_upem=self.cap_height_upem / 1000)
            facts = self._facts[glyph] = measure_shape(
                shape.polygons, cap_height=self.cap_height_upem, axis=self.axis(glyph)
            )
        return facts

    def axis(self, glyph: int) -> MedialAxis | None:
        """The medial axis of a glyph, font units; kept for a while, as it is measured and then thickened."""
        return _axis_of(self, glyph)

    def _path(self, glyph: int) -> pathops.Path:
        path = self._paths.get(glyph)
        if path is None:
            raw = pathops.Path()
            self._glyphs[self._order[glyph]].draw(raw.getPen(glyphSet=self._glyphs))
            path = self._paths[glyph] = clean_path(raw)
        return path

    def _measure_cap_height(self) -> float:
        # Measured, as the value that the file states may be wrong, 0 or absent. Scripts without
        # capitals are measured on a full-height letter of their own.
        letter = next((c for c in _REFERENCE_LETTERS if ord(c) in self._cmap), None)
        height = self._height_of(letter) if letter is not None else self._usual_height()
        if not height > 0:
            raise TypefaceError(f"“{self.name}” draws no letters, so its height is not known.")
        return height

    def _height_of(self, letter: str) -> float:
        """How high a letter stands above the base line, font units."""
        number = self._order.index(self._cmap[ord(letter)])
        contours = flatten(self._path(number), sagitta=self.units_per_em / 1000)
        return max((float(c[:, 1].max()) for c in contours), default=0.0)

    def _usual_height(self) -> float:
        """The height of the letters of a script without any of the usual ones: most stand as high as this."""
        letters = [chr(c) for c in sorted(self._cmap) if unicodedata.category(chr(c)) in ("Lo", "Lu", "Ll")]
        step = max(1, len(letters) // _MOST_LOOKED_AT)
        heights = [height for letter in letters[::step] if (height := self._height_of(letter)) > 0]
        return float(np.median(heights)) if heights else 0.0


#: Pairs of small letters that a hand joins, if it joins any.
_JOINED_PAIRS = ("nn", "an", "en", "mi", "ul", "in", "ma", "ai")
#: A face joins its letters where so many of the pairs run into each other, or miss it by so many cap heights.
_JOINED_SHARE, _NEARLY_JOINED = 0.7, 0.015


def _hand_joins(typeface: Typeface) -> bool:
    joined = 0
    for pair in _JOINED_PAIRS:
        run = typeface.shape(pair)
        if any(g.glyph == 0 for g in run):
            return False
        if len(run) == 1:
            # Drawn as one.
            joined += 1
            continue
        one, other = (
            shapely.transform(
                typeface.outline(g.glyph, sagitta_upem=typeface.cap_height_upem / 200).polygons,
                lambda xy, at=(g.x, g.y): xy + np.array(at),
            )
            for g in (run[0], run[-1])
        )
        joined += bool(shapely.dwithin(one, other, _NEARLY_JOINED * typeface.cap_height_upem))
    return joined >= _JOINED_SHARE * len(_JOINED_PAIRS)


@remembered
def _axis_of(typeface: Typeface, glyph: int) -> MedialAxis | None:
    shape = typeface.outline(glyph, sagitta_upem=typeface.cap_height_upem / 1000)
    return medial_axis(shape.polygons, cap_height=typeface.cap_height_upem)


#: What the libraries raise on files that are cut short, mixed up or no typeface at all.
BROKEN = (
    TTLibError,
    KeyError,
    ValueError,
    AttributeError,
    IndexError,
    struct.error,
    brotli.error,
    zlib.error,
    AssertionError,
    OSError,
)


def _why(error: Exception, data: bytes) -> str:
    """What is wrong with a file, for people: not every library says it in words."""
    if isinstance(error, KeyError):
        return f"its table “{error.args[0]}” is missing"
    if any(tag in data[:4096] for tag in _PICTURES) and b"glyf" not in data[:4096]:
        return "its letters are pictures, which have no outlines to be cut or raised"
    return str(error) or type(error).__name__


#: Tables of letters that are pictures (OpenType, from memory); a file's directory of tables is at its begin.
_PICTURES = (b"CBDT", b"EBDT", b"sbix", b"SVG ")


def _unpacked(data: bytes) -> bytes:
    """The plain tables of a file that is packed for the web; other files as they are."""
    if data[:4] not in (b"wOF2", b"wOFF"):
        return data
    font = TTFont(io.BytesIO(data))
    font.flavor = None
    plain = io.BytesIO()
    font.save(plain)
    return plain.getvalue()


#: Embedding levels of a line by its direction; None takes it from its first letter (UAX 9, P2 and P3).
_LEVELS = {"": None, "left to right": 0, "right to left": 1}


@remembered
def _itemised(text: str, direction: str) -> tuple[tuple[int, int, str, bool], ...]:
    """Runs of one script and one direction in visual order: (start, end, script, right to left)."""
    base = _LEVELS[direction]
    if text.isascii() and not base:
        return ((0, len(text), "", False),) if text else ()
    if is_plain_ltr(text) and not base:
        runs = [(0, len(text), False)]
    else:
        runs = visual_runs(embedding_levels(text, base=base))
    out: list[tuple[int, int, str, bool]] = []
    for start, end, from_right in runs:
        parts = _scripts(text, start, end)
        out.extend((a, b, script, from_right) for a, b, script in (reversed(parts) if from_right else parts))
    return tuple(out)


def _scripts(text: str, start: int, end: int) -> list[tuple[int, int, str]]:
    """Parts of one script; what belongs to no script goes with what stands before it."""
    parts: list[tuple[int, int, str]] = []
    for place in range(start, end):
        script = unicodedata.script(text[place])
        if script in _JAPANESE:
            script = "Hira"
        if parts and (script in ("Zyyy", "Zinh", parts[-1][2]) or not parts[-1][2]):
            known = parts[-1][2] or ("" if script in ("Zyyy", "Zinh") else script)
            parts[-1] = (parts[-1][0], place + 1, known)
        else:
            parts.append((place, place + 1, "" if script in ("Zyyy", "Zinh") else script))
    return parts


@remembered
def glyph_lines(typeface: Typeface, glyph: int) -> CentreLines | None:
    """The middle lines of a glyph's strokes, cap heights; None for a space."""
    unit = 1.0 / typeface.cap_height_upem
    outline = typeface.outline(glyph, sagitta_upem=typeface.cap_height_upem / 1000).polygons
    lines = centre_lines(outline, typeface.axis(glyph))
    return None if lines is None else lines.moved((unit, unit), (0.0, 0.0))


@remembered
def condensed_facts(typeface: Typeface, glyph: int, share: float) -> ShapeFacts:
    """Thinnest stroke and narrowest gap within a glyph drawn with a share of its width, font units."""
    drawn = typeface.outline(glyph, sagitta_upem=typeface.cap_height_upem / 1000).polygons
    condensed = shapely.transform(drawn, lambda xy: xy * (share, 1.0))
    return measure_shape(condensed, cap_height=typeface.cap_height_upem)


@remembered
def glyph_in_mm(
    typeface: Typeface, glyph: int, *, scale_mm: float, sagitta_mm: float
) -> shapely.MultiPolygon:
    """The outline of a glyph about its origin, `scale_mm` a cap height."""
    unit = scale_mm / typeface.cap_height_upem
    outline = typeface.outline(glyph, sagitta_upem=sagitta_mm / unit).polygons
    return shapely.transform(outline, lambda xy: xy * unit)


def missing_characters(run: Sequence[ShapedGlyph]) -> tuple[int, ...]:
    """Indices of the characters that shaping found no glyph for.

    Shaping is asked rather than the typeface's character map, as a letter may be drawn from its parts.
    """
    return tuple(sorted({g.cluster for g in run if g.glyph == 0}))


def join_shapes(shapes: Sequence[shapely.MultiPolygon]) -> shapely.MultiPolygon:
    """Glyph outlines as one set of bodies, anticlockwise; united only where they touch, which is rare."""
    bodies = [body for shape in shapes for body in shape.geoms]
    joined = shapely.MultiPolygon(bodies)
    if joined.is_valid:
        return joined
    return bodies_of(*bodies)

"""A typeface: shaping, outlines and measured facts, each worked out once."""

from __future__ import annotations

import hashlib
import io
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import pathops
import shapely
import uharfbuzz as hb
from fontTools.ttLib import TTFont, TTLibError

from kizami.errors import TypefaceError
from kizami.lettering.glyph_facts import ShapeFacts, measure_shape
from kizami.lettering.outlines import FloatArray, clean_path, flatten, polygons_from_contours

__all__ = ["GlyphShape", "ShapedGlyph", "Typeface", "join_shapes", "missing_characters"]


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
    data : a TTF or OTF file
    name : what the workshop calls it

    Raises
    ------
    TypefaceError : not a typeface, or without a capital H to measure
    """

    def __init__(self, data: bytes, *, name: str) -> None:
        self.name = name
        self.fingerprint = hashlib.sha256(data).hexdigest()
        try:
            self._font = TTFont(io.BytesIO(data), lazy=True)
            self._glyphs = self._font.getGlyphSet()
            self._order = self._font.getGlyphOrder()
            self._hb_font = hb.Font(hb.Face(data))
            self.units_per_em = int(self._font["head"].unitsPerEm)
            self._cmap = self._font.getBestCmap() or {}
        except (TTLibError, KeyError, ValueError) as error:
            raise TypefaceError(f"“{name}” is not a typeface that can be read: {error}.") from error
        self._paths: dict[int, pathops.Path] = {}
        self._shapes: dict[tuple[int, int], GlyphShape] = {}
        self._facts: dict[int, ShapeFacts] = {}
        self._runs: dict[tuple[str, float], tuple[ShapedGlyph, ...]] = {}
        self.cap_height_upem = self._measure_cap_height()

    def shape(self, text: str, *, tracking_upem: float = 0.0) -> tuple[ShapedGlyph, ...]:
        """Set one line of text with HarfBuzz.

        Parameters
        ----------
        text : cleaned wording, one script
        tracking_upem : added after every glyph; opens ligatures up when not zero

        Returns
        -------
        glyphs in visual order, left to right; origins in font units, first pen position 0
        """
        key = (text, tracking_upem)
        run = self._runs.get(key)
        if run is None:
            if len(self._runs) > 4096:
                self._runs.clear()
            run = self._runs[key] = self._shape(text, tracking_upem)
        return run

    def _shape(self, text: str, tracking_upem: float) -> tuple[ShapedGlyph, ...]:
        if not text:
            return ()
        buffer = hb.Buffer()
        buffer.add_str(text)
        buffer.guess_segment_properties()
        features = {"liga": False, "clig": False} if tracking_upem else {}
        hb.shape(self._hb_font, buffer, features)
        pen = 0.0
        run = []
        for info, position in zip(buffer.glyph_infos, buffer.glyph_positions, strict=True):
            run.append(
                ShapedGlyph(
                    glyph=info.codepoint,
                    cluster=info.cluster,
                    x=pen + position.x_offset,
                    y=float(position.y_offset),
                )
            )
            # A mark has no advance: tracking it would push it off its letter.
            pen += position.x_advance + (tracking_upem if position.x_advance else 0.0)
        return tuple(run)

    def outline(self, glyph: int, *, sagitta_upem: float) -> GlyphShape:
        """The outline of a glyph, overlaps resolved, chords within `sagitta_upem` of the curve.

        The tolerance is rounded down to a power of two, so that pieces of like size share their
        outlines.
        """
        fineness = math.floor(math.log2(sagitta_upem))
        key = (glyph, fineness)
        shape = self._shapes.get(key)
        if shape is None:
            contours = flatten(self._path(glyph), sagitta=2.0**fineness)
            polygons = polygons_from_contours(contours)
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
            facts = self._facts[glyph] = measure_shape(shape.polygons, cap_height=self.cap_height_upem)
        return facts

    def _path(self, glyph: int) -> pathops.Path:
        path = self._paths.get(glyph)
        if path is None:
            raw = pathops.Path()
            self._glyphs[self._order[glyph]].draw(raw.getPen(glyphSet=self._glyphs))
            path = self._paths[glyph] = clean_path(raw)
        return path

    def _measure_cap_height(self) -> float:
        # Measured, as the value that the file states may be wrong, 0 or absent.
        glyph = self._cmap.get(ord("H"))
        if glyph is None:
            raise TypefaceError(f"“{self.name}” has no capital H, so its height can't be measured.")
        number = self._order.index(glyph)
        contours = flatten(self._path(number), sagitta=self.units_per_em / 1000)
        if not contours:
            raise TypefaceError(f"“{self.name}” draws nothing for its capital H.")
        return float(max(c[:, 1].max() for c in contours))


def missing_characters(run: Sequence[ShapedGlyph]) -> tuple[int, ...]:
    """Indices of the characters that shaping found no glyph for.

    Shaping is asked rather than the typeface's character map, as a letter may be drawn from its parts.
    """
    return tuple(sorted({g.cluster for g in run if g.glyph == 0}))


def join_shapes(shapes: Sequence[shapely.MultiPolygon]) -> shapely.MultiPolygon:
    """Glyph outlines as one set of bodies; united only where they touch, which is rare."""
    bodies = [body for shape in shapes for body in shape.geoms]
    joined = shapely.MultiPolygon(bodies)
    if joined.is_valid:
        return joined
    united = shapely.union_all(bodies)
    return united if isinstance(united, shapely.MultiPolygon) else shapely.MultiPolygon([united])

"""Outline areas against fontTools' area pen, on glyphs whose contours do not overlap."""

from __future__ import annotations

import io
from importlib.resources import files

import pytest
from fontTools.pens.areaPen import AreaPen
from fontTools.ttLib import TTFont

from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import Style

CASES = [("noto-sans-bold", "NotoSans-Bold.ttf"), ("vollkorn-bold", "Vollkorn-Bold.ttf")]


@pytest.mark.parametrize(("code", "file"), CASES)
def test_areas_equal_the_exact_area_under_the_curves(code: str, file: str) -> None:
    font = TTFont(io.BytesIO((files("kizami") / "data" / "typefaces" / file).read_bytes()))
    glyphs, cmap = font.getGlyphSet(), font.getBestCmap()
    face = shipped_typeface(code)
    for char in "ABCDEFGHIJKLMNOPRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789&?!ß":
        pen = AreaPen(glyphs)
        glyphs[cmap[ord(char)]].draw(pen)
        (glyph,) = face.shape(char, Style(features=(("lnum", 0),)))
        # Chords at 0.25 units lose at most 0.25 x outline length; 0.3 % is far above that.
        assert face.outline(glyph.glyph, sagitta_upem=0.25).polygons.area == pytest.approx(
            abs(pen.value), rel=3e-3
        ), char

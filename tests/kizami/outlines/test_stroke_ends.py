"""Ends of strokes: of bars by geometry, of letters as anybody counts them."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from kizami.lettering.shipped import shipped_typeface, shipped_typeface_codes
from kizami.outlines.stroke_ends import stroke_ends


@pytest.mark.parametrize("cap", ["round", "flat"])
@pytest.mark.parametrize("turned_deg", [0, 20, 45, 90, 135, 170])
def test_a_bar_ends_twice_in_its_own_direction(turned_deg: float, cap: str) -> None:
    way = np.array([math.cos(math.radians(turned_deg)), math.sin(math.radians(turned_deg))])
    bar = shapely.LineString([(0, 0), 12 * way]).buffer(0.5, cap_style=cap)
    ends = sorted(stroke_ends(bar), key=lambda end: float(end.tip @ way))
    assert len(ends) == 2
    reach = 0.5 if cap == "round" else 0.0
    for end, place, out in zip(ends, (-reach, 12 + reach), (-way, way), strict=True):
        # A flat end has two corners: its middle is told to a quarter of the width.
        assert math.dist(end.tip, place * way) < 0.26
        assert end.way @ out > math.cos(math.radians(12))
        assert end.widths == pytest.approx(1.0, abs=0.09)


def test_an_end_is_followed_back_round_a_bend() -> None:
    """A quarter of a circle: at its end a stroke runs along the tangent."""
    angles = np.linspace(0, math.pi / 2, 60)
    arc = shapely.LineString(np.column_stack((10 * np.cos(angles), 10 * np.sin(angles)))).buffer(0.4)
    for end in stroke_ends(arc):
        tangent = np.array([-end.tip[1], end.tip[0]]) / np.hypot(*end.tip)
        assert abs(end.way @ tangent) > math.cos(math.radians(12))
        assert np.hypot(*end.line.T) == pytest.approx(10.0, abs=0.2)


def test_a_tapering_stroke_is_wider_within() -> None:
    wedge = shapely.Polygon([(0, -1), (0, 1), (14, 0.2), (14, -0.2)])
    (tip,) = (end for end in stroke_ends(wedge) if end.tip[0] > 10)
    assert tip.widths[0] > 1.2 * tip.widths[-1]


#: Ends that anybody counts in letters without serifs (common practice, no source).
_COUNTED = {
    "E": 3,
    "T": 3,
    "o": 0,
    "O": 0,
    "C": 2,
    "S": 2,
    "X": 4,
    "H": 4,
    "F": 3,
    "L": 2,
    "Y": 3,
    "c": 2,
    "s": 2,
}


@pytest.mark.parametrize("letter", _COUNTED)
@pytest.mark.parametrize("code", ["noto-sans-bold", "comfortaa-bold"])
def test_the_ends_of_letters(code: str, letter: str) -> None:
    face = shipped_typeface(code)
    outline = face.outline(face.shape(letter)[0].glyph, sagitta_upem=2).polygons
    assert len(stroke_ends(outline)) == _COUNTED[letter]


@pytest.mark.parametrize("code", sorted(shipped_typeface_codes()))
def test_every_letter_of_every_typeface_is_followed_to_finite_places(code: str) -> None:
    face = shipped_typeface(code)
    for letter in "AQRgyszß&ñ":
        for glyph in face.shape(letter):
            outline = face.outline(glyph.glyph, sagitta_upem=3).polygons
            for end in stroke_ends(outline):
                assert np.isfinite(end.line).all() and np.isfinite(end.widths).all()
                assert len(end.line) == len(end.widths) >= 2
                assert np.hypot(*end.way) == pytest.approx(1.0)
                assert outline.distance(shapely.Point(end.tip)) < 0.1 * face.cap_height_upem


def test_only_ends_between_two_places_are_told() -> None:
    bar = shapely.LineString([(0, 0), (12, 0)]).buffer(0.5)
    (end,) = stroke_ends(bar, across=(6.0, 20.0))
    assert end.tip[0] > 12
    assert stroke_ends(shapely.Polygon()) == ()

"""Letters that fill an outline: one stroke weight, even widths, edges on the outline, openings kept."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
import shapely

from kizami.lettering.block import draw, lines_of_mark, set_line
from kizami.lettering.capitals import in_capitals
from kizami.lettering.filled import DrawnFilled, fill
from kizami.lettering.shapes import Filled, Letter, shape_letters
from kizami.lettering.shipped import shipped_typeface
from kizami.outlines.narrow import axis_of, sampled

ROUND = shapely.Point(0, 0).buffer(15.0, quad_segs=64)
OUTLINES = {
    "round": ROUND,
    "oval": shapely.transform(ROUND, lambda xy: xy * np.array([1.5, 0.8])),
    "diamond": shapely.Polygon([(-20, 0), (0, -15), (20, 0), (0, 15)]),
    "shield": shapely.Polygon([(-14, 14), (14, 14), (14, -2), (0, -16), (-14, -2)]),
}
NAMES = ("ANNA", "MIA", "JASPER", "WREN", "KIM", "ODETTE", "BEA", "HUGO")


def filled(text: str, code: str = "noto-sans-bold", outline: shapely.Polygon = ROUND) -> DrawnFilled:
    block = set_line(text, shipped_typeface(code))
    groups = [[lines] for mark in block.marks if (lines := lines_of_mark(mark)) is not None]
    return fill(groups, outline, cap=30.0, sagitta=0.005)


def stroke_widths(shape: shapely.MultiPolygon) -> np.ndarray:
    """Width of the strokes along all that has two long sides, measured on the outline that was drawn."""
    axis = axis_of(sampled(shape, 0.08))
    assert axis is not None
    shapely.prepare(shape)
    long = axis.path > 4.0 * axis.width
    inside = shapely.contains_xy(shape, axis.centres[:, 0], axis.centres[:, 1])
    return axis.width[long & inside]


@pytest.mark.parametrize("outline", OUTLINES.values(), ids=OUTLINES)
@pytest.mark.parametrize("name", NAMES)
def test_every_stroke_has_one_weight(name: str, outline: shapely.Polygon) -> None:
    drawn = filled(name, outline=outline)
    widths = np.concatenate([stroke_widths(shape) for shape in drawn.outlines])
    # Joints of several strokes are wider; nearly all of the length is within a twentieth.
    assert np.quantile(widths, 0.05) > 0.93 * drawn.stroke
    assert np.quantile(widths, 0.8) < 1.15 * drawn.stroke
    assert float(np.median(widths)) == pytest.approx(drawn.stroke, rel=0.03)


@pytest.mark.parametrize("outline", OUTLINES.values(), ids=OUTLINES)
@pytest.mark.parametrize("name", NAMES)
def test_letters_reach_from_edge_to_edge_and_none_beyond(name: str, outline: shapely.Polygon) -> None:
    drawn = filled(name, outline=outline)
    whole = shapely.union_all(drawn.outlines)
    assert whole.difference(outline.buffer(1e-6)).area < 1e-6
    for shape in drawn.outlines:
        low, bottom, high, top = shape.bounds
        middle = shapely.LineString([((low + high) / 2, -50), ((low + high) / 2, 50)]).intersection(outline)
        # Round letters touch with their tops only, slanted ones beside their middle.
        assert top - bottom > 0.8 * middle.length
    low, _, high, _ = whole.bounds
    assert high - low > 0.55 * (outline.bounds[2] - outline.bounds[0])


@pytest.mark.parametrize("outline", OUTLINES.values(), ids=OUTLINES)
@pytest.mark.parametrize("name", NAMES)
def test_no_letter_is_twice_as_wide_or_half_as_wide_as_the_others(
    name: str, outline: shapely.Polygon
) -> None:
    """Against its own width in the face: all are condensed alike."""
    drawn = filled(name, outline=outline)
    block = set_line(name, shipped_typeface("noto-sans-bold"))
    own = [lines.box[2] - lines.box[0] for m in block.marks if (lines := lines_of_mark(m)) is not None]
    wide = [shape.bounds[2] - shape.bounds[0] - drawn.stroke for shape in drawn.outlines]
    ratios = np.array([w / o for w, o in zip(wide, own, strict=True) if o > 0.3])
    assert ratios.max() < 2.0 * np.median(ratios) and ratios.min() > 0.5 * np.median(ratios)


@pytest.mark.parametrize("name", NAMES)
def test_gaps_between_letters_are_alike(name: str) -> None:
    drawn = filled(name)
    gaps = np.array([a.distance(b) for a, b in itertools.pairwise(drawn.outlines)])
    assert gaps.min() > 0.3 * drawn.stroke
    assert np.ptp(gaps) < 0.6 * drawn.stroke


@pytest.mark.parametrize("name", ["ÅSA", "BEA", "GÖRAN", "ADA", "Q8&B"])
def test_openings_and_dots_are_kept(name: str) -> None:
    drawn = filled(name, "m-plus-rounded-bold")
    own = draw(set_line(name, shipped_typeface("m-plus-rounded-bold")), sagitta=1e-3)
    for shape, drawn_shape in zip(own, drawn.outlines, strict=True):
        holes = sum(len(b.interiors) for b in shape.geoms)
        assert sum(len(b.interiors) for b in drawn_shape.geoms) >= holes
        assert len(drawn_shape.geoms) >= min(len(shape.geoms), 2)


def test_an_accent_in_a_glyph_of_its_own_goes_with_its_letter() -> None:
    face = shipped_typeface("noto-sans-bold")
    block = set_line("V\u0301A", face)
    letters = [
        Letter(outline=s, cluster=m.cluster, lines=lines_of_mark(m))
        for s, m in zip(draw(block, sagitta=1e-3), block.marks, strict=True)
    ]
    shaped = shape_letters(letters, Filled(outline="round"), height_mm=20.0, sagitta_mm=0.005)
    v, accent, a = shaped.outlines
    assert accent.bounds[1] > v.bounds[3] - 2.0
    assert v.bounds[0] < accent.centroid.x < a.bounds[0]


def test_a_hyphen_is_no_bar() -> None:
    drawn = filled("A-B")
    _, bottom, _, top = drawn.outlines[1].bounds
    assert top - bottom == pytest.approx(drawn.stroke, rel=0.2)
    assert abs(top + bottom) < 8.0


@pytest.mark.parametrize(
    ("text", "language", "expected"),
    [
        ("Ida", "", "IDA"),
        ("Straße", "de", "STRAẞE"),
        ("ilkay", "tr", "İLKAY"),
        ("ilkay", "tr-TR", "İLKAY"),
        ("Άννα", "el", "ΑΝΝΑ"),
        ("Ó hEalaí", "ga", "Ó hEALAÍ"),
        ("", "", ""),
        ("李 & Bo 8", "", "李 & BO 8"),
        ("ŉ", "", "ŉ"),
    ],
)
def test_capitals_are_those_of_the_language_and_as_many(text: str, language: str, expected: str) -> None:
    """By the Unicode Standard's SpecialCasing, from memory; one letter stays one."""
    assert len(in_capitals(text, language)) == len(text)
    if text != "ŉ":
        assert in_capitals(text, language) == expected


def test_larger_is_the_same_drawing_larger() -> None:
    block = set_line("MAY", shipped_typeface("comfortaa-bold"))
    lettering = [
        Letter(outline=s, cluster=m.cluster, lines=lines_of_mark(m))
        for s, m in zip(draw(block, sagitta=1e-4), block.marks, strict=True)
    ]
    one, other = (
        shape_letters(lettering, Filled(outline="heart"), height_mm=h, sagitta_mm=0.0005 * h)
        for h in (10.0, 30.0)
    )
    for small, large in zip(one.outlines, other.outlines, strict=True):
        grown = shapely.transform(small, lambda xy: xy * 3.0)
        assert grown.symmetric_difference(large).area < 0.02 * large.area
    # Bent, not drawn anew, where there are no lines to draw along.
    bent = shape_letters(
        [replace(letter, lines=None) for letter in lettering],
        Filled(outline="heart"), height_mm=10.0, sagitta_mm=0.005,
    )  # fmt: skip
    assert bent.outlines[0].symmetric_difference(one.outlines[0]).area > 0.05 * one.outlines[0].area

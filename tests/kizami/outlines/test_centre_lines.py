"""Centre lines: on drawn shapes whose middle is known, and on letters drawn again with a pen."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from kizami.lettering.shipped import shipped_typeface
from kizami.outlines.centre_lines import CentreLines, centre_lines
from kizami.outlines.curves import bodies_of
from kizami.outlines.narrow import medial_axis


def lines_of(*parts: shapely.Geometry) -> CentreLines:
    shape = bodies_of(*parts)
    found = centre_lines(shape, medial_axis(shape, cap_height=10.0))
    assert found is not None
    return found


def stroke(points: list[tuple[float, float]], width: float = 1.0) -> shapely.Geometry:
    return shapely.LineString(points).buffer(width / 2, cap_style="flat", join_style="mitre", mitre_limit=20)


LETTERS = {
    "L": [[(0, 10), (0, 0), (6, 0)]],
    "V": [[(-5, 10), (0, 0), (5, 10)]],
    "T": [[(-4, 10), (4, 10)], [(0, 10), (0, 0)]],
    "X": [[(-3, 0), (3, 10)], [(-3, 10), (3, 0)]],
    "H": [[(-3, 0), (-3, 10)], [(3, 0), (3, 10)], [(-3, 5), (3, 5)]],
    "Z": [[(-3, 10), (3, 10), (-3, 0), (3, 0)]],
    "K": [[(0, 0), (0, 10)], [(0, 4), (5, 10)], [(2, 6.4), (5, 0)]],
}


@pytest.mark.parametrize("strokes", LETTERS.values(), ids=LETTERS)
def test_the_middles_of_drawn_strokes_are_found_again(strokes: list[list[tuple[float, float]]]) -> None:
    """Each shape is drawn with a pen of 1 along known lines; no point found is off them, no corner missed."""
    found = lines_of(*(stroke(s) for s in strokes))
    drawn = shapely.MultiLineString(strokes)
    points = np.concatenate([line.points for line in found.lines])
    assert shapely.distance(shapely.points(points), drawn).max() < 0.16
    again = shapely.MultiLineString([line.points for line in found.lines])
    # A line ends half a stroke before its end; corners and joints are reached.
    inner = [
        p for s in strokes for p in shapely.get_coordinates(shapely.segmentize(shapely.LineString(s), 0.5))
    ]
    ends = [np.array(p) for s in strokes for p in (s[0], s[-1])]
    for point in inner:
        if min(np.hypot(*(point - end)) for end in ends) > 1.0:
            assert again.distance(shapely.Point(point)) < 0.3, point


@pytest.mark.parametrize("angle", [40, 60, 90, 120])
def test_strokes_meet_where_their_middles_do_at_any_angle(angle: float) -> None:
    half = np.radians(angle / 2)
    legs = [(-10 * np.sin(half), 10 * np.cos(half)), (0.0, 0.0), (10 * np.sin(half), 10 * np.cos(half))]
    found = lines_of(stroke(legs))
    assert len(found.lines) == 1 and not len(found.joints)
    lowest = min(found.lines[0].points, key=lambda p: p[1])
    # Sharper than this the point is cut off with the letter's height.
    assert np.hypot(*lowest) < 0.2 or lowest[1] == pytest.approx(stroke(legs).bounds[1], abs=0.35)


def test_a_ring_stays_a_ring() -> None:
    found = lines_of(shapely.Point(0, 0).buffer(5).difference(shapely.Point(0, 0).buffer(4)))
    (line,) = found.lines
    assert np.array_equal(line.points[0], line.points[-1])
    assert np.hypot(*line.points.T) == pytest.approx(np.full(len(line.points), 4.5), abs=0.05)
    assert line.ends == ("joint", "joint") and found.openings == 1


def test_a_dot_is_a_dot() -> None:
    found = lines_of(shapely.Point(2, 3).buffer(1.0))
    assert not found.lines
    assert found.dots[0] == pytest.approx([2.0, 3.0, 1.0], abs=0.02)


@pytest.mark.parametrize(("cap", "end"), [("flat", "flat"), ("round", "round")])
def test_ends_are_told_apart(cap: str, end: str) -> None:
    found = lines_of(shapely.LineString([(0, 0), (6, 2)]).buffer(0.5, cap_style=cap, quad_segs=32))
    assert found.lines[0].ends == (end, end)
    assert found.is_round is (end == "round")


def test_nothing_has_no_lines() -> None:
    assert centre_lines(shapely.MultiPolygon(), None) is None


@pytest.mark.parametrize("code", ["noto-sans-bold", "comfortaa-bold", "m-plus-rounded-bold"])
@pytest.mark.parametrize("letters", ["ABCDEFGHIJKLM", "NOPQRSTUVWXYZ", "0123456789&", "ŁÞĐØÅÄÖÜÑÇŠŽĘĞ"])
def test_a_pen_along_the_lines_draws_the_letter(code: str, letters: str) -> None:
    """Faces of nearly one stroke weight, drawn again with it: little is missing, little is added."""
    face = shipped_typeface(code)
    for letter in letters:
        (glyph,) = face.shape(letter)
        shape = face.outline(glyph.glyph, sagitta_upem=face.cap_height_upem / 1000).polygons
        found = centre_lines(shape, face.axis(glyph.glyph))
        assert found is not None
        pens = [
            shapely.LineString(line.points).buffer(
                found.width / 2,
                cap_style="round" if found.is_round else "square",
                join_style="mitre",
                mitre_limit=2,
            )
            for line in found.lines
        ]
        dots = [shapely.Point(x, y).buffer(r) for x, y, r in found.dots]
        # Points that a pen would lead beyond the letter's height are cut off with it.
        drawn = shapely.union_all([*pens, *dots]).intersection(shapely.box(*shape.bounds).buffer(1.0))
        missing = shape.difference(drawn.buffer(0.25 * found.width))
        assert missing.area < 0.05 * shape.area, letter
        added = drawn.difference(shape.buffer(0.35 * found.width))
        assert added.area < 0.03 * shape.area, letter


@pytest.mark.parametrize(("marked", "plain", "way"), [("Þ", "P", (0.0, 1.0)), ("Ł", "L", (-1.0, 0.0))])
def test_short_arms_that_make_another_letter_are_kept(
    marked: str, plain: str, way: tuple[float, float]
) -> None:
    """Without its top a Þ is a P, without its arm an Ł is an L."""
    face = shipped_typeface("noto-sans-bold")
    reach = []
    for letter in (marked, plain):
        (glyph,) = face.shape(letter)
        shape = face.outline(glyph.glyph, sagitta_upem=1.0).polygons
        found = centre_lines(shape, face.axis(glyph.glyph))
        assert found is not None
        # How far lines stay short of the letter's edge, in strokes: half of one.
        points = np.concatenate([line.points for line in found.lines])
        outermost = (shapely.get_coordinates(shape) @ np.array(way)).max()
        reach.append((outermost - (points @ np.array(way)).max()) / found.width)
    assert reach[0] == pytest.approx(reach[1], abs=0.25)

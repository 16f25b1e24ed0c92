"""Shapes of a line: arcs by radius and angle, paths, arches, filled outlines, and the stretch they cost."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
import shapely

from kizami.lettering.shapes import (
    STRAIGHT,
    Arc,
    Arched,
    Filled,
    Letter,
    LetterShape,
    Path,
    Shaped,
    shape_letters,
)


def box(low: float, high: float, top: float = 2.0, cluster: int = 0) -> Letter:
    return Letter(outline=shapely.MultiPolygon([shapely.box(low, 0, high, top)]), cluster=cluster)


ROW = [box(3.0 * i, 3.0 * i + 2.0, cluster=i) for i in range(7)]


def shaped(letters: list[Letter], shape: LetterShape) -> Shaped:
    return shape_letters(letters, shape, height_mm=2.0, sagitta_mm=0.002)


def feet(of: Shaped, row: list[Letter]) -> np.ndarray:
    """Where the middle of each letter's foot comes to stand."""
    out = []
    for letter, move in zip(row, of.moves, strict=True):
        assert move is not None
        low, _, high, _ = letter.outline.bounds
        out.append(move.apply((low + high) / 2, 0.0))
    return np.array(out)


def test_straight_changes_nothing() -> None:
    of = shaped(ROW, STRAIGHT)
    assert [a.equals(b.outline) for a, b in zip(of.outlines, ROW, strict=True)] == [True] * 7


@pytest.mark.parametrize("hollow", [False, True], ids=["like a bridge", "like a bowl"])
@pytest.mark.parametrize("radius", [20.0, 30.0, 100.0])
def test_feet_stand_on_the_circle_of_the_radius_and_letters_keep_their_form(
    radius: float, hollow: bool
) -> None:
    of = shaped(ROW, Arc(radius_mm=radius, hollow=hollow))
    centre = np.array([0.0, radius if hollow else -radius])
    assert np.hypot(*(feet(of, ROW) - centre).T) == pytest.approx([radius] * 7)
    # True length along the arc: the feet are as far apart, along it, as they were on the line.
    angles = np.unwrap(np.arctan2(*(feet(of, ROW) - centre).T))
    assert np.abs(np.diff(angles)) * radius == pytest.approx([3.0] * 6)
    assert [o.area for o in of.outlines] == pytest.approx([4.0] * 7)
    assert set(of.stretch) == {1.0}


WAVE = tuple((float(x), float(2.5 * np.sin(x / 4.0))) for x in np.linspace(-20, 20, 400))


@pytest.mark.parametrize(
    "shape", [Arc(radius_mm=radius, hollow=True) for radius in (4.0, 7.0, 12.0)] + [Path(points=WAVE)],
    ids=["a bowl of 4", "a bowl of 7", "a bowl of 12", "a wave"],
)  # fmt: skip
def test_in_a_hollow_letters_are_opened_up_where_their_heads_would_meet(shape: LetterShape) -> None:
    row = [box(2.2 * i, 2.2 * i + 1.8, cluster=i) for i in range(5)]
    of = shaped(row, shape)
    outlines = np.array(of.outlines)
    apart = shapely.distance(outlines[:-1], outlines[1:])
    # On a straight line they are 0.4 apart; about as much is left, and where nothing comes together all.
    assert apart.min() >= 0.7 * 0.4 - 0.01
    assert apart.max() < 1.0, "no more than is needed"
    # Every foot still stands on the line, and the whole about its middle.
    stood = feet(of, row)
    if isinstance(shape, Arc):
        assert np.hypot(*(stood - (0.0, shape.radius_mm)).T) == pytest.approx([shape.radius_mm] * 5)
    else:
        assert shapely.LineString(WAVE).distance(shapely.points(stood)).max() < 1e-6
    assert abs(stood[0, 0] + stood[-1, 0]) < 0.05 and abs(stood[2, 0]) < 0.3


LINES = [
    pytest.param(Arc(radius_mm=9.0), id="standing"),
    pytest.param(Arc(radius_mm=9.0, hollow=True), id="hanging"),
    pytest.param(
        Path(points=tuple((9 * math.sin(t), 9 * math.cos(t)) for t in np.linspace(-3.0, 3.0, 4000))),
        id="a path",
    ),
]


def under(row: list[Letter], by_mm: float) -> list[Letter]:
    """The same letters again, on a line under them."""
    return [
        replace(
            letter,
            outline=shapely.transform(letter.outline, lambda xy: xy - (0.0, by_mm)),
            cluster=len(row) + 1 + letter.cluster,
            line_mm=-by_mm,
        )
        for letter in row
    ]


@pytest.mark.parametrize("shape", LINES)
def test_each_of_two_lines_is_spaced_along_its_own_circle(shape: LetterShape) -> None:
    """Lengths along a circle of radius r under an angle are r times it: the lower line has another one."""
    row = [box(3.0 * i, 3.0 * i + 0.5, cluster=i) for i in range(4)]
    of = shaped(row + under(row, 4.0), shape)
    is_hollow = isinstance(shape, Arc) and shape.hollow
    middle = (0.0, 9.0) if is_hollow else (0.0, -9.0) if isinstance(shape, Arc) else (0.0, 0.0)
    feet_of = np.array([shapely.get_coordinates(o.centroid)[0] for o in of.outlines]) - middle
    angles = np.abs(np.diff(np.arctan2(feet_of[:, 0], np.abs(feet_of[:, 1])).reshape(2, 4), axis=1))
    assert angles[0] * 9.0 == pytest.approx([3.0] * 3, abs=0.01)
    assert angles[1] * (13.0 if is_hollow else 5.0) == pytest.approx([3.0] * 3, abs=0.01)
    # What stands on a line stands above its circle, the one as far from the other everywhere.
    apart = np.hypot(*feet_of[:4].T) - np.hypot(*feet_of[4:].T)
    assert apart == pytest.approx([-4.0 if is_hollow else 4.0] * 4, abs=0.01)


def test_two_bent_lines_keep_their_lengths_at_their_feet() -> None:
    row = [box(0.0, 12.0)]
    upper, lower = shaped(row + under(row, 4.0), Arc(radius_mm=9.0, bent=True)).outlines
    for outline, radius in ((upper, 9.0), (lower, 5.0)):
        # A ring sector: area L h (1 + h / 2R) (Pappus).
        assert outline.area == pytest.approx(12.0 * 2.0 * (1 + 2.0 / (2 * radius)), rel=1e-3)


def test_each_of_two_lines_in_a_hollow_is_opened_up_by_itself() -> None:
    row = [box(2.2 * i, 2.2 * i + 1.8, cluster=i) for i in range(4)]
    of = shaped(row + under(row, 3.0), Arc(radius_mm=7.0, hollow=True))
    alone = shaped(row, Arc(radius_mm=7.0, hollow=True))
    assert feet(of, row + row)[:4] == pytest.approx(feet(alone, row), abs=1e-6)
    apart = shapely.distance(np.array(of.outlines[4:-1]), np.array(of.outlines[5:]))
    assert apart.min() >= 0.7 * 0.4 - 0.01, "on the wider circle heads come together less"


def test_a_line_beyond_the_middle_of_its_arc_stays_finite() -> None:
    row = [box(3.0 * i, 3.0 * i + 2.0, cluster=i) for i in range(3)]
    of = shaped(row + under(row, 12.0), Arc(radius_mm=9.0))
    assert np.isfinite(shapely.total_bounds(np.array(of.outlines))).all()


def test_on_a_crest_letters_stand_as_on_a_straight_line() -> None:
    row = [box(2.2 * i, 2.2 * i + 1.8, cluster=i) for i in range(5)]
    crest = tuple((float(9 * np.sin(t)), float(9 * np.cos(t))) for t in np.linspace(-1.4, 1.4, 400))
    on = feet(shaped(row, Path(points=crest)), row)
    assert np.diff(np.arctan2(*on.T)) * 9.0 == pytest.approx([2.2] * 4, abs=0.005)


def test_an_arc_by_its_angle_spans_that_angle() -> None:
    of = shaped(ROW, Arc(angle_deg=90.0))
    radius = 20.0 / math.radians(90.0)
    first, last = feet(of, ROW)[[0, -1]] + np.array([0.0, radius])
    between = abs(math.atan2(first[0], first[1]) - math.atan2(last[0], last[1]))
    # From foot to foot it is the line less half a letter at each end.
    assert math.degrees(between) == pytest.approx(90.0 * 18.0 / 20.0)


def test_a_bent_line_follows_the_arc_itself() -> None:
    """A bar along the baseline becomes a ring sector: area L h (1 + h / 2R) (Pappus)."""
    bar = [box(0.0, 20.0)]
    radius = 15.0
    of = shaped(bar, Arc(radius_mm=radius, bent=True))
    assert of.outlines[0].area == pytest.approx(20.0 * 2.0 * (1 + 2.0 / (2 * radius)), rel=1e-3)
    assert of.moves == (None,)
    # A radius of 15 and a middle at half of 2 mm: lengths grow there by 1/15.
    assert of.stretch[0] == pytest.approx(1 + 1.0 / radius, rel=1e-3)


def test_accents_turn_with_their_letters() -> None:
    dot = Letter(outline=shapely.MultiPolygon([shapely.box(0.5, 2.5, 1.5, 3.0)]), cluster=0)
    of = shaped([ROW[0], dot, *ROW[1:]], Arc(radius_mm=10.0))
    assert of.moves[0] == of.moves[1]
    assert of.outlines[0].distance(of.outlines[1]) == pytest.approx(0.5)


def test_along_a_path_letters_stand_on_it_and_beyond_its_ends_it_goes_straight_on() -> None:
    turn = np.linspace(0, math.pi, 200)
    half_circle = tuple((float(-8 * np.cos(t)), float(8 * np.sin(t))) for t in turn)
    on = shaped(ROW, Path(points=half_circle))
    assert np.hypot(*feet(on, ROW).T) == pytest.approx([8.0] * 7, abs=0.01)
    short = shaped(ROW, Path(points=((-2.0, 0.0), (2.0, 0.0))))
    assert feet(short, ROW)[:, 1] == pytest.approx([0.0] * 7)
    assert np.diff(feet(short, ROW)[:, 0]) == pytest.approx([3.0] * 6)


def test_an_arched_line_keeps_its_feet_and_raises_the_middle_by_the_rise() -> None:
    of = shaped([box(0.0, 20.0)], Arched(rise=0.5))
    low, bottom, high, top = of.outlines[0].bounds
    assert (low, bottom, high) == pytest.approx((0, 0, 20))
    assert top == pytest.approx(3.0, abs=0.003)
    # Under a parabola: two thirds of the rise.
    assert of.outlines[0].area == pytest.approx(20 * 2 * (1 + 0.5 * 2 / 3), rel=1e-3)


@pytest.mark.parametrize("outline", ["round", "oval", "diamond", "heart"])
@pytest.mark.parametrize("width", [1.0, 1.6])
def test_a_filled_outline_is_as_high_and_at_most_as_wide_as_it_says(outline: str, width: float) -> None:
    of = shape_letters(ROW, Filled(outline=outline, width=width), height_mm=10.0, sagitta_mm=0.005)  # type: ignore[arg-type]
    low, bottom, high, top = shapely.total_bounds(np.array(of.outlines, dtype=object))
    assert high - low <= 10.0 * width + 1e-6
    assert 8.0 < top - bottom <= 10.0 + 1e-6
    assert all(o.is_valid and len(o.geoms) == 1 for o in of.outlines)
    assert min(of.stretch) >= 1.0


def test_a_free_outline_is_filled_like_the_one_that_it_draws() -> None:
    """A disc drawn with 240 corners, in any unit and anywhere, is filled as the round is."""
    turn = np.linspace(0, 2 * math.pi, 240, endpoint=False)
    points = tuple((float(40 + 7 * np.cos(t)), float(-3 + 7 * np.sin(t))) for t in turn)
    round_, free = (
        shape_letters(ROW, Filled(outline=o, points=p), height_mm=10.0, sagitta_mm=0.005).outlines  # type: ignore[arg-type]
        for o, p in (("round", ()), ("free", points))
    )
    for one, other in zip(round_, free, strict=True):
        assert one.symmetric_difference(other).area < 0.01 * one.area


def test_a_folded_outline_is_filled_by_its_outermost_edges() -> None:
    """A bow tie is as high at its ends as its box, and a point in the middle."""
    bow = Filled(outline="free", points=((0.0, 0.0), (4.0, 2.0), (4.0, 0.0), (0.0, 2.0)), width=2.0)
    of = shape_letters(ROW, bow, height_mm=10.0, sagitta_mm=0.005)
    heights = [o.bounds[3] - o.bounds[1] for o in of.outlines]
    assert heights[0] == pytest.approx(heights[-1], rel=1e-3)
    assert heights[0] > 2 * heights[3] > 0


def test_a_lopsided_outline_is_followed_on_both_edges() -> None:
    """A right triangle, its upright side on the right: letters grow to the right and stand level."""
    shape = Filled(outline="free", points=((0.0, 0.0), (4.0, 0.0), (4.0, 2.0)), width=2.0)
    of = shape_letters(ROW, shape, height_mm=10.0, sagitta_mm=0.005)
    heights = [o.bounds[3] - o.bounds[1] for o in of.outlines]
    assert heights == sorted(heights) and heights[-1] > 3 * heights[0]
    assert np.ptp([o.bounds[1] for o in of.outlines]) < 0.05


def test_heads_and_feet_follow_a_round_outline() -> None:
    of = shape_letters(ROW, Filled(outline="round"), height_mm=10.0, sagitta_mm=0.002)
    points = np.vstack([shapely.get_coordinates(o) for o in of.outlines])
    reach = np.hypot(points[:, 0], points[:, 1])
    assert reach.max() == pytest.approx(5.0, abs=0.01)
    # Every letter touches the circle with head and foot.
    for o in of.outlines:
        xy = shapely.get_coordinates(o)
        on = np.abs(np.hypot(*xy.T) - 5.0) < 0.02
        assert on[xy[:, 1] > 0].any() and on[xy[:, 1] < 0].any()


def test_the_stretch_of_a_plain_squeeze_is_the_ratio_of_its_scales() -> None:
    """In the middle of a round outline: x scales by 0.8 d / L, y by d / h."""
    row = [box(-10.0, -1.0), box(-1.0, 1.0, cluster=1), box(1.0, 10.0, cluster=2)]
    of = shape_letters(row, Filled(outline="round"), height_mm=10.0, sagitta_mm=0.002)
    expected = (10.0 / 2.0) / (0.8 * 10.0 / 20.0)
    assert of.stretch[1] == pytest.approx(expected, rel=1e-3)


def test_nothing_drawn_is_nothing_shaped() -> None:
    empty = Letter(outline=shapely.MultiPolygon(), cluster=0)
    for shape in (STRAIGHT, Arc(radius_mm=9), Arched(rise=1), Filled(outline="heart")):
        assert shaped([empty], shape).outlines[0].is_empty
        assert shaped([], shape).outlines == ()

"""Thin serifs and bars with one long edge: that edge stays, and what is missing goes to the other side."""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import glyph_in_mm
from kizami.outlines.curves import bodies_of
from kizami.outlines.serifs import one_sided
from kizami.outlines.weight import Weighed, thicken_where_needed

SAGITTA = 0.005
#: A foot: a serif 0.2 thick and 6 wide under a stem 1 wide.
FOOT = bodies_of(shapely.box(0, 0, 6, 0.2), shapely.box(2.5, 0, 3.5, 10))


def thick(shape: shapely.MultiPolygon, least: float, most: float) -> shapely.MultiPolygon:
    return thicken_where_needed(shape, least, cap_height=10, sagitta=SAGITTA, most=most).shape


def test_a_serif_grows_inward_and_stands_on_its_line() -> None:
    after = thick(FOOT, 0.35, 0.4)
    assert after.bounds == pytest.approx(FOOT.bounds, abs=1e-9)
    # As thick as asked, and a hair for measuring, from tip to tip; square at its tips.
    for x in (0.01, 1.0, 2.4, 3.6, 5.99):
        upright = after.intersection(shapely.LineString([(x, -1), (x, 5)]))
        assert upright.bounds[1] == pytest.approx(0.0, abs=1e-9)
        assert upright.length == pytest.approx(0.35 * 1.01 + 2 * SAGITTA, abs=1e-6)
    # The stem is as it was.
    assert after.intersection(shapely.box(-1, 0.5, 7, 11)).equals(
        FOOT.intersection(shapely.box(-1, 0.5, 7, 11))
    )


def test_where_it_may_not_move_so_far_the_whole_foot_moves_out_without_a_dip() -> None:
    least, most = 0.45, 0.15
    after = thick(FOOT, least, most)
    missing = least * 1.01 + 2 * SAGITTA - 0.2
    outward = missing - 0.97 * most
    assert after.bounds[1] == pytest.approx(-outward, abs=1e-6)
    # One straight edge, under the stem too.
    low = after.intersection(shapely.LineString([(-1, 1e-6 - outward), (7, 1e-6 - outward)]))
    assert low.geom_type == "LineString" and low.length == pytest.approx(6.0, abs=0.02)
    moved = thicken_where_needed(FOOT, least, cap_height=10, sagitta=SAGITTA, most=most).departure
    assert moved <= most


def test_turned_about_it_grows_as_it_does_upright() -> None:
    for degrees in (30.0, 90.0, 200.0):
        angle = np.radians(degrees)
        turn = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]])
        turned = shapely.transform(FOOT, lambda xy, t=turn: xy @ t)
        back = shapely.transform(thick(turned, 0.35, 0.4), lambda xy, t=turn: xy @ t.T)
        assert back.symmetric_difference(thick(FOOT, 0.35, 0.4)).area < 1e-4


@pytest.mark.parametrize(
    "shape",
    [
        bodies_of(shapely.box(0, 0, 6, 0.2)),
        bodies_of(shapely.Point(0, 0).buffer(5, quad_segs=64).difference(shapely.Point(0, 0.3).buffer(4.6))),
        bodies_of(shapely.box(0, 0, 6, 2)),
        shapely.MultiPolygon(),
    ],
    ids=["a plain bar", "a round hairline", "a thick bar", "nothing"],
)
def test_what_has_no_long_edge_of_its_own_is_left_to_the_pen(shape: shapely.MultiPolygon) -> None:
    assert one_sided(shape, least=0.5, most=1.0, cap_height=10) == []


def test_two_edges_that_move_meet_in_one_corner() -> None:
    """A foot whose one end rises in a spur, as of an L: no hole, no spike, and no more than may move."""
    spur = bodies_of(FOOT, shapely.Polygon([(5.8, 0), (6, 0), (6.3, 2), (6.1, 2)]))
    after = thicken_where_needed(spur, 0.45, cap_height=10, sagitta=SAGITTA, most=0.15)
    assert len(after.shape.geoms) == 1 and not after.shape.geoms[0].interiors
    assert after.departure <= 0.15


@pytest.mark.parametrize("letter", "HILTEFiln")
def test_letters_of_a_bracketed_serif_keep_their_lines(letter: str) -> None:
    """At the least height of a small tag; before, feet stood 0.1 mm below the line that stems stood on."""
    face = shipped_typeface("vollkorn")
    drawn = glyph_in_mm(face, face.shape(letter)[0].glyph, scale_mm=4.8, sagitta_mm=SAGITTA)
    after = thicken_where_needed(drawn, 0.35, cap_height=4.8, sagitta=SAGITTA, gap=0.3, most=0.15)
    assert after.facts is not None and after.facts.stroke is not None
    assert after.facts.stroke.width >= 0.35
    low, high = (drawn.bounds[n] - after.shape.bounds[n] for n in (1, 3))
    assert low == pytest.approx(0.0, abs=0.02) and high == pytest.approx(0.0, abs=0.04)


@pytest.mark.parametrize(
    ("code", "letter", "height", "least", "most"),
    [
        ("cinzel-bold", "Í", 2.04, 1.2, 0.1),
        ("cinzel-decorative-bold", "ỳ", 1.853, 0.8, 0.2),
        ("vollkorn-bold-italic", "Ҳ", 2.169, 1.2, 0.5),
        ("m-plus-rounded-bold", "虹", 2.27078663439086, 0.5, 0.15),
    ],
)
def test_letters_far_too_small_for_their_process_are_drawn_all_the_same(
    code: str, letter: str, height: float, least: float, most: float
) -> None:
    """An edge that bends more than its bar is to be thick is the pen's; specks that are left are none."""
    face = shipped_typeface(code)
    for glyph in face.shape(letter):
        drawn = glyph_in_mm(face, glyph.glyph, scale_mm=height, sagitta_mm=SAGITTA)
        after = thicken_where_needed(
            drawn, least, cap_height=height, sagitta=SAGITTA, gap=0.3, most=most
        ).shape
        assert after.is_valid and shapely.covers(after.buffer(1e-3), drawn)


def height_at(shape: shapely.Geometry, x: float) -> float:
    """How much of an upright line through a place is inked."""
    return float(shape.intersection(shapely.LineString([(x, -5.0), (x, 15.0)])).length)


#: A head that runs on into a bowl: a serif 0.2 thick and 0.8 wide before a stem 1.5 wide, and a half ring beside it.
HEAD = bodies_of(
    shapely.box(0.2, 9.8, 1, 10),
    shapely.box(1, 0, 2.5, 10),
    shapely.Point(2.5, 7.5).buffer(2.5, 64).difference(shapely.Point(2.5, 7.5).buffer(1.2, 64))
    .intersection(shapely.box(2.4, 0, 10, 12)),
)  # fmt: skip


def test_a_head_that_runs_on_into_a_bowl_grows_inward_with_a_square_tip() -> None:
    after = thick(HEAD, 0.35, 0.4)
    assert after.bounds == pytest.approx(HEAD.bounds, abs=1e-6)
    for x in (0.205, 0.5, 0.9):
        assert height_at(after, x) == pytest.approx(0.35 * 1.01 + 2 * SAGITTA, abs=1e-4)
    assert after.difference(HEAD).bounds[2] < 1.1, "stem and bowl are as they were"


def test_where_that_is_too_far_it_moves_out_and_comes_back_evenly_to_its_bowl() -> None:
    least, most = 0.45, 0.15
    after = thick(HEAD, least, most)
    outward = least * 1.01 + 2 * SAGITTA - 0.2 - 0.97 * most
    top = [
        after.intersection(shapely.box(x, 9.0, x + 1e-3, 12.0)).bounds[3] for x in np.linspace(0.21, 3.5, 71)
    ]
    assert top[:14] == pytest.approx([10.0 + outward] * 14, abs=1e-5)
    assert top[-1] == pytest.approx(HEAD.intersection(shapely.box(3.5, 9, 3.501, 12)).bounds[3], abs=1e-3)
    # Nowhere up again, and until the bowl begins to bend never steeper than an even way back over its ramp.
    slopes = np.diff(top) / (3.29 / 70)
    assert slopes.max() < 1e-5 and slopes[:47].min() > -1.5 / 12 - 0.01
    assert height_at(after, 0.205) == pytest.approx(least * 1.01 + 2 * SAGITTA, abs=1e-4)


def small_capital(letter: str) -> Weighed:
    """Inscriptional, 4.8 mm high, thickened to what casting holds, and moved by no more than a product allows."""
    face = shipped_typeface("cinzel-bold")
    drawn = glyph_in_mm(face, face.shape(letter)[0].glyph, scale_mm=4.8, sagitta_mm=SAGITTA)
    after = thicken_where_needed(drawn, 0.35, cap_height=4.8, sagitta=SAGITTA, gap=0.3, most=0.15)
    assert after.departure <= 0.15
    assert after.facts is not None and after.facts.stroke is not None
    assert after.facts.stroke.width >= 0.35
    return after


@pytest.mark.parametrize("letter", "RPBDKEFTLHNXY")
def test_feet_and_heads_of_small_capitals_have_square_tips(letter: str) -> None:
    """A hairline of 0.07 mm made 0.35: a round pen leaves a bead, which has no height at its very end."""
    after = small_capital(letter).shape
    foot, head = (shapely.box(-9, low, 9, low + 10.0) for low in (-9.0, 4.0))
    # The head of a T has its tips below, that of an N has none.
    for half in (foot,) if letter in "TN" else (foot, head):
        here = after.intersection(half)
        assert height_at(here, here.bounds[0] + 0.03) > 0.9 * 0.35


@pytest.mark.parametrize("letter", "TFEZS")
def test_the_ends_of_arms_are_square_where_two_edges_move_out(letter: str) -> None:
    """At the corner between an arm and its end a pen stood out further than an outline may move."""
    after = small_capital(letter).shape
    # The end of the upper arm, at the left of a Z and at the right of all others.
    head = after.intersection(shapely.box(-9, 3.3, 9, 9))
    low_x, _, high_x, _ = head.bounds
    side = shapely.box(-9, 3.3, low_x + 0.5, 9) if letter == "Z" else shapely.box(high_x - 0.5, 3.3, 9, 9)
    arm = max(shapely.get_parts(head.intersection(side)), key=lambda part: part.area)
    y = arm.bounds[1] + 0.03
    assert arm.intersection(shapely.LineString([(-9, y), (19, y)])).length > 0.9 * 0.35


@pytest.mark.parametrize("letter", "aygnT")
def test_the_strokes_by_which_a_hand_leaves_its_letters_stay_where_they_are(letter: str) -> None:
    """The next letter begins on their middle line: both sides grow alike."""
    face = shipped_typeface("great-vibes")
    drawn = glyph_in_mm(face, face.shape(letter)[0].glyph, scale_mm=8.0, sagitta_mm=SAGITTA)
    after = thicken_where_needed(drawn, 0.35, cap_height=8.0, sagitta=SAGITTA, gap=0.3, most=0.3)
    # Of a hairline of 0.02 heights half of what is missing to either side, and a pen's corner.
    assert after.departure < (0.35 - 0.02 * 8.0) / 2.0 + 0.03

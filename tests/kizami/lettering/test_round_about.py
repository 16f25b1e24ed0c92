"""Wording right round a band: the join like everywhere else, repeats, sectors, inside, mirrored on purpose."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace

import numpy as np
import pytest
import shapely

from kizami.artwork.artwork import Artwork
from kizami.blanks.area import Area
from kizami.blanks.band_ring import BandRing
from kizami.blanks.round_things import BallBead, Sleeve
from kizami.lettering.arrangement import Arrangement
from kizami.lettering.fit_plan import FitPlan, Step
from kizami.lettering.fitting import Request, fit
from kizami.lettering.layout import Layout
from kizami.lettering.round_about import (
    OneTurn,
    Repeated,
    RoundAbout,
    Sector,
    Spread,
    WhenWide,
    shares_end,
)
from kizami.lettering.shipped import shipped_typeface

FACE = shipped_typeface("noto-sans-bold")
RING = BandRing(bore_mm=17.2, width_mm=7.0, wall_mm=1.8, seam_mm=0.0)
PLAN = FitPlan(greatest_height_mm=4.0, lowest_height_mm=2.0, clearance_mm=0.7)
OUTSIDE = next(a for a in RING.areas if a.name == "outside")
INSIDE = next(a for a in RING.areas if a.name == "inside")
TURN = 2 * math.pi * RING.outer_radius_mm


def set_round(
    text: str, turn: RoundAbout, *, area: Area = OUTSIDE, plan: FitPlan = PLAN, **how: bool
) -> Layout:
    arrangement = Arrangement(turn=turn, **how)  # type: ignore[arg-type]
    return fit(
        Request(text=text, typeface=FACE, arrangement=arrangement), area=area, plan=plan, sagitta_mm=0.005
    )


def gaps(layout: Layout) -> list[float]:
    """Distances between the outlines of neighbouring letters, the one over the join last."""
    inked = sorted((s for s in layout.shapes if not s.is_empty), key=lambda s: s.bounds[0])
    again = shapely.transform(inked[0], lambda uv: uv + np.array([TURN, 0.0]))
    return [float(a.distance(b)) for a, b in itertools.pairwise([*inked, again])]


def test_equal_letters_are_equally_far_apart_over_the_join_too() -> None:
    found = gaps(set_round("HHHHHHH", Spread(widest_gap=9.0)))
    assert max(found) - min(found) < 1e-3


def test_the_same_pair_is_equally_far_apart_wherever_it_stands() -> None:
    """A-V kerns: with A and V in turn the join is V-A, which also stands within."""
    found = gaps(set_round("AVAVAVAV", Spread(widest_gap=9.0)))
    assert max(found[1::2]) - min(found[1::2]) < 1e-3
    assert found[-1] == pytest.approx(found[1], abs=1e-3)


def test_where_the_wording_begins_does_not_matter() -> None:
    """Turned words, same ring: every letter keeps its neighbours and its distances."""
    one, other = (set_round(text, Spread(separator=" ")) for text in ("ROSE AND THORN", "THORN ROSE AND"))
    assert one.height_mm == other.height_mm
    assert sorted(gaps(one)) == pytest.approx(sorted(gaps(other)), abs=1e-3)


def test_spread_lettering_fills_the_turn_with_its_separator() -> None:
    layout = set_round("ROSE AND THORN", Spread(separator=" · "))
    assert "·" in layout.text and layout.fits
    assert "spread" in [s.name for s in layout.steps]
    assert max(gaps(layout)) < TURN / 8


def test_a_phrase_that_ends_as_it_begins_may_share_the_letter() -> None:
    apart, shared = (set_round("AMORAMORA", Spread(share_end=s, widest_gap=9.0)) for s in (False, True))
    assert (len(apart.text), len(shared.text)) == (9, 8)
    assert shares_end("AMORAMORA") and not shares_end("Anna")
    assert set_round("AMOR", Spread(share_end=True, widest_gap=9.0)).text == "AMOR"


def test_too_much_for_a_turn_is_lowered_and_then_held() -> None:
    lower = set_round("x" * 36, Spread())
    assert lower.height_mm < PLAN.greatest_height_mm and lower.fits
    held = set_round("Wilhelmina " * 12, Spread())
    assert held.steps[-1].name == "hold"


def test_spread_letters_never_overlap_the_join() -> None:
    for text in ("W" * 10, "Ottoline & Bartholomew", "ii"):
        layout = set_round(text, Spread())
        inked = [s for s in layout.shapes if not s.is_empty]
        for shift in (-TURN, 0.0, TURN):
            for i, j in itertools.product(range(len(inked)), repeat=2):
                if (i, shift) != (j, 0.0) and (i != j or shift):
                    moved = shapely.transform(inked[j], lambda uv, s=shift: uv + np.array([s, 0.0]))
                    assert not inked[i].intersects(moved), (text, i, j)


@pytest.mark.parametrize("times", [2, 3, 5])
def test_repeats_stand_evenly(times: int) -> None:
    layout = set_round("Ivy", Repeated(times=times))
    marks = [m.u_mm for m in layout.marks if m.cluster == 0]
    assert len(marks) == times
    steps = np.diff(np.sort([*marks, min(marks) + TURN]))
    assert steps == pytest.approx([TURN / times] * times)


def test_repeats_that_would_meet_are_lowered() -> None:
    thrice = set_round("Wilhelmina", Repeated(times=3))
    once = set_round("Wilhelmina", OneTurn())
    assert thrice.height_mm < once.height_mm
    low = [m.u_mm for m in thrice.marks if m.cluster == 0]
    width = shapely.union_all(thrice.shapes[:10]).bounds
    assert width[2] - width[0] + PLAN.clearance_mm <= np.diff(sorted(low)).min() + 1e-6


@pytest.mark.parametrize("turn", [OneTurn(), Repeated(times=2), Repeated(times=3)], ids=["once", "2", "3"])
@pytest.mark.parametrize("tracking", [0.0, 0.2])
def test_where_wording_comes_round_to_itself_it_is_parted_as_words_are(
    turn: OneTurn | Repeated, tracking: float
) -> None:
    """By 6/10 of the height at least, as words of technical lettering are (ISO 3098-1, from memory)."""
    times = turn.times if isinstance(turn, Repeated) else 1
    words = "ConstanceandWilberforceofMarlow"[: 31 // times]
    layout = set_round(words, turn, plan=replace(PLAN, tracking=tracking))
    assert layout.fits and layout.height_mm < PLAN.greatest_height_mm
    joins = gaps(layout)[len(words) - 1 :: len(words)]
    assert len(joins) == times
    asked_mm = (0.6 + tracking) * layout.height_mm
    # That is what its height was settled by: one step higher it would not have been kept.
    assert asked_mm - 1e-6 <= min(joins) <= asked_mm + 1.5


def test_several_words_are_parted_by_more_than_they_are_from_each_other() -> None:
    found = sorted(gaps(set_round("Ida and Jonathan", Repeated(times=2))))
    # The two joins against the widest of the spaces within the copies.
    assert found[-2] > 1.2 * found[-3]


def test_a_logo_that_comes_round_keeps_its_clearance_alone() -> None:
    """A sign twice as wide as high stands by itself: what is left of the turn is not asked to part words."""
    box = shapely.MultiPolygon([shapely.box(0.0, 0.0, 2.0, 1.0)])
    sign = Artwork(name="sign", shape=box, width=2.0, fingerprint="sign")
    six = Arrangement(turn=Repeated(times=6))
    layout = fit(
        Request(text="", typeface=FACE, artwork=sign, arrangement=six),
        area=OUTSIDE,
        plan=replace(PLAN, greatest_height_mm=6.0),
        sagitta_mm=0.005,
    )
    assert layout.fits
    assert PLAN.clearance_mm - 1e-6 <= min(gaps(layout)) < 0.3 * layout.height_mm


@pytest.mark.parametrize(("angle", "direction"), [(120.0, 0.0), (60.0, 0.0), (90.0, 45.0), (90.0, -80.0)])
def test_a_sector_bounds_the_wording_and_centres_it_on_its_direction(angle: float, direction: float) -> None:
    layout = set_round("Bartholomew", Sector(angle_deg=angle, direction_deg=direction))
    low, _, high, _ = layout.ink_bounds
    middle = OUTSIDE.anchor[0] + direction / 360 * TURN
    assert (low + high) / 2 == pytest.approx(middle, abs=0.01)
    assert high - low <= angle / 360 * TURN + 1e-6


# -- which way round it reads


def seen(layout: Layout, area: Area, eye: np.ndarray, toward: np.ndarray) -> float:
    """Where the first letter stands against the last for a reader: below 0 is left.

    The reader looks from `eye` along `toward` with z up, so right is toward x up.
    """
    right = np.cross(toward, (0.0, 0.0, 1.0))
    places = [s.centroid for s in layout.shapes if not s.is_empty]
    uv = np.array([(p.x, p.y) for p in (places[0], places[-1])])
    first, last = area.surface.place(uv, np.zeros(2))
    return float((first - eye) @ right - (last - eye) @ right)


def test_outside_it_reads_left_to_right_for_one_who_looks_at_the_ring() -> None:
    layout = set_round("Ivy", OneTurn())
    u = OUTSIDE.anchor[0]
    at = OUTSIDE.surface.place(np.array([[u, 3.5], [u, 3.5]]), np.array([0.0, 1.0]))
    outward = at[1] - at[0]
    assert seen(layout, OUTSIDE, at[0] + 50 * outward, -outward) < 0


def test_inside_it_reads_left_to_right_for_one_who_looks_outward_from_the_axis() -> None:
    layout = set_round("Ivy", OneTurn(), area=INSIDE)
    u = INSIDE.anchor[0]
    wall = INSIDE.surface.place(np.array([[u, 3.5]]), np.zeros(1))[0]
    outward = np.array([wall[0], wall[1], 0.0]) / np.hypot(wall[0], wall[1])
    assert seen(layout, INSIDE, np.array([0.0, 0.0, 3.5]), outward) < 0
    # The area's own normal points at the axis: the face that is lettered is the inner one.
    proud = INSIDE.surface.place(np.array([[u, 3.5]]), np.ones(1))[0]
    assert np.hypot(proud[0], proud[1]) == pytest.approx(RING.bore_mm / 2 - 1)


@pytest.mark.parametrize("turn", [OneTurn(), Spread(), Repeated(times=2)], ids=lambda t: t.kind)
def test_mirrored_and_upside_down_only_on_purpose_and_said(turn: RoundAbout) -> None:
    plain = set_round("FJ", turn)
    assert not {"mirrored", "upside down"} & {s.name for s in plain.steps}
    for how in ("mirrored", "upside_down"):
        turned = set_round("FJ", turn, **{how: True})
        assert how.replace("_", " ") in {s.name for s in turned.steps}
        assert turned.height_mm == plain.height_mm
        assert turned.outlines.area == pytest.approx(plain.outlines.area, rel=1e-3)


def test_upside_down_is_half_a_turn_and_mirrored_is_a_reflection() -> None:
    u, v = OUTSIDE.anchor
    plain = set_round("FJ", OneTurn()).outlines
    half_turn = shapely.transform(plain, lambda xy: 2 * np.array([u, v]) - xy)
    reflected = shapely.transform(plain, lambda xy: np.column_stack((2 * u - xy[:, 0], xy[:, 1])))
    for how, expected in (("upside_down", half_turn), ("mirrored", reflected)):
        made = set_round("FJ", OneTurn(), **{how: True}).outlines
        assert made.symmetric_difference(expected.buffer(0)).area < 0.01 * plain.area
        assert all(b.exterior.is_ccw for b in made.geoms)


def test_tightening_is_allowed_on_a_turn_only_as_far_as_the_plan_says() -> None:
    tight = FitPlan(
        greatest_height_mm=4.0, lowest_height_mm=4.0, clearance_mm=0.7, tightest=-0.1, steps=(Step.TIGHTEN,)
    )
    natural = set_round("x" * 23, Spread(), plan=tight)
    loose = FitPlan(greatest_height_mm=4.0, lowest_height_mm=4.0, clearance_mm=0.7, steps=(Step.LOWER,))
    assert natural.height_mm == 4.0 and natural.fits
    assert set_round("x" * 26, Spread(), plan=loose).height_mm < 4.0


TAPERS = {
    "narrow on top": Sleeve(low_mm=40.0, high_mm=28.0, length_mm=40.0),
    "narrow below": Sleeve(low_mm=28.0, high_mm=40.0, length_mm=40.0),
    "nearly straight": Sleeve(low_mm=30.0, high_mm=29.0, length_mm=40.0),
    "very flat": Sleeve(low_mm=60.0, high_mm=20.0, length_mm=12.0),
}
GRIP_PLAN = FitPlan(greatest_height_mm=6.0, lowest_height_mm=2.0, clearance_mm=1.0)


def letters_in_space(layout: Layout, area: Area) -> list[np.ndarray]:
    """The outline of every letter where it stands on the body."""
    placed = []
    for shape in layout.shapes:
        if not shape.is_empty:
            uv = shapely.get_coordinates(shapely.segmentize(shape.boundary, 0.1))
            placed.append(area.surface.place(uv, np.zeros(len(uv))))
    return placed


@pytest.mark.parametrize("of", TAPERS.values(), ids=TAPERS)
def test_on_a_taper_too_the_join_is_like_everywhere_else(of: Sleeve) -> None:
    """Measured between the letters in space, where the cut of the unrolled cone is none."""
    (area,) = of.areas
    layout = set_round("HHHHHHHHHHHH", Spread(widest_gap=9.0), area=area, plan=GRIP_PLAN)
    assert layout.fits
    found = letters_in_space(layout, area)
    gaps_in_space = [
        float(np.min(np.linalg.norm(a[:, None] - b[None], axis=2)))
        for a, b in itertools.pairwise([*found, found[0]])
    ]
    assert len(gaps_in_space) == 12
    assert max(gaps_in_space) - min(gaps_in_space) < 2e-3
    # They stand level: every letter as high on the body as the next.
    heights = [(letter[:, 2].min(), letter[:, 2].max()) for letter in found]
    assert np.ptp(heights, axis=0).max() < 0.02


def test_the_cut_of_an_unrolled_taper_is_no_edge_but_its_rims_are() -> None:
    (area,) = Sleeve(low_mm=40.0, high_mm=38.5, length_mm=5.0).areas
    layout = set_round("H" * 32, Spread(), area=area, plan=GRIP_PLAN)
    assert layout.fits and layout.height_mm < 3.5
    assert layout.outlines.distance(area.edges()) >= 1.0 - 1e-6
    # The letters beside the cut are nearer to it than the clearance that they keep from the rims.
    assert layout.outlines.distance(area.outline.boundary) < 1.0


def test_a_sector_of_a_taper_has_ends_that_are_edges() -> None:
    sectors = Sleeve(low_mm=40.0, high_mm=28.0, length_mm=40.0, sectors=3.0)
    assert [area.is_closed for area in sectors.areas] == [True, False, False, False]


BEAD = BallBead(diameter_mm=18.0, hole_mm=5.0)
ROUND = {
    "band": (OUTSIDE, PLAN),
    "taper": (TAPERS["narrow on top"].areas[0], GRIP_PLAN),
    "bead": (
        BEAD.areas[0],
        FitPlan(greatest_height_mm=4.0, lowest_height_mm=2.0, clearance_mm=0.6),
    ),
}


@pytest.mark.parametrize(("area", "plan"), ROUND.values(), ids=ROUND)
@pytest.mark.parametrize("text", ["Ida", "Bo", "AVA", "Ty", "j"])
def test_what_is_too_short_for_its_turn_stands_several_times_evenly(
    text: str, area: Area, plan: FitPlan
) -> None:
    """Turned by its share of the turn about the axis, the lettering comes to stand on itself."""
    layout = set_round(text, Spread(separator=" · ", widest_gap=0.6), area=area, plan=plan)
    times = layout.text.count(text)
    assert layout.fits and times >= 2
    assert f"{times} times" in next(s.said for s in layout.steps if s.name == "spread")
    found = np.concatenate(letters_in_space(layout, area))
    angle = 2 * math.pi / times
    turn = np.array(
        [[math.cos(angle), math.sin(angle), 0], [-math.sin(angle), math.cos(angle), 0], [0, 0, 1]]
    )
    turned = found @ turn
    # Points stand 0.1 mm apart at most along an edge, and need not come to stand on each other.
    nearest = [float(np.min(np.linalg.norm(found - point, axis=1))) for point in turned[::23]]
    assert max(nearest) < 0.06


@pytest.mark.parametrize(("area", "plan"), ROUND.values(), ids=ROUND)
@pytest.mark.parametrize("text", ["OTTOLINE", "Kasimir", "LTLYAVA", "Wynne"])
def test_the_closing_gap_is_like_that_of_the_same_letters_within(
    text: str, area: Area, plan: FitPlan
) -> None:
    """The last letter meets the first at the join as it does in the middle of the doubled words; in space."""
    layout = set_round(text * 2, Spread(widest_gap=9.0), area=area, plan=plan)
    assert layout.text == text * 2
    found = letters_in_space(layout, area)
    middle, join = (
        float(np.min(np.linalg.norm(a[:, None] - b[None], axis=2)))
        for a, b in ((found[len(text) - 1], found[len(text)]), (found[-1], found[0]))
    )
    assert join == pytest.approx(middle, abs=0.02)


def test_gaps_are_never_wider_than_the_product_says() -> None:
    for text, widest in (("Ida", 0.5), ("OO", 1.5), ("Bo & Ida", 0.2)):
        layout = set_round(text, Spread(separator=" · ", widest_gap=widest))
        said = next(s.said for s in layout.steps if s.name == "spread")
        added = float(said.rsplit(" mm a gap", 1)[0].split()[-1])
        assert 0.0 <= added <= widest * layout.height_mm + 0.01


#: Once around its letters would stand too far apart, and twice around they have no room at their full height.
BETWEEN = Spread(separator=" · ", widest_gap=0.3)


def test_wording_between_once_and_twice_around_is_lowered_until_it_stands_twice() -> None:
    layout = set_round("Bartholomew", BETWEEN)
    assert layout.text == "Bartholomew · " * 2 and layout.times == 2 and layout.fits
    assert PLAN.lowest_height_mm <= layout.height_mm < PLAN.greatest_height_mm
    # Twice as many letters as fill the turn at their own distances have no room at a greater height.
    alone = set_round("Bartholomew", replace(BETWEEN, widest_gap=9.0))
    assert alone.times == 1 and alone.turn_gap is not None and layout.turn_gap is not None
    # A gap follows each of its characters, spaces too.
    natural = TURN - len(alone.text) * alone.turn_gap * alone.height_mm
    assert layout.height_mm == pytest.approx(TURN / (2 * natural) * alone.height_mm, abs=0.06)
    assert 0.0 <= layout.turn_gap <= 0.3


def test_wording_that_can_be_lowered_no_further_stands_once_however_wide() -> None:
    for plan in (replace(PLAN, lowest_height_mm=3.9), replace(PLAN, steps=())):
        layout = set_round("Bartholomew", BETWEEN, plan=plan)
        assert layout.text == "Bartholomew · " and layout.fits and layout.times == 1
        assert layout.turn_gap is not None and layout.turn_gap > 0.3


def test_ornaments_follow_at_the_distances_of_the_letters() -> None:
    layout = set_round("Ida", Spread(widest_gap=0.8, when_wide=WhenWide.ORNAMENTS))
    assert layout.text.startswith("Ida·") and set(layout.text[3:]) == {"·"}
    feet = sorted(m.u_mm for m in layout.marks if layout.text[m.cluster] == "·")
    steps = np.diff(feet)
    assert len(feet) > 3 and np.ptp(steps) < 1e-6
    assert "ornaments" in next(s.said for s in layout.steps if s.name == "spread")


def test_wording_that_ends_shows_its_ends() -> None:
    spread = Spread(separator=" · ", widest_gap=0.4, when_wide=WhenWide.ENDS)
    layout = set_round("IDA", spread)
    assert layout.text == "IDA"
    found = gaps(layout)
    assert found[-1] > 10 * max(found[:-1])
    low, _, high, _ = layout.outlines.bounds
    assert (low + high) / 2 == pytest.approx(OUTSIDE.anchor[0], abs=1e-6)
    assert "bare" in next(s.said for s in layout.steps if s.name == "spread")

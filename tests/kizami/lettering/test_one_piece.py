"""Whole names in one piece, in faces of four kinds: joined, hung and held as a goldsmith would."""

from __future__ import annotations

import itertools
import math
import unicodedata

import numpy as np
import pytest
import shapely

from kizami.checks.finding import Level
from kizami.lettering.layout import Layout
from kizami.lettering.shipped import shipped_typeface
from kizami.outlines.stroke_ends import stroke_ends
from kizami.outlines.touching import neck
from kizami.pieces.laying_out import LaidOut, lay_out
from kizami.products.product_file import product_from_table
from tests.kizami.samples import TAG_TABLE, inputs

FACES = ("pacifico", "sacramento", "great-vibes", "comfortaa-bold")
NAMES = ("Jürgen", "Mary Ann", "Zoë", "Łukasz", "Anne-Marie")


def laid_out(words: str, code: str, height_mm: float = 12.0, **soundness: object) -> LaidOut:
    table = {
        **TAG_TABLE, "blank": {"kind": "name piece", "length_mm": 60.0, "height_mm": 30.0}, "process": "lost-wax",
        "treatment": {"kind": "cut-out", "thickness_mm": 1.2}, "typeface": code,
        "fit": {"greatest_height_mm": height_mm, "lowest_height_mm": 5.0, "clearance_mm": 0.2},
        "soundness": {"thicken": "where needed", "most_departure_mm": 0.4, "one_piece": "bridges", "bridge_mm": 0.8,
                      "overlap_mm": 0.3, "loop": "ends", "loop_hole_mm": 1.6, "loop_wall_mm": 0.8, **soundness},
    }  # fmt: skip
    return lay_out(inputs(product_from_table(table), words))


@pytest.mark.parametrize(("words", "code"), list(itertools.product(NAMES, FACES)))
def test_a_name_is_one_piece_that_hangs_level_by_its_ends(words: str, code: str) -> None:
    laid = laid_out(words, code)
    layout = laid.layout
    assert len(layout.outlines.geoms) == 1
    left, right = layout.loops
    assert left.y == right.y
    levels = {f.code: f.level for f in laid.findings}
    for check in ("loose-parts", "loops-level", "loop-place", "loop-hold", "openings-kept"):
        assert levels.get(check) is not Level.FAILS, check
    # By the finished outlines: a ring that is cut free of its opening is held by no less than its wall.
    for one in layout.loops:
        rest = layout.outlines.difference(shapely.union_all([one.ring, one.opening]).buffer(1e-4))
        assert neck(one.ring.buffer(2e-4), rest) >= 0.8 * 0.9


@pytest.mark.parametrize("code", FACES)
def test_what_is_added_is_no_wider_than_the_lettering_nor_finer_than_the_process(code: str) -> None:
    layout = laid_out("Mary Ann", code, loop="none").layout
    strokes = [one.outline for one in layout.added if one.kind == "bridge"]
    assert strokes
    own = float(np.median([f.stroke.width for f in layout.narrow if f.stroke is not None]))
    for stroke in strokes:
        widest = 2.0 * shapely.maximum_inscribed_circle(stroke, tolerance=0.01).length
        assert 0.35 <= widest <= max(min(0.8, own), 1.25 * 0.35) * 1.4


def test_no_ready_name_has_a_bar_with_square_ends() -> None:
    """Every corner of a stroke that is added is rounder than a right angle."""
    layout = laid_out("Mary Ann", "pacifico", loop="none").layout
    for one in (one.outline for one in layout.added if one.kind == "bridge"):
        # Chords shorter than a hundredth of a millimetre turn by as much as they like.
        ring = np.asarray(shapely.simplify(one.geoms[0], 0.01).exterior.coords)[:-1]
        way = np.diff(np.vstack((ring, ring[:1])), axis=0)
        turn = np.abs(np.angle(np.exp(1j * np.diff(np.unwrap(np.arctan2(way[:, 1], way[:, 0]))))))
        assert np.degrees(turn.max()) < 60.0


def test_letters_that_a_face_joins_stay_where_it_sets_them() -> None:
    """Distances between the letters of a joined hand are those of the face, loops and bridges or not."""
    tied, plain = (
        laid_out("Minna", "pacifico", loop="none", **more).layout
        for more in ({}, {"one_piece": "no", "overlap_mm": 0.0})
    )
    assert tied.height_mm == plain.height_mm
    assert np.diff([m.u_mm for m in tied.marks]) == pytest.approx(
        np.diff([m.u_mm for m in plain.marks]), abs=1e-6
    )


def test_eyelets_of_a_pen_are_closed_and_letters_keep_their_middles() -> None:
    layout = laid_out("Korda", "sacramento").layout
    middles = [shapely.Polygon(hole) for body in layout.outlines.geoms for hole in body.interiors]
    assert all(not m.buffer(-0.3 / 2.0).is_empty for m in middles)
    own = [shapely.Polygon(h) for s in layout.shapes for b in s.geoms for h in b.interiors]
    large = [m for m in own if m.area > 0.01 * layout.height_mm**2]
    assert large and all(any(m.intersection(left).area > 0.9 * m.area for left in middles) for m in large)


@pytest.mark.parametrize("words", ["Jürgen", "Björn"])
def test_fine_ends_that_run_into_each_other_hold(words: str) -> None:
    """Hairlines of a formal hand meet tip to tip, by half of what the process holds before they are drawn over."""
    layout = laid_out(words, "great-vibes")
    found = [f for f in layout.findings if f.code == "neck-width"]
    assert all(f.level is not Level.FAILS for f in found), found[0].message
    assert any(one.kind == "join" for one in layout.layout.added)


def test_a_tail_under_the_letter_before_it_leaves_the_letters_in_their_order() -> None:
    """The tail of a j begins left of the c before it; the pen does not."""
    layout = laid_out("Lucja", "great-vibes").layout
    stems = {layout.letter(m.cluster): s for m, s in zip(layout.marks, layout.shapes, strict=True)}
    c, a = stems["c"], stems["a"]
    assert a.bounds[0] > c.bounds[2] - 0.3 * (c.bounds[2] - c.bounds[0])
    assert c.difference(stems["j"]).area > 0.9 * c.area


def test_letters_are_joined_at_themselves_and_not_at_a_dot() -> None:
    layout = laid_out("Jiří", "pacifico").layout
    dots = shapely.union_all([mark for _, mark in layout.lowered])
    for stroke in (one.outline for one in layout.added if one.kind == "bridge"):
        assert stroke.intersection(dots).area < 0.05 * stroke.area


def test_the_leg_of_a_letter_is_no_accent() -> None:
    laid = laid_out("Kübra", "great-vibes")
    assert {laid.layout.letter(cluster) for cluster, _ in laid.layout.lowered} == {"ü"}


@pytest.mark.parametrize(("words", "code"), [("Am\u0303o", "noto-sans-bold"), ("Ol\u0303a", "vollkorn-bold")])
def test_a_mark_that_no_letter_has_by_itself_is_one_still(words: str, code: str) -> None:
    assert unicodedata.normalize("NFC", words) == words
    laid = laid_out(words, code)
    assert [cluster for cluster, _ in laid.layout.lowered] == [1]
    (mark,) = (one for _, one in laid.layout.lowered)
    assert shapely.distance(mark, laid.layout.shapes[-1]) >= 0.3 - 0.01


@pytest.mark.parametrize("tie", ["bridges", "base bar", "underline"])
@pytest.mark.parametrize("code", ["comfortaa-bold", "noto-sans-bold"])
def test_a_dot_is_brought_to_its_own_letter_on_every_tie(tie: str, code: str) -> None:
    """Beside a W a dot was once tied to the arm of that."""
    laid = laid_out("Wilma", code, one_piece=tie)
    assert len(laid.layout.outlines.geoms) == 1
    found = {f.code: f.level for f in laid.findings}
    assert found["read-back"] is not Level.FAILS and found["loose-parts"] is Level.PASSES
    # Where a dot would vanish in a stem as wide as itself, a slim stroke carries it instead.
    stem = laid.layout.shapes[1]
    held = [mark for _, mark in laid.layout.lowered] or [
        added.outline for added in laid.layout.added if added.kind == "stalk"
    ]
    assert held and all(one.distance(stem) == 0 for one in held)
    assert not any(one.intersects(laid.layout.shapes[0]) for one in held)


@pytest.mark.parametrize("code", ["comfortaa-bold", "noto-sans-bold"])
def test_parallel_stems_stand_hardly_further_apart_than_letters_that_meet(code: str) -> None:
    """Letters are drawn into each other; two stems, which would melt, come near without meeting."""
    layout = laid_out("Annabel", code).layout
    shapes = [s for s in layout.shapes if not s.is_empty]
    apart = [shapely.distance(a, b) / layout.height_mm for a, b in itertools.pairwise(shapes)]
    stems = apart[1]
    assert 0 < stems <= 0.16
    assert min(apart[0], *apart[2:]) == 0.0


@pytest.mark.parametrize(("words", "first"), [("Mateos", 1), ("Beate", 2), ("Renate", 3)])
@pytest.mark.parametrize("tie", ["bridges", "base bar"])
def test_a_stem_does_not_melt_into_the_letter_beside_it(words: str, first: int, tie: str) -> None:
    """A t hard beside an a is no t: the two come near, and a stroke or the bar joins them."""
    laid = laid_out(words, "comfortaa-bold", one_piece=tie, overlap_mm=0.5)
    one, other = laid.layout.shapes[first : first + 2]
    assert 0.1 * laid.layout.height_mm < shapely.distance(one, other) < 0.16 * laid.layout.height_mm
    assert len(laid.layout.outlines.geoms) == 1


@pytest.mark.parametrize(
    ("words", "code"),
    [
        ("Mary Ann", "comfortaa-bold"),
        ("Hilde Kim", "noto-sans-bold"),
        ("Ann Rik", "vollkorn-bold"),
        ("Hi Kim", "comfortaa-bold"),
    ],
)
def test_no_stroke_hangs_under_the_feet_of_what_it_joins(words: str, code: str) -> None:
    layout = laid_out(words, code, loop="none").layout
    lowest = min(shape.bounds[1] for shape in layout.shapes if not shape.is_empty)
    strokes = [one.outline for one in layout.added if one.kind == "bridge"]
    assert strokes and all(stroke.bounds[1] > lowest - 0.3 * 0.8 for stroke in strokes)


@pytest.mark.parametrize(
    ("words", "code"),
    [("Pa", "sacramento"), ("Pe", "sacramento"), ("Pan", "sacramento"), ("Kell", "great-vibes")],
)
def test_a_letter_comes_under_the_bowl_of_a_capital(words: str, code: str) -> None:
    # A stroke from the bowl down to it would be a leg, and make an R of the P.
    layout = laid_out(words, code).layout
    assert shapely.intersects(layout.shapes[0], layout.shapes[1])
    assert not [one for one in layout.added if one.kind == "bridge"]


@pytest.mark.parametrize(
    ("words", "code"), [("Karl", "great-vibes"), ("Kell", "great-vibes"), ("Pan", "sacramento")]
)
def test_a_neighbour_may_touch_any_stroke_of_a_letter(words: str, code: str) -> None:
    # The leg of the K and the stem of the P stand apart in these hands; they are no dots that would be lost.
    layout = laid_out(words, code).layout
    capital, letter = layout.shapes[:2]
    assert len(layout.outlines.geoms) == 1
    apart = [shapely.distance(letter, stroke) for stroke in capital.geoms]
    assert min(apart) < 0.02 * layout.height_mm


@pytest.mark.parametrize(("words", "code"), [("Querol", "dancing-script-bold"), ("Claude", "sacramento")])
def test_letters_that_meet_leave_no_slit_where_they_all_but_meet_again(words: str, code: str) -> None:
    laid = laid_out(words, code, height_mm=10.0)
    assert "gap-width" not in {f.code for f in laid.failing}


@pytest.mark.parametrize("code", ["sacramento", "dancing-script-bold", "great-vibes"])
def test_words_are_joined_by_the_stroke_that_leaves_the_first(code: str) -> None:
    """What joins them begins as the last letter ends: in its direction, within its own stroke."""
    layout = laid_out("Ida Bo", code).layout
    shapes = [s for s in layout.shapes if not s.is_empty]
    first, second = shapely.union_all(shapes[:3]), shapely.union_all(shapes[3:])
    both = (a.outline for a in layout.added if a.kind == "bridge" and a.outline.intersects(first))
    (stroke,) = (outline for outline in both if outline.intersects(second))
    within = stroke.intersection(first)
    assert within.bounds[2] - within.bounds[0] > 0.04 * layout.height_mm
    # It runs on from where that stroke ends.
    end = max(stroke_ends(shapes[2]), key=lambda one: one.tip[0])
    assert stroke.distance(shapely.Point(end.tip)) < 0.01 * layout.height_mm


def test_no_word_is_left_by_the_bar_of_an_earlier_letter() -> None:
    """The bar of a J reaches over the o behind it, and on to the V it would read as another stroke."""
    for code in ("dancing-script-bold", "sacramento"):
        found = {f.code: f.level for f in laid_out("Jo Vik", code).findings}
        assert found["read-back"] is not Level.FAILS


@pytest.mark.parametrize("tie", ["bridges", "base bar"])
@pytest.mark.parametrize(
    ("words", "code", "place"),
    [
        pytest.param("\u05e9\u05e8\u05d4", "noto-sans-hebrew-bold", 2, id="he, which closed is het"),
        pytest.param("\u05d9\u05e6\u05d7\u05e7", "noto-sans-hebrew-bold", 3, id="qof"),
        pytest.param("\u042b\u0433\u0434\u0430\u043d", "noto-sans-bold", 0, id="yery"),
        pytest.param("\u039e\u03ad\u03bd\u03b9\u03b1", "noto-sans-bold", 0, id="xi"),
    ],
)
def test_strokes_that_stand_apart_by_nature_stay_where_they_are(
    words: str, code: str, place: int, tie: str
) -> None:
    """What holds them is so slim that the gap is still seen."""
    layout = laid_out(words, code, one_piece=tie).layout
    assert len(layout.outlines.geoms) == 1
    letter = next(
        shape for mark, shape in zip(layout.marks, layout.shapes, strict=True)
        if mark.cluster == place and len(shape.geoms) > 1
    )  # fmt: skip
    face = shipped_typeface(code)
    (glyph,) = face.shape(words[place])
    drawn = face.outline(glyph.glyph, sagitta_upem=2).polygons
    own = shapely.distance(drawn.geoms[0], drawn.geoms[1]) / face.cap_height_upem
    first, second = list(letter.geoms)[:2]
    assert shapely.distance(first, second) / layout.height_mm == pytest.approx(own, rel=0.05)
    between = shapely.convex_hull(shapely.union(first, second)).difference(letter)
    stalks = [added.outline for added in layout.added if added.kind == "stalk"]
    if tie == "bridges":
        assert stalks
    filled = shapely.union_all([one for one in stalks if one.intersects(letter)]).intersection(between)
    assert filled.area < 0.25 * between.area


@pytest.mark.parametrize("words", ["\u0634\u064e\u0627\u062f\u0650\u064a", "\u0641\u0627\u0637\u0645\u0629"])
def test_points_of_arabic_come_to_their_letters(words: str) -> None:
    """Far above and below as they are written, on a stalk they would read as strokes."""
    laid = laid_out(words, "amiri-bold")
    assert {f.code: f.level for f in laid.findings}["read-back"] is not Level.FAILS
    stalks = [added.outline for added in laid.layout.added if added.kind == "stalk"]
    assert all(one.length / 2 < 0.3 * laid.layout.height_mm for one in stalks)


@pytest.mark.parametrize("words", ["Aliki", "Viki", "Dilcan"])
def test_notches_beside_a_neighbour_do_not_melt_a_dot_into_it(words: str) -> None:
    """Letters drawn into each other meet in several places, some of them beside a dot that was brought down."""
    more = {"one_piece": "base bar", "bridge_mm": 2.4, "overlap_mm": 0.6, "loop": "none"}
    layout = laid_out(words, "comfortaa-bold", **more).layout
    assert layout.lowered
    for at, dot in layout.lowered:
        others = [s for s, mark in zip(layout.shapes, layout.marks, strict=True) if mark.cluster != at]
        beside = [one.outline for one in layout.added if one.kind == "join" and one.outline.intersects(dot)]
        assert not any(join.intersects(other) for join in beside for other in others)


@pytest.mark.parametrize("tie", ["base bar", "bridges"])
@pytest.mark.parametrize(
    ("words", "code"),
    [
        ("Wanda", "great-vibes"), ("Wolf", "great-vibes"), ("Roy", "sacramento"), ("Franz", "sacramento"),
        ("Jones", "pacifico"), ("Zirme", "dancing-script-bold"),
    ],
)  # fmt: skip
def test_what_carries_a_loop_at_the_side_does_not_run_round_like_a_letter(
    words: str, code: str, tie: str
) -> None:
    """From one end of what carries it to the other it is nearly straight, and with a bar from the bar's end."""
    more = {"one_piece": tie, "bridge_mm": 2.4, "loop": "left", "loop_hole_mm": 4.0, "loop_wall_mm": 2.0}
    layout = laid_out(words, code, 14.0, **more).layout
    (loop,) = layout.loops
    mass = layout.outlines.centroid
    assert math.degrees(math.atan2(abs(loop.y - mass.y), mass.x - loop.x)) <= 3.0
    bars = [added.outline for added in layout.added if added.kind == "base bar"]
    assert bool(bars) == (tie == "base bar")
    if loop.carrier is None:
        # It stands on the letter itself, which a piece with a bar leaves to the bar.
        assert not bars
        return
    # What is nearly straight fills its hull; a stroke that runs round encloses far more than itself.
    assert loop.carrier.area > 0.7 * loop.carrier.convex_hull.area
    if bars:
        assert loop.carrier.intersection(bars[0]).area > 0.0
        assert loop.ring.bounds[2] < bars[0].bounds[0] + 0.5


def signs_of(layout: Layout) -> list[tuple[shapely.Geometry, shapely.Geometry]]:
    """Each stop and its like, with all other letters."""
    inked = [
        (layout.text[mark.cluster], shape)
        for mark, shape in zip(layout.marks, layout.shapes, strict=True)
        if not shape.is_empty
    ]
    return [
        (shape, shapely.union_all([other for at, (_, other) in enumerate(inked) if at != place]))
        for place, (letter, shape) in enumerate(inked)
        if letter in ".'’"
    ]


SIGNED = ("St. John", "J.R. Ames", "A. B.", "M.")


@pytest.mark.parametrize(("words", "code"), list(itertools.product(SIGNED, (*FACES, "dancing-script-bold"))))
def test_a_stop_on_a_bar_is_seen(words: str, code: str) -> None:
    """Common practice, no source: what stands on a bar by less than half of itself reads as its edge."""
    more = {"one_piece": "base bar", "bridge_mm": 2.4, "overlap_mm": 0.6, "loop": "left", "loop_hole_mm": 3.0}
    laid = laid_out(words, code, 14.0, **more)
    layout = laid.layout
    assert len(layout.outlines.geoms) == 1
    (bar,) = (one.outline for one in layout.added if one.kind == "base bar")
    signs = signs_of(layout)
    assert len(signs) == words.count(".")
    for sign, others in signs:
        assert sign.difference(bar).area > 0.6 * sign.area
        assert sign.distance(others) > 0.1
        assert bar.bounds[2] > sign.bounds[2]
    assert {f.code: f.level for f in laid.findings}["read-back"] is not Level.FAILS


@pytest.mark.parametrize("words", ["J.R.", "D’Arcy", "O’Hara", "A. B."])
@pytest.mark.parametrize("code", [*FACES, "dancing-script-bold"])
def test_a_stop_or_an_apostrophe_is_carried_beside_its_letter_and_never_in_it(words: str, code: str) -> None:
    layout = laid_out(words, code, 14.0, loop="none", overlap_mm=0.6).layout
    assert len(layout.outlines.geoms) == 1
    for sign, others in signs_of(layout):
        assert sign.intersection(others).area < 0.1 * sign.area


def test_a_comma_on_a_bar_is_held_as_it_reads_as_a_stop() -> None:
    more = {"one_piece": "base bar", "bridge_mm": 2.4, "overlap_mm": 0.6, "loop": "none"}
    found = next(f for f in laid_out("Otto, Pa", "pacifico", 14.0, **more).findings if f.code == "read-back")
    assert found.level is Level.FAILS
    assert [cause.text for cause in found.cause] == [","]

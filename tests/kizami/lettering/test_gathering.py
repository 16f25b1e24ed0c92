"""Dots and accents that come to their letters: where they go, and when they stay."""

from __future__ import annotations

import itertools

import pytest
import shapely

from kizami.lettering.block import draw, set_line
from kizami.lettering.gathering import gathered, width_of
from kizami.lettering.shipped import shipped_typeface
from kizami.outlines.curves import bodies_of
from kizami.outlines.touching import neck

CAP = 10.0
SCRIPTS = ("pacifico", "sacramento", "great-vibes", "dancing-script-bold")


def letter(text: str, code: str) -> list[shapely.MultiPolygon]:
    shapes = [s for s in draw(set_line(text, shipped_typeface(code)), sagitta=5e-4) if not s.is_empty]
    return [shapely.transform(s, lambda xy: xy * CAP) for s in shapes]


def bodies(shapes) -> int:
    return len(bodies_of(*shapes).geoms)


@pytest.mark.parametrize("code", SCRIPTS)
@pytest.mark.parametrize("text", ["i", "j", "é", "ö", "å", "č", "ż"])
def test_in_a_script_every_mark_comes_to_its_letter(text: str, code: str) -> None:
    shapes = letter(text, code)
    before = bodies(shapes)
    found = gathered(shapes, cap_height=CAP, wanted=0.45)
    assert before > 1 and found is not None
    assert bodies(found.shapes) == 1
    # Nothing was drawn: ink is only moved, and only less by what is shared where they meet; dots may be heavier.
    ink = sum(s.area for s in shapes)
    heavier = sum(mark.area for mark in found.marks) if text in "ijöż" else 0.0
    assert 0.93 * ink < bodies_of(*found.shapes).area <= ink * 1.0001 + heavier
    # What moved is a mark, not the letter.
    largest = max((b for s in shapes for b in s.geoms), key=lambda b: b.area)
    assert any(b.covers(largest.buffer(-1e-3)) for b in bodies_of(*found.shapes).geoms)


@pytest.mark.parametrize(("text", "below"), [("ọ", True), ("ḥ", True), ("é", False)])
def test_a_mark_comes_from_its_own_side(text: str, below: bool) -> None:
    shapes = letter(text, "noto-sans-bold")
    found = gathered(shapes, cap_height=CAP, wanted=0.5)
    assert found is not None
    (mark,) = found.marks
    letter_middle = bodies_of(*found.shapes).centroid.y
    assert (mark.centroid.y < letter_middle) == below


@pytest.mark.parametrize(("text", "code"), list(itertools.product("iöéåž", ("pacifico", "vollkorn-bold"))))
def test_a_mark_is_still_seen_as_one(text: str, code: str) -> None:
    """Where it meets its letter it is narrower than it is itself: a dot does not melt into a stem."""
    shapes = letter(text, code)
    found = gathered(shapes, cap_height=CAP, wanted=0.6)
    if found is None:
        return
    for mark in found.marks:
        rest = bodies_of(*found.shapes).difference(mark.buffer(1e-6))
        low, _, high, _ = mark.bounds
        assert neck(mark, rest.buffer(2e-6)) < 0.9 * max(high - low, mark.bounds[3] - mark.bounds[1])


def test_a_square_dot_on_a_stem_of_its_own_width_is_drawn_heavier() -> None:
    """As wide as its stem it would only make the stem longer."""
    stem, dot = shapely.box(0, 0, 1, 7), shapely.box(0, 8, 1, 9)
    found = gathered([shapely.MultiPolygon([stem, dot])], cap_height=10, wanted=0.5)
    assert found is not None
    (mark,) = found.marks
    assert 1.4 <= width_of(mark) <= 1.51
    assert neck(mark, stem) < 0.72 * width_of(mark)


def test_a_stroke_on_a_stem_as_wide_as_itself_stays_where_it_was_drawn() -> None:
    stem, stroke = shapely.box(0, 0, 1, 7), shapely.box(0, 8, 1, 11)
    assert gathered([shapely.MultiPolygon([stem, stroke])], cap_height=10, wanted=0.5) is None


def test_dots_of_one_letter_are_drawn_alike() -> None:
    u = shapely.box(0, 0, 6, 7).difference(shapely.box(0.8, 1, 5, 9))
    dots = [shapely.Point(x, 9).buffer(0.5) for x in (0.4, 5.5)]
    found = gathered([bodies_of(u, *dots)], cap_height=10, wanted=0.5)
    assert found is not None and len(found.marks) == 2
    one, other = (width_of(mark) for mark in found.marks)
    assert one == pytest.approx(other, rel=0.02) and one > 1.3


def test_a_mark_never_closes_an_opening() -> None:
    """A bar over two stems would make an o of a u: it stays, for a stroke to carry it."""
    u = shapely.box(0, 0, 6, 7).difference(shapely.box(1, 1, 5, 9))
    bar = shapely.box(-0.5, 8, 6.5, 9)
    assert gathered([bodies_of(u, bar)], cap_height=10, wanted=0.5) is None


def test_of_a_stack_each_stands_on_the_one_below() -> None:
    base, one, other = (shapely.Point(0, y).buffer(r) for y, r in ((0, 3.0), (4.5, 0.8), (6.8, 0.6)))
    found = gathered([bodies_of(base, one, other)], cap_height=10, wanted=0.5)
    assert found is not None and len(found.marks) == 2 and bodies(found.shapes) == 1
    assert found.marks[0].centroid.y < found.marks[1].centroid.y < 6.0


def test_a_letter_without_marks_and_marks_too_far_away_stay() -> None:
    assert gathered(letter("n", "pacifico"), cap_height=CAP, wanted=0.5) is None
    far = bodies_of(shapely.box(0, 0, 1, 7), shapely.Point(0.5, 20).buffer(0.8))
    assert gathered([far], cap_height=10, wanted=0.5) is None

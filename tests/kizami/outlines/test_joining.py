"""One piece: parts are counted before and after, closed middles are held."""

from __future__ import annotations

import itertools

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from kizami.lettering.block import draw, set_line
from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import join_shapes
from kizami.outlines.curves import bodies_of
from kizami.outlines.joining import base_bar, hold_middles, loose_parts, rim, tie

SIZE_MM = 10.0


def word(text: str, code: str = "noto-sans-bold") -> shapely.MultiPolygon:
    """A word 10 mm high."""
    shapes = [s for s in draw(set_line(text, shipped_typeface(code)), sagitta=5e-4) if not s.is_empty]
    return shapely.transform(join_shapes(shapes), lambda xy: xy * SIZE_MM)


def middles(shape: shapely.MultiPolygon) -> int:
    return sum(len(body.interiors) for body in shape.geoms)


@pytest.mark.parametrize(
    ("text", "loose"),
    [("i", 1), ("j", 1), ("ä", 2), ("Ivy", 2), ("Mimi", 5), ("ÄÖ", 5), ("%", 2), ("L", 0)],
)
def test_loose_parts_are_counted_and_tied(text: str, loose: int) -> None:
    shape = word(text)
    tied = tie(shape, width=0.8)
    assert (tied.loose_before, tied.loose_after) == (loose, 0)
    assert len(tied.spots) == loose == len(loose_parts(shape))
    assert len(tied.shape.geoms) == 1
    # Nothing is taken away, and the tie is all that was added.
    assert shapely.covers(tied.shape.buffer(1e-9), shape)
    assert tied.shape.area <= shape.area + sum(tie.area for tie in tied.ties) + 1e-9


def test_the_dot_of_an_i_is_tied_straight_up_by_a_bar_of_the_width() -> None:
    shape = word("i")
    stem, dot = sorted(shape.geoms, key=lambda p: -p.area)
    gap = dot.bounds[1] - stem.bounds[3]
    tied = tie(shape, width=0.8)
    between = shapely.box(-99, stem.bounds[3] + 1e-6, 99, dot.bounds[1] - 1e-6)
    low, bottom, high, top = tied.shape.intersection(between).bounds
    # Upright within a degree, so that it leans by less than a hair.
    assert high - low == pytest.approx(0.8, abs=0.02)
    assert top - bottom == pytest.approx(gap, abs=1e-5)
    x, y = tied.spots[0]
    assert x == pytest.approx((stem.bounds[0] + stem.bounds[2]) / 2, abs=0.05)
    assert stem.bounds[3] < y < dot.bounds[1]


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.integers(0, 30), st.integers(0, 30)), min_size=1, max_size=9, unique=True))
def test_bridges_are_one_fewer_than_parts_and_no_longer_than_any_chain(places: list[tuple[int, int]]) -> None:
    """Unit squares on a grid of 3: the least tree is no longer than the chain in the order given."""
    squares = [shapely.box(3 * x, 3 * y, 3 * x + 1, 3 * y + 1) for x, y in places]
    shape = shapely.MultiPolygon(squares)
    tied = tie(shape, width=0.4)
    assert len(tied.spots) == len(places) - 1
    assert len(tied.shape.geoms) == 1
    chain = sum(a.distance(b) for a, b in itertools.pairwise(squares))
    # A natural (level or upright) bridge may be longer than the shortest by three tenths.
    assert sum(tie.area for tie in tied.ties) <= 0.4 * (1.3 * chain + 0.4 * len(squares)) + 1e-6


@pytest.mark.parametrize("text", [*"oaeRBgÅ8@&", "Boggo", "Ottoline"])
def test_no_closed_middle_is_left_to_drop_out(text: str) -> None:
    """Pierced, every closed middle would be a loose part of the sheet: the sheet is one body after."""
    shape = word(text)
    sheet = shapely.box(*shape.buffer(5).bounds)
    held = hold_middles(shape, width=0.8)
    assert held.loose_before == middles(shape) > 0
    assert len(bodies_of(sheet.difference(shape)).geoms) == 1 + held.loose_before
    assert len(bodies_of(sheet.difference(held.shape)).geoms) == 1
    assert held.loose_after == 0
    left = shapely.union_all(held.ties)
    assert held.shape.area == pytest.approx(shape.area - shape.intersection(left).area)


@pytest.mark.parametrize("text", ["L", "Ivy", "CUT"])
def test_what_has_no_closed_middle_is_left_alone(text: str) -> None:
    shape = word(text)
    assert hold_middles(shape, width=0.8).shape is shape


def test_stencil_letters_have_no_closed_middle_at_all() -> None:
    """Common practice, no source: that is what a stencil typeface is for."""
    for code in ("allerta-stencil", "saira-stencil"):
        assert middles(word("ABDOPQRabdegopq0689", code)) == 0


def test_a_base_bar_joins_every_letter_that_stands_on_it() -> None:
    shape = word("HALMA")
    bar = base_bar(shape, baseline=0.0, width=1.2)
    low, _, high, _ = shape.bounds
    assert bar.bounds == pytest.approx((low, 0.4 - 1.2, high, 0.4))
    assert len(bodies_of(shape, bar).geoms) == 1
    apart = base_bar(shape, baseline=0.0, width=1.2, below=0.5)
    assert shape.distance(apart) == pytest.approx(0.5, abs=0.02)


def test_what_must_be_seen_stands_in_a_base_bar_by_a_fifth_and_not_at_its_end() -> None:
    letter, stop, apostrophe = shapely.box(0, 0, 6, 10), shapely.box(7, 0, 8, 1), shapely.box(8, 8, 9, 10)
    shape = bodies_of(letter, stop, apostrophe)
    bar = base_bar(shape, baseline=0.0, width=1.2, seen=[stop, apostrophe])
    assert bar.bounds == pytest.approx((0.0, 0.2 - 1.2, 9.0, 0.2))
    last = base_bar(bodies_of(letter, stop), baseline=0.0, width=1.2, seen=[stop])
    assert last.bounds[2] == pytest.approx(8.4)


def test_a_rim_goes_round_everything_and_makes_it_one() -> None:
    shape = word("Ivy & Co")
    around = rim(shape, width=1.5, reach=3.5)
    whole = bodies_of(shape, around)
    outside = shapely.Polygon(max(whole.geoms, key=lambda p: p.area).exterior)
    assert shapely.covers(outside, shape)
    # Nowhere on its outside is it thinner than its width: shrunk by half of that it still goes round.
    band = outside.exterior.buffer(1.5 * 0.98, single_sided=False).intersection(outside)
    assert shapely.covers(whole.buffer(1e-6), band.difference(shape).intersection(around))
    assert shape.boundary.distance(outside.exterior) == pytest.approx(1.5, abs=0.05)


def test_nothing_is_tied_to_nothing() -> None:
    assert tie(shapely.MultiPolygon(), width=1.0).loose_before == 0
    assert loose_parts(shapely.MultiPolygon()) == []
    assert tie(word("L"), width=1.0).ties == ()


def test_stems_are_joined_at_their_feet_and_not_at_a_dot() -> None:
    """A stem beside an i whose dot is wider than its stem: across at the dot they would read as another letter."""
    stem = shapely.box(0.0, 0.0, 1.0, 10.0)
    dotted = shapely.union_all([shapely.box(4.0, 0.0, 5.0, 7.0), shapely.Point(4.5, 7.6).buffer(1.1)])
    found = tie(bodies_of(stem, dotted), width=0.8)
    ((_, y),) = found.spots
    assert found.loose_after == 0 and y < 1.5

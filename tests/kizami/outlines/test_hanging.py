"""Loops: level, near the ends, over the weight, held as strongly as they are, and never against another part."""

from __future__ import annotations

import itertools
import math

import pytest
import shapely

from kizami.lettering.block import draw, set_line
from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import join_shapes
from kizami.outlines.curves import bodies_of
from kizami.outlines.hanging import END_SHARE, Loop, held_by, hung
from kizami.outlines.joining import tie

HOLE, WALL, GAP, STROKE = 1.6, 0.8, 0.3, 0.35
NAMES = ["Lynn", "William", "Zoë", "Tiffany", "Łukasz", "Anna", "Ty", "Lj", "Mia", "Quigley"]
FACES = ["pacifico", "sacramento", "noto-sans-bold"]


def name(text: str, code: str) -> tuple[shapely.MultiPolygon, tuple[shapely.Geometry, shapely.Geometry]]:
    """A name 10 mm high in one piece, with its first and last letter."""
    shapes = [s for s in draw(set_line(text, shipped_typeface(code)), sagitta=5e-4) if not s.is_empty]
    shapes = [shapely.transform(s, lambda xy: xy * 10.0) for s in shapes]
    ends = min(shapes, key=lambda s: s.bounds[0]), max(shapes, key=lambda s: s.bounds[2])
    return tie(join_shapes(shapes), width=0.6).shape, ends


def found(
    text: str, code: str, place: str
) -> tuple[shapely.MultiPolygon, tuple[Loop, ...], shapely.MultiPolygon]:
    """The name, its loops, and both together."""
    shape, ends = name(text, code)
    loops = hung(shape, place=place, hole=HOLE, wall=WALL, gap=GAP, stroke=STROKE, ends=ends)
    carriers = [one.carrier for one in loops if one.carrier is not None]
    openings = shapely.union_all([one.opening for one in loops])
    whole = bodies_of(shape, *(one.ring for one in loops), *carriers).difference(openings)
    return shape, loops, bodies_of(whole)


EACH = list(itertools.product(NAMES, FACES))


@pytest.mark.parametrize(("text", "code"), EACH)
def test_two_loops_are_level_near_the_ends_and_above_the_weight(text: str, code: str) -> None:
    _, loops, whole = found(text, code, "ends")
    left, right = loops
    assert left.y == right.y
    assert left.y > whole.centroid.y
    low, _, high, _ = whole.bounds
    assert (left.x - low) / (high - low) <= END_SHARE and (high - right.x) / (high - low) <= END_SHARE


@pytest.mark.parametrize("place", ["ends", "balanced", "left"])
@pytest.mark.parametrize(("text", "code"), EACH)
def test_every_loop_is_of_one_piece_with_its_name_and_open(text: str, code: str, place: str) -> None:
    shape, loops, whole = found(text, code, place)
    assert len(whole.geoms) == 1
    for one in loops:
        assert one.opening.area == pytest.approx(math.pi * (HOLE / 2) ** 2, rel=0.01)
        assert not whole.intersects(one.opening.buffer(-1e-6))
        # No letter is cut for it.
        assert shape.distance(one.opening) > 0
        assert one.hold >= STROKE


@pytest.mark.parametrize(("text", "code"), EACH)
def test_a_loop_stands_against_no_other_part_and_closes_no_opening(text: str, code: str) -> None:
    shape, loops, whole = found(text, code, "ends")
    # A pocket in which nothing stays open is filled afterwards.
    middles, closed = (
        sum(
            not shapely.Polygon(hole).buffer(-GAP / 2).is_empty for body in s.geoms for hole in body.interiors
        )
        for s in (shape, whole)
    )
    assert closed - middles <= len(loops)
    for one in (one for one in loops if one.carrier is None):
        disc = shapely.Point(one.x, one.y).buffer(HOLE / 2 + WALL)
        # What is within a gap of the ring hangs together with what holds it, there.
        near = shape.intersection(disc.buffer(GAP * 0.8))
        # A pocket between two strokes that is narrower than a gap is filled afterwards.
        assert len(shapely.get_parts(near.buffer(GAP / 2))) == 1


@pytest.mark.parametrize("text", ["Lynn", "Quentin", "Finn", "Ulla", "Thorsten"])
@pytest.mark.parametrize("code", ["dancing-script-bold", "pacifico", "sacramento", "great-vibes"])
def test_no_loop_stands_in_the_hollow_of_the_last_letter(text: str, code: str) -> None:
    """Between the stem of an n and the stroke that leaves it, a ring makes an e of it."""
    _, ends = name(text, code)
    _, (_, right), _ = found(text, code, "ends")
    assert not shapely.convex_hull(ends[1]).contains(shapely.Point(right.x, right.y))


def test_a_loop_as_large_as_a_bowl_stands_off_from_a_stem() -> None:
    """Against a stem it would read as one letter with it, as d or b."""
    stem = bodies_of(shapely.box(0, 0, 1, 8), shapely.box(0, 0, 12, 1))
    large, small = (
        hung(stem, place="left", hole=hole, wall=WALL, gap=GAP, stroke=STROKE)[0] for hole in (3.0, 0.6)
    )
    assert large.carrier is not None and small.carrier is None
    assert -large.x - (1.5 + WALL) > 0.5 * WALL
    # The neck ends within the stem.
    assert large.carrier.bounds[2] < 1.0


@pytest.mark.parametrize(("text", "code"), EACH)
def test_one_loop_hangs_level(text: str, code: str) -> None:
    """Within 3 degrees, from the loop's middle to the centre of mass of all."""
    _, (loop,), whole = found(text, code, "balanced")
    lean = math.degrees(math.atan2(abs(loop.x - whole.centroid.x), loop.y - whole.centroid.y))
    assert lean <= 3.0
    assert loop.y > whole.centroid.y


@pytest.mark.parametrize(("text", "code"), EACH)
def test_a_loop_at_the_side_hangs_straight(text: str, code: str) -> None:
    shape, (loop,), whole = found(text, code, "left")
    assert loop.x < shape.bounds[0] + 0.3 * HOLE
    lean = math.degrees(math.atan2(abs(loop.y - whole.centroid.y), whole.centroid.x - loop.x))
    assert lean <= 3.0


@pytest.mark.parametrize("stroke", [0.3, 0.6, 2.0])
def test_what_holds_a_loop_is_what_of_its_edge_runs_inside(stroke: float) -> None:
    """A stroke that meets a ring head on holds it by its own width."""
    bar = shapely.box(0, -stroke / 2, 9, stroke / 2)
    shape = bodies_of(bar, shapely.box(8, -6, 9, 6))
    (loop,) = hung(shape, place="left", hole=HOLE, wall=WALL, gap=GAP, stroke=0.1)
    assert loop.hold == pytest.approx(stroke, rel=0.06, abs=0.02)
    assert held_by(loop, bodies_of(shape, loop.ring)) == pytest.approx(stroke, rel=0.1, abs=0.03)


def test_a_name_without_a_stroke_that_holds_a_loop_gets_one_of_its_own() -> None:
    """A low bar with a heavy hanging block: above its weight there is nothing at the ends."""
    low = bodies_of(shapely.union_all([shapely.box(0, 0, 40, 0.4), shapely.box(19, 0, 21, 9)]))
    ends = shapely.box(0, 0, 2, 0.4), shapely.box(38, 0, 40, 0.4)
    loops = hung(low, place="ends", hole=HOLE, wall=WALL, gap=GAP, stroke=STROKE, ends=ends)
    assert len(loops) == 2 and all(one.carrier is not None for one in loops)
    assert loops[0].y == loops[1].y > low.centroid.y
    whole = bodies_of(low, *(one.ring for one in loops), *(one.carrier for one in loops))
    assert len(whole.geoms) == 1
    # The strokes are no finer than the ring's wall where they hold it.
    assert len(bodies_of(whole.buffer(-0.15)).geoms) == 1


def test_accents_and_bridges_hold_no_loop() -> None:
    n = bodies_of(shapely.box(0, 0, 1, 10), shapely.box(0, 9, 12, 10), shapely.box(11, 0, 12, 10))
    accent = shapely.box(5, 10, 7, 12)
    shape = bodies_of(n, accent)
    (free,) = hung(shape, place="balanced", hole=HOLE, wall=WALL, gap=GAP, stroke=STROKE)
    assert free.y > 12
    (kept,) = hung(shape, place="balanced", hole=HOLE, wall=WALL, gap=GAP, stroke=STROKE, avoid=accent)
    assert kept.carrier is not None or kept.y < free.y


@pytest.mark.parametrize("place", ["ends", "balanced", "left"])
def test_what_is_nothing_but_marks_hangs_by_them(place: str) -> None:
    dots = bodies_of(shapely.box(0, 0, 1, 1), shapely.box(3, 0, 4, 1), shapely.box(0, 0, 4, 0.3))
    loops = hung(dots, place=place, hole=HOLE, wall=WALL, gap=GAP, stroke=STROKE, avoid=dots)
    assert loops and all(one.carrier is not None for one in loops)

"""Strokes that carry a loop: they go on as the letter's own stroke goes, hold the ring, and touch nothing."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from kizami.outlines.ring import Ring
from kizami.outlines.swash import Swashes

RING = Ring(hole=1.6, wall=0.8, gap=0.3, least_hold=0.35)
LEVELS = np.linspace(-1.0, 8.0, 19)


def exit_stroke(width: float, slope_deg: float) -> shapely.Geometry:
    """A stem whose stroke runs out to the right and up, as the last letter of a written word does."""
    angles = np.linspace(math.pi, 1.5 * math.pi + math.radians(slope_deg), 40)
    turn = np.column_stack((2 + 2 * np.cos(angles), 2 + 2 * np.sin(angles)))
    return shapely.LineString([(0, 9), *turn]).buffer(width / 2)


def best(search: Swashes) -> tuple[float, np.ndarray, shapely.Geometry]:
    found = [search.best(level) for level in np.argsort(-search.worth, kind="stable").tolist()]
    return next(one for one in found if one is not None)


@pytest.mark.parametrize("slope_deg", [20, 45, 60])
@pytest.mark.parametrize("width", [0.4, 0.8, 1.6])
def test_a_stroke_goes_on_from_where_a_letter_ends(width: float, slope_deg: float) -> None:
    letter = exit_stroke(width, slope_deg)
    worth, middle, stroke = best(Swashes(letter, letter, 1, LEVELS, RING))
    assert worth > 1.0
    # The ring stands clear beside the letter, and the stroke reaches its wall.
    assert letter.distance(shapely.Point(middle)) >= RING.outer + RING.gap
    assert middle[0] > letter.bounds[2]
    wall = shapely.Point(middle).buffer(RING.outer).difference(shapely.Point(middle).buffer(RING.hole / 2))
    assert stroke.intersects(wall)
    whole = shapely.union_all([letter, stroke, wall])
    assert whole.geom_type == "Polygon"
    # Nothing is closed but the ring itself, and nothing is finer than what may hold it.
    assert len(whole.interiors) == 1
    assert whole.buffer(-RING.least_hold / 2.2).geom_type == "Polygon"


@pytest.mark.parametrize("side", [-1, 1])
def test_both_sides_are_alike(side: int) -> None:
    letter = shapely.transform(exit_stroke(0.8, 40), lambda xy: xy * [side, 1])
    _, middle, _ = best(Swashes(letter, letter, side, LEVELS, RING))
    assert (middle[0] - letter.centroid.x) * side > 0


def test_a_stroke_keeps_clear_of_what_stands_in_its_way() -> None:
    letter = exit_stroke(0.8, 30)
    _, there, _ = best(Swashes(letter, letter, 1, LEVELS, RING))
    block = shapely.Point(there).buffer(0.7)
    whole = shapely.union_all([letter, block])
    blocked = Swashes(whole, letter, 1, LEVELS, RING)
    for level in range(len(LEVELS)):
        found = blocked.best(level)
        if found is not None:
            assert not found[2].intersects(block)
            assert shapely.Point(found[1]).distance(block) >= RING.outer


def test_where_a_stroke_only_turns_one_branches_off_along_it() -> None:
    """The left side of an O, from the level that a ring beside it can stand at."""
    letter = shapely.Point(0, 4).buffer(4).exterior.buffer(0.4)
    search = Swashes(letter, letter, -1, np.array([8.0]), RING)
    found = search.best(0)
    assert found is not None and found[1][0] < -4
    assert shapely.union_all([letter, found[2]]).geom_type == "Polygon"


@pytest.mark.parametrize("radius", [0.9, 1.4, 2.5])
def test_a_branch_begins_within_the_stroke_that_it_leaves(radius: float) -> None:
    """A fine stroke that turns in a small loop: nothing of a branch looks out below where it leaves."""
    letter = shapely.Point(0, 0).buffer(radius).exterior.buffer(0.175)
    found = Swashes(letter, letter, -1, np.array([radius + 3.0]), RING).best(0)
    assert found is not None
    out = found[2].difference(letter.buffer(0.02))
    assert not out.is_empty and out.bounds[1] > -0.1
    assert shapely.union_all([letter, found[2]]).geom_type == "Polygon"

"""How wide two shapes hold each other, how far one goes to be held, and corners that are rounded out."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from kizami.outlines.curves import bodies_of
from kizami.outlines.touching import blends, moved, neck, travel_until_held, travel_until_touching

DOWN = np.array([0.0, -1.0])


@pytest.mark.parametrize(
    ("apart", "chord"), [(1.9, 2 * math.sqrt(1 - 0.95**2)), (1.2, 1.6), (0.2, 2 * math.sqrt(0.99))]
)
def test_two_discs_hold_each_other_by_their_chord(apart: float, chord: float) -> None:
    """Two circles of radius 1 cross in a chord of 2 sqrt(1 - (d / 2)^2)."""
    one, other = (shapely.Point(x, 0).buffer(1.0, quad_segs=256) for x in (0.0, apart))
    assert neck(one, other) == pytest.approx(chord, abs=0.01) == neck(other, one)


@pytest.mark.parametrize(
    ("other", "expected"),
    [
        (shapely.box(5, 0, 6, 1), 0.0),
        (shapely.box(2, 2, 3, 3), 0.0),
        (shapely.box(2, 0.5, 3, 1), 0.0),
        (shapely.box(1, 0.5, 3, 0.7), 0.2),
        # Right through: it would have to be cut on both sides.
        (shapely.box(-1, 0.5, 3, 0.7), 0.4),
        (shapely.box(0.5, 0.5, 1, 1), math.inf),
    ],
    ids=[
        "apart",
        "corner to corner",
        "side to side",
        "a bar that ends inside",
        "a bar right through",
        "within",
    ],
)
def test_what_would_have_to_be_cut(other: shapely.Polygon, expected: float) -> None:
    assert neck(shapely.box(0, 0, 2, 2), other) == pytest.approx(expected)


@pytest.mark.parametrize("wanted", [0.3, 0.8, 1.5])
def test_a_disc_goes_down_until_a_flat_top_holds_it_by_the_width_wanted(wanted: float) -> None:
    """A disc of radius 1 that stands d deep in a flat has a chord of 2 sqrt(2 d - d^2)."""
    disc, table = shapely.Point(0, 5).buffer(1.0, quad_segs=256), shapely.box(-9, -1, 9, 0)
    went, width = travel_until_held(disc, table, DOWN, wanted=wanted, most=9.0, most_depth=1.0)
    depth = 1.0 - math.sqrt(1.0 - (wanted / 2.0) ** 2)
    # The depth is found in 2^-6 of what it may be.
    assert went == pytest.approx(4.0 + depth, abs=1 / 64 + 0.03 * wanted)
    assert wanted <= width <= 2 * math.sqrt(2 * (depth + 1 / 64 + 0.03 * wanted))


def test_what_never_meets_goes_nowhere() -> None:
    disc, aside = shapely.Point(0, 5).buffer(1.0), shapely.box(4, -1, 9, 0)
    assert travel_until_touching(disc, aside, DOWN, most=50.0) is None
    assert travel_until_held(disc, aside, DOWN, wanted=0.3, most=50.0, most_depth=1.0) == (0.0, 0.0)
    beneath = shapely.box(-9, -1, 9, 0)
    assert travel_until_touching(disc, beneath, DOWN, most=3.9) is None


def test_flat_sides_never_meet_in_a_hair() -> None:
    block, table = shapely.box(-1, 5, 1, 6), shapely.box(-9, -1, 9, 0)
    went, width = travel_until_held(block, table, DOWN, wanted=0.8, most=9.0, most_depth=0.4)
    assert width == pytest.approx(2.0)
    assert shapely.intersection(moved(block, DOWN * went), table).area > 0.03


@pytest.mark.parametrize("angle_deg", [60.0, 90.0, 120.0])
def test_a_corner_is_rounded_by_its_radius(angle_deg: float) -> None:
    """Between two sides at an angle a a round of radius r fills r^2 (cot(a / 2) - (pi - a) / 2)."""
    a, radius = math.radians(angle_deg), 0.5
    arm = shapely.LineString([(0, 0), (20, 0)]).buffer(1.0, cap_style="flat")
    other = shapely.transform(
        arm, lambda xy: xy @ np.array([[math.cos(a), math.sin(a)], [-math.sin(a), math.cos(a)]])
    )
    whole = bodies_of(shapely.union_all([arm, other, shapely.Point(0, 0).buffer(1.0)]))
    corner = np.array([1 / math.tan(a / 2), 1.0])
    found = blends(whole, [shapely.Point(corner).buffer(0.5)], radius=radius)
    expected = radius**2 * (1 / math.tan(a / 2) - (math.pi - a) / 2)
    assert sum(one.difference(whole).area for one in found) == pytest.approx(expected, rel=0.06)
    # It is a filling: nothing of it lies outside of the rounded whole, and it is one with it.
    assert len(bodies_of(whole, *found).geoms) == 1


def test_nothing_is_filled_far_from_a_joint_nor_along_hollow_edges() -> None:
    cross = bodies_of(shapely.union_all([shapely.box(0, -1, 40, 1), shapely.box(18, -9, 22, 9)]))
    assert blends(cross, [shapely.Point(2, 0).buffer(1.0)], radius=0.5) == []
    assert blends(cross, [], radius=0.5) == []
    bowl = bodies_of(shapely.box(-5, -5, 5, 0).difference(shapely.Point(0, 0).buffer(3.0, quad_segs=64)))
    assert blends(bowl, [shapely.Point(0, -3)], radius=1.0) == []

"""Thickening and thinning against closed formulas, and that only what is too thin is touched."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from kizami.lettering.shipped import shipped_typeface
from kizami.outlines.narrow import measure_shape
from kizami.outlines.weight import departure, thicken_all_over, thicken_where_needed

SAGITTA = 0.0005


def multi(*shapes: shapely.Geometry) -> shapely.MultiPolygon:
    united = shapely.union_all(list(shapes))
    return united if isinstance(united, shapely.MultiPolygon) else shapely.MultiPolygon([united])


# The area of a convex shape moved outward by d with rounded corners is A + P d + pi d^2 (Steiner);
# of a hole it is what the hole loses. Inward, a square loses P d - 4 d^2, a disc is a smaller disc.
DISC = multi(shapely.Point(0, 0).buffer(5.0, quad_segs=256))
SQUARE = multi(shapely.box(0, 0, 6, 6))
BAR = multi(shapely.box(0, 0, 20, 1))
RING = multi(shapely.Point(0, 0).buffer(5.0, 256).difference(shapely.Point(0, 0).buffer(3.0, 256)))


@pytest.mark.parametrize(
    ("shape", "by", "area"),
    [
        pytest.param(DISC, 0.4, math.pi * 5.4**2, id="disc outward"),
        pytest.param(DISC, -0.4, math.pi * 4.6**2, id="disc inward"),
        pytest.param(SQUARE, 0.4, 36 + 24 * 0.4 + math.pi * 0.4**2, id="square outward"),
        pytest.param(SQUARE, -0.4, 5.2**2, id="square inward"),
        pytest.param(BAR, 0.1, 20 + 42 * 0.1 + math.pi * 0.1**2, id="bar outward, a laser's 0.1 mm"),
        pytest.param(
            BAR, 25.4 / 72 * 1.5, 20 + 42 * 0.52917 + math.pi * 0.52917**2, id="bar, stroke of 3 pt"
        ),
        pytest.param(RING, 0.5, math.pi * (5.5**2 - 2.5**2), id="ring outward"),
    ],
)
def test_all_over_is_the_parallel_curve(shape: shapely.MultiPolygon, by: float, area: float) -> None:
    weighed = thicken_all_over(shape, by, sagitta=SAGITTA)
    assert weighed.shape.area == pytest.approx(area, rel=2e-4)
    assert weighed.area_share == pytest.approx(area / shape.area, rel=4e-4)
    # A corner moves outward to an arc of radius d: no point of it is further away than d.
    corner = math.sqrt(2) if by < 0 and shape is SQUARE else 1.0
    assert weighed.departure == pytest.approx(abs(by) * corner, abs=2e-3)
    assert (weighed.closed_middles, weighed.lost_bodies) == (0, 0)


def test_what_closes_is_counted() -> None:
    closed = thicken_all_over(RING, 3.1, sagitta=SAGITTA)
    assert (closed.closed_middles, closed.lost_bodies) == (1, 0)
    pair = multi(shapely.box(0, 0, 1, 5), shapely.box(1.5, 0, 2.5, 5))
    assert thicken_all_over(pair, 0.3, sagitta=SAGITTA).lost_bodies == 1
    assert thicken_all_over(pair, -0.6, sagitta=SAGITTA).lost_bodies == 2


def test_nothing_and_no_change_come_back_as_they_are() -> None:
    assert thicken_all_over(SQUARE, 0.0, sagitta=SAGITTA).shape is SQUARE
    assert thicken_all_over(multi(), 0.5, sagitta=SAGITTA).shape.is_empty
    assert thicken_where_needed(SQUARE, 1.0, cap_height=6, sagitta=SAGITTA).shape is SQUARE


def test_a_hairline_is_thickened_and_the_strong_strokes_keep_every_point() -> None:
    """An H of two strong posts and a hairline between."""
    h = multi(shapely.box(0, 0, 3, 10), shapely.box(2, 4.8, 8, 5.2), shapely.box(7, 0, 10, 10))
    thick = thicken_where_needed(h, 1.0, cap_height=10, sagitta=SAGITTA)
    stroke = measure_shape(thick.shape, cap_height=10).stroke
    assert stroke is not None and stroke.width >= 1.0
    # Half of what was missing on either side, and the pen's own hair.
    assert thick.departure == pytest.approx(0.3, abs=0.02)
    for post in (shapely.box(0, 0, 1.9, 10), shapely.box(8.1, 0, 10, 10)):
        assert thick.shape.intersection(post).area == pytest.approx(post.area)
    added = thick.shape.difference(h)
    assert added.bounds[0] >= 2.9 and added.bounds[2] <= 7.1


@pytest.mark.parametrize(
    "code", ["great-vibes", "sacramento", "cinzel-bold", "dancing-script-bold", "vollkorn"]
)
@pytest.mark.parametrize("letter", list("AgeMW8"))
def test_every_letter_reaches_the_process_minimum(code: str, letter: str) -> None:
    """At 5 mm, for a minimum of 0.35 mm: lost-wax casting from a printed pattern."""
    typeface = shipped_typeface(code)
    glyph = typeface.shape(letter)[0].glyph
    unit = 5.0 / typeface.cap_height_upem
    drawn = shapely.transform(
        typeface.outline(glyph, sagitta_upem=0.002 / unit).polygons, lambda xy: xy * unit
    )
    thick = thicken_where_needed(drawn, 0.35, cap_height=5.0, sagitta=0.002, most=0.35 / 2)
    stroke = measure_shape(thick.shape, cap_height=5.0).stroke
    assert stroke is not None and stroke.width >= 0.345
    assert shapely.covers(thick.shape.buffer(1e-9), drawn)
    assert thick.departure <= 0.35 / 2 + 0.03
    assert thick.shape.is_valid


@pytest.mark.parametrize("shift", [0.0, 0.2, 1.0])
def test_departure_is_how_far_a_corner_stands_out(shift: float) -> None:
    moved = shapely.transform(SQUARE, lambda xy: xy + np.array([shift, 0.0]))
    assert departure(SQUARE, moved) == pytest.approx(shift)
    assert departure(SQUARE, multi()) == 0.0


@pytest.mark.parametrize("gap", [0.0, 0.3])
def test_a_thickened_stroke_makes_room_where_it_would_close_a_gap(gap: float) -> None:
    """A stroke of 0.2 that stands 0.35 from a bar and must be 0.35 wide: thickened alike on both sides it would
    leave 0.275."""
    bar, stroke = shapely.box(0, 0, 10, 2), shapely.box(0, 2.35, 10, 2.55)
    thick = thicken_where_needed(
        shapely.MultiPolygon([bar, stroke]), 0.35, cap_height=5.0, sagitta=0.002, gap=gap
    ).shape
    window = shapely.box(3, -1, 7, 4)
    low, high = sorted((body.intersection(window) for body in thick.geoms), key=lambda b: b.centroid.y)
    left_open = low.distance(high)
    assert left_open == pytest.approx(0.275, abs=0.01) if not gap else left_open >= 0.3 * 0.98
    # It is as wide either way, and grew no further than it had to.
    assert 0.35 * 0.97 <= high.bounds[3] - high.bounds[1] <= 0.39

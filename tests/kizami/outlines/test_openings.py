"""What openings are: by shapes whose measures are known."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from kizami.outlines.drawn import DrawnOutline
from kizami.outlines.openings import openings_told

BOX = shapely.box(0, 0, 40, 20)


def told(edge: shapely.Polygon, *openings: shapely.Polygon, scale: float = 1.0) -> tuple[str, ...]:
    rings = tuple(np.asarray(one.exterior.coords)[:-1] for one in openings)
    outline = DrawnOutline(edge=np.asarray(edge.exterior.coords)[:-1], openings=rings, notes=())
    return openings_told(outline, scale)


def disc(x: float, y: float, radius: float) -> shapely.Polygon:
    return shapely.Point(x, y).buffer(radius, quad_segs=24)


@pytest.mark.parametrize("turn", [0.0, 17.0, 45.0, 90.0])
@pytest.mark.parametrize(
    ("opening", "said"),
    [
        (disc(20, 10, 2), "a hole 4.00 mm across"),
        (shapely.LineString([(14, 10), (24, 10)]).buffer(1.5, quad_segs=24), "a slot 13.00 by 3.00 mm"),
        (shapely.box(15, 8, 25, 11), "a slot 10.00 by 3.00 mm"),
        (shapely.box(18, 8, 22, 12), "an opening 4.00 by 4.00 mm"),
        (disc(20, 8, 4).intersection(shapely.box(10, 8, 30, 20)), "an opening 8.00 by 4.00 mm"),
    ],
    ids=["round", "rounded slot", "square slot", "square", "half round"],
)
def test_each_is_called_what_it_is_however_it_is_turned(
    opening: shapely.Polygon, said: str, turn: float
) -> None:
    cos, sin = math.cos(math.radians(turn)), math.sin(math.radians(turn))

    def turned(shape: shapely.Polygon) -> shapely.Polygon:
        return shapely.transform(shape, lambda xy: (xy - (20, 10)) @ np.array([[cos, sin], [-sin, cos]]))

    assert told(turned(BOX), turned(opening)) == (said,)


def test_measures_are_those_of_the_piece_and_not_of_the_drawing() -> None:
    assert told(BOX, disc(20, 10, 2), scale=1.5) == ("a hole 6.00 mm across",)


@pytest.mark.parametrize("at", [0.0, 60.0, 90.0, 200.0])
def test_a_hole_in_what_stands_out_is_in_an_ear(at: float) -> None:
    """A round of 30 mm with an ear of 4 mm about a hole of 4 mm, anywhere on it."""
    x, y = 16.0 * math.cos(math.radians(at)), 16.0 * math.sin(math.radians(at))
    edge = disc(0, 0, 15).union(disc(x, y, 4))
    assert told(edge, disc(x, y, 2)) == ("a hole 4.00 mm across, in an ear",)
    # The same hole within the round is in none, even near its edge.
    assert told(disc(0, 0, 15), disc(0.7 * x, 0.7 * y, 2)) == ("a hole 4.00 mm across",)


def test_a_hole_in_a_corner_is_in_no_ear() -> None:
    assert told(BOX, disc(4, 4, 2)) == ("a hole 4.00 mm across",)


def test_many_are_counted() -> None:
    holes = [disc(4 + 4 * n, 10, 1) for n in range(9)]
    found = told(BOX, *holes)
    assert len(found) == 7 and found[-1] == "3 more openings"

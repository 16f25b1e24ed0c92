"""Slopes right round an outline: from corner to corner, or left to the clipping of ears."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from kizami.dividing.parts import divide
from kizami.dividing.slopes import across_slopes
from kizami.dividing.triangulating import triangulated


def strip(outer: shapely.Polygon, inner: shapely.Polygon) -> tuple[np.ndarray, np.ndarray]:
    """Places, and triangles of what lies between."""
    outside, inside = (
        np.array(shapely.orient_polygons(shape).exterior.coords)[:-1] for shape in (outer, inner)
    )
    places = np.vstack((outside, inside))
    count = len(outside)
    triangles, _ = across_slopes(
        places,
        np.arange(count),
        np.array([0, count]),
        np.arange(len(places) - 1, count - 1, -1),
        np.array([0, len(inside)]),
    )
    return places, triangles


def areas(places: np.ndarray, triangles: np.ndarray) -> np.ndarray:
    a, b, c = places[triangles.T]
    return ((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]) / 2


ROUND = shapely.Point(0, 0).buffer(5.0, quad_segs=24)
WAVY = shapely.Polygon(
    [
        ((5 + math.sin(7 * a)) * math.cos(a), (5 + math.sin(7 * a)) * math.sin(a))
        for a in np.linspace(0, 6.28, 200)
    ]
)
CROSS = shapely.union(shapely.box(-1, -4, 1, 4), shapely.box(-4, -1, 4, 1))


@pytest.mark.parametrize("width", [0.02, 0.15, 0.5])
@pytest.mark.parametrize("shape", [ROUND, WAVY, CROSS], ids=["round", "wavy", "a cross"])
def test_a_slope_is_filled_with_a_triangle_for_every_side(shape: shapely.Polygon, width: float) -> None:
    inner = shape.buffer(-width, join_style="mitre").simplify(0.002)
    places, triangles = strip(shape, inner)
    assert len(triangles) == len(places)
    assert areas(places, triangles).min() > 0
    assert areas(places, triangles).sum() == pytest.approx(shape.area - inner.area)
    # Every triangle reaches across: it has corners on both sides.
    on_outer = (triangles < len(shape.exterior.coords) - 1).sum(axis=1)
    assert set(on_outer.tolist()) == {1, 2}


@pytest.mark.parametrize(
    "inner",
    [
        shapely.box(3.0, -0.5, 4.5, 0.5),
        shapely.box(-4, -0.1, 4, 0.1),
        shapely.Point(0, 0).buffer(0.5),
    ],
    ids=["to one side", "a slit", "far away"],
)
def test_what_is_no_even_strip_is_left_to_ears(inner: shapely.Polygon) -> None:
    places, triangles = strip(ROUND, inner)
    # Either nothing, or all of it and nothing turned over.
    if len(triangles):
        assert areas(places, triangles).min() > 0
        assert areas(places, triangles).sum() == pytest.approx(ROUND.area - inner.area)
    divided = divide([ROUND, inner], [])
    assert divided is not None
    triangles, _ = triangulated(divided)
    found = areas(divided.contours.nodes, triangles)
    assert found.min() > 0 and found.sum() == pytest.approx(ROUND.area)

"""Flattening within tolerance, and sorting contours into bodies with holes."""

from __future__ import annotations

import math

import numpy as np
import pathops
import pytest
import shapely

from kizami.outlines.curves import clean_path, flatten, polygons_from_contours

#: Control length of the cubic that is nearest to a quarter circle; off by 2.7e-4 of the radius.
KAPPA = 4 / 3 * (math.sqrt(2) - 1)


def circle(radius: float, x: float = 0.0, *, clockwise: bool = False) -> pathops.Path:
    path = pathops.Path()
    pen = path.getPen()
    k = KAPPA * radius
    corners = [(1, 0), (0, 1), (-1, 0), (0, -1)]
    if clockwise:
        corners = [(1, 0), (0, -1), (-1, 0), (0, 1)]
    turn = -1 if clockwise else 1
    pen.moveTo((x + radius, 0))
    for (ax, ay), (bx, by) in zip(corners, [*corners[1:], corners[0]], strict=True):
        pen.curveTo(
            (x + ax * radius - turn * ay * k, ay * radius + turn * ax * k),
            (x + bx * radius + turn * by * k, by * radius - turn * bx * k),
            (x + bx * radius, by * radius),
        )
    pen.closePath()
    return path


@pytest.mark.parametrize("sagitta", [1.0, 0.1, 0.01])
def test_chords_stay_within_the_tolerance(sagitta: float) -> None:
    (points,) = flatten(circle(100.0), sagitta=sagitta)
    middles = (points + np.roll(points, -1, axis=0)) / 2
    # The cubic itself leaves the circle by up to 0.00027 r outward.
    assert np.hypot(*middles.T).min() >= 100.0 - sagitta - 1e-6
    assert np.hypot(*points.T).max() <= 100.0 * 1.0003


def test_no_more_chords_than_a_third_above_what_the_tolerance_asks() -> None:
    (points,) = flatten(circle(100.0), sagitta=0.05)
    needed = math.pi / math.acos(1 - 0.05 / 100.0)
    assert len(points) <= 1.34 * needed + 4


def test_quadratics_keep_to_the_tolerance() -> None:
    path = pathops.Path()
    pen = path.getPen()
    pen.moveTo((0, 0))
    pen.qCurveTo((50, 100), (100, 0))
    pen.closePath()
    (points,) = flatten(path, sagitta=0.2)
    # y = 2 t (1 - t) 100 with x = 100 t: the parabola y = 2 x (100 - x) / 100.
    dense = np.linspace(points[:-1], points[1:], 20).reshape(-1, 2)
    assert np.abs(dense[:, 1] - 2 * dense[:, 0] * (100 - dense[:, 0]) / 100).max() <= 0.2


def test_overlapping_contours_become_one() -> None:
    both = pathops.Path(circle(10.0))
    circle(10.0, x=8.0).draw(both.getPen())
    (points,) = flatten(clean_path(both), sagitta=0.01)
    # Two discs less their lens, from the closed formula.
    d, r = 8.0, 10.0
    lens = 2 * r * r * math.acos(d / (2 * r)) - d / 2 * math.sqrt(4 * r * r - d * d)
    assert shapely.Polygon(points).area == pytest.approx(2 * math.pi * r * r - lens, rel=2e-3)


@pytest.mark.parametrize("hole_clockwise", [True, False])
def test_holes_are_found_whatever_the_winding(hole_clockwise: bool) -> None:
    square = np.array([(0, 0), (10, 0), (10, 10), (0, 10)], float)
    hole = np.array([(2, 2), (2, 4), (4, 4), (4, 2)], float)
    island = np.array([(2.5, 2.5), (3.5, 2.5), (3.5, 3.5), (2.5, 3.5)], float)
    shape = polygons_from_contours([hole if hole_clockwise else hole[::-1], island, square])
    assert shape.area == pytest.approx(100 - 4 + 1)
    assert len(shape.geoms) == 2
    assert all(shapely.is_ccw(body.exterior) for body in shape.geoms)
    assert all(not shapely.is_ccw(h) for body in shape.geoms for h in body.interiors)


def test_contours_without_area_are_dropped() -> None:
    assert polygons_from_contours([np.array([(0, 0), (1, 1), (2, 2)], float)]).is_empty

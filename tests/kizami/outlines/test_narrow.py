"""Strokes and gaps measured on shapes whose widths are known by construction."""

from __future__ import annotations

import math

import pytest
import shapely

from kizami.outlines.narrow import measure_shape

CAP = 100.0


def multi(*shapes: shapely.Geometry) -> shapely.MultiPolygon:
    united = shapely.union_all(list(shapes))
    return united if isinstance(united, shapely.MultiPolygon) else shapely.MultiPolygon([united])


def wedge(angle_deg: float, length: float) -> shapely.Polygon:
    half = length * math.tan(math.radians(angle_deg) / 2)
    return shapely.Polygon([(0, 0), (length, -half), (length, half)])


STROKES = [
    pytest.param(multi(shapely.box(0, 0, 100, 12)), 12, id="bar"),
    pytest.param(multi(shapely.Point(0, 0).buffer(50, 64).difference(shapely.Point(0, 0).buffer(42, 64))), 8, id="ring"),
    pytest.param(multi(shapely.box(0, 0, 100, 20), shapely.box(40, 0, 47, 100)), 7, id="T of two bars"),
    pytest.param(multi(shapely.box(0, 0, 30, 100), shapely.box(28, 45, 72, 50), shapely.box(70, 0, 100, 100)), 5, id="H with a hairline"),
    pytest.param(multi(shapely.box(0, 0, 15, 15)), 15, id="square dot"),
    pytest.param(multi(shapely.Point(0, 0).buffer(9, 64)), 18, id="round dot"),
]  # fmt: skip


@pytest.mark.parametrize(("shape", "width"), STROKES)
def test_thinnest_stroke(shape: shapely.MultiPolygon, width: float) -> None:
    facts = measure_shape(shape, cap_height=CAP)
    assert facts.stroke is not None
    # Sampling overstates by at most s^2 / (2 w) with s = 0.6 here: under 0.04 in these shapes.
    assert facts.stroke.width == pytest.approx(width, abs=0.15)


def test_the_spot_lies_on_the_hairline() -> None:
    shape = multi(shapely.box(0, 0, 30, 100), shapely.box(28, 45, 72, 50), shapely.box(70, 0, 100, 100))
    stroke = measure_shape(shape, cap_height=CAP).stroke
    assert stroke is not None
    assert 30 <= stroke.x <= 70
    assert stroke.y == pytest.approx(47.5, abs=0.5)


@pytest.mark.parametrize("angle", [40.0, 60.0, 90.0])
def test_a_blunt_point_is_no_thin_stroke(angle: float) -> None:
    """The corner of a triangle narrows to nothing, but no disc in it lasts."""
    shape = multi(wedge(angle, 100))
    stroke = measure_shape(shape, cap_height=CAP).stroke
    assert stroke is not None
    assert stroke.width > 15


def test_a_long_thin_spike_is_a_thin_stroke() -> None:
    stroke = measure_shape(multi(wedge(8.0, 120)), cap_height=CAP).stroke
    assert stroke is not None
    assert stroke.width < 3


GAPS = [
    pytest.param(multi(shapely.box(0, 0, 20, 100), shapely.box(26, 0, 46, 100)), 6, id="slot between bars"),
    pytest.param(multi(shapely.Point(0, 0).buffer(50, 64).difference(shapely.Point(0, 0).buffer(5, 64))), 10, id="small round middle"),
    pytest.param(multi(shapely.box(0, 0, 100, 100).difference(shapely.box(20, 40, 80, 44))), 4, id="long narrow middle"),
    pytest.param(multi(shapely.box(0, 0, 20, 60), shapely.box(0, 70, 20, 90)), 10, id="under the dot of an i"),
]  # fmt: skip


@pytest.mark.parametrize(("shape", "width"), GAPS)
def test_narrowest_gap(shape: shapely.MultiPolygon, width: float) -> None:
    gap = measure_shape(shape, cap_height=CAP).gap
    assert gap is not None
    assert gap.width == pytest.approx(width, abs=0.15)


def test_a_wide_notch_is_no_gap() -> None:
    """The inside of a V closes at its root without filling in."""
    v = multi(shapely.Polygon([(0, 100), (50, 0), (100, 100), (80, 100), (50, 40), (20, 100)]))
    assert measure_shape(v, cap_height=CAP).gap is None


def test_facts_scale_with_the_shape() -> None:
    shape = multi(shapely.box(0, 0, 20, 100), shapely.box(26, 0, 46, 100))
    small = measure_shape(shape, cap_height=CAP)
    large = measure_shape(shapely.transform(shape, lambda xy: xy * 7), cap_height=CAP * 7)
    assert small.gap is not None and large.gap is not None
    assert large.gap.width == pytest.approx(7 * small.gap.width, rel=1e-6)

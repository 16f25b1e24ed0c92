"""True lengths against closed formulas: cylinders, bores, balls, cones, and what a mould sees."""

from __future__ import annotations

import math

import numpy as np
import pytest

from kizami.as_made.scale import Scale
from kizami.surfaces.bore import Bore
from kizami.surfaces.cylinder import Cylinder
from kizami.surfaces.moved import Moved
from kizami.surfaces.plane import Plane
from kizami.surfaces.turned import ball_band

U, V = np.array([[1.0, 0.0]]), np.array([[0.0, 1.0]])


@pytest.mark.parametrize(
    ("surface", "at", "height", "along_u", "along_v"),
    [
        pytest.param(Plane(), (3.0, 4.0), 1.0, 1.0, 1.0, id="a plane is true at every height"),
        pytest.param(Cylinder(radius_mm=10.0), (3.0, 4.0), 0.0, 1.0, 1.0, id="a cylinder on itself"),
        pytest.param(Cylinder(radius_mm=10.0), (3.0, 4.0), 1.0, 1.1, 1.0, id="and 1 mm above: 1 + h / R"),
        pytest.param(Bore(radius_mm=3.5), (1.0, 2.0), 0.4, 1 - 0.4 / 3.5, 1.0, id="in a bore of 7 mm: 0.886"),
        pytest.param(
            ball_band(radius_mm=9.0), (2.0, 9.0 * math.radians(30)), 0.0, math.cos(math.radians(30)), 1.0,
            id="a ball at 30 degrees: cos 30",
        ),
        pytest.param(
            ball_band(radius_mm=9.0), (2.0, 9.0 * math.radians(30)), -0.9, 0.9 * math.cos(math.radians(30)), 0.9,
            id="and a tenth of the radius down",
        ),
    ],
)  # fmt: skip
def test_true_widths(surface, at, height: float, along_u: float, along_v: float) -> None:
    scale, place = Scale(surface), np.array([at])
    assert scale.across(place, U, height)[0] == pytest.approx(along_u, abs=1e-6)
    assert scale.across(place, V, height)[0] == pytest.approx(along_v, abs=1e-6)
    everywhere = scale.across(place, np.zeros((1, 2)), height)[0]
    assert everywhere == pytest.approx(min(along_u, along_v), abs=1e-6)


def test_a_slanted_band_is_as_wide_as_its_walls_are_apart() -> None:
    """On a cylinder u grows by a: walls x + y = c and c + sqrt 2 come to x / a + y = c: sqrt 2 / sqrt(1 / a^2 + 1)."""
    slanted = np.array([[1.0, 1.0]]) / math.sqrt(2.0)
    found = Scale(Cylinder(radius_mm=10.0)).across(np.zeros((1, 2)), slanted, 2.0)[0]
    assert found == pytest.approx(math.sqrt(2.0) / math.sqrt(1 / 1.2**2 + 1), rel=1e-6)


@pytest.mark.parametrize("angle", [0.0, 20.0, 60.0, 85.0])
def test_a_mould_sees_the_cosine_of_the_face(angle: float) -> None:
    """Round a cylinder the front looks at the pull, and at an angle widths shrink by its cosine."""
    surface = Cylinder(radius_mm=10.0)
    scale = Scale(surface, np.array([0.0, -1.0, 0.0]))
    place = np.array([[10.0 * (math.pi + math.radians(angle)), 1.0]])
    assert scale.across(place, U, 0.5)[0] == pytest.approx(math.cos(math.radians(angle)), abs=1e-6)
    assert scale.across(place, V, 0.5)[0] == pytest.approx(1.0, abs=1e-6)
    assert scale.facing(place)[0] == pytest.approx(math.cos(math.radians(angle)), abs=1e-9)


def test_only_a_plane_along_its_normal_is_true_everywhere() -> None:
    turned = Moved(surface=Plane(), rows=((1, 0, 0), (0, 0, -1), (0, 1, 0)))
    assert Scale(Plane()).is_true and Scale(turned).is_true
    assert not Scale(Cylinder(radius_mm=1e3)).is_true
    assert not Scale(Plane(), np.array([0.6, 0.0, 0.8])).is_true

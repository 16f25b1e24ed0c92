"""The surface protocol: true length, normals, orientation, steps, layers."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kizami.surfaces.cylinder import Cylinder
from kizami.surfaces.plane import Plane
from kizami.surfaces.protocol import Surface

SURFACES = [pytest.param(Cylinder(radius_mm=10.4), id="cylinder"), pytest.param(Plane(z_mm=3.0), id="plane")]
coordinate = st.floats(-30, 30)


@pytest.mark.parametrize("surface", SURFACES)
@given(u=coordinate, v=coordinate)
def test_steps_on_the_surface_have_true_length_and_a_right_handed_frame(
    surface: Surface, u: float, v: float
) -> None:
    step = 1e-5
    uv = np.array([(u, v), (u + step, v), (u, v + step), (u, v)])
    points = surface.place(uv, np.array([0, 0, 0, step]))
    along, up, out = (points[i] - points[0] for i in (1, 2, 3))
    assert np.linalg.norm(along) == pytest.approx(step, rel=1e-4)
    assert np.linalg.norm(up) == pytest.approx(step, rel=1e-4)
    assert np.linalg.norm(out) == pytest.approx(step, rel=1e-4)
    # Reading direction x up = outward: lettering can't come out mirrored.
    assert np.dot(np.cross(along, up), out) == pytest.approx(step**3, rel=1e-3)


@pytest.mark.parametrize("surface", SURFACES)
def test_stretch_is_one(surface: Surface) -> None:
    assert (surface.stretch(np.zeros((4, 2))) == 1).all()


def test_a_cylinder_meets_itself_after_its_period() -> None:
    surface = Cylinder(radius_mm=9.0)
    assert surface.period_mm is not None
    uv = np.array([(1.0, 2.0), (1.0 + surface.period_mm, 2.0)])
    first, second = surface.place(uv, np.zeros(2))
    assert first == pytest.approx(second)


def test_the_middle_of_the_band_faces_the_front() -> None:
    surface = Cylinder(radius_mm=9.0)
    (point,) = surface.place(np.array([(math.pi * 9.0, 4.0)]), np.array([0.5]))
    assert point == pytest.approx([0, -9.5, 4])


@given(radius=st.floats(2, 200), sagitta=st.floats(0.001, 0.1), height=st.floats(0, 3))
def test_a_chord_of_the_longest_step_leaves_the_surface_by_the_tolerance(
    radius: float, sagitta: float, height: float
) -> None:
    surface = Cylinder(radius_mm=radius)
    du, dv = surface.max_step(sagitta_mm=sagitta, h_mm=height)
    assert math.isinf(dv)
    ends = surface.place(np.array([(0, 0), (du, 0)]), np.array([height, height]))
    middle = np.hypot(*ends.mean(axis=0)[:2])
    assert radius + height - middle == pytest.approx(sagitta, rel=1e-3, abs=1e-9)


@pytest.mark.parametrize(("low", "high"), [(-0.4, 0.0), (0.0, 0.5), (-2.0, 3.0)])
def test_a_layer_of_a_whole_turn_is_a_hollow_cylinder(low: float, high: float) -> None:
    surface = Cylinder(radius_mm=10.0)
    hollow = math.pi * ((10 + high) ** 2 - (10 + low) ** 2)
    assert surface.layer_mm(low, high) * 2 * math.pi * 10 == pytest.approx(hollow)


def test_a_layer_of_a_plane_is_its_thickness() -> None:
    assert Plane().layer_mm(-0.5, 0.75) == 1.25

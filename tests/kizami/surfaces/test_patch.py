"""A patch of a mesh against the exact unrolling of the ball and of the cylinder that the mesh stands for."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh

from kizami.errors import SurfaceError
from kizami.surfaces.patch import MOST_STRETCH, Patch, unroll_patch

RADIUS = 20.0
REACH = 9.0


def ball() -> trimesh.Trimesh:
    return trimesh.creation.icosphere(subdivisions=5, radius=RADIUS)


def drum() -> trimesh.Trimesh:
    mesh = trimesh.creation.cylinder(radius=RADIUS, height=40, sections=256)
    mesh.merge_vertices()
    return mesh


@pytest.fixture(scope="module")
def on_ball() -> Patch:
    return unroll_patch(ball(), point=(0.0, -RADIUS, 0.0), radius_mm=REACH)


@pytest.fixture(scope="module")
def on_drum() -> Patch:
    return unroll_patch(drum(), point=(3.0, -19.7, 2.0), radius_mm=REACH)


def grid(patch: Patch, reach: float = REACH * 0.9) -> np.ndarray:
    axis = np.linspace(-reach, reach, 21)
    uv = np.array([(u, v) for u in axis for v in axis])
    return uv[np.hypot(*uv.T) <= reach]


def test_on_a_ball_distances_and_directions_from_the_point_are_exact(on_ball: Patch) -> None:
    uv = grid(on_ball)
    points = on_ball.place(uv, np.zeros(len(uv)))
    # Seen from outside at the front: u to the right is +x, v up is +z.
    angle = np.hypot(*uv.T) / RADIUS
    direction = uv / np.maximum(np.hypot(*uv.T), 1e-12)[:, None]
    exact = RADIUS * np.column_stack(
        (np.sin(angle) * direction[:, 0], -np.cos(angle), np.sin(angle) * direction[:, 1])
    )
    # The mesh's own facets stand off the ball by 0.006 mm; the map's error comes on top.
    assert np.linalg.norm(points - exact, axis=1).max() < 0.08


def test_on_a_cylinder_it_is_the_plain_unrolling(on_drum: Patch) -> None:
    uv = grid(on_drum)
    points = on_drum.place(uv, np.zeros(len(uv)))
    start = math.atan2(3.0, 19.7)
    turn = start + uv[:, 0] / RADIUS
    exact = np.column_stack((RADIUS * np.sin(turn), -RADIUS * np.cos(turn), 2.0 + uv[:, 1]))
    assert np.linalg.norm(points - exact, axis=1).max() < 0.03
    assert np.abs(on_drum.stretch(uv) - 1).max() < 0.02


@pytest.mark.parametrize("height", [-0.6, 0.5])
def test_heights_are_along_the_normal(on_ball: Patch, on_drum: Patch, height: float) -> None:
    for patch, reach in (
        (on_ball, lambda p: np.linalg.norm(p, axis=1)),
        (on_drum, lambda p: np.hypot(p[:, 0], p[:, 1])),
    ):
        uv = grid(patch)
        out = reach(patch.place(uv, np.full(len(uv), height)))
        assert np.abs(out - (RADIUS + height)).max() < 0.01


def test_bends_are_those_of_the_body(on_ball: Patch, on_drum: Patch) -> None:
    uv = grid(on_ball, 6.0)
    assert np.median(on_ball.curvatures(uv), axis=0) == pytest.approx([1 / RADIUS] * 2, rel=0.05)
    assert np.median(on_drum.curvatures(uv), axis=0) == pytest.approx([1 / RADIUS, 0], abs=0.005)
    step, _ = on_ball.max_step(sagitta_mm=0.005, h_mm=0.0)
    assert step == pytest.approx(math.sqrt(4 * 0.005 * RADIUS), rel=0.25)


def test_it_reads_from_outside_with_v_up() -> None:
    mesh = ball()
    for point in ((0, -20, 0), (20, 0, 0), (0, 20, 0), (-14.1, -14.1, 0), (0, 0, 20)):
        patch = unroll_patch(mesh, point=point, radius_mm=5)
        a, right, up, out = patch.place(np.array([(0, 0), (1, 0), (0, 1), (0, 0)]), np.array([0, 0, 0, 1]))
        assert np.cross(right - a, up - a) @ (out - a) > 0.9
        if point[2] == 0:
            assert (up - a)[2] > 0.95
            assert abs((right - a)[2]) < 0.05


def test_the_patch_is_as_large_as_asked_and_stops_at_an_edge_or_goes_round_it() -> None:
    """20 mm up on a drum of 40 mm: the rim is 3 mm above the point."""
    stops = unroll_patch(drum(), point=(0, -20, 17), radius_mm=8)
    assert stops.outline.bounds[3] == pytest.approx(3.0, abs=0.05)
    # Facets that reach in are kept whole, so the circle itself lies within.
    assert -9.0 < stops.outline.bounds[1] <= -8.0
    follows = unroll_patch(drum(), point=(0, -20, 17), radius_mm=8, follow_edges=True, most_stretch=3.0)
    assert follows.outline.bounds[3] > 5.0


def test_it_is_trimmed_where_lengths_would_change_too_much() -> None:
    """Round a ball lengths across shrink by sin(a)/a: below 1/1.15 from a = 0.9 on."""
    patch = unroll_patch(ball(), point=(0, -20, 0), radius_mm=30)
    limit = next(a for a in np.linspace(0.1, 2, 2000) if math.sin(a) / a < 1 / MOST_STRETCH)
    low, bottom, high, top = patch.outline.bounds
    assert (high - low) / 2 == pytest.approx(limit * RADIUS, rel=0.06)
    assert (top - bottom) / 2 == pytest.approx(limit * RADIUS, rel=0.06)
    assert patch.notes


def test_the_same_mesh_gives_the_same_patch() -> None:
    one, other = (unroll_patch(drum(), point=(3.0, -19.7, 2.0), radius_mm=5) for _ in range(2))
    assert np.array_equal(one.uv, other.uv) and np.array_equal(one.faces, other.faces)


def test_a_point_off_the_body_takes_the_nearest_of_it() -> None:
    near = unroll_patch(ball(), point=(0, -35, 0), radius_mm=4)
    (point,) = near.place(np.zeros((1, 2)), np.zeros(1))
    assert point == pytest.approx([0, -20, 0], abs=0.05)


def test_where_nothing_can_be_unrolled_it_is_said() -> None:
    with pytest.raises(SurfaceError, match="stretch"):
        unroll_patch(ball(), point=(0, -20, 0), radius_mm=9, most_stretch=1.0)

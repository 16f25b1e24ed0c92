"""How pieces lie, beside trimesh's stable poses and plain mechanics."""

from __future__ import annotations

from collections.abc import Callable

import manifold3d as m3
import numpy as np
import pytest
import trimesh

from kizami.errors import RunError
from kizami.runs.body import Body
from kizami.runs.poses import lay, stable_poses
from tests.kizami.runs.samples import body, ring, wedge


def test_a_box_lies_on_its_largest_face() -> None:
    laid = lay(body(m3.Manifold.cube((30, 10, 20))))
    assert laid.height_mm == pytest.approx(10)
    assert laid.outline.area == pytest.approx(600)
    assert laid.volume_mm3 == pytest.approx(6000)


def test_a_ring_lies_flat_and_its_outline_has_no_hole() -> None:
    laid = lay(body(ring(bore=17, wall=2, width=6)))
    assert laid.height_mm == pytest.approx(6, abs=1e-4)
    assert laid.outline.area == pytest.approx(np.pi * 10.5**2, rel=2e-3)


@pytest.mark.parametrize("manifold", [lambda: m3.Manifold.cube((30, 10, 20)), wedge], ids=["box", "wedge"])
def test_poses_are_those_that_trimesh_finds_stable(manifold: Callable[[], m3.Manifold]) -> None:
    made = body(manifold())
    mesh = trimesh.Trimesh(made.points, made.faces)
    transforms, chances = trimesh.poses.compute_stable_poses(mesh, n_samples=1)
    theirs = {
        tuple(np.round(t[2, :3], 2) + 0.0) for t, c in zip(transforms, chances, strict=True) if c > 1e-6
    }
    ours = {tuple(np.round(pose.turn[2], 2) + 0.0) for pose in stable_poses(made)}
    assert ours == theirs


def test_it_comes_to_lie_at_the_origin_on_the_bed() -> None:
    made = body(wedge().rotate((33, 71, 5)).translate((5, -9, 3)))
    laid = lay(made)
    points = made.points @ laid.turn.T + laid.shift
    assert np.allclose(points.min(axis=0), 0.0, atol=1e-3)
    assert np.allclose(laid.turn @ laid.turn.T, np.eye(3)) and np.linalg.det(laid.turn) > 0
    assert laid.outline.bounds[:2] == pytest.approx((0, 0), abs=1e-3)


def test_lettering_looks_up() -> None:
    plate = m3.Manifold.cube((40, 20, 3))
    for up, sign in (((0.0, 0.0, 60.0), 1.0), ((0.0, 0.0, -60.0), -1.0)):
        laid = lay(body(plate, lettering_mm2=up))
        assert laid.turn[2, 2] == pytest.approx(sign)
        assert laid.lettering_down_mm2 == 0.0


def test_a_table_stands_on_its_top_rather_than_on_its_legs() -> None:
    legs = [m3.Manifold.cube((2, 2, 15)).translate((x, y, -15)) for x in (0, 28) for y in (0, 18)]
    table = m3.Manifold.batch_boolean([m3.Manifold.cube((30, 20, 3)), *legs], m3.OpType.Add)
    laid = lay(body(table))
    assert laid.turn[2, 2] == pytest.approx(-1.0) and laid.support_mm3 == pytest.approx(0.0, abs=1e-6)


def test_what_rolls_is_laid_all_the_same() -> None:
    assert lay(body(m3.Manifold.sphere(5, 64))).height_mm == pytest.approx(10, rel=0.01)


def test_what_has_no_thickness_is_refused() -> None:
    square = Body(
        points=np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [0, 1, 0]], dtype=float),
        faces=np.array([[0, 1, 2], [0, 2, 3]]),
        lettering_mm2=np.zeros(3),
    )
    with pytest.raises(RunError, match="no thickness"):
        stable_poses(square)

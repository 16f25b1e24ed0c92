"""Rays against trimesh's own way to the same library, and against closed formulas."""

from __future__ import annotations

import math

import numpy as np
import pytest
import trimesh

from kizami.solids.rays import Rays


def random_rays(count: int, seed: int = 3) -> tuple[np.ndarray, np.ndarray]:
    rng = np.random.default_rng(seed)
    ways = rng.normal(size=(count, 3))
    return rng.uniform(-4.0, 4.0, (count, 3)), ways / np.linalg.norm(ways, axis=1, keepdims=True)


@pytest.mark.parametrize("count", [0, 1, 15, 16, 17, 500])
def test_from_inside_a_ball_every_ray_comes_out_of_it(count: int) -> None:
    """|o + t d| = R gives t; the skin's chords lie up to R (1 - cos(a / 2)) within."""
    ball = trimesh.creation.icosphere(subdivisions=5, radius=10.0)
    origins, ways = random_rays(count)
    hits = Rays(ball.vertices, ball.faces).first(origins, ways)
    along = np.einsum("nd,nd->n", origins, ways)
    expected = -along + np.sqrt(along**2 + 100.0 - (origins**2).sum(axis=1))
    assert np.all((expected - hits.distance < 0.015) & (expected - hits.distance > -1e-4))
    assert np.all(hits.triangle >= 0)


def test_it_finds_what_the_package_s_own_way_finds() -> None:
    body = trimesh.creation.annulus(r_min=3.0, r_max=5.0, height=2.0)
    origins, ways = random_rays(800, seed=9)
    origins *= 1.5
    hits = Rays(body.vertices, body.faces).first(origins, ways)
    places, rays, triangles = body.ray.intersects_location(origins, ways, multiple_hits=False)
    found = np.full(len(origins), np.inf)
    found[rays] = np.linalg.norm(places - origins[rays], axis=1)
    assert np.isfinite(found).sum() > 100
    grazing = np.isfinite(found) != np.isfinite(hits.distance)
    assert grazing.mean() < 0.005
    both = np.isfinite(found) & np.isfinite(hits.distance)
    assert hits.distance[both] == pytest.approx(found[both], abs=1e-3)
    same = hits.triangle[rays] == triangles
    # On an edge either of its two triangles is right.
    assert same.mean() > 0.98


def test_nothing_beyond_the_reach_is_found_and_ways_are_lengths() -> None:
    wall = np.array([[5.0, -9, -9], [5, 9, -9], [5, 0, 9]])
    rays = Rays(wall, np.array([[0, 1, 2]]))
    start = np.zeros((2, 3))
    ways = np.array([[1.0, 0.0, 0.0], [2.0, 0.0, 0.0]])
    assert rays.first(start, ways).distance.tolist() == [5.0, 2.5]
    assert rays.first(start, ways, reach=4.0).distance.tolist() == [math.inf, 2.5]
    assert rays.first(start, -ways).triangle.tolist() == [-1, -1]

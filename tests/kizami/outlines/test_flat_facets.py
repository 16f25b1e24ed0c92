"""Facets without area go to their neighbours, and the skin stays closed."""

from __future__ import annotations

import manifold3d as m3
import numpy as np
import pytest

from kizami.outlines.flat_facets import without_flat_ones

CUBE = m3.Manifold.cube((2, 2, 2)).to_mesh64()


def with_flat_one() -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A cube, one side of one of its triangles parted by a corner that only that triangle knows."""
    points, faces = np.array(CUBE.vert_properties), np.array(CUBE.tri_verts).astype(np.int64)
    a, b, c = faces[0]
    middle = len(points)
    points = np.vstack((points, (points[a] + points[b]) / 2.0))
    # The triangle is parted, and a flat one fills the gap to its neighbour.
    faces = np.vstack((faces[1:], [(a, middle, c), (middle, b, c), (a, b, middle)]))
    return points, faces, np.array([len(faces) - 1])


def test_a_flat_one_parts_its_neighbour() -> None:
    points, faces, flat = with_flat_one()
    mended, source = without_flat_ones(points, faces, flat)
    body = m3.Manifold(m3.Mesh64(points, mended.astype(np.uint64)))
    assert body.status() == m3.Error.NoError and body.volume() == pytest.approx(8.0)
    areas = np.linalg.norm(np.cross(*(points[mended][:, k] - points[mended][:, 0] for k in (1, 2))), axis=1)
    assert areas.min() > 1e-9 and len(mended) == len(source) == len(faces)
    assert flat[0] not in source


def test_nothing_flat_changes_nothing() -> None:
    points, faces, _ = with_flat_one()
    same, source = without_flat_ones(points, faces, np.empty(0, dtype=np.int64))
    assert same is faces and source.tolist() == list(range(len(faces)))

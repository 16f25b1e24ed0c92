"""Solids as the screen takes them: smooth within a face, sharp at edges, the same body as before."""

from __future__ import annotations

import struct
from dataclasses import replace

import manifold3d as m3
import numpy as np
import pytest

from kizami.drawing.shown import shown, shown_bytes, stl_corners
from kizami.errors import SolidError
from kizami.formats.glb import glb_bytes, glb_mesh
from kizami.formats.stl import stl_bytes
from kizami.pieces.make import make_piece
from kizami.solids.solid import solid_of
from tests.kizami.samples import RAISED, TAG_TABLE, inputs, product


def test_the_corners_of_a_box_have_a_normal_for_each_of_their_faces() -> None:
    box = solid_of(m3.Manifold.cube((4.0, 3.0, 2.0)))
    seen = shown(box.vertices, box.triangles)
    assert len(seen.points) == 24
    facing = seen.normals[seen.triangles]
    # Every facet has one normal at all of its corners, along an axis, and it is the facet's own.
    own = np.cross(*(seen.points[seen.triangles[:, k]] - seen.points[seen.triangles[:, 0]] for k in (1, 2)))
    own /= np.linalg.norm(own, axis=1)[:, None]
    assert facing == pytest.approx(np.repeat(own[:, None], 3, axis=1), abs=1e-6)


def test_normals_of_a_ball_point_away_from_its_middle() -> None:
    """A ball of chords is smooth all over: each corner is there once, its normal along its own radius."""
    ball = solid_of(m3.Manifold.sphere(10.0, 128))
    seen = shown(ball.vertices, ball.triangles)
    assert len(seen.points) == len(ball.vertices)
    away = seen.points / np.linalg.norm(seen.points, axis=1)[:, None]
    assert (seen.normals * away).sum(axis=1).min() > np.cos(np.radians(0.6))


def test_however_a_flat_face_is_cut_into_triangles_a_corner_beside_it_looks_alike() -> None:
    """A slope that meets a fan of forty facets and one that meets a single one have the same normal there."""
    wedge = [(0.0, 0.0), (10.0, 0.0), (10.0, 2.0)]
    plain = m3.Manifold.extrude(m3.CrossSection([wedge]), 5.0)
    nick = [(10.0, y) for y in np.linspace(0.05, 1.95, 39)]
    fanned = m3.Manifold.extrude(m3.CrossSection([[*wedge[:2], *nick, wedge[2]]]), 5.0)
    seen = []
    for body in (plain, fanned):
        solid = solid_of(body)
        found = shown(solid.vertices, solid.triangles, crease_rad=1.5)
        at = np.flatnonzero(np.linalg.norm(found.points - (10.0, 2.0, 5.0), axis=1) < 1e-5)
        seen.append(sorted(found.normals[at].round(3).tolist()))
    assert seen[0] == seen[1]


def test_the_bytes_say_where_each_part_begins() -> None:
    made = make_piece(inputs(product(TAG_TABLE, treatment=RAISED), "Ann"))
    assert made.solid is not None
    seen = shown(made.solid.vertices, made.solid.triangles, made.solid.is_lettering)
    data = shown_bytes(seen)
    corners, facets = struct.unpack_from("<II", data)
    assert (corners, facets) == (len(seen.points), len(made.solid.triangles))
    assert len(data) == 8 + 16 * corners + 12 * facets
    points = np.frombuffer(data, "<f4", 3 * corners, 8).reshape(-1, 3)
    marks = np.frombuffer(data, "<i1", 4 * corners, 8 + 12 * corners).reshape(-1, 4)
    triangles = np.frombuffer(data, "<u4", 3 * facets, 8 + 16 * corners).reshape(-1, 3)
    # The same facets in the same order, and lettering is told apart where it is.
    assert points[triangles] == pytest.approx(made.solid.vertices[made.solid.triangles])
    assert (marks[triangles, 3].all(axis=1) == made.solid.is_lettering).all()
    assert marks[:, :3] / 127.0 == pytest.approx(seen.normals, abs=0.005)


def test_a_kept_file_gives_the_body_back() -> None:
    made = make_piece(inputs(product(TAG_TABLE, treatment=RAISED), "Ann"))
    solid = made.solid
    assert solid is not None
    points, triangles = stl_corners(stl_bytes(solid, title="Ann"))
    assert len(points) == len(solid.vertices)
    assert points[triangles] == pytest.approx(solid.vertices[solid.triangles])
    points, triangles, is_lettering = glb_mesh(
        glb_bytes(solid, title="Ann", body="#101010", lettering="#ff0000")
    )
    order = np.argsort(solid.is_lettering, kind="stable")
    assert points[triangles] == pytest.approx(solid.vertices[solid.triangles[order]], abs=1e-4)
    assert (is_lettering == solid.is_lettering[order]).all()


@pytest.mark.parametrize("cut", [0, 40, 83, -1])
def test_a_file_that_is_not_whole_is_refused(cut: int) -> None:
    solid = solid_of(m3.Manifold.cube((4.0, 3.0, 2.0)))
    solid = replace(solid, is_lettering=np.arange(len(solid.triangles)) < 2)
    with pytest.raises(SolidError, match="not whole"):
        stl_corners(stl_bytes(solid, title="box")[:cut])
    with pytest.raises(SolidError, match="not whole"):
        glb_mesh(glb_bytes(solid, title="box", body="#101010", lettering="#ff0000")[:cut])

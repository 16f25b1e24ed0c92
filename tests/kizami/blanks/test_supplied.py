"""Lettering on supplied shapes, against the exact answer on bodies that are known: a ball and a plate."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
import trimesh
from scipy.optimize import brentq

from kizami.blanks.supplied_body import SuppliedBody, sound_body
from kizami.errors import CatalogueError
from kizami.pieces.make import make_piece
from kizami.products.product_file import product_from_table
from tests.kizami.samples import TAG_TABLE, inputs


def body_of(mesh: trimesh.Trimesh) -> SuppliedBody:
    return sound_body(np.array(mesh.vertices), np.array(mesh.faces), name="given.stl")


BALL = body_of(trimesh.creation.icosphere(subdivisions=5, radius=20.0))
BLOCK = body_of(trimesh.creation.box((60, 30, 8)))


def table(**blank: Any) -> dict[str, Any]:
    usual = {"kind": "supplied shape", "file": "given.stl", "unit": "mm", "radius_mm": 12.0}
    fit = {"greatest_height_mm": 6.0, "lowest_height_mm": 1.0, "clearance_mm": 0.5, "tracking": 0.05}
    return {
        **TAG_TABLE,
        "blank": {**usual, **blank},
        "fit": fit,
        "treatment": {"kind": "engraved", "depth_mm": 0.6},
    }


def product(body: SuppliedBody, **blank: Any):
    return product_from_table(table(**blank), bodies=lambda _name, _unit: body)


def test_on_a_block_it_is_what_a_plate_would_be() -> None:
    piece = make_piece(inputs(product(BLOCK, point=[0, 0, 4], up=[0, 1, 0]), "Oriel"))
    assert piece.stage == "ready"
    solid = trimesh.Trimesh(piece.solid.vertices, piece.solid.triangles)
    assert solid.is_volume
    taken = 60 * 30 * 8 - solid.volume
    assert taken == pytest.approx(piece.laid_out.layout.outlines.area * 0.6, rel=1e-3)
    assert piece.laid_out.area.wall_mm == pytest.approx(8.0, abs=1e-3)
    # Upright against y and read along x: the first letter lies left of the last.
    floor = solid.vertices[np.abs(solid.vertices[:, 2] - 3.4) < 1e-3]
    assert floor[:, 0].min() == pytest.approx(piece.laid_out.layout.ink_bounds[0], abs=0.02)


def test_on_a_ball_the_depth_is_constant_along_the_normal() -> None:
    piece = make_piece(inputs(product(BALL, point=[0, -20, 0]), "Oriel"))
    assert piece.stage == "ready"
    solid = trimesh.Trimesh(piece.solid.vertices, piece.solid.triangles)
    middles = solid.triangles_center
    radii = np.linalg.norm(middles, axis=1)
    faces_out = np.abs(np.einsum("nd,nd->n", solid.face_normals, middles / radii[:, None])) > 0.99
    floors = radii[faces_out & (radii < 19.8)]
    # The ball's own facets stand inside it by up to 0.006 mm, and the floor's chords by 0.005 mm.
    assert len(floors) > 100
    assert np.abs(floors - 19.4).max() < 0.012


def test_the_edge_of_a_patch_has_no_teeth_and_leaves_out_next_to_nothing() -> None:
    """On a ball lengths change by 15 % at the angle a with sin(a) / a = 1 / 1.15: a disc of 17.8 mm."""
    area = product(BALL, point=[0, -20, 0], radius_mm=19.0).blank_for(None).areas[0]
    assert area.notes
    angle = brentq(lambda a: math.sin(a) / a - 1 / 1.15, 0.1, 2.0)
    raw = area.surface.outline
    assert area.outline.difference(raw).area < 1e-6
    assert area.outline.area >= 0.93 * math.pi * (20 * angle) ** 2
    # L^2 / 4 pi A is 1 for a disc (isoperimetric inequality); teeth make the way round longer.
    ragged, smooth = (shape.length**2 / (4 * math.pi * shape.area) for shape in (raw, area.outline))
    assert smooth < 1.03 < 1.1 < ragged


@pytest.mark.parametrize("radius", [10.0, 16.0, 20.0])
def test_the_edge_of_a_patch_is_the_circle_and_the_edges_of_the_body(radius: float) -> None:
    area = product(BLOCK, point=[0, 0, 4], up=[0, 1, 0], radius_mm=radius).blank_for(None).areas[0]
    assert not area.notes
    exact = shapely.Point(0, 0).buffer(radius, quad_segs=64).intersection(shapely.box(-30, -15, 30, 15))
    assert area.outline.bounds == pytest.approx(exact.bounds, abs=0.01)
    # Only the corners are rounded.
    assert 0.985 * exact.area < area.outline.area <= exact.area + 1e-6


def test_the_thickness_is_measured_under_the_patch() -> None:
    wedge = trimesh.creation.box((60, 30, 8))
    vertices = np.array(wedge.vertices)
    vertices[:, 2] = np.where(vertices[:, 2] < 0, -4 + 4 * (vertices[:, 0] + 30) / 60, vertices[:, 2])
    area = product(
        body_of(trimesh.Trimesh(vertices, wedge.faces)), point=[0, 0, 4], up=[0, 1, 0]
    ).blank.areas[0]
    # From 8 mm on the left to 4 on the right: at x = -12 and 12 it is 6.8 and 5.2.
    assert area.wall_mm == pytest.approx(5.2, abs=0.1)
    assert area.thickest_mm == pytest.approx(6.8, abs=0.1)


def test_a_pocket_deeper_than_the_body_is_held_with_the_number() -> None:
    deep = table(point=[0, 0, 4], up=[0, 1, 0]) | {"treatment": {"kind": "engraved", "depth_mm": 7.9}}
    piece = make_piece(inputs(product_from_table(deep, bodies=lambda _n, _u: BLOCK), "Oriel"))
    floor = next(f for f in piece.findings if f.code == "floor-left")
    assert (piece.stage, floor.level.value) == ("held", "fails")
    assert floor.measured == pytest.approx(0.1, abs=1e-3)


@pytest.mark.parametrize(("follow", "reach"), [(False, 15.0), (True, 17.0)])
def test_the_patch_stops_at_an_edge_or_goes_round_it(follow: bool, reach: float) -> None:
    area = product(BLOCK, point=[0, 0, 4], up=[0, 1, 0], radius_mm=17.0, follow_edges=follow).blank.areas[0]
    assert area.outline.bounds[3] == pytest.approx(reach, abs=0.9)


WRONG = [
    pytest.param({}, "point", id="no point"),
    pytest.param({"point": [0, 0]}, "three numbers", id="two numbers"),
    pytest.param({"point": [0, 0, "x"]}, "three numbers", id="a word"),
    pytest.param({"point": [0, math.inf, 0]}, "three numbers", id="infinite"),
    pytest.param({"point": [0, 0, 4], "up": [0, 0, 0]}, "somewhere", id="up points nowhere"),
    pytest.param({"point": [0, 0, 4], "radius_mm": -3}, "from 1 to 300", id="negative"),
    pytest.param({"point": [0, 0, 4], "follow_edges": "yes"}, "true or false", id="no flag"),
    pytest.param({"point": [0, 0, 4], "colour": "red"}, "unknown colour", id="unknown key"),
]  # fmt: skip


@pytest.mark.parametrize(("blank", "said"), WRONG)
def test_values_that_can_not_be_are_refused(blank: dict[str, Any], said: str) -> None:
    with pytest.raises(CatalogueError, match=said):
        product(BLOCK, **blank)


def test_a_file_that_is_not_there_is_said() -> None:
    with pytest.raises(CatalogueError, match=r"blank: There is no file “given\.stl”"):
        product_from_table(table(point=[0, 0, 4]))


def test_equal_bodies_have_equal_fingerprints_and_others_have_not() -> None:
    from kizami.pieces.inputs import fingerprint

    same = body_of(trimesh.creation.box((60, 30, 8)))
    other = body_of(trimesh.creation.box((60, 30, 9)))
    marks = [fingerprint(inputs(product(b, point=[0, 0, 4]), "Oriel")) for b in (BLOCK, same, other)]
    assert marks[0] == marks[1] != marks[2]

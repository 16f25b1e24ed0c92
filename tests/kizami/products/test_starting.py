"""Products to begin with: one of every kind, and each can be made as it is."""

from __future__ import annotations

import math

import manifold3d as m3
import pytest

from kizami.blanks.supplied_body import SuppliedBody, sound_body
from kizami.pieces.forecast import tried
from kizami.pieces.make import make_piece
from kizami.products.blank_tables import BLANK_TABLES
from kizami.products.product_file import product_from_table
from kizami.products.starting import starting_on, starting_products


def test_there_is_one_of_every_kind_that_needs_no_file() -> None:
    kinds = {table["blank"]["kind"] for table in starting_products().values()}
    assert kinds == set(BLANK_TABLES) - {"supplied shape"}


@pytest.mark.parametrize("code", list(starting_products()))
def test_each_can_be_made_with_an_easy_name(code: str) -> None:
    made = make_piece(tried(product_from_table(starting_products()[code]), "Anna").inputs)
    assert made.stage == "ready", [f.message for f in made.findings[:2]]
    assert made.solid is not None


def supplied(body: m3.Manifold) -> SuppliedBody:
    mesh = body.to_mesh()
    return sound_body(mesh.vert_properties[:, :3].astype(float), mesh.tri_verts.astype(int), name="body")


BODIES = {
    "a slab that lies": (m3.Manifold.cube((50.0, 30.0, 4.0)), (25.0, 15.0, 4.0)),
    "a slab that stands": (m3.Manifold.cube((40.0, 5.0, 30.0)), (20.0, 5.0, 15.0)),
    "a ball": (m3.Manifold.sphere(15.0, 360), (0.0, 0.0, 15.0)),
}


@pytest.mark.parametrize(("body", "point"), list(BODIES.values()), ids=list(BODIES))
def test_a_supplied_body_is_lettered_in_the_middle_of_its_broadest_side(
    body: m3.Manifold, point: tuple[float, float, float]
) -> None:
    given = supplied(body)
    table = {**starting_on(given, file="body.stl", unit="mm"), "code": "OWN", "name": "Own"}
    assert table["blank"]["point"] == pytest.approx(point, abs=0.05)
    product = product_from_table(table, bodies=lambda name, unit: given)
    made = make_piece(tried(product, "Ann").inputs)
    assert made.stage == "ready", [f.message for f in made.findings[:2]]


def test_a_washer_is_lettered_beside_its_hole() -> None:
    washer = m3.Manifold.cylinder(3.0, 20.0, 20.0, 96) - m3.Manifold.cylinder(3.0, 8.0, 8.0, 96)
    point = starting_on(supplied(washer), file="w.stl", unit="mm")["blank"]["point"]
    assert point[2] == pytest.approx(3.0) and 8.0 < math.hypot(point[0], point[1]) < 20.0

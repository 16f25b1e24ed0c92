"""Walls, edges, strokes and slots of bodies whose measures follow from how they are put together."""

from __future__ import annotations

import dataclasses

import manifold3d as m3
import numpy as np
import pytest
import shapely

from kizami.as_made.treatment import Engraved, Raised
from kizami.outlines.curves import bodies_of
from kizami.pieces.building import make_solid
from kizami.pieces.laying_out import lay_out
from kizami.pieces.make import make_piece
from kizami.products.product_file import product_from_table
from kizami.solids.calipers import measured_across
from kizami.solids.lettered import lettered
from kizami.solids.measured import Measured
from kizami.solids.printing import best_lain, islands_along
from kizami.solids.solid import Solid, solid_of
from kizami.solids.thickness import Thinnest, thinnest
from tests.kizami.samples import RING, RING_TABLE, TAG, TAG_RAISED, drawn, inputs

PLATE = m3.Manifold.cube((40, 20, 3)).translate((0, 0, -3))


def measured(solid: Solid) -> Measured:
    return Measured(vertices=solid.vertices, triangles=solid.triangles)


def on_plate(*boxes: tuple[float, float, float, float], treatment=None, look: float = 1.5) -> Thinnest:
    """Boxes on the top of a plate of 40 x 20 x 3, as letters of a cap height of 1."""
    made = drawn(bodies_of(*(shapely.box(*box) for box in boxes)), treatment or Engraved(depth_mm=1.0))
    solid = solid_of(lettered(PLATE, made, sagitta_mm=0.005), blank=PLATE)
    return thinnest(measured(solid), solid.is_lettering, [made], look_mm=look)


def test_a_pocket_leaves_its_floor_its_edge_and_the_land_beside_it() -> None:
    """1 mm deep in 3 mm, 0.7 mm from the edge, 0.4 mm from the next pocket; pockets 0.9 mm wide."""
    found = on_plate((0.7, 5, 1.6, 15), (2.0, 5, 6.0, 15))
    assert found.wall is not None and found.wall.width_mm == pytest.approx(2.0)
    assert found.edge is not None and found.edge.width_mm == pytest.approx(0.7, abs=1e-4)
    assert found.standing is not None and found.standing.width_mm == pytest.approx(0.4, abs=1e-4)
    assert found.standing.at_mm[0] == pytest.approx(1.8, abs=1e-3)
    assert found.slot is not None and found.slot.width_mm == pytest.approx(0.9, abs=1e-4)


def test_of_letters_that_stand_metal_is_the_stroke_and_air_the_gap() -> None:
    found = on_plate((10, 5, 10.5, 15), (10.8, 5, 15, 15), treatment=Raised(height_mm=1.0, root_mm=0.5))
    assert found.standing is not None and found.standing.width_mm == pytest.approx(0.5, abs=1e-4)
    assert found.slot is not None and found.slot.width_mm == pytest.approx(0.3, abs=1e-4)
    assert found.wall is not None and found.wall.width_mm == pytest.approx(3.0)


def test_what_is_wider_than_anyone_asks_is_not_looked_at() -> None:
    found = on_plate((5, 5, 10, 15), (20, 5, 30, 15), look=1.0)
    assert (found.standing, found.slot) == (None, None)


def test_a_short_narrow_place_is_no_slot() -> None:
    """Two pockets that come within 0.2 mm of each other over 0.3 mm only, of letters 10 mm high."""
    tooth = bodies_of(shapely.box(10, 5, 15, 15), shapely.box(15, 9.85, 17.8, 10.15))
    made = drawn(bodies_of(tooth, shapely.box(18, 5, 22, 15)), Engraved(depth_mm=1.0))
    solid = solid_of(lettered(PLATE, made, sagitta_mm=0.005), blank=PLATE)
    layout = dataclasses.replace(made.layout, marks=lay_out(inputs(TAG, "I")).layout.marks)
    of = dataclasses.replace(made, layout=layout)
    found = thinnest(measured(solid), solid.is_lettering, [of], look_mm=0.5)
    assert found.standing is None


@pytest.mark.parametrize("which", [TAG, TAG_RAISED, RING], ids=["tag", "raised", "ring"])
@pytest.mark.parametrize("wording", ["Ottoline", "WM"])
def test_calipers_and_layout_agree(which, wording: str) -> None:
    laid_out = lay_out(inputs(which, wording))
    solid = make_solid(laid_out)
    assert solid is not None and laid_out.case is not None
    fine = laid_out.case.fineness
    for place, way in ((fine.strokes[0], -1.0), (fine.gaps[0], 1.0)):
        caliper = measured_across(measured(solid), laid_out.made, place, way=way)
        assert caliper is not None
        assert caliper.measured_mm == pytest.approx(caliper.expected_mm, abs=0.02)


def test_a_stroke_that_was_made_thinner_is_told() -> None:
    laid_out = lay_out(inputs(TAG_RAISED, "Ottoline"))
    thin = dataclasses.replace(
        laid_out.made,
        layout=dataclasses.replace(
            laid_out.layout, outlines=bodies_of(laid_out.layout.outlines.buffer(-0.06))
        ),
    )
    solid = make_solid(dataclasses.replace(laid_out, made=thin))
    assert solid is not None and laid_out.case is not None
    place = laid_out.case.fineness.strokes[0]
    caliper = measured_across(measured(solid), laid_out.made, place, way=-1.0)
    assert caliper is not None and caliper.expected_mm - caliper.measured_mm == pytest.approx(0.12, abs=0.02)


SHELL = m3.Manifold.cube((10, 10, 10)) - m3.Manifold.cube((4, 4, 4)).translate((3, 3, 3))


def test_shells_cavities_volume_and_the_centre_of_mass() -> None:
    of = measured(solid_of(SHELL))
    assert [round(shell.volume_mm3, 3) for shell in of.shells] == [1000.0, -64.0]
    assert of.volume_mm3 == pytest.approx(936.0)
    # A cube less a cube at its middle balances at the middle; less one beside it, away from that.
    assert of.centre_of_mass == pytest.approx([5, 5, 5])
    aside = solid_of(m3.Manifold.cube((10, 10, 10)) - m3.Manifold.cube((2, 10, 10)))
    assert measured(aside).centre_of_mass == pytest.approx([6, 5, 5])


def test_faults_are_counted_as_a_reader_finds_them() -> None:
    sound = solid_of(m3.Manifold.cube((2, 2, 2)))
    assert measured(sound).faults == 0
    opened = Measured(vertices=sound.vertices, triangles=sound.triangles[1:])
    assert opened.faults == 3
    doubled = Measured(vertices=sound.vertices, triangles=np.vstack((sound.triangles, sound.triangles[:1])))
    assert doubled.faults == 3
    # Every facet with corners of its own is the same skin to whoever takes places for one.
    loose = Measured(
        vertices=sound.vertices[sound.triangles].reshape(-1, 3),
        triangles=np.arange(3 * len(sound.triangles), dtype=np.uint32).reshape(-1, 3),
    )
    assert loose.faults == 0


def test_islands() -> None:
    """A table stands on its legs; upside down it has none; an arm that hangs down begins in the air."""
    top = m3.Manifold.cube((10, 10, 1)).translate((0, 0, 9))
    legs = [m3.Manifold.cube((1, 1, 9.5)).translate((x, y, 0)) for x in (0, 9) for y in (0, 9)]
    up = np.array([0.0, 0.0, 1.0])
    table = sum(legs, top)
    assert islands_along(measured(solid_of(table)), up) == 0
    short = table + m3.Manifold.cube((1, 1, 5)).translate((4, 4, 4.5))
    assert islands_along(measured(solid_of(short)), up) == 1
    assert islands_along(measured(solid_of(short)), -up) == 0
    assert best_lain(measured(solid_of(short))).islands == 0
    # The ceiling of a pocket is an island, its floor is none.
    pocket = m3.Manifold.cube((10, 10, 10)) - m3.Manifold.cube((4, 4, 4)).translate((3, 3, 3))
    assert islands_along(measured(solid_of(pocket)), up) == 0


@pytest.mark.parametrize("bore", ["19.76 mm", "17.3 mm"])
def test_a_top_that_bends_is_no_thin_part_whatever_its_triangles(bore: str) -> None:
    """A triangle with its corners in a row lies on edge on a bent top, and looks like a thin wall."""
    ring = product_from_table(
        {**RING_TABLE, "treatment": {"kind": "raised", "height_mm": 0.5, "root_mm": 0.4}, "blank": {"kind": "band ring", "width_mm": 8.0, "wall_mm": 1.6, "seam_mm": 6.0}}
    )  # fmt: skip
    for words in ("LEOPOLD · 2027", "MATTHIAS", "ALWAYS"):
        piece = make_piece(inputs(ring, words, bore))
        standing = [f.measured for f in piece.findings if f.code == "standing-thickness"]
        assert all(width > 0.3 for width in standing), words

"""Several areas on one product, each with wording of its own."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import shapely
import trimesh

from kizami.checks.finding import Level
from kizami.errors import CatalogueError
from kizami.pieces.inputs import Inputs, fingerprint
from kizami.pieces.laying_out import LaidOut, lay_out
from kizami.pieces.lines import inputs_of
from kizami.pieces.make import Made, make_piece
from kizami.products.product import Product
from kizami.products.product_file import product_from_table, product_tables, write_products
from kizami.wording.settling import settle
from tests.kizami.samples import RAISED, RING_TABLE, TAG_TABLE, product

FIT = {"greatest_height_mm": 3.9, "lowest_height_mm": 2.0, "clearance_mm": 0.7, "tracking": 0.08}
INSIDE: dict[str, Any] = {
    "area": "inside",
    "carries": "second wording",
    "wording": {"kind": "date", "date_form": "04 · 05 · 26"},
    "treatment": {"kind": "engraved", "depth_mm": 0.4},
    "fit": FIT,
}
BACK: dict[str, Any] = {
    "area": "back",
    "carries": "fixed",
    "text": "QUAY 7",
    "treatment": {"kind": "engraved", "depth_mm": 0.5},
    "fit": {**FIT, "greatest_height_mm": 6.0},
}
PLATE_TABLE: dict[str, Any] = {
    **TAG_TABLE,
    "blank": {
        "kind": "plate", "outline": "rounded", "length_mm": 60.0, "height_mm": 25.0, "thickness_mm": 3.0,
        "corner_mm": 5.0,
    },
}  # fmt: skip


def with_areas(table: dict[str, Any], *also: dict[str, Any], **changes: Any) -> Product:
    return product_from_table({**table, **changes, "also": list(also)})


RING = with_areas(RING_TABLE, INSIDE)
PLATE = with_areas(PLATE_TABLE, BACK)


def asked(which: Product, wording: str = "Ottoline", second: str = "21 June 2027") -> Inputs:
    size = which.read_size("54" if which.size_system else "")
    settled = settle(wording, which.wording)
    return inputs_of(which, settled, second=second, logo="", logos=None, size=size)


def solid_of(made: Made) -> trimesh.Trimesh:
    assert made.solid is not None
    mesh = trimesh.Trimesh(made.solid.vertices, made.solid.triangles)
    assert mesh.is_volume
    return mesh


def within(made: Made, part: LaidOut, *, height_mm: float) -> np.ndarray:
    """Whether the middle of every letter of an area, so high above the surface, lies in the solid."""
    middles = [body.representative_point() for body in part.layout.outlines.geoms]
    uv = np.array([(p.x, p.y) for p in middles])
    inside: np.ndarray = solid_of(made).contains(part.area.surface.place(uv, np.full(len(uv), height_mm)))
    return inside


def test_every_area_is_cut_to_its_own_depth() -> None:
    made = make_piece(asked(RING))
    outside, inside = made.laid_out.every_area
    assert (outside.area.name, inside.area.name) == ("outside", "inside")
    assert inside.layout.text == "21 · 06 · 27"
    for part, depth in ((outside, 0.45), (inside, 0.4)):
        assert not within(made, part, height_mm=-depth + 0.03).any()
        assert within(made, part, height_mm=-depth - 0.03).all()


@pytest.mark.parametrize("which", [RING, PLATE], ids=["ring", "plate"])
def test_areas_change_the_body_by_what_each_changes_alone(which: Product) -> None:
    both = solid_of(make_piece(asked(which))).volume
    alone = solid_of(make_piece(asked(replace(which, also=())))).volume
    (further,) = which.also
    other = make_piece(asked(which)).laid_out.others[0].inputs
    only_other = solid_of(make_piece(other)).volume
    assert further.area == other.product.area
    blank = which.blank_for(asked(which).size).body(0.005).volume()
    assert both == pytest.approx(alone + only_other - blank, rel=1e-6)
    assert make_piece(asked(which)).stage == "ready"


def test_an_area_without_wording_is_left_plain() -> None:
    bare = make_piece(asked(RING, second=""))
    assert bare.laid_out.others == ()
    alone = make_piece(asked(replace(RING, also=()), second=""))
    assert bare.solid is not None and alone.solid is not None
    assert np.array_equal(bare.solid.vertices, alone.solid.vertices)


def test_findings_say_which_area_they_are_about() -> None:
    deep = {**INSIDE, "fit": {**FIT, "lowest_height_mm": 3.0, "greatest_height_mm": 3.0}, "wording": {}}
    laid_out = lay_out(
        asked(with_areas(RING_TABLE, deep), second="A wording far too long for a bore of this size, " * 2)
    )
    failing = [f for f in laid_out.findings if f.level is Level.FAILS]
    assert failing and {f.area for f in failing} == {"inside"}
    here = laid_out.findings_here(laid_out.findings)
    assert {f.area for f in here} == {"outside"}


def test_cuts_from_both_sides_of_a_wall_share_it() -> None:
    """1.8 mm of wall, 0.55 mm cut outside and 0.6 mm inside leave 0.65 mm: either alone leaves enough."""
    outside, inside = {"kind": "engraved", "depth_mm": 0.55}, {"kind": "engraved", "depth_mm": 0.6}
    which = with_areas(RING_TABLE, {**INSIDE, "treatment": inside}, treatment=outside)
    floors = {f.area: f for f in lay_out(asked(which)).findings if f.code == "floor-left"}
    # Rays measure it on chords that lie up to 0.005 mm off.
    assert {area: f.measured for area, f in floors.items()} == {
        "outside": pytest.approx(0.65, abs=0.006),
        "inside": pytest.approx(0.65, abs=0.006),
    }
    assert {f.level for f in floors.values()} == {Level.FAILS}
    alone = lay_out(asked(which, second="")).findings
    assert next(f for f in alone if f.code == "floor-left").level is Level.PASSES


def test_no_root_fills_what_is_cut_behind_it() -> None:
    """A root of 1.2 mm and a cut of 0.9 mm meet in a wall of 1.8 mm: the cut stays open."""
    raised = {"kind": "raised", "height_mm": 0.6, "root_mm": 1.2}
    inside = {**INSIDE, "treatment": {"kind": "engraved", "depth_mm": 0.9}}
    which = with_areas(RING_TABLE, inside, treatment=raised, arrangement={"turn": {"kind": "spread"}})
    made = make_piece(asked(which, wording="OTTOLINE-OTTOLINE"))
    assert not within(made, made.laid_out.others[0], height_mm=-0.85).any()
    volume = next(f for f in made.findings if f.code == "right-volume")
    assert volume.level is Level.PASSES


def test_a_date_with_two_readings_holds_the_piece() -> None:
    inputs = asked(RING, second="03/04/2027")
    assert "Second wording" in inputs.open_question
    assert make_piece(inputs).stage == "held"


def test_the_fingerprint_tells_every_area() -> None:
    other = with_areas(PLATE_TABLE, {**BACK, "text": "QUAY 8"})
    marks = {
        fingerprint(asked(PLATE)),
        fingerprint(asked(other)),
        fingerprint(asked(replace(PLATE, also=()))),
        fingerprint(asked(RING)),
        fingerprint(asked(RING, second="22 June 2027")),
    }
    assert len(marks) == 5


def test_outlines_of_the_back_are_read_from_behind() -> None:
    """Seen from behind, the first letter stands on the left: there x runs the other way."""
    laid_out = lay_out(asked(PLATE))
    (back,) = laid_out.others
    first, *_, last = sorted(back.layout.outlines.geoms, key=lambda body: body.bounds[0])
    uv = np.array([shapely.get_coordinates(body.centroid)[0] for body in (first, last)])
    (x_first, _, z), (x_last, _, _) = back.area.surface.place(uv, np.zeros(2))
    assert x_first > x_last and z == pytest.approx(0.0)


@pytest.mark.parametrize(
    ("table", "also", "says"),
    [
        pytest.param(RING_TABLE, [{**INSIDE, "area": "back"}], "area", id="no such area"),
        pytest.param(RING_TABLE, [{**INSIDE, "area": "outside"}], "lettered twice", id="the first area again"),
        pytest.param(RING_TABLE, [INSIDE, INSIDE], "lettered twice", id="one area twice"),
        pytest.param(RING_TABLE, [{**INSIDE, "carries": "third wording"}], "carries", id="unknown wording"),
        pytest.param(RING_TABLE, [{**INSIDE, "text": "x"}], "text", id="a text that is not fixed"),
        pytest.param(PLATE_TABLE, [{**BACK, "text": " "}], "text", id="fixed, and nothing to set"),
        pytest.param(PLATE_TABLE, [{**BACK, "text": "x" * 201}], "200", id="fixed, too long"),
        pytest.param(PLATE_TABLE, [{**BACK, "colour": 1}], "unknown colour", id="unknown key"),
        pytest.param(
            PLATE_TABLE, [{**BACK, "treatment": {"kind": "cut-out", "thickness_mm": 2.0}}], "cut out", id="cut out"
        ),
        pytest.param(PLATE_TABLE, [{k: v for k, v in BACK.items() if k != "area"}], "area", id="no area"),
        pytest.param(PLATE_TABLE, [{k: v for k, v in BACK.items() if k != "fit"}], "fit", id="no fit plan"),
        pytest.param(PLATE_TABLE, {"area": "back"}, "also must be a list", id="not a list"),
        pytest.param(
            {**RING_TABLE, "wording": {"second_after": " · "}}, [INSIDE], "one place", id="two places for a second wording"
        ),
        pytest.param(
            PLATE_TABLE, [{**BACK, "arrangement": {"turn": {"kind": "spread"}}}], "closes", id="spread on a plate"
        ),
    ],
)  # fmt: skip
def test_what_can_not_be_is_refused_by_name(table: dict[str, Any], also: Any, says: str) -> None:
    with pytest.raises(CatalogueError, match=says):
        product_from_table({**table, "also": also})


def test_further_areas_survive_their_file() -> None:
    tables = [{**RING_TABLE, "also": [INSIDE]}, {**PLATE_TABLE, "also": [BACK]}]
    again = product_tables(write_products(tables))
    assert again == tables
    assert [product_from_table(t) for t in again] == [RING, PLATE]


def test_raised_and_engraved_areas_keep_their_own_treatment() -> None:
    which = with_areas(PLATE_TABLE, BACK, treatment=RAISED)
    made = make_piece(asked(which))
    face, back = made.laid_out.every_area
    assert within(made, face, height_mm=0.55).all()
    assert not within(made, back, height_mm=-0.45).any()
    assert product(PLATE_TABLE).also == ()

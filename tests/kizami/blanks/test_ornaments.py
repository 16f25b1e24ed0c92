"""Borders, slots, ovals and panels against closed formulas; letters keep clear of them; what can't be is refused."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import trimesh

from kizami.errors import CatalogueError
from kizami.pieces.laying_out import lay_out
from kizami.pieces.make import make_piece
from kizami.products.product import Product
from kizami.products.product_file import product_from_table
from tests.kizami.samples import RING_TABLE, TAG_TABLE, inputs

PLATE = {"kind": "plate", "outline": "rounded", "length_mm": 70.0, "height_mm": 30.0, "thickness_mm": 3.0, "corner_mm": 6.0}  # fmt: skip
FIT = {"greatest_height_mm": 12.0, "lowest_height_mm": 3.0, "clearance_mm": 1.5, "tracking": 0.05}
BORDER = {"kind": "border", "inset_mm": 1.5, "line_mm": 0.6}


def plate(*ornaments: dict[str, Any], treatment: dict[str, Any] | None = None) -> Product:
    table = {**TAG_TABLE, "blank": PLATE, "fit": FIT, "ornaments": list(ornaments)}
    return product_from_table({**table, "treatment": treatment or TAG_TABLE["treatment"]})


def rounded(length: float, height: float, corner: float) -> float:
    return length * height - (4 - math.pi) * corner**2


FIGURES = [
    pytest.param(BORDER, rounded(67, 27, 4.5) - rounded(65.8, 25.8, 3.9), id="border"),
    pytest.param({"kind": "slot", "length_mm": 16.0, "height_mm": 2.0}, 14 * 2 + math.pi, id="slot"),
    pytest.param({"kind": "slot", "length_mm": 2.0, "height_mm": 2.0}, math.pi, id="slot that is a disc"),
    pytest.param({"kind": "oval", "length_mm": 10.0, "height_mm": 4.0}, math.pi * 10, id="oval"),
    pytest.param({"kind": "panel", "length_mm": 10.0, "height_mm": 4.0}, 40.0, id="panel"),
    pytest.param({"kind": "panel", "length_mm": 10.0, "height_mm": 4.0, "corner_mm": 1.0}, rounded(10, 4, 1), id="rounded panel"),
    pytest.param({"kind": "panel", "length_mm": 10.0, "height_mm": 4.0, "line_mm": 0.5}, 40 - 27.0, id="frame"),
]  # fmt: skip


@pytest.mark.parametrize(("ornament", "area"), FIGURES)
@pytest.mark.parametrize("kind", ["engraved", "raised"])
def test_an_ornament_has_its_area_and_the_letters_treatment(ornament: dict, area: float, kind: str) -> None:
    treatment = {"kind": "engraved", "depth_mm": 0.5} if kind == "engraved" else {"kind": "raised", "height_mm": 0.5, "root_mm": 0.3}  # fmt: skip
    where = {} if ornament["kind"] == "border" else {"up_mm": 9.5}
    plain, drawn = (
        make_piece(inputs(plate(*o, treatment=treatment), "Owen")) for o in ((), ({**ornament, **where},))
    )
    assert drawn.laid_out.layout.ornaments.area == pytest.approx(area, rel=2e-3)
    letters = drawn.laid_out.layout.lettering.area
    changed = abs(drawn.solid.volume_mm3 - drawn.laid_out.blank.body(0.005).volume())
    assert changed == pytest.approx((letters + area) * 0.5, rel=2e-3)
    assert trimesh.Trimesh(drawn.solid.vertices, drawn.solid.triangles).is_volume
    codes = {f.code: f.level.value for f in drawn.findings}
    assert codes["right-volume"] == codes["through-holes"] == codes["one-body"] == "passes"
    assert plain.fingerprint != drawn.fingerprint


def test_letters_keep_their_clearance_from_ornaments() -> None:
    free = lay_out(inputs(plate(), "WILHELMINA"))
    held = lay_out(inputs(plate(BORDER), "WILHELMINA"))
    assert held.layout.height_mm < free.layout.height_mm
    # The border's inner edge lies 2.1 mm in.
    gap = held.layout.lettering.distance(held.layout.ornaments)
    assert gap >= 1.5 - 1e-6
    finding = next(f for f in held.findings if f.code == "edge-gap")
    assert finding.measured == pytest.approx(gap, abs=1e-6)


def test_a_ring_has_a_border_that_stops_at_its_seam() -> None:
    table = {**RING_TABLE, "ornaments": [{"kind": "border", "inset_mm": 0.4, "line_mm": 0.4}]}
    table["fit"] = {**RING_TABLE["fit"], "lowest_height_mm": 2.0}
    piece = make_piece(inputs(product_from_table(table), "Owen"))
    drawn = piece.laid_out.layout.ornaments
    turn = piece.laid_out.area.surface.period_mm
    # One closed line within 7 mm x the turn less its seam of 5 mm.
    outer = (turn - 5 - 0.8) * (7 - 0.8)
    inner = (turn - 5 - 1.6) * (7 - 1.6)
    assert drawn.area == pytest.approx(outer - inner, rel=5e-3)
    assert (len(drawn.geoms), piece.solid.bodies, piece.solid.genus) == (1, 1, 1)
    assert next(f for f in piece.findings if f.code == "right-volume").level.value == "passes"


def test_without_wording_there_is_nothing_to_make() -> None:
    assert lay_out(inputs(plate(BORDER), "")).layout.is_empty


REFUSED = [
    pytest.param([{"kind": "star"}], "border, slot, oval, panel", id="kind"),
    pytest.param("border", "list", id="no list"),
    pytest.param([BORDER] * 13, "at most 12", id="too many"),
    pytest.param([{"kind": "border", "inset_mm": 1.0}], "line_mm is missing", id="missing"),
    pytest.param([{**BORDER, "colour": 1}], "unknown colour", id="unknown"),
    pytest.param([{**BORDER, "line_mm": 0.1}], "finer than the 0.35 mm", id="too fine"),
    pytest.param([{**BORDER, "inset_mm": 0.1}], "within 0.10 mm of an edge", id="too near"),
    pytest.param([{**BORDER, "inset_mm": 16.0}], "does not go into", id="no room"),
    pytest.param([{"kind": "slot", "length_mm": 90.0, "height_mm": 2.0}], "does not go into", id="too long"),
    pytest.param([{"kind": "oval", "length_mm": 5.0, "height_mm": -2.0}], "from 0.2 to 300", id="negative"),
    pytest.param([{"kind": "oval", "length_mm": 5.0, "height_mm": 2.0, "up_mm": 14.5}], "does not go into", id="outside"),
]  # fmt: skip


@pytest.mark.parametrize(("ornaments", "said"), REFUSED)
def test_what_can_not_be_made_is_refused_when_the_product_is_read(ornaments: Any, said: str) -> None:
    with pytest.raises(CatalogueError, match=said):
        product_from_table({**TAG_TABLE, "blank": PLATE, "fit": FIT, "ornaments": ornaments})


BAND = {**RING_TABLE["blank"], "seam_mm": 0.0}
TREATED = {
    "engraved": {"kind": "engraved", "depth_mm": 0.45},
    "rounded floor": {"kind": "engraved", "depth_mm": 0.4, "floor": "rounded"},
    "raised": {"kind": "raised", "height_mm": 0.5, "root_mm": 0.4},
    "chamfered": {"kind": "raised", "height_mm": 0.5, "root_mm": 0.4, "edge": "chamfer", "edge_mm": 0.05},
}


@pytest.mark.parametrize("kind", list(TREATED))
@pytest.mark.parametrize("area", ["outside", "inside"])
def test_on_a_band_without_a_seam_a_border_is_a_line_along_either_edge(area: str, kind: str) -> None:
    """It meets itself without an end: rays all round, at the back above all, find one depth (embree)."""
    # A finer process, for what a chamfer leaves of strokes so low.
    table = {**RING_TABLE, "blank": BAND, "area": area, "treatment": TREATED[kind], "process": "resin"}
    table["fit"] = {**RING_TABLE["fit"], "greatest_height_mm": 3.7, "lowest_height_mm": 2.0}
    table["ornaments"] = [{"kind": "border", "inset_mm": 0.5, "line_mm": 0.6}]
    piece = make_piece(inputs(product_from_table(table), "Owen"))
    surface = piece.laid_out.area.surface
    turn = surface.period_mm
    assert piece.laid_out.layout.ornaments.area == pytest.approx(2 * turn * 0.6, rel=1e-6)
    assert [f.code for f in piece.findings if f.level.value == "fails"] == []
    mesh = trimesh.Trimesh(piece.solid.vertices, piece.solid.triangles, process=False)
    assert mesh.is_volume and (piece.solid.bodies, piece.solid.genus) == (1, 1)
    low, high = product_from_table(table).treatment.layer
    level = low if low < 0 else high
    uv = np.array([(u, v) for u in (*np.linspace(0, turn, 60), -1e-3, 1e-3, 0.4, 1.2) for v in (0.8, 6.2)])
    start, inward = surface.place(uv, np.full(len(uv), 2.0)), surface.place(uv, np.full(len(uv), 1.0))
    hits, rays, _ = mesh.ray.intersects_location(start, inward - start, multiple_hits=False)
    assert sorted(rays.tolist()) == list(range(len(uv)))
    found = np.linalg.norm(hits - start[rays], axis=1)
    assert found == pytest.approx(np.full(len(uv), 2.0 - level), abs=0.01)


def test_a_recess_goes_round_no_band() -> None:
    recess = {"kind": "in recess", "depth_mm": 0.5, "height_mm": 0.4, "margin_mm": 0.4}
    with pytest.raises(CatalogueError, match="right round"):
        product_from_table(
            {**RING_TABLE, "blank": BAND, "treatment": recess, "ornaments": [{**BORDER, "inset_mm": 0.5}]}
        )


def test_a_taper_that_closes_on_itself_has_no_border() -> None:
    grip = {"kind": "sleeve", "low_mm": 36.0, "high_mm": 29.0, "length_mm": 90.0, "bore_mm": 20.0}
    with pytest.raises(CatalogueError, match="closes on itself without a seam"):
        product_from_table({**TAG_TABLE, "blank": grip, "fit": FIT, "ornaments": [BORDER]})


def test_a_scored_ornament_is_marked_and_never_cut() -> None:
    from kizami.pieces.batch import piece_files

    piece = make_piece(inputs(plate(BORDER, treatment={"kind": "scored"}), "Owen"))
    drawing = piece_files(piece, title="Owen")["cut.svg"].decode()
    score, cut = drawing.split('<g id="score"')[1].split('<g id="cut"')
    assert cut.count("Z") == 1
    # The border's two lines and the letters, the O and the e with their middles.
    assert score.count("Z") == 2 + 6

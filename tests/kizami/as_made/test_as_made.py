"""What is told of a piece is what is made: the failures that a drawing hides, each with its true value."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
import trimesh

from kizami.checks.finding import Finding, Level
from kizami.pieces.laying_out import lay_out
from kizami.pieces.make import Made, make_piece
from kizami.products.product_file import product_from_table
from tests.kizami.samples import RING_TABLE, TAG_TABLE, inputs


def made(table: dict[str, Any], wording: str, size: str = "54") -> Made:
    return make_piece(inputs(product_from_table(table), wording, size))


def worst(piece: Made, code: str) -> Finding:
    return next(f for f in piece.findings if f.code == code)


def failing(piece: Made) -> set[str]:
    return {f.code for f in piece.findings if f.level is Level.FAILS}


OVAL = {
    **TAG_TABLE,
    "blank": {"kind": "plate", "outline": "oval", "length_mm": 44.0, "height_mm": 26.0, "thickness_mm": 3.5},
    "treatment": {"kind": "in recess", "depth_mm": 0.5, "height_mm": 0.4, "margin_mm": 0.5},
    "fit": {"greatest_height_mm": 14.0, "lowest_height_mm": 2.0, "clearance_mm": 0.6},
}


@pytest.mark.parametrize("wording", ["OWEN", "Bartholomew", "Ida", "WM"])
def test_a_recess_stays_in_its_plate(wording: str) -> None:
    """An oval of 44 x 26: the box around letters that fit reaches further than they do."""
    piece = made(OVAL, wording)
    panel, room = piece.laid_out.made.panel, piece.laid_out.area.outline
    assert panel is not None and room.contains(panel)
    rim = panel.distance(room.exterior)
    assert rim >= 0.3 - 1e-6
    assert worst(piece, "edge-gap").measured == pytest.approx(rim, abs=1e-6)
    assert "The recess" in worst(piece, "edge-gap").message


def test_a_recess_that_has_no_room_is_held() -> None:
    """The plan may lower nothing, and at the only height the recess would break out of the plate."""
    fixed = {
        **OVAL,
        "fit": {**OVAL["fit"], "greatest_height_mm": 23.0, "lowest_height_mm": 23.0, "steps": []},
    }
    piece = made(fixed, "O")
    assert piece.stage == "held" and "lowest-height" in failing(piece)
    assert piece.laid_out.layout.height_mm < 23.0


def test_lines_above_each_other_are_neighbours() -> None:
    """A descender that runs into the accent of the line below."""
    table = {
        **TAG_TABLE, "wording": {"kind": "phrase"},
        "blank": {"kind": "plate", "outline": "rounded", "length_mm": 60.0, "height_mm": 40.0, "thickness_mm": 3.0, "corner_mm": 3.0},
        "fit": {"greatest_height_mm": 6.0, "lowest_height_mm": 2.0, "clearance_mm": 1.0, "leading": 1.4},
    }  # fmt: skip
    piece = made(table, "Soggy\nÅkdal")
    layout = piece.laid_out.layout
    first = [s for mark, s in zip(layout.marks, layout.shapes, strict=True) if mark.cluster <= 5]
    second = [s for mark, s in zip(layout.marks, layout.shapes, strict=True) if mark.cluster > 5]
    between = shapely.union_all(first).distance(shapely.union_all(second))
    assert worst(piece, "gap-width").measured == pytest.approx(between, abs=1e-9) and between < 0.3
    assert "gap-width" in failing(piece)


def test_tops_that_a_chamfer_leaves_are_what_is_judged() -> None:
    table = {
        **RING_TABLE,
        "treatment": {"kind": "raised", "height_mm": 0.5, "root_mm": 0.4, "edge": "chamfer", "edge_mm": 0.2},
        "fit": {"greatest_height_mm": 3.0, "lowest_height_mm": 2.0, "clearance_mm": 0.7},
    }
    piece = made(table, "Olioll")
    stroke, edge = worst(piece, "stroke-width"), worst(piece, "edge-made")
    flat = min(f.stroke.width for f in piece.laid_out.layout.narrow if f.stroke)
    # No corner of these letters points into a stroke. Chamfered as far as goes, both sides of the thinnest
    # stroke lose as much; further out all is wider,
    # round the ring by 1 + h / R and along it not at all.
    top = flat - 2 * edge.measured
    assert top - 1e-6 <= stroke.measured <= top * (1 + 0.5 / piece.laid_out.area.surface.radius_mm) + 1e-6
    assert stroke.measured < 0.35
    assert {"stroke-width", "edge-made"} <= failing(piece)
    assert (edge.limit, edge.measured < 0.2) == (0.2, True)


@pytest.mark.parametrize(("asked", "stands"), [(2.0, True), (15.0, False)])
def test_walls_slope_as_asked_or_the_piece_is_held_with_the_number(asked: float, stands: bool) -> None:
    table = {
        **TAG_TABLE, "treatment": {"kind": "engraved", "depth_mm": 0.5, "draft_deg": asked},
        "fit": {"greatest_height_mm": 3.0, "lowest_height_mm": 2.0, "clearance_mm": 0.7},
    }  # fmt: skip
    piece = made(table, "Ida")
    found = worst(piece, "draft-made")
    assert (found.level is not Level.FAILS) == stands and found.limit == asked
    # Independent of the layout: the steepest wall of the finished piece.
    assert piece.solid is not None
    mesh = trimesh.Trimesh(piece.solid.vertices, piece.solid.triangles, process=False)
    walls = piece.solid.is_lettering & (mesh.face_normals[:, 2] < 0.9) & (mesh.area_faces > 1e-3)
    steepest = np.degrees(np.arcsin(mesh.face_normals[walls][:, 2])).min()
    # Corners that are left out within 0.002 mm turn a wall half a millimetre deep by up to 0.23 degrees.
    assert steepest == pytest.approx(found.measured, abs=0.3)


def test_a_pointed_floor_is_half_as_deep_as_its_stroke_is_wide() -> None:
    """At 6.4 mm a floor that is asked to be 0.4 mm deep ends in its ridge before."""
    table = {
        **TAG_TABLE, "typeface": "vollkorn-bold", "treatment": {"kind": "engraved", "depth_mm": 0.4, "floor": "pointed"},
        "fit": {"greatest_height_mm": 6.4, "lowest_height_mm": 2.0, "clearance_mm": 0.7},
    }  # fmt: skip
    piece = made(table, "Ida")
    found = worst(piece, "lettering-depth")
    thinnest = min(f.stroke.width for f in piece.laid_out.layout.narrow if f.stroke)
    assert found.measured == pytest.approx(thinnest / 2.0) and found.measured < 0.3
    assert worst(piece, "measured-depth").measured == pytest.approx(found.measured, abs=0.01)


def test_along_a_pull_height_runs_out_where_the_face_turns_away() -> None:
    table = {
        **RING_TABLE, "along_pull": True, "treatment": {"kind": "raised", "height_mm": 0.5, "root_mm": 0.4},
        "fit": {"greatest_height_mm": 3.6, "lowest_height_mm": 3.6, "clearance_mm": 0.7, "tracking": 0.06},
    }  # fmt: skip
    for wording, held in (("IDA", False), ("MAXIMILIAN", True)):
        laid_out = lay_out(inputs(product_from_table(table), wording))
        depth = next(f for f in laid_out.findings if f.code == "lettering-depth")
        low, _, high, _ = laid_out.layout.ink_bounds
        reach = (high - low) / 2.0 / laid_out.area.surface.radius_mm
        assert depth.measured == pytest.approx(0.5 * max(math.cos(reach), 0.0), abs=0.005)
        assert (depth.level is Level.FAILS) == held


def test_a_name_that_is_wider_than_its_room_is_held_by_how_much() -> None:
    table = {
        "code": "X", "process": "resin", "material": "bronze", "typeface": "pacifico",
        "blank": {"kind": "name piece", "length_mm": 60.0, "height_mm": 25.0},
        "treatment": {"kind": "cut-out", "thickness_mm": 2.0},
        "fit": {"greatest_height_mm": 40.0, "lowest_height_mm": 5.0, "clearance_mm": 0.5, "exact_width_mm": 80.0},
        "soundness": {"one_piece": "bridges", "bridge_mm": 1.2},
    }  # fmt: skip
    piece = made(table, "Oriel")
    # 80 mm in a room of 60 less half a millimetre on either side.
    assert worst(piece, "fits-area").measured >= (80.0 - 59.0) / 2.0 - 1e-3
    assert piece.stage == "held"


def test_the_plan_goes_on_until_it_is_sound() -> None:
    """On one line the strokes are too thin, on two they hold; by hand the lowest height would have said so."""
    table = {
        **TAG_TABLE,
        "fit": {
            "greatest_height_mm": 11.0, "lowest_height_mm": 2.0, "clearance_mm": 2.0, "most_lines": 2,
            "steps": ["lower", "break"],
        },
    }  # fmt: skip
    one = {**table, "fit": {**table["fit"], "most_lines": 1, "steps": ["lower"]}}
    wording = "Featherstone Winterbourne"
    held, ready = (lay_out(inputs(product_from_table(t), wording)) for t in (one, table))
    assert "stroke-width" in {f.code for f in held.failing}
    assert ready.failing == () and "broken into 2 lines" in {s.said for s in ready.layout.steps}


@pytest.mark.parametrize("head", ["oval", "rounded"])
def test_the_wall_under_a_signet_is_measured_not_declared(head: str) -> None:
    """By rays of another library (trimesh) on the bare ring, from under the lettering into it."""
    table = {
        **RING_TABLE,
        "blank": {
            "kind": "signet ring", "head": head, "head_length_mm": 17.0, "head_width_mm": 13.0, "rise_mm": 1.2,
            "shank_mm": 4.0, "wall_mm": 1.6, **({"corner_mm": 3.0} if head == "rounded" else {}),
        },
        "treatment": {"kind": "engraved", "depth_mm": 0.4},
        "fit": {"greatest_height_mm": 9.0, "lowest_height_mm": 3.0, "clearance_mm": 1.0},
    }  # fmt: skip
    laid_out = lay_out(inputs(product_from_table(table), "WM"))
    found = next(f for f in laid_out.findings if f.code == "floor-left")
    body = laid_out.blank.body(0.005).to_mesh()
    mesh = trimesh.Trimesh(body.vert_properties[:, :3], body.tri_verts, process=False)
    uv = shapely.get_coordinates(laid_out.layout.outlines)
    foot, head_at = (laid_out.made.place(uv, np.full(len(uv), h)) for h in (-0.02, 0.98))
    hits, rays, _ = mesh.ray.intersects_location(foot, foot - head_at, multiple_hits=False)
    walls = np.linalg.norm(hits - foot[rays], axis=1) + 0.02
    assert found.measured == pytest.approx(walls.min() - 0.4, abs=0.02)

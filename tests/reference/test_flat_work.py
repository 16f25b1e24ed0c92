"""Files for a beam against the finished solid, cut at half its thickness by another library (trimesh)."""

from __future__ import annotations

import io
import xml.etree.ElementTree as ET
from typing import Any

import ezdxf
import pytest
import shapely
import trimesh

from kizami.pieces.batch import piece_files
from kizami.pieces.make import Made, make_piece
from kizami.products.product_file import product_from_table
from tests.kizami.samples import inputs

FIT = {"greatest_height_mm": 12.0, "lowest_height_mm": 4.0, "clearance_mm": 3.0, "tracking": 0.2}
USUAL = {
    "code": "X",
    "process": "laser-ply",
    "material": "birch-plywood",
    "typeface": "roboto-slab-bold",
    "fit": FIT,
}
PLATE = {"kind": "plate", "length_mm": 60.0, "height_mm": 34.0, "thickness_mm": 3.0}
PIECES: dict[str, dict[str, Any]] = {
    "a heart with an ear": {"blank": {**PLATE, "outline": "heart", "hang": "ear top", "hole_mm": 4.0, "web_mm": 3.0}, "treatment": {"kind": "scored"}},
    "a leaf with a hole": {"blank": {**PLATE, "outline": "leaf", "hang": "hole left", "hole_mm": 3.5, "web_mm": 7.0}, "treatment": {"kind": "engraved", "depth_mm": 1.0}},
    "a tray": {"blank": {**PLATE, "outline": "rounded", "corner_mm": 4.0, "tray_mm": 1.0, "rim_mm": 4.0}, "treatment": {"kind": "engraved", "depth_mm": 0.5}},
    "pierced": {"blank": {**PLATE, "outline": "rounded", "corner_mm": 4.0}, "treatment": {"kind": "pierced"}, "soundness": {"middle_bridges": True, "bridge_mm": 1.2}},
    "in a recess": {"blank": {**PLATE, "outline": "oval"}, "treatment": {"kind": "in recess", "depth_mm": 1.0, "height_mm": 1.0, "margin_mm": 1.5}},
    "a name by itself": {"blank": {"kind": "name piece", "length_mm": 120.0, "height_mm": 40.0}, "treatment": {"kind": "cut-out", "thickness_mm": 3.0}, "soundness": {"one_piece": "base bar", "bridge_mm": 3.0, "loop": "left", "loop_hole_mm": 4.0}},
    "a name in a ring": {"blank": {"kind": "ring frame", "diameter_mm": 50.0, "frame_mm": 4.0, "thickness_mm": 3.0, "hole_mm": 4.0, "web_mm": 3.0}, "treatment": {"kind": "cut-out", "thickness_mm": 3.0}, "fit": {**FIT, "greatest_height_mm": 48.0, "clearance_mm": 0.2, "tracking": 0.0}, "arrangement": {"shape": {"kind": "filled", "outline": "round", "most_stretch": 6.5}}, "soundness": {"overlap_mm": 0.6}},
}  # fmt: skip


def made(name: str) -> Made:
    return make_piece(inputs(product_from_table({**USUAL, **PIECES[name]}), "Bo"))


def polygons(files: dict[str, bytes], layer: str) -> shapely.Geometry:
    """Closed outlines of a layer of the DXF, by even-odd."""
    space = ezdxf.read(io.StringIO(files["dxf"].decode())).modelspace()
    rings = [
        shapely.Polygon([p[:2] for p in line.get_points()])
        for line in space.query("LWPOLYLINE")
        if line.dxf.layer == layer
    ]
    whole = shapely.Polygon()
    for ring in rings:
        whole = whole.symmetric_difference(ring)
    return whole


@pytest.mark.parametrize("name", list(PIECES))
def test_what_is_cut_is_the_section_of_the_piece(name: str) -> None:
    piece = made(name)
    assert piece.solid is not None
    files = piece_files(piece, title=name)
    mesh = trimesh.Trimesh(piece.solid.vertices, piece.solid.triangles, process=False)
    low = mesh.bounds[0]
    # Half way down, under everything that is only engraved.
    section = mesh.section(plane_origin=[0, 0, low[2] + 1.0], plane_normal=[0, 0, 1])
    rings = [shapely.Polygon(line[:, :2] - low[:2]) for line in section.discrete]
    metal = shapely.Polygon()
    for ring in rings:
        metal = metal.symmetric_difference(ring)
    cut = polygons(files, "CUT")
    assert cut.area == pytest.approx(metal.area, rel=2e-3)
    assert shapely.hausdorff_distance(cut.boundary, metal.boundary) < 0.03
    size = mesh.bounds[1] - low
    root = ET.fromstring(files["cut.svg"])
    assert (root.get("width"), root.get("height")) == (f"{size[0]:.4f}mm", f"{size[1]:.4f}mm") or (
        float(root.get("width", "0mm")[:-2]) == pytest.approx(size[0], abs=0.01)
        and float(root.get("height", "0mm")[:-2]) == pytest.approx(size[1], abs=0.01)
    )


@pytest.mark.parametrize("name", ["a tray", "a leaf with a hole", "in a recess"])
def test_what_is_engraved_is_what_lies_lower_than_the_face(name: str) -> None:
    """By rays straight down: where the file says so the piece is lower, elsewhere it is not."""
    piece = made(name)
    assert piece.solid is not None
    mesh = trimesh.Trimesh(piece.solid.vertices, piece.solid.triangles, process=False)
    low, high = mesh.bounds
    engraved = polygons(piece_files(piece, title=name), "ENGRAVE")
    cut = polygons(piece_files(piece, title=name), "CUT")
    grid = [(x, y) for x in range(1, int(high[0] - low[0])) for y in range(1, int(high[1] - low[1]))]
    near = engraved.boundary.union(cut.boundary).buffer(0.05)
    told, found = [], []
    for x, y in grid:
        at = shapely.Point(x + 0.013, y + 0.017)
        if not cut.contains(at) or near.contains(at):
            continue
        hits, _, _ = mesh.ray.intersects_location([[low[0] + at.x, low[1] + at.y, high[2] + 1]], [[0, 0, -1]])
        told.append(engraved.contains(at))
        found.append(hits[:, 2].max() < high[2] - 0.1)
    assert told == found and any(told) and not all(told)


def test_scored_lines_are_the_letters_as_they_are_drawn() -> None:
    piece = made("a heart with an ear")
    scored = polygons(piece_files(piece, title="x"), "SCORE")
    assert scored.area == pytest.approx(piece.laid_out.layout.outlines.area, rel=1e-6)
    assert "ENGRAVE" not in piece_files(piece, title="x")["dxf"].decode()

"""Codes on the pieces themselves: where they stand, that they read, and that nothing else of a piece changes."""

from __future__ import annotations

import io
import zipfile
from dataclasses import replace
from pathlib import Path

import manifold3d as m3
import numpy as np
import pytest
import shapely
import trimesh

from kizami.errors import CatalogueError, RunError
from kizami.formats.stl import facets_of
from kizami.products.product_file import product_from_table
from kizami.runs import with_codes
from kizami.runs.coding import CodeOn, hidden_code, tab_for, tab_letters, tab_outline, tab_solid
from kizami.runs.labels import label
from kizami.runs.laid_piece import LaidPiece
from kizami.runs.laying import Place, placed_outline
from kizami.runs.machine import Kind, shipped_machines
from kizami.runs.release import Run, release
from kizami.runs.taking_up import lying_mark, shape_of
from kizami.runs.with_codes import with_code
from kizami.standards import shipped_standards
from tests.kizami.runs.samples import files_of, ring
from tests.kizami.samples import TAG_TABLE

RESIN = shipped_standards().processes["resin"].limits
PLATE = m3.Manifold.cube((40.0, 18.0, 3.0))
KEY = "E-2112-3-1"


def coded_piece(
    shape: m3.Manifold, on: CodeOn, key: str = KEY, process: str = "resin"
) -> tuple[LaidPiece, object]:
    files = files_of(shape)
    record = {"process": process, "code_on": on.value}
    covers, laid, _ = shape_of(
        lying_mark("x", record, key, Kind.PLATE), files["stl"], record, Kind.PLATE, key
    )
    assert laid is not None
    piece = LaidPiece(
        key=key, wording="Marta", shape_key=covers.key, turn=laid.turn, shift=laid.shift,
        place=Place(key=key, x_mm=10.0, y_mm=10.0, turn_deg=90.0), read=files.__getitem__,
        facts={"process": process}, code_on=on, tab=covers.tab,
    )  # fmt: skip
    return piece, covers


def level(stl: bytes, z_mm: float) -> shapely.Geometry:
    """What lies at a height, by trimesh."""
    mesh = trimesh.load_mesh(io.BytesIO(stl), file_type="stl")
    lines = trimesh.intersections.mesh_plane(mesh, [0, 0, 1], [0, 0, z_mm])[:, :, :2].round(5)
    return shapely.build_area(shapely.union_all(shapely.linestrings(lines)))


@pytest.mark.parametrize(
    "shape", [PLATE, ring(), m3.Manifold.cylinder(30, 4, 4, 64)], ids=["plate", "ring", "rod"]
)
def test_a_tab_lies_beside_its_piece_and_holds_to_it(shape: m3.Manifold, tmp_path: Path) -> None:
    piece, covers = coded_piece(shape, CodeOn.TAB)
    assert piece.tab is not None
    became = with_code(piece, 7, tmp_path)
    assert became.facts["code"] == KEY
    turn, shift = piece.turn, piece.shift
    corners = facets_of(became.read("stl")).reshape(-1, 3) @ turn.T + shift
    assert corners.min(axis=0) == pytest.approx([0, 0, 0], abs=1e-3)
    # Nothing reaches beyond the outline that packing knows of, which holds the tab.
    outline = covers.outline.buffer(0.02)
    assert shapely.intersects_xy(outline, corners[:, :2]).all()
    assert covers.outline.covers(tab_outline(piece.tab).buffer(-1e-3))


def test_a_code_on_a_tab_reads_from_above(tmp_path: Path) -> None:
    piece, _ = coded_piece(PLATE, CodeOn.TAB)
    tab = piece.tab
    found = level(with_code(piece, 1, tmp_path).read("stl"), tab.thick_mm + 0.1)
    # The plate itself is higher: what lies beyond it are the letters.
    letters = found.difference(shapely.box(-0.1, -0.1, 40.1, 18.1))
    drawn = label(KEY, height_mm=1.6, x_mm=0, y_mm=0, bold=True)
    assert letters.area == pytest.approx(drawn.area, rel=0.02)
    assert len(shapely.get_parts(letters)) == len(shapely.get_parts(drawn))


def test_a_code_in_the_hidden_face_reads_from_below(tmp_path: Path) -> None:
    piece, covers = coded_piece(PLATE, CodeOn.HIDDEN_FACE)
    assert covers.tab is None and covers.outline.area == pytest.approx(40 * 18)
    became = with_code(piece, 1, tmp_path)
    letters = shapely.box(0, 0, 40, 18).difference(level(became.read("stl"), 0.05))
    # Whoever turns the piece over sees right and left changed.
    seen = shapely.transform(letters, lambda xy: xy * [-1.0, 1.0])
    drawn = label(KEY, height_mm=3.0, x_mm=0.0, y_mm=0.0, bold=True)
    at = np.subtract(seen.bounds[:2], drawn.bounds[:2])
    moved = shapely.transform(drawn, lambda xy: xy + at)
    assert seen.symmetric_difference(moved).area < 0.03 * drawn.area
    # Engraved to the least depth that the process holds, over a whole floor.
    assert level(became.read("stl"), 0.25).area == pytest.approx(40 * 18)


@pytest.mark.parametrize(
    ("size", "text"),
    [((40.0, 18.0, 3.0), KEY), ((8.0, 7.0, 3.0), "12"), ((3.0, 1.5, 3.0), ""), ((40.0, 18.0, 0.7), "")],
    ids=["whole", "place in the run", "no room", "no floor"],
)
def test_what_stands_on_a_hidden_face_depends_on_its_room(
    size: tuple[float, float, float], text: str
) -> None:
    assert hidden_code(m3.Manifold.cube(size), KEY, 12, RESIN).text == text


def test_a_hidden_face_over_a_hollow_carries_nothing() -> None:
    hollow = PLATE - m3.Manifold.cube((38.0, 16.0, 1.5)).translate((1.0, 1.0, 0.7))
    assert hidden_code(hollow, KEY, 12, RESIN).text == ""


def test_long_codes_give_way_to_the_place_in_the_run(tmp_path: Path) -> None:
    coarse, _ = coded_piece(PLATE, CodeOn.TAB, process="filament")
    assert with_code(coarse, 17, tmp_path).facts["code"] == "17"


def test_equal_pieces_with_codes_about_as_long_share_their_shape() -> None:
    record = {"process": "resin", "code_on": "tab"}
    marks = [lying_mark("x", record, key, Kind.PLATE) for key in ("A-1-1", "A-2-7", "A-1101-1")]
    assert marks[0] == marks[1] != marks[2]
    hidden = {"process": "resin", "code_on": "hidden face"}
    assert len({lying_mark("x", hidden, key, Kind.PLATE) for key in ("A-1-1", "A-1101-1")}) == 1
    # What is found to look another way is laid anew.
    assert lying_mark("x", {**hidden, "lettering_mm2": [0, 0, 9]}, "A", Kind.PLATE) != lying_mark(
        "x", hidden, "A", Kind.PLATE
    )
    assert lying_mark("x", hidden, "A", Kind.SHEET) == "x"


def test_a_plate_of_coded_pieces_is_released_and_each_has_its_own_code(tmp_path: Path) -> None:
    made = [coded_piece(PLATE, on, key) for on, key in ((CodeOn.TAB, "A-1-1"), (CodeOn.HIDDEN_FACE, "A-1-2"))]
    pieces, outlines = [], []
    for n, (piece, covers) in enumerate(made):
        place = replace(piece.place, x_mm=60.0 * n + 45.0, y_mm=10.0)
        pieces.append(replace(piece, place=place))
        outlines.append(placed_outline(covers, place))
    run = Run(
        code="R", machine=shipped_machines()["RESIN-1"], material="printed-resin", pieces=tuple(pieces),
        outlines=tuple(outlines),
    )  # fmt: skip
    released = release(run, tmp_path)
    assert released.whole, released.differences
    rows = (tmp_path / "R-pieces.csv").read_text("utf-8-sig").splitlines()
    column = rows[0].split(",").index("code on it")
    assert [row.split(",")[column] for row in rows[1:]] == ["A-1-1", "A-1-2"]
    model = zipfile.ZipFile(tmp_path / "R.3mf").read("3D/3dmodel.model").decode()
    assert model.count("<mesh>") == 2, "each has a body of its own"


def test_a_code_that_is_not_as_it_should_be_is_not_released(
    monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    piece, _ = coded_piece(PLATE, CodeOn.TAB)
    mirrored = lambda tab, coded: tab_solid(tab, replace(coded, letters=_turned_over(coded.letters)))  # noqa: E731
    monkeypatch.setattr(with_codes, "tab_solid", mirrored)
    with pytest.raises(RunError, match="reads otherwise"):
        with_code(piece, 1, tmp_path)


def _turned_over(letters: shapely.MultiPolygon) -> shapely.MultiPolygon:
    middle = letters.envelope.centroid.x
    return shapely.transform(letters, lambda xy: np.column_stack((2 * middle - xy[:, 0], xy[:, 1])))


def test_a_tab_that_would_fall_off_is_found(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    piece, _ = coded_piece(PLATE, CodeOn.TAB)
    away = replace(piece.tab, x_mm=piece.tab.x_mm + 60.0)
    with pytest.raises(RunError, match="did not become one"):
        with_code(replace(piece, tab=away), 1, tmp_path)


def test_letters_of_a_tab_stand_on_it() -> None:
    body = ring()
    outline = shapely.Point(0, 0).buffer(10.5)
    tab = tab_for(body, outline, KEY, RESIN)
    assert tab is not None
    coded = tab_letters(tab, KEY, RESIN)
    assert tab_outline(tab).covers(coded.letters)
    assert len(tab_solid(tab, coded).decompose()) == 1


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"code_on": "lid"}, "code_on"),
        ({"code_on": "tab", "process": "laser-ply", "material": "birch-plywood"}, "place map"),
        ({"code_on": "tab", "colours": {"body": "#aabbcc", "lettering": "#112233"}}, "two colours"),
    ],
    ids=["unknown", "flat", "two colours"],
)
def test_products_that_can_not_carry_a_code_are_refused(changes: dict[str, object], said: str) -> None:
    assert product_from_table({**TAG_TABLE, "code_on": "tab"}).code_on == "tab"
    with pytest.raises(CatalogueError, match=said):
        product_from_table({**TAG_TABLE, **changes})

"""Files by their own specification; independent readers stand in tests/reference."""

from __future__ import annotations

import csv
import io
import math
import struct
import zipfile
from xml.etree import ElementTree

import ezdxf.recover
import lib3mf
import numpy as np
import openpyxl
import pytest
import shapely
import trimesh
from hypothesis import given
from hypothesis import strategies as st

from kizami.errors import CatalogueError
from kizami.formats.stl import stl_bytes
from kizami.formats.tables import csv_bytes, harmless, xlsx_bytes
from kizami.formats.three_mf import three_mf_bytes
from kizami.pieces.batch import piece_files
from kizami.pieces.make import make_piece
from kizami.solids.solid import Solid
from tests.kizami.samples import FOUR, FOUR_IDS, RAISED, RING, TAG, TAG_TABLE, inputs, product

TETRAHEDRON = Solid(
    vertices=np.array([(0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 1)], np.float32),
    triangles=np.array([(0, 2, 1), (0, 1, 3), (0, 3, 2), (1, 2, 3)], np.uint32),
    volume_mm3=1 / 6,
    bounds_mm=(0, 0, 0, 1, 1, 1),
    bodies=1,
    genus=0,
    is_lettering=np.zeros(4, dtype=bool),
)


def test_stl_is_laid_out_as_the_format_says() -> None:
    data = stl_bytes(TETRAHEDRON, title="Ana")
    assert len(data) == 84 + 50 * 4
    assert data[:5] != b"solid"
    assert struct.unpack_from("<I", data, 80) == (4,)
    normal, first = struct.unpack_from("<3f", data, 84), struct.unpack_from("<3f", data, 96)
    # The base (z = 0) looks down: right-hand rule, outward.
    assert normal == (0, 0, -1)
    assert first == (0, 0, 0)


def test_a_long_or_foreign_title_fits_the_header() -> None:
    assert len(stl_bytes(TETRAHEDRON, title="名" * 200)) == 84 + 50 * 4


def test_3mf_states_millimetres_and_names_the_piece() -> None:
    package = zipfile.ZipFile(io.BytesIO(three_mf_bytes(TETRAHEDRON, title='A & "B" <C>')))
    assert package.testzip() is None
    model = package.read("3D/3dmodel.model").decode()
    assert 'unit="millimeter"' in model
    assert "A &amp; " in model and "&lt;C&gt;" in model
    assert {e.date_time for e in package.infolist()} == {(1980, 1, 1, 0, 0, 0)}


@pytest.mark.parametrize("which", FOUR, ids=FOUR_IDS)
def test_the_same_inputs_give_the_same_bytes(which) -> None:
    first, second = (piece_files(make_piece(inputs(which, "Bartholomew")), title="x") for _ in range(2))
    assert first == second
    assert set(first) == {"svg", "stl", "3mf"}


def test_other_inputs_give_another_fingerprint_and_the_way_a_size_is_written_does_not() -> None:
    def mark(wording: str, size: str = "54") -> str:
        return make_piece(inputs(RING, wording, size)).fingerprint

    assert mark("Ana") == mark("Ana", "ISO 54")
    assert len({mark("Ana"), mark("Anb"), mark("Ana", "55")}) == 3


@pytest.mark.parametrize(
    "cell",
    ["=1+1", "+1+1", "-1+1", "@SUM(A1)", "\t=1", "\r=1", '=HYPERLINK("x")', "-Ana"],
)
def test_no_cell_begins_like_a_formula(cell: str) -> None:
    assert harmless(cell) == "'" + cell


@pytest.mark.parametrize("cell", ["-3.5", "+7", "1e3", "Ana", "", "O'Brien", "a=b"])
def test_numbers_and_words_stay_as_they_are(cell: str) -> None:
    assert harmless(cell) == cell


@given(
    st.lists(st.text(st.characters(blacklist_categories=("Cs",), blacklist_characters="\x00")), min_size=2)
)
def test_a_table_reads_back_with_at_most_an_apostrophe_more(row: list[str]) -> None:
    data = csv_bytes(["h"] * len(row), [row])
    assert data.startswith(b"\xef\xbb\xbf")
    (_, back) = list(csv.reader(io.StringIO(data.decode("utf-8-sig"), newline="")))
    assert [b.removeprefix("'") if b != a else b for a, b in zip(row, back, strict=True)] == row


TWO_COLOURS = product({**TAG_TABLE, "colours": {"body": "#c8a24a", "lettering": "#1d5c4a"}}, treatment=RAISED)


def test_two_colours_are_read_back_by_the_reference_library_of_3mf() -> None:
    made = make_piece(inputs(TWO_COLOURS, "Owen"))
    files = piece_files(made, title="Owen")
    wrapper = lib3mf.get_wrapper()
    model = wrapper.CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(files["3mf"])
    assert reader.GetWarningCount() == 0
    groups = model.GetBaseMaterialGroups()
    assert groups.MoveNext()
    group = groups.GetCurrentBaseMaterialGroup()
    colours = [group.GetDisplayColor(i) for i in group.GetAllPropertyIDs()]
    assert [(c.Red, c.Green, c.Blue) for c in colours] == [(0xC8, 0xA2, 0x4A), (0x1D, 0x5C, 0x4A)]
    meshes = model.GetMeshObjects()
    assert meshes.MoveNext()
    mesh = meshes.GetCurrentMeshObject()
    names = [group.GetName(p.PropertyIDs[0]) for p in mesh.GetAllTriangleProperties()]
    lettered = np.array([name == "lettering" for name in names])
    assert (lettered == made.solid.is_lettering).all()
    # What stands above the face is the lettering's, and only that.
    above = made.solid.vertices[made.solid.triangles][:, :, 2].max(axis=1) > 3.0 + 1e-4
    assert (lettered == above).all()


def test_a_glb_has_both_parts_with_their_colours_in_metres_and_upright() -> None:
    made = make_piece(inputs(TWO_COLOURS, "Owen"))
    scene = trimesh.load(io.BytesIO(piece_files(made, title="Owen")["glb"]), file_type="glb")
    parts = {m.visual.material.name: m for m in scene.geometry.values()}
    assert set(parts) == {"body", "lettering"}
    assert sum(len(m.faces) for m in parts.values()) == len(made.solid.triangles)
    whole = trimesh.util.concatenate([trimesh.Trimesh(m.vertices, m.faces) for m in parts.values()])
    whole.merge_vertices()
    assert whole.volume * 1e9 == pytest.approx(made.solid.volume_mm3, rel=1e-4)
    x, y, z = made.solid.size_mm
    assert scene.extents * 1000 == pytest.approx((x, z, y), rel=1e-5)
    # 0xC8 in linear light (IEC 61966-2-1): ((0.7843 + 0.055) / 1.055) ^ 2.4.
    assert parts["body"].visual.material.baseColorFactor[0] / 255 == pytest.approx(0.5776, abs=0.005)


def test_one_colour_writes_no_materials_and_no_glb() -> None:
    files = piece_files(make_piece(inputs(TAG, "Owen")), title="Owen")
    assert set(files) == {"svg", "stl", "3mf"}
    with zipfile.ZipFile(io.BytesIO(files["3mf"])) as package:
        assert b"basematerials" not in package.read("3D/3dmodel.model")


@pytest.mark.parametrize(
    "colours",
    [
        {},
        {"body": "#c8a24a"},
        {"body": "red", "lettering": "#1d5c4a"},
        "#c8a24a",
        {"body": "#c8a24a", "lettering": 3},
    ],
)
def test_colours_that_are_none_are_refused(colours: object) -> None:
    with pytest.raises(CatalogueError, match="colours"):
        product({**TAG_TABLE, "colours": colours})


def test_a_scored_piece_has_its_cuts_and_marks_as_dxf_and_svg() -> None:
    made = make_piece(inputs(product(TAG_TABLE, treatment={"kind": "scored"}), "Owen"))
    files = piece_files(made, title="Owen")
    document, audit = ezdxf.recover.read(io.BytesIO(files["dxf"]))
    assert not audit.has_errors
    areas = {}
    for name in ("CUT", "SCORE"):
        lines = list(document.modelspace().query(f'LWPOLYLINE[layer=="{name}"]'))
        assert all(line.closed for line in lines)
        rings = [shapely.Polygon([p[:2] for p in line.get_points()]) for line in lines]
        areas[name] = shapely.Polygon()
        for ring in sorted(rings, key=lambda r: -r.area):
            areas[name] = areas[name].symmetric_difference(ring)
    assert areas["CUT"].bounds == pytest.approx((0, 0, 60, 25))
    # A plate with rounded corners, less its hole: 60 x 25 - (4 - pi) 5^2 - pi 2.5^2.
    assert areas["CUT"].area == pytest.approx(1500 - (4 - math.pi) * 25 - math.pi * 6.25, rel=2e-3)
    assert areas["SCORE"].area == pytest.approx(made.laid_out.layout.outlines.area, rel=1e-6)
    assert areas["CUT"].contains(areas["SCORE"])
    root = ElementTree.fromstring(files["cut.svg"])
    assert (root.get("width"), root.get("height")) == ("60.0000mm", "25.0000mm")
    assert [g.get("id") for g in root.iter("{http://www.w3.org/2000/svg}g")] == ["score", "cut"]


def test_a_workbook_does_not_say_when_it_was_written() -> None:
    told = openpyxl.load_workbook(io.BytesIO(xlsx_bytes("run", ["a"], [["b"]]))).properties
    assert told.created == told.modified
    assert told.modified.year == 1980

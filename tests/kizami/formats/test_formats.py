"""Files by their own specification; independent readers stand in tests/reference."""

from __future__ import annotations

import csv
import io
import struct
import zipfile

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kizami.batch import piece_files
from kizami.formats.stl import stl_bytes
from kizami.formats.tables import csv_bytes, harmless
from kizami.formats.three_mf import three_mf_bytes
from kizami.make import make_piece
from kizami.solids.treat import Solid
from tests.kizami.pieces import FOUR, FOUR_IDS, RING, inputs

TETRAHEDRON = Solid(
    vertices=np.array([(0, 0, 0), (1, 0, 0), (0, 1, 0), (0, 0, 1)], np.float32),
    triangles=np.array([(0, 2, 1), (0, 1, 3), (0, 3, 2), (1, 2, 3)], np.uint32),
    volume_mm3=1 / 6,
    bounds_mm=(0, 0, 0, 1, 1, 1),
    bodies=1,
    genus=0,
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

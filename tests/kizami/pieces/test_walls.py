"""Names on products as they hang on a wall, from the command line too."""

from __future__ import annotations

import io
from pathlib import Path

import pytest
from PIL import Image

from kizami.cli import main
from kizami.pieces.walls import hung, wall_of
from kizami.products.product_file import product_from_table
from tests.kizami.samples import TAG, TAG_TABLE

NAME_PIECE = {
    **TAG_TABLE, "code": "NECK", "blank": {"kind": "name piece", "length_mm": 60.0, "height_mm": 30.0},
    "treatment": {"kind": "cut-out", "thickness_mm": 1.2}, "process": "resin", "typeface": "pacifico",
    "fit": {"greatest_height_mm": 10.0, "lowest_height_mm": 5.0, "clearance_mm": 0.2},
    "soundness": {"one_piece": "bridges", "bridge_mm": 0.8, "overlap_mm": 0.3, "loop": "ends",
                  "loop_hole_mm": 1.6, "loop_wall_mm": 0.8},
}  # fmt: skip


def test_a_name_piece_hangs_with_nothing_behind_it_and_says_what_was_done() -> None:
    piece = hung(product_from_table(NAME_PIECE), "Björn")
    assert piece.ground.is_empty and len(piece.letters.geoms) == 1
    assert piece.name == "Björn" and piece.held == ""
    assert piece.said.startswith("10.00 mm; ") and "two loops of 1.60 mm" in piece.said


def test_a_plate_is_shown_and_what_holds_a_name_is_said() -> None:
    piece = hung(TAG, "Bartholomew Featherstonehaugh-Cholmondeley")
    assert not piece.ground.is_empty and piece.held


def test_pieces_come_in_order_however_many_processes_make_them() -> None:
    asked = [(TAG, name) for name in ("Bo", "Ida", "Owen", "Mia", "Una", "Zoë", "Ty")]
    told: list[tuple[int, int, int]] = []
    together = wall_of(asked, jobs=2, progress=lambda *at: told.append(at))
    assert [piece.name for piece in together] == [name for _, name in asked]
    assert [piece.letters.wkb for piece in together] == [piece.letters.wkb for piece in wall_of(asked)]
    assert told[-1][:2] == (7, 7)


@pytest.mark.parametrize("kind", ["svg", "png"])
def test_the_command_draws_a_wall(tmp_path: Path, kind: str, capsys) -> None:
    names, out = tmp_path / "names.txt", tmp_path / f"wall.{kind}"
    names.write_text("Bo\n\nIda\n", "utf-8")
    said = ["wall", "CREW-TAG", "--products", "demo/products.toml", "--names", str(names), "--jobs", "1"]
    assert main([*said, "--columns", "2", "--out", str(out)]) == 0
    assert "2 ready, 0 held" in capsys.readouterr().out
    if kind == "png":
        assert Image.open(io.BytesIO(out.read_bytes())).format == "PNG"
    else:
        assert out.read_bytes().count(b"<text") == 4


@pytest.mark.parametrize(
    ("said", "why"),
    [
        (["--out", "wall.gif"], "must end in"),
        (["--out", "wall.png", "--columns", "0"], "columns"),
        (["--out", "wall.png", "--typefaces", "runes"], "no typeface"),
    ],
)
def test_what_cannot_be_drawn_is_said(said: list[str], why: str, capsys) -> None:
    assert main(["wall", "CREW-TAG", "--products", "demo/products.toml", *said]) == 2
    assert why in capsys.readouterr().err


def test_a_product_that_is_not_there_is_named(capsys) -> None:
    assert main(["wall", "CREW-TAX", "--products", "demo/products.toml", "--out", "x.png"]) == 2
    assert "CREW-TAG" in capsys.readouterr().err

"""What a run asks of a piece: which way its lettering looks decides how it lies."""

from __future__ import annotations

import pytest

from kizami.cli import catalogue_at
from kizami.pieces.batch import piece_files
from kizami.pieces.inputs import Inputs
from kizami.pieces.make import Made, make_piece
from kizami.pieces.run_facts import run_facts
from kizami.runs.body import body_of
from kizami.runs.poses import lay
from kizami.sizes import parse_ring_size
from launch.state import REPOSITORY


def made(code: str, wording: str, size: str = "") -> Made:
    product = catalogue_at(REPOSITORY / "demo" / "products.toml").find(code)
    assert product is not None
    asked = parse_ring_size(size, default=product.size_system) if size and product.size_system else None
    piece = make_piece(Inputs(product=product, wording=wording, size=asked))
    assert piece.stage == "ready", piece.laid_out.failing
    return piece


@pytest.mark.parametrize(
    ("code", "wording"),
    [("BUOY-FRAME", "NOA"), ("BUOY-FRAME", "OWEN"), ("BUOY-FRAME", "TILLY"), ("CREW-TAG", "Lind")],
)
def test_what_reads_from_one_side_lies_with_that_side_up(code: str, wording: str) -> None:
    piece = made(code, wording)
    facts = run_facts(piece)
    laid = lay(body_of(piece_files(piece, title="x")["stl"], facts["lettering_mm2"]))
    # In the demo plates and frames are drawn with their face to +z.
    assert laid.turn @ [0.0, 0.0, 1.0] == pytest.approx([0.0, 0.0, 1.0], abs=1e-6)


def test_the_thinnest_place_is_one_of_the_piece() -> None:
    """A tag of 2.8 mm is nowhere thicker than that, and nowhere thinner than the floor under its letters."""
    facts = run_facts(made("CREW-TAG", "Lind"))
    assert 0.0 < facts["thinnest_mm"] <= 2.8
    assert facts["code_on"] == ""

"""A piece cut open: the section is the piece's own, and what is measured in it is true."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
import trimesh

from kizami.drawing.cut_open import cut_open
from kizami.pieces.make import Made, make_piece
from kizami.products.product import Product
from tests.kizami.samples import RAISED, RING, RING_TABLE, TAG, TAG_TABLE, inputs, product

STENCIL = product(
    TAG_TABLE, treatment={"kind": "pierced"}, process="laser-ply", material="birch-plywood",
    typeface="saira-stencil",
)  # fmt: skip
CASES: list[tuple[str, Product, dict[str, float]]] = [
    ("engraved plate", TAG, {"deep": 1.0, "left under it": 2.0}),
    ("raised plate", product(TAG_TABLE, treatment=RAISED), {"proud": 0.6, "wall": 3.0}),
    ("pierced plate", STENCIL, {"wall": 3.0}),
    ("engraved band", RING, {"deep": 0.45, "left under it": 1.35}),
    ("raised band", product(RING_TABLE, treatment=RAISED), {"proud": 0.6, "wall": 1.8}),
]


def made_of(which: Product, wording: str = "HIM") -> Made:
    made = make_piece(inputs(which, wording))
    assert made.solid is not None
    return made


@pytest.mark.parametrize(("which", "lengths"), [row[1:] for row in CASES], ids=[row[0] for row in CASES])
def test_what_is_measured_in_the_cut_is_what_was_made(which: Product, lengths: dict[str, float]) -> None:
    made = made_of(which)
    cut = cut_open(made.laid_out.made, made.solid)
    assert cut is not None
    # Chords of a band lie up to 0.005 mm within its circle, on either side of the wall.
    assert {one.title: one.mm for one in cut.lengths} == pytest.approx(lengths, abs=0.012)
    for one in cut.lengths:
        ends = np.array([one.start, one.end])
        assert np.linalg.norm(ends[1] - ends[0]) == pytest.approx(one.mm, abs=1e-6)
        assert (ends - cut.at) @ cut.normal == pytest.approx([0.0, 0.0], abs=1e-6)


@pytest.mark.parametrize("which", [row[1] for row in CASES], ids=[row[0] for row in CASES])
def test_the_filling_is_the_section_of_the_solid(which: Product) -> None:
    """Beside trimesh, which cuts the same triangles by itself."""
    made = made_of(which)
    cut = cut_open(made.laid_out.made, made.solid)
    assert cut is not None and made.solid is not None
    assert np.abs((cut.points - cut.at) @ cut.normal).max() < 1e-4
    corners = cut.points[cut.triangles]
    crossed = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    # All of it is seen from where the normal points to.
    assert (crossed @ cut.normal).min() > -1e-6
    mesh = trimesh.Trimesh(made.solid.vertices, made.solid.triangles, process=False)
    section = mesh.section(plane_origin=cut.at + 1e-5 * cut.normal, plane_normal=cut.normal)
    assert section is not None
    flat, _ = section.to_2D()
    assert np.linalg.norm(crossed, axis=1).sum() / 2.0 == pytest.approx(flat.area, rel=2e-3)


def test_the_deepest_letter_is_the_one_that_is_cut() -> None:
    """A pointed floor is the deeper the wider its stroke: of “i” and “M” in a bold face the M goes deepest."""
    pointed: dict[str, Any] = {"kind": "engraved", "depth_mm": 2.0, "floor": "pointed"}
    made = made_of(product(TAG_TABLE, treatment=pointed), "iiM")
    cut = cut_open(made.laid_out.made, made.solid)
    assert cut is not None and cut.letter == 2


def test_without_letters_nothing_is_cut() -> None:
    made = made_of(TAG)
    nothing = make_piece(inputs(TAG, ""))
    assert made.solid is not None
    assert cut_open(nothing.laid_out.made, made.solid) is None

"""Codes are read back by an independent reader, and their modules are measured against the process."""

from __future__ import annotations

import dataclasses

import numpy as np
import pytest
import shapely
import zxingcpp
from PIL import Image, ImageDraw

from kizami.artwork.square_codes import LONGEST_CODE, square_code
from kizami.errors import ArtworkError
from kizami.pieces.laying_out import lay_out
from tests.kizami.samples import TAG_TABLE, inputs, product

KINDS = ["QR code", "Data Matrix"]
TEXTS = ["A", "https://saltgrass.example/t/4711", "Ottoline Halloran · 1987", "日本語", "x" * LONGEST_CODE]


def photographed(shape: shapely.MultiPolygon, modules: int, *, pixels: int = 6) -> Image.Image:
    """The outlines as a picture, 6 pixels a module, with a quiet zone of four."""
    side = (modules + 8) * pixels
    picture = Image.new("L", (side, side), 255)
    pen = ImageDraw.Draw(picture)
    scale = modules * pixels

    def place(ring: shapely.LinearRing) -> list[tuple[float, float]]:
        return [(x * scale + 4 * pixels, side - 4 * pixels - y * scale) for x, y in ring.coords]

    for body in sorted(shape.geoms, key=lambda b: -shapely.Polygon(b.exterior).area):
        pen.polygon(place(body.exterior), fill=0)
        for hole in body.interiors:
            pen.polygon(place(hole), fill=255)
    return picture


@pytest.mark.parametrize(
    ("kind", "text"),
    [(k, t) for k in KINDS for t in TEXTS if k == "QR code" or t.isascii()],
    ids=lambda v: v[:12],
)
def test_the_outlines_read_back_as_what_was_written(kind: str, text: str) -> None:
    code = square_code(text, kind=kind)
    found = zxingcpp.read_barcodes(np.asarray(photographed(code.shape, code.modules)))
    assert [r.text for r in found] == [text]
    assert kind.replace(" ", "").lower().startswith(found[0].format.name.lower()[:2])
    assert code.width == pytest.approx(1.0)


@pytest.mark.parametrize("kind", KINDS)
def test_a_text_that_no_tag_can_carry_is_refused(kind: str) -> None:
    with pytest.raises(ArtworkError, match="301"):
        square_code("x" * (LONGEST_CODE + 1), kind=kind)


def test_a_sign_that_a_data_matrix_can_not_carry_is_named() -> None:
    with pytest.raises(ArtworkError, match=r"“é”.*QR code"):
        square_code("Zoé", kind="Data Matrix")


@pytest.mark.parametrize(("kind", "modules"), [("QR code", 25), ("Data Matrix", 18)])
def test_the_module_is_what_the_stroke_check_measures(kind: str, modules: int) -> None:
    """A short text: a version 2 QR code has 25 modules, a Data Matrix of 18 carries 25 letters."""
    which = product(
        {**TAG_TABLE, "wording": {"kind": kind}}, fit={"greatest_height_mm": 18.0, "lowest_height_mm": 5.0}
    )
    code = square_code("saltgrass.example/47", kind=kind)
    laid_out = lay_out(dataclasses.replace(inputs(which, "saltgrass.example/47"), artwork=code))
    stroke = next(f for f in laid_out.findings if f.code == "stroke-width")
    assert code.modules == modules
    assert stroke.measured == pytest.approx(laid_out.layout.height_mm / modules, rel=0.01)

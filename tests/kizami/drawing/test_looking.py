"""From where a piece is looked at: wherever its lettering stands, it is seen, upright and from left to right."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np
import pytest

from kizami.drawing.looking import FROM_ABOVE, FROM_THE_FRONT, Look, look_at
from kizami.drawing.picture import Ground, picture
from kizami.pieces.make import Made, make_piece
from tests.kizami.samples import RING_TABLE, TAG_TABLE, inputs, product

BAND = RING_TABLE["blank"]
SIGNET = {
    "kind": "signet ring", "head_length_mm": 17.0, "head_width_mm": 13.0, "rise_mm": 1.2, "shank_mm": 6.0,
    "wall_mm": 1.8,
}  # fmt: skip
GRIP = {
    "kind": "sleeve", "low_mm": 34.0, "high_mm": 34.0, "length_mm": 50.0, "bore_mm": 20.0, "sectors": 2.0
}  # fmt: skip
PRODUCTS: dict[str, dict[str, Any]] = {
    "plate, face": TAG_TABLE,
    "plate, back": {**TAG_TABLE, "area": "back"},
    "band, outside": RING_TABLE,
    "band, inside": {**RING_TABLE, "area": "inside"},
    "tapered band, outside": {**RING_TABLE, "blank": {**BAND, "outer": "tapered", "rise_mm": 0.6}},
    "eased band, inside": {
        **RING_TABLE,
        "area": "inside",
        "blank": {**BAND, "inner": "comfort", "ease_mm": 0.3},
    },
    "signet, face": {**RING_TABLE, "blank": SIGNET},
    "signet, inside": {**RING_TABLE, "area": "inside", "blank": SIGNET},
    "grip, behind": {**TAG_TABLE, "area": "sector 2", "blank": GRIP},
}


@cache
def made(name: str, words: str) -> Made:
    return make_piece(inputs(product(PRODUCTS[name]), words))


def seen(name: str, words: str, look: Look) -> np.ndarray:
    piece = made(name, words)
    assert piece.solid is not None
    size = (400, 300)
    drawn = picture(piece.solid, look=look, colour="#c9c9c4", size_px=size, ground=Ground.NONE, margin_px=20)
    return drawn.astype(int)


@pytest.mark.parametrize("name", PRODUCTS)
def test_lettering_is_seen_wherever_it_stands(name: str) -> None:
    """Two wordings of one piece are two pictures; from the other side of it they are nearly one."""
    look = look_at(made(name, "An").laid_out.area)
    one, other = (seen(name, words, look) for words in ("An", "Mu"))
    assert (np.abs(one - other).max(axis=2) > 12).mean() > 0.003


@pytest.mark.parametrize("name", PRODUCTS)
def test_lettering_is_seen_upright_from_left_to_right(name: str) -> None:
    area = made(name, "An").laid_out.area
    u, v = area.anchor
    at = area.surface.place(np.array([(u, v), (u + 0.1, v), (u, v + 0.1)]), np.zeros(3))
    reading, upward = (at[1] - at[0]) / 0.1, (at[2] - at[0]) / 0.1
    way, right, up = look_at(area).directions
    outward = np.cross(reading, upward)
    assert reading @ right > 0.8 and upward @ up > 0.5
    assert outward @ way < -0.4


def test_plates_lie_and_bands_stand() -> None:
    plate, band = (made(name, "An").laid_out.area for name in ("plate, face", "tapered band, outside"))
    assert look_at(plate) == FROM_ABOVE and look_at(band) == FROM_THE_FRONT

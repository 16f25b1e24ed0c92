"""Letters that a product can never hold are named with what is wrong, and only these."""

from __future__ import annotations

import pytest

from kizami.pieces.forecast import forecast
from kizami.pieces.letters_held import common_letters, never_held
from kizami.products.product_file import product_from_table
from tests.kizami.samples import TAG_TABLE

FINE = {"kind": "raised", "height_mm": 0.6, "root_mm": 0.4, "edge": "chamfer", "edge_mm": 0.15}


def tag(greatest_mm: float, **changes: object):
    fit = {"greatest_height_mm": greatest_mm, "lowest_height_mm": 1.0, "clearance_mm": 1.0}
    return product_from_table({**TAG_TABLE, "fit": fit, **changes})


def test_a_product_with_room_holds_every_letter() -> None:
    assert never_held(tag(9.0)) == ()


def test_a_letter_that_fails_at_its_greatest_height_alone_is_told_with_its_measure() -> None:
    which = tag(4.0, treatment=FINE)
    never = never_held(which)
    # A stroke of at least 0.35 + 2 x 0.15 mm is asked; the thinnest of this typeface is 0.089 heights, in “q”.
    assert "q" in {lost.letter for lost in never} and "I" not in {lost.letter for lost in never}
    assert all(lost.height_mm == pytest.approx(4.0) for lost in never)
    assert all("mm" in lost.message for lost in never)
    found = forecast(which, ["Quentin", "Jacques"])
    assert found.never == never and {m.name for m in found.misfits} >= {"Jacques"}


def test_thickening_holds_them_again() -> None:
    soundness = {"thicken": "where needed", "most_departure_mm": 0.4}
    few = never_held(tag(4.0, treatment=FINE, soundness=soundness))
    assert {lost.code for lost in few} <= {"gap-width", "middle-width"}


@pytest.mark.parametrize(
    ("changes", "letters"),
    [
        ({"wording": {"kind": "initials"}}, "ABCDEFGHIJKLMNOPQRSTUVWXYZ"),
        ({"wording": {"kind": "QR code"}}, ""),
        ({"arrangement": {"shape": {"kind": "filled", "outline": "round"}}}, ""),
        ({"wording": {"kind": "year"}}, "0123456789"),
    ],
)
def test_letters_are_those_that_the_product_takes(changes: dict[str, object], letters: str) -> None:
    assert common_letters(tag(9.0, **changes)) == letters

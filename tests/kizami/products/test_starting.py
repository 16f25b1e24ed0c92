"""Products to begin with: one of every kind, and each can be made as it is."""

from __future__ import annotations

import pytest

from kizami.pieces.forecast import tried
from kizami.pieces.make import make_piece
from kizami.products.blank_tables import BLANK_TABLES
from kizami.products.product_file import product_from_table
from kizami.products.starting import starting_products


def test_there_is_one_of_every_kind_that_needs_no_file() -> None:
    kinds = {table["blank"]["kind"] for table in starting_products().values()}
    assert kinds == set(BLANK_TABLES) - {"supplied shape"}


@pytest.mark.parametrize("code", list(starting_products()))
def test_each_can_be_made_with_an_easy_name(code: str) -> None:
    made = make_piece(tried(product_from_table(starting_products()[code]), "Anna").inputs)
    assert made.stage == "ready", [f.message for f in made.findings[:2]]
    assert made.solid is not None

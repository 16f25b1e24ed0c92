"""What a products file says wrongly is told with its key, its bounds and what stood there."""

from __future__ import annotations

from typing import Any

import pytest

from kizami.errors import CatalogueError
from kizami.products.product_file import product_from_table
from tests.kizami.samples import RING_TABLE, TAG_TABLE

BLANK, FIT = TAG_TABLE["blank"], TAG_TABLE["fit"]
BACK = {
    "area": "back",
    "carries": "second wording",
    "treatment": {"kind": "engraved", "depth_mm": 0.3},
    "fit": FIT,
}
SHAPE = {"kind": "supplied shape", "file": "x.stl", "radius_mm": 3}


@pytest.mark.parametrize(
    ("changes", "sentence"),
    [
        pytest.param({"blank": {**BLANK, "thickness_mm": 18e9}}, "blank: thickness_mm must be a number from 0.5 to 30, not 18000000000.0.", id="number"),
        pytest.param({"blank": {**BLANK, "thickness_mm": "3"}}, "blank: thickness_mm must be a number from 0.5 to 30, not '3'.", id="a number as a word"),
        pytest.param({"wording": {"most": 2.5}}, "wording: most must be a whole number from 1 to 4, not 2.5.", id="whole number"),
        pytest.param({"blank": {**BLANK, "outline": "star"}}, "blank: outline “star” is none of rounded, oval, heart, leaf, ticket, free.", id="word"),
        pytest.param({"blank": {}}, "blank: kind must be one of band ring, plate, bead, domed disc, coin, sleeve, signet ring, ring frame, supplied shape, name piece, not None.", id="no kind"),
        pytest.param({"takes_logo": "yes"}, "takes_logo must be true or false.", id="flag"),
        pytest.param({"also": [BACK, {**BACK, "glue": 1}]}, "also 2: unknown glue.", id="which of a list"),
        pytest.param({"finishes": ["satin", ""]}, "finishes 2 must not be empty.", id="which word of a list"),
        pytest.param({"blank": {**SHAPE, "point": [0, 0]}}, "blank: point must be three numbers from -10000 to 10000, not [0, 0].", id="place"),
        pytest.param({"blank": {**BLANK, "outline": "free", "points": [[0, 0], [1, 0], [1]]}}, "blank: points must be pairs of numbers from -10000 to 10000; pair 3 is not.", id="which pair"),
        pytest.param({"colours": {"body": "red", "lettering": "#aaaaaa"}}, "colours: body must be a colour such as #1d5c4a.", id="colour"),
        pytest.param({"finish": 3, "glue": 1}, "finish must be a word (and one thing more).", id="two things"),
    ],
)  # fmt: skip
def test_the_sentence(changes: dict[str, Any], sentence: str) -> None:
    with pytest.raises(CatalogueError) as error:
        product_from_table({**TAG_TABLE, **changes})
    assert str(error.value) == f"Product TAG: {sentence}"


@pytest.mark.parametrize("table", [{}, {"code": 7}, {"code": None, "blank": 3}])
def test_a_table_that_is_nothing_of_the_kind_is_refused_with_a_sentence(table: dict[str, Any]) -> None:
    with pytest.raises(CatalogueError, match=r"\.$"):
        product_from_table(table)


def test_a_table_stays_as_it_was_when_it_is_read() -> None:
    import copy

    before = copy.deepcopy(RING_TABLE)
    product_from_table(RING_TABLE)
    assert before == RING_TABLE

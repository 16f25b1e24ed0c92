"""What the bench sets on one piece: read from text, laid over the product, given back when left out."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import pytest

from kizami.errors import AdjustmentError
from kizami.lettering.shapes import STRAIGHT, Arc, Arched, Filled, LetterShape
from kizami.pieces.adjustments import SHAPES, adjusted, read_adjustments
from kizami.pieces.inputs import fingerprint
from kizami.pieces.laying_out import lay_out
from kizami.products.product_file import product_from_table
from tests.kizami.samples import TAG, TAG_TABLE, inputs

OFFERING = product_from_table(
    {**TAG_TABLE, "typefaces": ["vollkorn-bold"], "materials": ["sterling-silver"], "finishes": ["satin"]}
)


@pytest.mark.parametrize(
    ("given", "read"),
    [
        ({}, {}),
        ({"height_mm": " 4,5 "}, {"height_mm": 4.5}),
        ({"tracking": "0", "thicken_by_mm": ""}, {"tracking": 0.0}),
        ({"shape": "oval"}, {"shape": "oval", "shape_amount": 160.0}),
        ({"shape_amount": " "}, {}),
        ({"typeface": "x" * 90}, {"typeface": "x" * 60}),
    ],
)
def test_reading(given: dict[str, str], read: dict[str, Any]) -> None:
    assert read_adjustments(given) == read


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"height_mm": "four"}, "four"),
        ({"height_mm": "0.4"}, "from 0.5"),
        ({"tracking": "inf"}, "from -0.2 to 1"),
        ({"thicken_by_mm": "nan"}, "from -0.5 to 1"),
        ({"shape": "pretzel"}, "on an arc"),
        ({"shape": "round", "shape_amount": "9999"}, "500"),
        ({"shape_amount": "30"}, "choose its form"),
    ],
)
def test_what_may_not_be_set_is_refused_with_its_bounds(given: dict[str, str], says: str) -> None:
    with pytest.raises(AdjustmentError, match=says):
        read_adjustments(given)


def test_no_adjustment_is_the_product_itself() -> None:
    assert adjusted(TAG, {}) == TAG


def test_a_height_is_the_greatest_and_never_lowers_the_limit_that_it_is_judged_by() -> None:
    high = adjusted(TAG, {"height_mm": 9.0}).plan
    low = adjusted(TAG, {"height_mm": 3.0}).plan
    assert (high.greatest_height_mm, high.lowest_height_mm) == (9.0, 4.4)
    assert (low.greatest_height_mm, low.lowest_height_mm) == (3.0, 4.4)
    laid_out = lay_out(inputs(adjusted(TAG, {"height_mm": 3.0}), "Owen"))
    assert laid_out.layout.height_mm == 3.0
    assert [f.code for f in laid_out.failing if f.code == "lowest-height"] == ["lowest-height"]


def test_where_nothing_may_be_lowered_the_product_s_one_height_stays_the_limit() -> None:
    fixed = replace(TAG, plan=replace(TAG.plan, steps=()))
    low = adjusted(fixed, {"height_mm": 3.0})
    assert (low.plan.greatest_height_mm, low.plan.lowest_height_mm) == (3.0, 11.0)
    assert "lowest-height" in {f.code for f in lay_out(inputs(low, "Owen")).failing}


def test_a_shape_keeps_the_product_s_own_bound_on_stretching() -> None:
    filled = replace(TAG.arrangement, shape=Filled(outline="round", width=1.0, most_stretch=1.5))
    oval = adjusted(replace(TAG, arrangement=filled), {"shape": "oval", "shape_amount": 160.0})
    assert isinstance(oval.arrangement.shape, Filled) and oval.arrangement.shape.most_stretch == 1.5


def test_weight_thickens_all_over_and_nought_is_as_drawn() -> None:
    assert adjusted(TAG, {"thicken_by_mm": 0.2}).soundness.thicken == "all over"
    assert adjusted(TAG, {"thicken_by_mm": -0.1}).soundness.thicken_by_mm == -0.1
    assert adjusted(TAG, {"thicken_by_mm": 0.0}).soundness.thicken == "never"


SHAPED: list[tuple[str, float, LetterShape]] = [
    ("straight", 0.0, STRAIGHT),
    ("on an arc", 25.0, Arc(radius_mm=25.0)),
    ("on a hanging arc", 25.0, Arc(radius_mm=25.0, hollow=True)),
    ("arched", 40.0, Arched(rise=0.4)),
    ("round", 100.0, Filled(outline="round", width=1.0)),
    ("oval", 160.0, Filled(outline="oval", width=1.6)),
    ("diamond", 120.0, Filled(outline="diamond", width=1.2)),
    ("heart", 10.0, Filled(outline="heart", width=0.3)),
]


@pytest.mark.parametrize(("name", "amount", "shape"), SHAPED, ids=lambda v: str(v)[:12])
def test_every_shape_of_the_bench(name: str, amount: float, shape: LetterShape) -> None:
    assert adjusted(TAG, {"shape": name, "shape_amount": amount}).arrangement.shape == shape


def test_the_table_above_has_every_shape() -> None:
    assert {name for name, _, _ in SHAPED} == set(SHAPES)


def test_only_what_the_product_offers_is_chosen() -> None:
    chosen = adjusted(
        OFFERING, {"typeface": "vollkorn-bold", "material": "sterling-silver", "finish": "satin"}
    )
    assert (chosen.typeface, chosen.material, chosen.finish) == ("vollkorn-bold", "sterling-silver", "satin")
    assert adjusted(TAG, {"typeface": "vollkorn-bold"}).typeface == TAG.typeface


@pytest.mark.parametrize(
    "adjustment",
    [
        {"height_mm": 6.0},
        {"tracking": 0.2},
        {"thicken_by_mm": 0.1},
        {"shape": "round", "shape_amount": 100.0},
    ],
)
def test_every_adjustment_shapes_the_piece(adjustment: dict[str, Any]) -> None:
    assert fingerprint(inputs(adjusted(TAG, adjustment), "Ng")) != fingerprint(inputs(TAG, "Ng"))

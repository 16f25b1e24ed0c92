"""What the bench sets on one piece: read from text, laid over the product, given back when left out."""

from __future__ import annotations

import json
from dataclasses import replace
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kizami.errors import AdjustmentError
from kizami.lettering.fit_plan import Step, check_fit_plan
from kizami.lettering.shapes import STRAIGHT, Arc, Arched, Filled, LetterShape
from kizami.pieces.inputs import fingerprint
from kizami.pieces.laying_out import lay_out
from kizami.products.product_file import product_from_table
from kizami.setting.setting import AS_THE_PRODUCT, SHAPES, Setting, depth_of
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
    assert Setting.read(given).to_table() == read


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
        Setting.read(given)


def test_no_adjustment_is_the_product_itself() -> None:
    assert AS_THE_PRODUCT.on(TAG) == TAG


def test_a_height_is_the_greatest_and_never_lowers_the_limit_that_it_is_judged_by() -> None:
    high = Setting.from_table({"height_mm": 9.0}).on(TAG).plan
    low = Setting.from_table({"height_mm": 3.0}).on(TAG).plan
    assert (high.greatest_height_mm, high.lowest_height_mm) == (9.0, 4.4)
    assert (low.greatest_height_mm, low.lowest_height_mm) == (3.0, 4.4)
    laid_out = lay_out(inputs(Setting.from_table({"height_mm": 3.0}).on(TAG), "Owen"))
    assert laid_out.layout.height_mm == 3.0
    assert [f.code for f in laid_out.failing if f.code == "lowest-height"] == ["lowest-height"]


def test_where_nothing_may_be_lowered_the_product_s_one_height_stays_the_limit() -> None:
    fixed = replace(TAG, plan=replace(TAG.plan, steps=()))
    low = Setting.from_table({"height_mm": 3.0}).on(fixed)
    assert (low.plan.greatest_height_mm, low.plan.lowest_height_mm) == (3.0, 11.0)
    assert "lowest-height" in {f.code for f in lay_out(inputs(low, "Owen")).failing}


def test_a_shape_keeps_the_product_s_own_bound_on_stretching() -> None:
    filled = replace(TAG.arrangement, shape=Filled(outline="round", width=1.0, most_stretch=1.5))
    oval = Setting.from_table({"shape": "oval", "shape_amount": 160.0}).on(replace(TAG, arrangement=filled))
    assert isinstance(oval.arrangement.shape, Filled) and oval.arrangement.shape.most_stretch == 1.5


def test_weight_thickens_all_over_and_nought_is_as_drawn() -> None:
    assert Setting.from_table({"thicken_by_mm": 0.2}).on(TAG).soundness.thicken == "all over"
    assert Setting.from_table({"thicken_by_mm": -0.1}).on(TAG).soundness.thicken_by_mm == -0.1
    assert Setting.from_table({"thicken_by_mm": 0.0}).on(TAG).soundness.thicken == "never"


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
    assert Setting.from_table({"shape": name, "shape_amount": amount}).on(TAG).arrangement.shape == shape


def test_the_table_above_has_every_shape() -> None:
    assert {name for name, _, _ in SHAPED} == set(SHAPES)


def test_only_what_the_product_offers_is_chosen() -> None:
    chosen = Setting.from_table(
        {"typeface": "vollkorn-bold", "material": "sterling-silver", "finish": "satin"}
    ).on(OFFERING)
    assert (chosen.typeface, chosen.material, chosen.finish) == ("vollkorn-bold", "sterling-silver", "satin")
    assert Setting.from_table({"typeface": "vollkorn-bold"}).on(TAG).typeface == TAG.typeface


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
    assert fingerprint(inputs(Setting.from_table(adjustment).on(TAG), "Ng")) != fingerprint(inputs(TAG, "Ng"))


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"narrowest": "0.3"}, "from 0.6 to 1"),
        ({"most_lines": "9"}, "1 to 4 lines"),
        ({"most_lines": "-1"}, "1 to 4 lines"),
        ({"one_piece": "glue"}, "base bar"),
        ({"depth_mm": "0"}, "from 0.05"),
    ],
)
def test_more_that_may_not_be_set_is_refused(given: dict[str, str], says: str) -> None:
    with pytest.raises(AdjustmentError, match=says):
        Setting.read(given)


def test_lines_and_width_become_steps_of_the_plan() -> None:
    plan = Setting(most_lines=2, narrowest=0.8).on(TAG).plan
    assert plan.most_lines == 2 and plan.narrowest == 0.8
    assert plan.steps[-2:] == (Step.BREAK, Step.CONDENSE)
    assert check_fit_plan(plan) == ""
    one = Setting(most_lines=1, narrowest=1.0).on(replace(TAG, plan=plan)).plan
    assert not {Step.BREAK, Step.CONDENSE} & set(one.steps)


def test_depth_is_of_whatever_treatment() -> None:
    own = depth_of(TAG.treatment)
    assert own is not None
    assert depth_of(Setting(depth_mm=own + 0.2).on(TAG).treatment) == own + 0.2


def test_a_second_wording_is_received_set_or_left_out() -> None:
    assert Setting().second_of("2027") == "2027"
    assert Setting(second="2028").second_of("2027") == "2028"
    assert Setting(second="2028", without_second=True).second_of("2027") == ""


SETTINGS = st.builds(
    Setting,
    typeface=st.sampled_from(["", "vollkorn-bold"]),
    second=st.none() | st.text(min_size=1, max_size=8),
    height_mm=st.none() | st.floats(0.5, 100.0),
    tracking=st.none() | st.floats(-0.2, 1.0),
    narrowest=st.none() | st.floats(0.6, 1.0),
    most_lines=st.none() | st.integers(1, 4),
    thicken_by_mm=st.none() | st.floats(-0.5, 1.0),
    one_piece=st.sampled_from(["", "bridges", "no"]),
    depth_mm=st.none() | st.floats(0.05, 20.0),
    without_second=st.booleans(),
)


@given(SETTINGS)
def test_a_setting_is_kept_as_a_table_and_comes_back(setting: Setting) -> None:
    kept = json.loads(json.dumps(setting.to_table()))
    assert Setting.from_table(kept) == setting
    assert Setting.from_table({**kept, "of another time": 1}) == setting


def test_a_setting_stands_in_the_form_as_it_is_read() -> None:
    setting = Setting(height_mm=4.5, tracking=-0.05, most_lines=2, one_piece="bridges", without_second=True)
    assert Setting.read({name: str(value) for name, value in setting.to_fields().items()}) == setting


@given(SETTINGS)
def test_what_is_left_out_again_is_the_product_s_own(setting: Setting) -> None:
    assert AS_THE_PRODUCT.on(TAG) == TAG
    assert Setting.from_table({}).on(TAG) == TAG
    # Limits stand out of reach.
    assert setting.on(TAG).process == TAG.process
    assert setting.on(TAG).plan.lowest_height_mm == TAG.plan.lowest_height_mm

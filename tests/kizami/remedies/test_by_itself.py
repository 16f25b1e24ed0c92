"""Remedies that a product takes by itself: only what it names, only so far, always told."""

from __future__ import annotations

from dataclasses import replace

import pytest

from kizami.cli import catalogue_at
from kizami.pieces.forecast import forecast
from kizami.pieces.inputs import Inputs
from kizami.pieces.make import make_piece
from kizami.products.product_file import product_from_table
from kizami.remedies.by_itself import FIELDS, cured_by_itself, make_by_itself, taken_by_itself
from launch.state import REPOSITORY
from tests.kizami.remedies.test_search import of_the_demo
from tests.kizami.samples import TAG_TABLE


def taking(base: Inputs, *remedies: str, most_departure: float = 3.0) -> Inputs:
    plan = replace(base.product.plan, remedies=remedies, most_departure=most_departure)
    return replace(base, product=replace(base.product, plan=plan))


HELD = [
    ("CHOIR-RING", "Amigó", "slits"),
    ("HIVE-PLATE", "Davidson", "spacing"),
    ("GATE-TAG", "ITM", "strokes"),
]


@pytest.mark.parametrize(("code", "wording", "kind"), HELD, ids=[row[1] for row in HELD])
def test_what_is_named_is_taken_and_told(code: str, wording: str, kind: str) -> None:
    base = of_the_demo(code, wording)
    assert make_by_itself(base).stage == "held", "without a product saying so nothing is altered"
    asked = taking(base, kind)
    made = make_by_itself(asked)
    assert made.stage == "ready"
    step = made.laid_out.layout.steps[-1]
    assert step.name == "remedy" and "taken by itself" in step.said
    remedy = taken_by_itself(asked, make_piece(asked))
    assert remedy is not None and set(remedy.setting.to_table()) <= set(FIELDS[kind])
    # The same on every machine, however fast.
    assert make_by_itself(asked).fingerprint == made.fingerprint


def test_what_is_not_named_is_not_taken() -> None:
    base = of_the_demo("CHOIR-RING", "Amigó")
    assert make_by_itself(taking(base, "lines", "width")).stage == "held"


def test_what_departs_by_more_is_for_a_person() -> None:
    base = of_the_demo("HIVE-PLATE", "Davidson")
    asked = taking(base, "spacing")
    remedy = taken_by_itself(asked, make_piece(asked))
    assert remedy is not None
    for most, taken in ((remedy.cost + 0.01, True), (remedy.cost - 0.01, False)):
        bounded = taking(base, "spacing", most_departure=most)
        assert (taken_by_itself(bounded, make_piece(bounded)) is not None) == taken


def test_what_is_ready_is_left_alone() -> None:
    asked = taking(of_the_demo("CHOIR-RING", "Ida"), *FIELDS)
    made = make_by_itself(asked)
    assert made.stage == "ready" and made.fingerprint == make_piece(asked).fingerprint


def test_a_product_file_names_them_with_a_bound() -> None:
    table = {
        **TAG_TABLE,
        "fit": {**TAG_TABLE["fit"], "remedies": ["slits", "spacing"], "most_departure": 0.4},
    }
    assert product_from_table(table).plan.remedies == ("slits", "spacing")
    for wrong in ({"remedies": ["slits"]}, {"remedies": ["glue"], "most_departure": 0.4}):
        with pytest.raises(Exception, match=r"most_departure|remedies"):
            product_from_table({**TAG_TABLE, "fit": {**TAG_TABLE["fit"], **wrong}})


def test_a_forecast_counts_what_a_product_cures_by_itself() -> None:
    """“Roskoth” leaves a slit of its joined hand too narrow: held as drawn, ready once it is opened."""
    product = catalogue_at(REPOSITORY / "demo" / "products.toml").find("NAME-PLATE")
    assert product is not None and product.plan.remedies
    names = ["Roskoth", "Josephine"]
    assert [m.name for m in forecast(product, names).misfits] == ["Roskoth"]
    assert forecast(product, names, cured=cured_by_itself).misfits == ()
    # Without the product saying so nothing is cured.
    plain = replace(product, plan=replace(product.plan, remedies=(), most_departure=0.0))
    assert [m.name for m in forecast(plain, names, cured=cured_by_itself).misfits] == ["Roskoth"]

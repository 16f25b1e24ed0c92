"""Columns by name, by likeness and by memory; free text taken apart by a rule."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kizami.wording.columns import FIELDS, guess_columns
from kizami.wording.field_rules import FieldRule, guess_rule, take_apart
from kizami.wording.order_list import read_order_list


@pytest.mark.parametrize(
    ("header", "expected"),
    [
        pytest.param(["order", "product", "wording"], {"order": 0, "product": 1, "wording": 2}, id="our own names"),
        pytest.param(["Order #", "SKU", "Personalisation"], {"order": 0, "product": 1, "wording": 2}, id="common names"),
        pytest.param(["ORDER_NO", "Prodcut", "Engravng"], {"order": 0, "product": 1, "wording": 2}, id="misspelt"),
        pytest.param(["注文番号", "商品", "刻印", "数量"], {"order": 0, "product": 1, "wording": 2, "quantity": 3}, id="Japanese"),
        pytest.param(["Item", "Line", "Order"], {"line": 1, "order": 2}, id="the better heading wins"),
        pytest.param(["Colour", "Weather"], {}, id="nothing known"),
    ],
)  # fmt: skip
def test_headings_are_matched(header: list[str], expected: dict[str, int]) -> None:
    places = dict(guess_columns(header).places)
    assert {k: places.get(k) for k in expected} == expected
    assert set(places) == set(expected)


def test_every_heading_is_listed_once() -> None:
    headings = [h for field in FIELDS for h in field.headings]
    assert len(headings) == len(set(headings))


def test_what_the_desk_set_is_remembered_and_wins() -> None:
    header = ["Order", "Product", "Name", "Lettering"]
    remembered = {"wording": "Lettering", "customer": "Name", "size": ""}
    places = guess_columns(header, remembered=remembered).places
    assert (places["wording"], places["customer"]) == (3, 2)
    assert guess_columns(["Size", *header], remembered=remembered).places.get("size") is None
    # A remembered column that is gone falls back to guessing.
    assert (
        guess_columns(["Order", "Product", "Name"], remembered={"wording": "Lettering"}).places["wording"]
        == 2
    )


@given(st.lists(st.text(max_size=15), max_size=12))
def test_no_column_is_given_to_two_fields(header: list[str]) -> None:
    places = list(guess_columns(header).places.values())
    assert len(places) == len(set(places))


TEXTS = [
    "Name: Ana / Date: 4 May 2026 / Font: plain",
    "Name: Ivy / Date: 2026 / Font: script",
    "Name: Kit / Font: x",
]


def test_a_rule_is_guessed_from_the_rows() -> None:
    rule = guess_rule(TEXTS)
    assert rule is not None
    assert (rule.separator, rule.keys["name"], rule.keys["date"], rule.keys["font"]) == (
        "/",
        "wording",
        "second",
        "typeface",
    )
    assert take_apart(TEXTS[0], rule) == {"wording": "Ana", "second": "4 May 2026", "typeface": "plain"}


@pytest.mark.parametrize(
    "texts", [[], ["", " "], ["Ana", "Ivy", "To: Kit"], ["Psalm 23:4", "Mark 1:1"], ["A=B"]]
)
def test_plain_wording_needs_no_rule(texts: list[str]) -> None:
    assert guess_rule(texts) is None


RULE = FieldRule(separator="/", keys={"name": "wording", "date": "second", "font": ""})


@pytest.mark.parametrize(
    ("text", "fields"),
    [
        ("Name: Ana", {"wording": "Ana"}),
        ("name = Ana/Date:2026", {"wording": "Ana", "second": "2026"}),
        ("Name: A/C Milan fan / Date: 1", {"wording": "A/C Milan fan", "second": "1"}),
        ("Name: 10:30", {"wording": "10:30"}),
        ("just words", {"wording": "just words"}),
        ("Font: plain", {"wording": "Font: plain"}),
        ("  ", {}),
        ("Name: / Date: 2026", {"wording": "", "second": "2026"}),
    ],
)
def test_taking_apart(text: str, fields: dict[str, str]) -> None:
    assert take_apart(text, RULE) == fields


@given(st.text(st.sampled_from("abN :/=ame\nDt1"), max_size=40))
def test_no_letter_is_lost_in_taking_apart(text: str) -> None:
    parts = take_apart(text, RULE)
    kept = "".join(parts.values())
    keys = sum((text.lower().count(k) * len(k) for k in ("name", "date")), 0)
    letters = sum(c.isalnum() for c in text)
    assert sum(c.isalnum() for c in kept) >= letters - keys


def test_a_list_with_free_text_reads_through_its_rule() -> None:
    data = b"order,product,text\nA1,R6,Name: Ana / Date: 2026 / Font: plain\nA2,R6,Ivy\n"
    first, second = read_order_list(data, rule=RULE).rows
    assert (first.wording, first.second, first.note) == ("Ana", "2026", "Font: plain")
    assert (second.wording, second.second) == ("Ivy", "")


def test_priority_note_and_set_are_read() -> None:
    data = b"order,product,wording,priority,note,set\nA1,R6,Ana,RUSH,Happy day,crew\nA2,R6,Ivy,,,\nA3,R6,Kit,maybe,,\n"
    result = read_order_list(data)
    first, second = result.rows
    assert (first.rush, first.note, first.set_name) == (True, "Happy day", "crew")
    assert (second.rush, second.note, second.set_name) == (False, "", "")
    assert "maybe" in result.set_aside[0].reason

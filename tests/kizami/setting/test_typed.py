"""Values as people type them. An inch is 25.4 mm and a point 1/72 inch by definition."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kizami.errors import AdjustmentError
from kizami.setting.typed import typed_number

READ = [
    ("4.5", "mm", 4.5),
    ("4,5 mm", "mm", 4.5),
    ("0.45cm", "mm", 4.5),
    ('0.1"', "mm", 2.54),
    ("0,1 in", "mm", 2.54),
    ("1/4 inch", "mm", 6.35),
    ("1 1/2 in", "mm", 38.1),
    ("3 pt", "mm", 1.058333),
    ("−2", "mm", -2.0),
    (".5", "mm", 0.5),
    ("15°", "°", 15.0),
    ("-90 deg", "°", -90.0),
    ("85 %", "share", 0.85),
    ("0,85", "share", 0.85),
    ("", "mm", None),
    ("   ", "share", None),
]


@pytest.mark.parametrize(("text", "unit", "value"), READ, ids=[f"{t!r} {u}" for t, u, _ in READ])
def test_a_value_is_read_in_the_unit_that_it_is_kept_in(text: str, unit: str, value: float | None) -> None:
    assert typed_number(text, unit, low=-200.0, high=200.0) == (
        None if value is None else pytest.approx(value, abs=1e-6)
    )


@pytest.mark.parametrize(
    ("text", "unit", "says"),
    [
        ("four", "mm", "not a number"),
        ("1/0", "mm", "not a number"),
        ("1 2", "mm", "not a number"),
        ("4.5 kg", "mm", "kg"),
        ("20 in", "mm", "508 mm"),
        ("1e9", "mm", "e"),
        ("nan", "mm", "not a number"),
        ("45 mm", "°", "mm"),
        ("..", "mm", "not a number"),
    ],
)
def test_what_is_refused_says_how_it_was_read(text: str, unit: str, says: str) -> None:
    with pytest.raises(AdjustmentError, match=says) as refused:
        typed_number(text, unit, low=0.0, high=100.0, label="Height")
    assert str(refused.value).startswith("Height: ")


@given(st.text(max_size=12))
def test_whatever_is_typed_is_a_number_within_bounds_or_refused(text: str) -> None:
    try:
        value = typed_number(text, "mm", low=0.5, high=100.0)
    except AdjustmentError:
        return
    assert value is None or 0.5 <= value <= 100.0

"""Ring sizes: what is read, what is refused. Published values stand in tests/reference."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kizami.errors import RowError, SizeError
from kizami.sizes import SizeSystem, parse_ring_size

ISO = SizeSystem.ISO


@pytest.mark.parametrize(
    ("text", "default", "shown", "inferred"),
    [
        pytest.param("54", ISO, "ISO 54", True, id="bare number takes the product's system"),
        pytest.param("ISO 54", SizeSystem.US, "ISO 54", False, id="named system wins"),
        pytest.param("size 54", ISO, "ISO 54", True, id="the word size"),
        pytest.param("7 1/2", SizeSystem.US, "US 7.5", True, id="fraction"),
        pytest.param("7½", SizeSystem.US, "US 7.5", True, id="vulgar fraction"),
        pytest.param("us 7.25", ISO, "US 7.25", False, id="lower case"),
        pytest.param("7,5", SizeSystem.US, "US 7.5", True, id="decimal comma"),
        pytest.param("L½", SizeSystem.UK, "UK L½", False, id="UK half"),
        pytest.param("l 1/2", ISO, "UK L½", True, id="a letter is UK whatever the product's system"),
        pytest.param("AU P", ISO, "UK P", False, id="Australian sizes are the UK's"),
        pytest.param("JP 13", ISO, "JP 13", False, id="Japanese"),
        pytest.param("17.2 mm", ISO, "17.2 mm", False, id="bore in mm"),
        pytest.param("17.2mm", ISO, "17.2 mm", False, id="bore in mm without a space"),
        pytest.param("  54  ", ISO, "ISO 54", True, id="spaces"),
    ],
)  # fmt: skip
def test_a_size_is_read(text: str, default: SizeSystem, shown: str, inferred: bool) -> None:
    size = parse_ring_size(text, default=default)
    assert (str(size), size.inferred) == (shown, inferred)


@pytest.mark.parametrize(
    "text",
    [
        "",
        "large",
        "54x",
        "-3",
        "0",
        "7 1/0",
        "71/2",
        "US",
        "LL",
        "US L",
        "UK 7",
        "1e9",
        "999",
        "½ ½",
        "54 54",
        "NaN",
        "ISO 17 mm",
    ],
)
def test_what_is_not_a_size_is_refused_with_an_example(text: str) -> None:
    with pytest.raises(SizeError) as caught:
        parse_ring_size(text, default=ISO)
    assert isinstance(caught.value, RowError)
    assert caught.value.column == "size"


@pytest.mark.parametrize("text", ["9.9 mm", "30.1 mm", "ISO 20", "ISO 120", "US 30"])
def test_a_bore_no_finger_has_is_refused_with_the_bore(text: str) -> None:
    with pytest.raises(SizeError, match="bore of"):
        parse_ring_size(text, default=ISO)


@given(st.floats(min_value=32, max_value=94))
def test_an_iso_size_is_its_circumference(circumference: float) -> None:
    size = parse_ring_size(f"ISO {circumference:.4f}", default=ISO)
    assert math.isclose(size.circumference_mm, circumference, abs_tol=1e-4)


@given(st.text(max_size=30))
def test_any_text_is_a_size_or_a_size_error(text: str) -> None:
    try:
        size = parse_ring_size(text, default=ISO)
    except SizeError:
        return
    assert 10 <= size.bore_mm <= 30


def test_an_unknown_system_names_the_known_ones() -> None:
    with pytest.raises(SizeError, match="ISO, US, UK, JP, mm"):
        SizeSystem.named("French")

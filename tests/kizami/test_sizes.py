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
        pytest.param("US7", ISO, "US 7", False, id="system without a space"),
        pytest.param("7.5 US", ISO, "US 7.5", False, id="system after the size"),
        pytest.param("7 (US)", ISO, "US 7", False, id="system in brackets"),
        pytest.param("US 7-1/2", ISO, "US 7.5", False, id="a dash before the fraction"),
        pytest.param("Size: 7 ½ US", ISO, "US 7.5", False, id="label, fraction and system"),
        pytest.param("JP13", ISO, "JP 13", False, id="Japanese without a space"),
        pytest.param("13号", ISO, "JP 13", False, id="the Japanese counter"),
        pytest.param("１３号", ISO, "JP 13", False, id="full-width digits"),
        pytest.param("T52", SizeSystem.US, "ISO 52", True, id="French taille, as no US size is so large"),
        pytest.param("EU 52", SizeSystem.US, "ISO 52", False, id="European"),
        pytest.param("Gr. 54", ISO, "ISO 54", True, id="German label"),
        pytest.param("Größe 54", ISO, "ISO 54", True, id="German label in full"),
        pytest.param("Ø17,2", ISO, "17.2 mm", False, id="diameter sign"),
        pytest.param("54 mm", ISO, "ISO 54", False, id="so many mm go round"),
        pytest.param("L 1/2", ISO, "UK L½", True, id="letter and a half"),
        pytest.param("UKL½", ISO, "UK L½", False, id="UK without a space"),
        pytest.param("CH 14", ISO, "CH 14", False, id="Swiss"),
        pytest.param("IT 14", ISO, "IT 14", False, id="Italian"),
        pytest.param("14", SizeSystem.IT, "IT 14", True, id="Italian by the product"),
        pytest.param("54", SizeSystem.US, "ISO 54", True, id="no US size: one reading is left"),
        pytest.param("54", SizeSystem.JP, "ISO 54", True, id="no Japanese size: one reading is left"),
        pytest.param("M", SizeSystem.UK, "UK M", False, id="a letter by the product"),
    ],
)  # fmt: skip
def test_a_size_is_read(text: str, default: SizeSystem, shown: str, inferred: bool) -> None:
    size = parse_ring_size(text, default=default)
    assert (str(size), size.inferred) == (shown, inferred)


@pytest.mark.parametrize(
    "text",
    [
        "",
        "M",
        "S",
        "l",
        "XL",
        "52-54",
        "7/8",
        "7 or 8",
        "US 7 UK O",
        "US EU 54",
        "7.5 1/2",
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
    with pytest.raises(SizeError, match="ISO, US, UK, JP, CH, IT, ES, mm"):
        SizeSystem.named("French")


@pytest.mark.parametrize(("text", "named"), [("16", "JP 16 or 16 mm"), ("7", "US 7 or JP 7")])
def test_a_number_that_several_systems_could_mean_is_asked_about(text: str, named: str) -> None:
    with pytest.raises(SizeError, match=named):
        parse_ring_size(text, default=ISO)


@pytest.mark.parametrize(("system", "number"), [("CH", 14), ("IT", 14), ("ES", 14)])
def test_swiss_italian_and_spanish_sizes_are_the_circumference_less_40_mm(system: str, number: int) -> None:
    # The trade, no published source.
    size = parse_ring_size(f"{system} {number}", default=ISO)
    assert size.circumference_mm == pytest.approx(54.0)

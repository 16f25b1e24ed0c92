"""Cleaning: what goes, what stays, and that nothing changes twice."""

from __future__ import annotations

import unicodedata

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kizami.wording.cleaning import clean_wording


@pytest.mark.parametrize(
    ("original", "text", "codes"),
    [
        pytest.param("Ana", "Ana", [], id="clean already"),
        pytest.param("", "", [], id="empty"),
        pytest.param("  Ana   Ivy ", "Ana Ivy", ["spaces"], id="spaces"),
        pytest.param("Ana\tIvy", "Ana Ivy", [], id="a tab becomes a space"),
        pytest.param("Ana\r\nIvy", "Ana Ivy", ["spaces"], id="a line end becomes one space"),
        pytest.param("A\u202eb\u202c", "Ab", ["invisible"], id="direction overrides"),
        pytest.param("A\x07b", "Ab", ["invisible"], id="control character"),
        pytest.param("A\u200bb", "Ab", ["invisible"], id="zero-width space"),
        pytest.param("ن\u200cم", "ن\u200cم", [], id="a joiner shapes letters and stays"),
        pytest.param("Zoe\u0308", "Zoë", ["composed"], id="accent composed"),
        pytest.param("🙂", "🙂", [], id="a symbol is not rubbish, though it may be missing"),
        pytest.param("=1+1", "=1+1", [], id="a formula is only words here"),
    ],
)
def test_cleaning(original: str, text: str, codes: list[str]) -> None:
    wording = clean_wording(original)
    assert wording.text == text
    assert [change.code for change in wording.changes] == codes
    assert wording.original == original


@given(st.text())
def test_cleaning_is_idempotent_and_normal(text: str) -> None:
    once = clean_wording(text)
    twice = clean_wording(once.text)
    assert twice.text == once.text
    assert twice.changes == ()
    assert unicodedata.is_normalized("NFC", once.text)


@given(st.text())
def test_no_letter_is_lost(text: str) -> None:
    def letters(s: str) -> list[str]:
        return [c for c in unicodedata.normalize("NFC", s) if unicodedata.category(c)[0] in "LN"]

    # Composition may still happen across a removed invisible character, so compare normalised.
    visible = "".join(c for c in text if unicodedata.category(c) not in ("Cc", "Cf", "Cs", "Co", "Cn"))
    assert letters(clean_wording(text).text) == letters(visible)

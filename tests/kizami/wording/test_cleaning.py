"""Cleaning: what goes, what stays, and that nothing changes twice."""

from __future__ import annotations

import unicodedata

import pytest
from faker import Faker
from hypothesis import given
from hypothesis import strategies as st

from kizami.wording.cleaning import PLACEHOLDERS, clean_received, clean_typed


@pytest.mark.parametrize(
    ("original", "text", "codes"),
    [
        pytest.param("Ana", "Ana", [], id="clean already"),
        pytest.param("", "", [], id="empty"),
        pytest.param("  Ana   Ivy ", "Ana Ivy", ["spaces"], id="spaces"),
        pytest.param("Ana\tIvy", "Ana Ivy", ["invisible"], id="a tab becomes a space"),
        pytest.param(
            "Ana \r\n\n Ivy\n", "Ana\nIvy", ["invisible", "spaces"], id="line ends are one and stay"
        ),
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
    wording = clean_typed(original)
    assert wording.text == text
    assert [change.code for change in wording.changes] == codes
    assert wording.original == original


@given(st.text())
def test_cleaning_is_idempotent_and_normal(text: str) -> None:
    once = clean_typed(text)
    twice = clean_typed(once.text)
    assert twice.text == once.text
    assert twice.changes == ()
    assert unicodedata.is_normalized("NFC", once.text)


@given(st.text())
def test_no_letter_is_lost(text: str) -> None:
    def letters(s: str) -> list[str]:
        return [c for c in unicodedata.normalize("NFC", s) if unicodedata.category(c)[0] in "LN"]

    # Composition may still happen across a removed invisible character, so compare normalised.
    visible = "".join(c for c in text if unicodedata.category(c) not in ("Cc", "Cf", "Cs", "Co", "Cn"))
    assert letters(clean_typed(text).text) == letters(visible)


@pytest.mark.parametrize(
    ("original", "text", "codes"),
    [
        pytest.param("Bj&ouml;rn &amp; Ana", "Björn & Ana", ["entities"], id="HTML entities"),
        pytest.param("A &amp;amp; B", "A & B", ["entities"], id="wrapped twice"),
        pytest.param("A&B; C", "A&B; C", [], id="an ampersand is no entity"),
        pytest.param("O\u2019Neil", "O'Neil", ["quotes"], id="smart apostrophe"),
        pytest.param("\u201cAna\u201d", '"Ana"', ["quotes"], id="smart quotes"),
        pytest.param("Name: Ana", "Ana", ["own name"], id="the field's own name"),
        pytest.param("NAME = Ana", "Ana", ["own name"], id="in capitals, with an equals sign"),
        pytest.param("Text: Name: Ana", "Ana", ["own name"], id="twice"),
        pytest.param("Name", "", ["placeholder"], id="only the field's name"),
        pytest.param("Naomi: x", "Naomi: x", [], id="another word before a colon"),
        pytest.param("n/a", "", ["placeholder"], id="n/a"),
        pytest.param("[Your Name Here]", "", ["placeholder"], id="in brackets"),
        pytest.param("-", "", ["placeholder"], id="a dash"),
        pytest.param("  SAMPLE  ", "", ["spaces", "placeholder"], id="sample"),
        pytest.param("Textor", "Textor", [], id="a name that begins like a placeholder"),
        pytest.param("Na", "", ["placeholder"], id="na, which the record shows and a key puts back"),
        pytest.param("\u202e&#8238;Ana", "Ana", ["entities", "invisible"], id="an override as an entity"),
        pytest.param(
            "&\u200bamp; x", "& x", ["invisible", "entities"], id="an entity hidden from the first pass"
        ),
    ],
)
def test_cleaning_what_lists_bring(original: str, text: str, codes: list[str]) -> None:
    wording = clean_received(original)
    assert wording.text == text
    assert [change.code for change in wording.changes] == codes
    # Each change is shown against what stood before it: the chain leads from the original to the text.
    steps = [original, *[c.after for c in wording.changes]]
    assert [c.before for c in wording.changes] == steps[:-1]
    assert steps[-1] == text


def test_placeholders_are_the_shops_own() -> None:
    assert clean_received("Nemo", placeholders={"nemo"}).text == ""
    assert clean_received("n/a", placeholders=()).text == "n/a"
    assert all(word == word.casefold() for word in PLACEHOLDERS)


@given(st.text(st.sampled_from("aN&;#amp: =‘’“\u200b\u0301 \tName12x")) | st.text())
def test_cleaning_a_list_is_idempotent(text: str) -> None:
    once = clean_received(text)
    twice = clean_received(once.text)
    assert (twice.text, twice.changes) == (once.text, ())


@pytest.mark.parametrize(
    "locale", ["en_GB", "pl_PL", "vi_VN", "tr_TR", "ja_JP", "ko_KR", "ar_AA", "hi_IN", "th_TH"]
)
def test_words_that_look_plain_come_out_as_by_every_step(locale: str) -> None:
    """A space in front sends the same words through all of the steps."""
    fake = Faker(locale)
    fake.seed_instance(9)
    names = [fake.name() for _ in range(300)]
    for words in (
        *names,
        *(unicodedata.normalize("NFD", name) for name in names),
        "none",
        "new line",
        "ªb",
        "ﬁn",
    ):
        assert clean_received(words).text == clean_received(f" {words}").text

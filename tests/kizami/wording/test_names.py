"""Names, initials and monograms: a table of oddities, and tens of thousands of real names."""

from __future__ import annotations

import pytest
import regex
from faker import Faker
from hypothesis import given
from hypothesis import strategies as st

from kizami.wording.cleaning import clean_received
from kizami.wording.initials import initials, monogram
from kizami.wording.names import FamilyPlace, split_name


@pytest.mark.parametrize(
    ("name", "letters"),
    [
        ("Ana Costa", "AC"),
        ("Ana Beatriz Costa", "ABC"),
        ("ana costa", "AC"),
        ("Ana", "A"),
        ("Anne-Marie Sommer", "AMS"),
        ("Anne-Marie Sommer-Winter", "ASW"),
        ("Ludwig van der Rohe", "LR"),
        ("Ana de la Cruz", "AC"),
        ("Van Morrison", "VM"),
        ("Dr. Ana Costa", "AC"),
        ("Mr John Smith Jr.", "JS"),
        ("John Smith III", "JS"),
        ("Prof. Dr. Ana Costa PhD", "AC"),
        ("Costa, Ana Beatriz", "ABC"),
        ("Smith, Jr", "S"),
        ("Ana B. Costa", "ABC"),
        ("A.B.C.", "ABC"),
        ("A. B.", "AB"),
        ("ABC", "ABC"),
        ("Ana Beatriz Clara Diana Costa", "ABC"),
        ("Øystein Ångström", "ØÅ"),
        ("Élodie d'Arcy", "ÉD"),
        ("IJsbrand de Vries", "IJV"),
        ("Владимир Иванов", "ВИ"),
        ("Γεωργία Παππά", "ΓΠ"),
        ("山田 太郎", "山太"),
        ("王小明", "王小"),
        ("홍길동", "홍길"),
        ("  Ana   Costa  ", "AC"),
        ("Zoe\u0308 Zola", "ZZ"),
        ("123 !!", ""),
        ("", ""),
        ("🙂 Ana", "A"),
        ("Mary-Kate & Ashley", "MKA"),
    ],
)
def test_initials(name: str, letters: str) -> None:
    assert initials(name).text == letters


@pytest.mark.parametrize(("most", "letters"), [(1, "A"), (2, "AF"), (3, "ABF"), (4, "ABCF")])
def test_too_many_initials_lose_the_middle_ones(most: int, letters: str) -> None:
    result = initials("Ana Beatriz Clara Diana Frost", most=most)
    assert result.text == letters
    assert "cut" in result.note


def test_the_family_name_may_be_set_first() -> None:
    assert initials("Nagy Ilona", family=FamilyPlace.FIRST).text == "NI"
    assert split_name("Nagy Ilona", family=FamilyPlace.FIRST).family == ("Nagy",)
    assert initials("山田 太郎", family=FamilyPlace.LAST).text == "山太"
    assert split_name("山田 太郎", family=FamilyPlace.LAST).family == ("太郎",)


def test_what_was_left_out_is_said() -> None:
    assert "Dr." in initials("Dr. Ana van Berg").note
    assert "van" in initials("Dr. Ana van Berg").note


@pytest.mark.parametrize(
    ("name", "family_in_middle", "letters", "large"),
    [
        ("Ana Beatriz Costa", True, "ACB", 1),
        ("Ana Beatriz Costa", False, "ABC", None),
        ("Ana Costa", True, "AC", None),
        ("Ana", True, "A", None),
        ("Costa, Ana Beatriz", True, "ACB", 1),
        ("Ana Beatriz van der Meer", True, "AMB", 1),
        ("", True, "", None),
    ],
)
def test_monograms(name: str, family_in_middle: bool, letters: str, large: int | None) -> None:
    result = monogram(name, family_in_middle=family_in_middle)
    assert (result.text, result.large) == (letters, large)


LOCALES = [
    "en_US", "de_DE", "fr_FR", "pl_PL", "cs_CZ", "tr_TR", "el_GR", "ru_RU", "uk_UA", "ar_AA", "he_IL", "fa_IR",
    "hi_IN", "th_TH", "ja_JP", "ko_KR", "zh_CN", "vi_VN", "hu_HU", "pt_BR", "nl_NL", "sv_SE", "fi_FI", "ro_RO",
]  # fmt: skip


@pytest.mark.parametrize("locale", LOCALES)
def test_real_names_lose_nothing_and_never_break(locale: str) -> None:
    """Names of an open dataset (faker, MIT): cleaning keeps every letter, initials come from the name."""
    fake = Faker(locale)
    fake.seed_instance(23)
    for _ in range(400):
        name = fake.name()
        cleaned = clean_received(name)
        assert clean_received(cleaned.text).changes == ()
        before = regex.findall(r"\p{L}", regex.sub(r"\p{M}|[\u200c\u200d]", "", name))
        after = regex.findall(r"\p{L}", regex.sub(r"\p{M}|[\u200c\u200d]", "", cleaned.text))
        # Composition may join a letter and its mark; the count of bare letters stays.
        assert len(after) == len(before), name
        result = initials(cleaned.text, most=4)
        assert 1 <= len(result.letters) <= 4, name
        folded = cleaned.text.upper()
        assert all(letter.upper() in folded for letter in result.letters), name
        parts = split_name(cleaned.text)
        assert parts.given or parts.family, name


@given(st.text())
def test_any_text_has_initials_or_none_but_never_breaks(text: str) -> None:
    for letter in initials(text, most=4).letters:
        assert regex.search(r"\p{L}", letter)
    monogram(text)

"""Lines that a customer wrote, words that point to the row above, letters of two signs."""

from __future__ import annotations

from dataclasses import replace

import pytest

from kizami.wording.plan import WordingKind, WordingPlan
from kizami.wording.settling import settle

PLAIN = WordingPlan()
INITIALS = WordingPlan(kind=WordingKind.INITIALS)
MONOGRAM = WordingPlan(kind=WordingKind.MONOGRAM)


@pytest.mark.parametrize(
    ("plan", "most_lines", "text", "is_asked"),
    [
        (PLAIN, 2, "Ana\nTom", False),
        (PLAIN, 1, "Ana Tom", True),
        (replace(PLAIN, line_breaks="wish"), 2, "Ana\nTom", False),
        (replace(PLAIN, line_breaks="undone"), 2, "Ana Tom", False),
        (replace(PLAIN, line_breaks="undone"), 1, "Ana Tom", False),
        (WordingPlan(kind=WordingKind.QR_CODE), 1, "Ana\nTom", False),
        (INITIALS, 3, "AT", True),
    ],
    ids=["kept", "no room", "a wish", "undone", "undone without room", "for machines", "letters"],
)
def test_lines_of_a_customer(plan: WordingPlan, most_lines: int, text: str, is_asked: bool) -> None:
    settled = settle(" Ana \r\n\r\n Tom", plan, most_lines=most_lines)
    assert (settled.wording.text, bool(settled.open_question)) == (text, is_asked)
    assert settled.wording.original == " Ana \r\n\r\n Tom"
    assert not is_asked or settled.candidates


def test_lines_of_a_date_say_nothing() -> None:
    settled = settle("31.03.\n2027", WordingPlan(kind=WordingKind.DATE))
    assert (settled.wording.text, settled.open_question) == ("2027-03-31", "")


def test_lines_that_a_person_types_are_what_they_mean() -> None:
    assert settle("Ana\r\nTom", PLAIN, typed=True).wording.text == "Ana\nTom"


@pytest.mark.parametrize(
    ("plan", "above", "candidates"),
    [
        (PLAIN, "Anna", ("Anna",)),
        (PLAIN, "Name: Anna ", ("Anna",)),
        (INITIALS, "Anna Berg", ("AB",)),
        (INITIALS, "Vincent Van Gogh", ("VG", "VV", "VVG")),
        (PLAIN, "ohne Gravur", ()),
        (PLAIN, "", ()),
    ],
)
@pytest.mark.parametrize("pointing", ["see above", "siehe oben", "同上", "ditto"])
def test_the_row_above_is_offered_and_never_taken(
    plan: WordingPlan, above: str, candidates: tuple[str, ...], pointing: str
) -> None:
    settled = settle(pointing, plan, above=above)
    assert settled.candidates == candidates
    assert settled.open_question


@pytest.mark.parametrize(
    ("languages", "language", "name", "candidates"),
    [
        ((), "hu", "Szabó Anna", ("SA",)),
        (("hu",), "hu", "Szabó Anna", ("SzA",)),
        (("hu",), "de", "Szabó Anna", ("SA",)),
        (("hu",), "", "Szabó Anna", ("SA", "SzA")),
        (("hu",), "hu", "SZABÓ ANNA", ("SZA",)),
        (("hu",), "hu", "Kiss Dzsenifer", ("KDzs",)),
        (("cs",), "cs", "Chrudoš Novák", ("ChN",)),
        (("cs",), "cs", "Christian Novák", ("ChN",)),
        (("hr",), "hr", "Ljiljana Njegoš", ("LjNj",)),
        (("cy",), "cy", "Llinos Rhys", ("LlRh",)),
        (("nl",), "nl", "Ijsbrand Vos", ("IJV",)),
        ((), "nl", "IJsbrand Vos", ("IJV",)),
        ((), "nl", "Ijeoma Okafor", ("IO",)),
        (("nl",), "en", "Ijeoma Okafor", ("IO",)),
        (("hu",), "hu", "Anna", ("A",)),
    ],
)
def test_letters_of_two_signs_where_language_and_product_want_them(
    languages: tuple[str, ...], language: str, name: str, candidates: tuple[str, ...]
) -> None:
    settled = settle(name, replace(INITIALS, digraphs=languages), language=language)
    if len(candidates) == 1:
        assert (settled.wording.text, settled.open_question) == (candidates[0], "")
    else:
        assert settled.candidates == candidates


@pytest.mark.parametrize(
    ("language", "name", "candidates"),
    [
        ("hu", "Nagy Anna Mária", ("ANM",)),
        ("", "Nagy Anna Mária", ("ANM", "NMA")),
        ("en", "Anna Maria Nagy", ("ANM",)),
        ("vi", "Nguyễn Thị Hoa", ("TNH",)),
        ("", "Nguyễn Thị Hoa", ("TNH", "NHT")),
    ],
)
def test_family_names_that_stand_first_in_monograms(
    language: str, name: str, candidates: tuple[str, ...]
) -> None:
    settled = settle(name, MONOGRAM, language=language)
    found = settled.candidates if settled.open_question else (settled.wording.text,)
    assert found == candidates


@pytest.mark.parametrize(
    ("name", "text"),
    [
        ("Smith, John", "JS"),
        ("Müller, Hans", "HM"),
        ("Kowalski, Jan", "JK"),
        ("Anna, Tom", None),
        ("Okonkwo, Zqx", None),
    ],
)
def test_a_comma_between_two_names(name: str, text: str | None) -> None:
    settled = settle(name, INITIALS)
    assert (settled.wording.text if not settled.open_question else None) == text

"""What stands in a cell beside the words or instead of them (lists and forms as they come, common practice)."""

from __future__ import annotations

import pytest

from kizami.wording.plan import WordingKind, WordingPlan
from kizami.wording.settling import settle

PLAIN = WordingPlan()


@pytest.mark.parametrize(
    "text",
    [
        "Yes", "yes please", "Ja", "Oui", "Sí", "Sì", "Tak", "Ano", "Evet", "はい", "TRUE", "✓", "mit Gravur",
        "tbd", "TBC - will mail", "not sure", "I don't know yet", "call me", "your choice", "whatever you like",
        "as discussed", "like photo", "wie besprochen", "comme convenu", "según lo acordado", "zoals besproken",
        "jak uzgodniono", "dle dohody", "お任せ", "n/a - leave it", "Standard", "https://example.org/a.png",
        "someone@example.org",
    ],
)  # fmt: skip
def test_what_stands_there_instead_of_words_holds_the_line(text: str) -> None:
    settled = settle(text, PLAIN)
    assert settled.open_question or not settled.wording.text


@pytest.mark.parametrize(
    ("text", "candidates"),
    [
        ("Anna / Tom", ("Anna\nTom", "Anna / Tom")),
        ("Anna | Tom", ("Anna\nTom", "Anna | Tom")),
        ("Anna//Tom", ("Anna\nTom", "Anna//Tom")),
        ("Anna\\nTom", ("Anna\nTom", "Anna\\nTom")),
        ("Anna x2", ("Anna", "Anna x2")),
        ("2x Anna", ("Anna", "2x Anna")),
        ("Anna (2 pcs)", ("Anna", "Anna (2 pcs)")),
        ("Anna (3 Stück)", ("Anna", "Anna (3 Stück)")),
        ("Anna (deceased)", ("Anna", "Anna (deceased)")),
        ("Anna ???", ("Anna", "Anna ???")),
        ("Anna (heart) Tom", ("Anna ♥ Tom", "Anna (heart) Tom")),
        ("Anna [Herz] Tom", ("Anna ♥ Tom", "Anna [Herz] Tom")),
        ("Anna :star:", ("Anna ★", "Anna :star:")),
        ("Anna <3", ("Anna ♥", "Anna <3")),
        ("I <3 U", ("I ♥ U", "I <3 U")),
        ("my name is Anna", ("Anna", "my name is Anna")),
        ("Name Anna", ("Anna", "Name Anna")),
        ("mein Name ist Anna", ("Anna", "mein Name ist Anna")),
        ("rose gold", ("rose gold",)),
        ("Script", ("Script",)),
        ("Line 1: Anna Line 2: Tom", ()),
        ("Vorne: Anna, hinten: Tom", ()),
        ("1) Anna 2) Tom", ()),
        ("表：花 裏：山", ()),
        ("size 7", ()),
        ("Größe 54", ()),
        ("Anna - Font 3", ()),
        ("Anna, all small letters", ()),
        ("Anna mit Herz", ()),
    ],
)
def test_a_remark_beside_the_words_is_asked_about(text: str, candidates: tuple[str, ...]) -> None:
    settled = settle(text, PLAIN)
    assert settled.open_question and settled.candidates == candidates


@pytest.mark.parametrize(
    "text",
    [
        "Yesenia", "Jana", "Ouida", "Trueman", "24/7", "and/or", "AC/DC 1980", "Anna (1950–2020)", "Goldie", "Silvers",
        "Golden", "Anna & Tom", "Will you marry me?", "Standard Bank", "Call of the sea", "No. 7", "Tbilisi", "Scripture",
        "Boldwin", "1 2 3", "Fontaine 3", "A*B", "Maxx 2", "Namely Anna", "Size matters", "Anna, Tom", "J+T", "Hartmann",
        "Front Row", "Line Dance", "Usually late", "Anyone", "Sí se puede", "Ja-Ja",
        "Please return to Max", "Bitte nicht stören", "Engraved in my heart", "Any day now", "Ask me anything",
        "Anything is possible", "3 x 3", "24 / 7", "Call Mum 0123 456", "Golden girl", "Size matters", "With love",
    ],
)  # fmt: skip
def test_words_that_only_look_like_a_remark_are_taken(text: str) -> None:
    settled = settle(text, PLAIN)
    assert (settled.wording.text, settled.open_question) == (text, "")


@pytest.mark.parametrize(
    "text", ["Anna ⏎ Tom", "Anna↵Tom", "Anna ¶ Tom", "Anna (new line) Tom", "Anna [neue Zeile] Tom"]
)
def test_marks_for_a_line_end_are_line_ends(text: str) -> None:
    assert settle(text, PLAIN, most_lines=2).wording.text == "Anna\nTom"


@pytest.mark.parametrize("letters", ["JA", "SI", "OK", "Y", "ON"])
def test_initials_may_spell_an_answer(letters: str) -> None:
    settled = settle(letters, WordingPlan(kind=WordingKind.INITIALS, most=2))
    assert settled.wording.text == letters and "answers" not in settled.open_question


def test_a_code_for_machines_holds_whatever_it_is_given() -> None:
    for text in ("https://example.org/a", "Yes", "a | b", "Anna x2"):
        assert settle(text, WordingPlan(kind=WordingKind.QR_CODE)).open_question == ""


@pytest.mark.parametrize("kind", [WordingKind.COORDINATES, WordingKind.DATE])
def test_strokes_in_figures_are_no_line_ends(kind: WordingKind) -> None:
    text = "48.2082 / 16.3738" if kind is WordingKind.COORDINATES else "31 / 03 / 2027"
    assert settle(text, WordingPlan(kind=kind)).open_question == ""

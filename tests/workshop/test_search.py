"""Typing finds lines with or without accents, give or take one slip of the finger, and says so."""

from __future__ import annotations

import re

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.urls import reverse

from tests.workshop.lists import HEADER
from workshop.intake.taking import take_list
from workshop.orders.folding import fold_words
from workshop.orders.models import OrderLine

pytestmark = pytest.mark.django_db
BOOK = reverse("book:book")
WORDS = (
    "Żółkiewska", "Bjørn", "Größe", "Łukasz", "Đorđe", "Ægir", "Ímar", "İlknur", "Miriam", "Halloran", "Ελένη", "山田",
    "Anna & Tom",
)  # fmt: skip


@pytest.fixture
def book(owner) -> None:
    rows = "".join(f"S-{n},1,CREW-TAG,,{words},1,,Ferry Hall\n" for n, words in enumerate(WORDS))
    take_list((HEADER + rows).encode(), name="x", user=owner)


def found(client, typed: str) -> list[str]:
    page = client.get(BOOK, {"q": typed}).content.decode()
    return [words.replace("&amp;", "&") for words in re.findall(r"data-open>([^<]*)<", page)]


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ("zolkiew", "Żółkiewska"),
        ("ŻÓŁKIEWSKA", "Żółkiewska"),
        ("bjorn", "Bjørn"),
        ("grosse", "Größe"),
        ("lukasz", "Łukasz"),
        ("dorde", "Đorđe"),
        ("aegir", "Ægir"),
        ("imar", "Ímar"),
        ("ilknur", "İlknur"),
        # A decomposed accent is folded with its letter.
        ("Mi\u0301riam", "Miriam"),
        ("ΕΛΕΝΗ", "Ελένη"),
        ("山", "山田"),
        ("s-9", "Halloran"),
        ("tom anna", "Anna & Tom"),
    ],
)
def test_accents_and_special_letters_do_not_matter(owner_client, book: None, typed: str, words: str) -> None:
    assert found(owner_client, typed) == [words]


@pytest.mark.parametrize(
    "typed", ["Mirjam", "Miram", "Miriaam", "Mriiam", "Nalloran", "hallorn", "zolkeiwsk"],
    ids=["another letter", "one too few", "one too many", "two swapped", "the first", "the last", "a beginning"],
)  # fmt: skip
def test_one_slip_is_forgiven_and_said(owner_client, book: None, typed: str) -> None:
    page = owner_client.get(BOOK, {"q": typed}).content.decode()
    assert len(re.findall(r"data-open>", page)) == 1
    assert f"“{typed}” stands nowhere" in page


def test_two_slips_find_nothing_and_the_near_name_is_offered(owner_client, book: None) -> None:
    page = owner_client.get(BOOK, {"q": "ferry haloren"}).content.decode()
    assert "data-open>" not in page
    assert re.findall(r'q=([^"&]+)[^"]*" data-offered>([^<]+)<', page)[0] == (
        "ferry+halloran",
        "ferry halloran",
    )


def test_a_digit_is_never_forgiven(owner_client, book: None) -> None:
    # S-99 is another order than S-9, so nothing is shown in its place.
    page = owner_client.get(BOOK, {"q": "s-99"}).content.decode()
    assert "data-open>" not in page
    assert "stands nowhere" not in page


def test_words_that_are_right_stay_beside_one_that_is_not(owner_client, book: None) -> None:
    assert found(owner_client, "ferry mirjam") == ["Miriam"]
    assert found(owner_client, "nowhere mirjam") == []


def test_the_folded_text_follows_the_words(owner, owner_client, book: None) -> None:
    row = OrderLine.objects.get(wording="Miriam")
    row.wording = "Żaneta"
    row.save(update_fields=["wording"])
    assert found(owner_client, "zaneta") == ["Żaneta"]


@pytest.mark.parametrize("typed", ["%", "_", "\\", "'", '"', "%' OR 1=1", "a" * 100, "* ( ["])
def test_signs_are_only_signs(owner_client, book: None, typed: str) -> None:
    assert owner_client.get(BOOK, {"q": typed}).status_code == 200
    assert len(found(owner_client, typed)) < len(WORDS)


def test_a_search_asks_no_more_with_more_lines(owner, owner_client, book: None) -> None:
    def queries() -> int:
        with CaptureQueriesContext(connection) as asked:
            owner_client.get(BOOK, {"q": "Mirjam"})
        return len(asked)

    before = queries()
    rows = "".join(f"T-{n},1,CREW-TAG,,Name {n},1,,\n" for n in range(120))
    take_list((HEADER + rows).encode(), name="y", user=owner)
    # It may be fewer, as the row that is found is drawn already.
    assert queries() <= before


def test_folding_keeps_the_order_of_the_words(book: None) -> None:
    assert fold_words(["Ż", "", "Ab"]) == ["z", "", "ab"]

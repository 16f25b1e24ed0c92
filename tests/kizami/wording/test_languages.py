"""The language of a list, by headings that are written down apart from the product's own."""

from __future__ import annotations

import pytest

from kizami.wording.languages import language_of
from tests.corpus.read_rows import LANGUAGES, lists


def test_every_language_of_the_corpus_is_told_by_its_headings() -> None:
    told = {}
    for one in lists(rows_each=1):
        head = one.data.decode().splitlines()[0]
        told[one.language] = language_of(head.replace(";", ",").replace("\t", ",").split(","))
    assert told == {language: language for language in LANGUAGES}


@pytest.mark.parametrize(
    "headings",
    [[], [""], ["A", "B"], ["SKU", "ID"], ["Gravur", "Gravure"], ["x" * 1000]],
    ids=["none", "empty", "letters", "codes", "two languages", "long"],
)
def test_what_tells_no_language_is_left_open(headings: list[str]) -> None:
    assert language_of(headings) == ""

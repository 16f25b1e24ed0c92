"""Lists in twelve languages against the reading that was written down for each row."""

from __future__ import annotations

import pytest

from kizami.cli import catalogue_at
from launch.state import REPOSITORY
from tests.corpus.encoded_lists import encoded_lists, read_back
from tests.corpus.outcome import outcome
from tests.corpus.read_rows import LANGUAGES, lists

CATALOGUE = catalogue_at(REPOSITORY / "demo" / "products.toml")
LISTS = {one.language: one for one in lists()}


@pytest.mark.parametrize("language", LANGUAGES)
def test_rows_are_read_as_a_careful_person_would(language: str) -> None:
    counts, wrong = outcome(LISTS[language], CATALOGUE)
    told = "\n".join(wrong[:20])
    assert counts["wrong"] == 0, told
    assert counts["taken"] >= 0.97 * counts["clear"], told
    assert counts["asked"] >= 0.99 * counts["to ask"], told


def test_letters_of_older_files_are_never_taken_wrongly() -> None:
    # Names that are kept back from those that ship; figures of two thousand files are measured by ./bench.
    files = [read_back(one) for one in encoded_lists(170)]
    assert files.count("wrong") == 0
    assert files.count("right") >= 0.85 * len(files)

"""Where else a wording may be broken, and how lines that were broken are written and joined again."""

from __future__ import annotations

import itertools

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kizami.lettering.line_breaks import (
    best_breaks,
    broken_at,
    every_way_to_break,
    parts_on_lines,
    ways_to_break,
)
from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import Style

FACE = shipped_typeface("noto-sans-bold")
WORDS = st.lists(st.sampled_from(["Bo", "Anna", "Ýr", "Christopher", "de"]), min_size=1, max_size=7)


@given(WORDS, st.integers(1, 4))
def test_every_way_is_there_once_and_keeps_every_word_in_its_order(words: list[str], most: int) -> None:
    text = " ".join(words)
    ways = list(every_way_to_break(text, most))
    # Between n words there are n - 1 places to break.
    assert (
        len(ways)
        == len(set(ways))
        == sum(
            len(list(itertools.combinations(range(len(words) - 1), count - 1)))
            for count in range(1, min(most, len(words)) + 1)
        )
    )
    for parts in ways:
        broken = broken_at(text, parts)
        assert broken is not None and broken.split() == words
        assert parts_on_lines(broken) == parts == tuple(len(line.split()) for line in broken.split("\n"))
        # What is broken is broken anew as if it had never been.
        assert broken_at(broken, (len(words),)) == text


@pytest.mark.parametrize("text", ["Anna Maria Costa", "Bo Christopher Ng", "Mary Lou Ann Fitzgerald"])
def test_the_narrowest_stands_first_as_the_fit_plan_breaks_it(text: str) -> None:
    for count in (2, 3):
        ways = ways_to_break(text, count, FACE, Style())
        best = best_breaks(text, count, FACE, Style())
        assert best is not None and "\n".join(line for _, line in best) == broken_at(text, ways[0])
    assert ways_to_break(text, 9, FACE, Style()) == []


@pytest.mark.parametrize(
    ("text", "parts"),
    [("Anna", (1, 1)), ("Anna Maria", (3,)), ("Anna Maria", (2, 0)), ("", (1,)), ("Anna Maria", ())],
)
def test_other_words_are_not_broken_so(text: str, parts: tuple[int, ...]) -> None:
    assert broken_at(text, parts) is None


def test_lines_break_after_hyphens_and_between_japanese_characters_too() -> None:
    assert broken_at("Anne-Marie Roy", (1, 2)) == "Anne-\nMarie Roy"
    assert broken_at("東京", (1, 1)) == "東\n京"

"""Breaking wording into lines at the best places: the widest line as narrow as can be."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Iterator, Sequence
from functools import cache, lru_cache

import regex
from uniseg.linebreak import line_break_units

from kizami.lettering.optical import set_evenly
from kizami.lettering.typeface import Style, Typeface

__all__ = ["best_breaks", "broken_at", "every_way_to_break", "parts_on_lines", "ways_to_break"]

#: Wording of more words than this is no longer a name or a phrase.
_MOST_WORDS = 40
_SPACED = regex.compile(r"\S+")
#: Nothing breaks within these, so that nobody need be asked.
_WHOLE = regex.compile(r"[\p{Latin}\p{Greek}\p{Cyrillic}\p{Arabic}\p{Hebrew}\p{M}.'’]+")


def best_breaks(
    text: str, count: int, typeface: Typeface, style: Style
) -> tuple[tuple[int, str], ...] | None:
    """Break text into `count` lines so that the widest is as narrow as possible.

    Lines break where the Unicode line breaking algorithm allows it (UAX 14): at spaces, after hyphens,
    between Japanese characters, never before a small kana or a closing bracket, never within a word or a
    date. After a dot in the middle they break as well: there it stands between names.

    Returns
    -------
    each line with the index of its first character, or None when there are too few places
    """
    words = _words(text)
    if not count <= len(words) <= _MOST_WORDS:
        return None
    width = _widths(text, words, typeface, style)

    @cache
    def best(first: int, lines: int) -> tuple[float, float, tuple[int, ...]]:
        """Widest line and unevenness of the best breaking of the words from `first` on, and its breaks."""
        if lines == 1:
            only = width(first, len(words) - 1)
            return (only, only * only, ())
        found: tuple[float, float, tuple[int, ...]] = (math.inf, math.inf, ())
        for last in range(first, len(words) - lines + 1):
            here = width(first, last)
            widest, uneven, breaks = best(last + 1, lines - 1)
            found = min(found, (max(here, widest), uneven + here * here, (last + 1, *breaks)))
        return found

    _, _, breaks = best(0, count)
    starts = (0, *breaks)
    ends = (*breaks, len(words))
    lines = []
    for first, end in zip(starts, ends, strict=True):
        start = words[first][0]
        lines.append((start, text[start : words[end - 1][1]].rstrip()))
    return tuple(lines)


def ways_to_break(text: str, count: int, typeface: Typeface, style: Style) -> list[tuple[int, ...]]:
    """How many parts of a wording may stand on each of `count` lines, the narrowest widest line first.

    Lines break as in `best_breaks`, and wherever they are broken already.
    """
    words = _words(text)
    if not 1 <= count <= len(words) <= _MOST_PARTS:
        return []
    width = _widths(text, words, typeface, style)

    def looks(parts: tuple[int, ...]) -> tuple[float, float]:
        ends = list(itertools.accumulate(parts))
        lines = [width(end - many, end - 1) for end, many in zip(ends, parts, strict=True)]
        return max(lines), sum(line * line for line in lines)

    return sorted(_divided(len(words), count), key=looks)


def every_way_to_break(text: str, most_lines: int) -> Iterator[tuple[int, ...]]:
    """How many parts of a wording may stand on each line, on one line first, then on two and more.

    >>> list(every_way_to_break("Anna Maria Costa", 2))
    [(3,), (1, 2), (2, 1)]
    >>> list(every_way_to_break("", 2))
    []
    """
    parts = len(_words(text))
    for count in range(1, min(most_lines, parts) + 1):
        yield from _divided(parts, count)


def _divided(parts: int, count: int) -> Iterator[tuple[int, ...]]:
    for at in itertools.combinations(range(1, parts), count - 1):
        yield tuple(end - start for start, end in zip((0, *at), (*at, parts), strict=True))


def parts_on_lines(text: str) -> tuple[int, ...]:
    """How many parts that stay together stand on each line of a text.

    >>> parts_on_lines("Anna Maria\\nCosta"), parts_on_lines("Anne-Marie"), parts_on_lines("")
    ((2, 1), (2,), ())
    """
    return tuple(len(_words(line)) for line in text.split("\n") if line.strip())


def broken_at(text: str, parts: Sequence[int]) -> str | None:
    """A wording with so many parts on each line; None where it has not as many parts in all.

    >>> broken_at("Anna Maria Costa", (1, 2)), broken_at("Anna\\nMaria", (2,)), broken_at("Anna", (1, 1))
    ('Anna\\nMaria Costa', 'Anna Maria', None)
    >>> broken_at("Anne-Marie", (1, 1))
    'Anne-\\nMarie'
    """
    words = _words(text)
    if sum(parts) != len(words) or not words or min(parts) < 1:
        return None
    ends = list(itertools.accumulate(parts))
    lines = (text[words[end - many][0] : words[end - 1][1]] for end, many in zip(ends, parts, strict=True))
    return "\n".join(line.replace("\n", " ").rstrip() for line in lines)


#: Of so many parts every way of breaking them is looked at.
_MOST_PARTS = 8


def _widths(
    text: str, words: Sequence[tuple[int, int]], typeface: Typeface, style: Style
) -> Callable[[int, int], float]:
    """Width of the line from one word to another one, font units."""

    @cache
    def width(first: int, last: int) -> float:
        line = text[words[first][0] : words[last][1]].replace("\n", " ")
        run = set_evenly(line.strip() + "|", typeface, style)
        return max((g.x for g in run), default=0.0)

    return width


def _words(text: str) -> list[tuple[int, int]]:
    """Start and end of every part that stays together.

    >>> [text[a:b] for text in ("Anne-Marie · Tom", "東京ちゃん。") for a, b in _words(text)]
    ['Anne-', 'Marie ·', 'Tom', '東', '京', 'ちゃ', 'ん。']
    """
    out: list[tuple[int, int]] = []
    for spaced in _SPACED.finditer(text):
        place = spaced.start()
        for unit in _units(spaced.group()):
            # A lone separator goes with the word before it.
            if out and unit in _SEPARATORS:
                out[-1] = (out[-1][0], place + len(unit))
            else:
                out.append((place, place + len(unit)))
            place += len(unit)
    return out


_SEPARATORS = frozenset("-–—·/&+")


@lru_cache(maxsize=4096)
def _units(word: str) -> tuple[str, ...]:
    """What stays together of a word without spaces."""
    if _WHOLE.fullmatch(word):
        return (word,)
    return tuple(part for unit in line_break_units(word) for part in _after_dots(unit))


def _after_dots(unit: str) -> Iterator[str]:
    yield from (part for part in regex.split(r"(?<=·)", unit) if part)

"""Breaking wording into lines at the best places: the widest line as narrow as can be."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import cache, lru_cache

import regex
from uniseg.linebreak import line_break_units

from kizami.lettering.optical import set_evenly
from kizami.lettering.typeface import Style, Typeface

__all__ = ["best_breaks"]

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
    widths: dict[tuple[int, int], float] = {}

    def width(first: int, last: int) -> float:
        """Width of the line from word `first` to word `last`, font units."""
        key = (first, last)
        if key not in widths:
            line = text[words[first][0] : words[last][1]]
            run = set_evenly(line.strip() + "|", typeface, style)
            widths[key] = max((g.x for g in run), default=0.0)
        return widths[key]

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

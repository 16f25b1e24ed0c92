"""Breaking wording into lines at the best places: the widest line as narrow as can be."""

from __future__ import annotations

import math
from functools import cache

from kizami.lettering.typeface import Style, Typeface

__all__ = ["best_breaks"]

#: Wording of more words than this is no longer a name or a phrase.
_MOST_WORDS = 40
_JAPANESE = range(0x3040, 0xA000)


def best_breaks(
    text: str, count: int, typeface: Typeface, style: Style
) -> tuple[tuple[int, str], ...] | None:
    """Break text into `count` lines so that the widest is as narrow as possible.

    Lines break at spaces, after hyphens and dots in the middle, and between Japanese characters;
    never within a word.

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
            run = typeface.shape(line.strip() + "|", style)
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
    """Start and end of every part that stays together."""
    words: list[tuple[int, int]] = []
    start: int | None = None
    for place, character in enumerate(text):
        if character.isspace():
            if start is not None:
                words.append((start, place))
                start = None
            continue
        if start is None:
            start = place
        if character in "-–—·/" or ord(character) in _JAPANESE:
            words.append((start, place + 1))
            start = None
    if start is not None:
        words.append((start, len(text)))
    # A lone separator goes with the word before it.
    out: list[tuple[int, int]] = []
    for first, last in words:
        if out and text[first:last] in {"-", "–", "—", "·", "/", "&", "+"}:
            out[-1] = (out[-1][0], last)
        else:
            out.append((first, last))
    return out

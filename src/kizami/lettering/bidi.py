"""The order in which a line of mixed direction is read: the Unicode bidirectional algorithm.

Cleaned wording has no explicit direction characters, so the implicit part of UAX 9 is the whole
of it here: P2-P3, W1-W7, N0-N2, I1-I2, L1-L2. Mirrored brackets (L4) are HarfBuzz's work.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Sequence

__all__ = ["embedding_levels", "is_plain_ltr", "visual_runs"]

_STRONG_RTL = ("R", "AL")
#: Everything that neither is a letter nor belongs to a number, and what explicit formatting there is.
_NEUTRAL = {"B", "S", "WS", "ON", "BN", "LRE", "RLE", "LRO", "RLO", "PDF", "LRI", "RLI", "FSI", "PDI"}
_BRACKETS = {"(": ")", "[": "]", "{": "}", "⟨": "⟩", "「": "」", "『": "』", "【": "】", "⟦": "⟧"}


def is_plain_ltr(text: str) -> bool:
    """Whether every character is one that needs no reordering: the usual case, told cheaply."""
    return text.isascii() or not any(unicodedata.bidirectional(c) in ("R", "AL", "AN") for c in text)


def embedding_levels(text: str, *, base: int | None = None) -> list[int]:
    """The level of every character; odd levels are read from right to left.

    Parameters
    ----------
    text : one line
    base : level of the line, or None to take it from its first strong character (P2, P3)

    >>> embedding_levels("abc")
    [0, 0, 0]
    >>> embedding_levels("")
    []
    """
    kinds = [unicodedata.bidirectional(c) or "L" for c in text]
    level = _base_level(kinds) if base is None else base
    sides = "R" if level % 2 else "L"
    resolved = _weak(kinds, sides)
    _pair_brackets(text, kinds, resolved, sides)
    _neutral(resolved, sides)
    levels = []
    for kind in resolved:
        if level % 2 == 0:
            levels.append(level + (1 if kind == "R" else 2 if kind in ("AN", "EN") else 0))
        else:
            levels.append(level + (1 if kind in ("L", "AN", "EN") else 0))
    # L1: white space at the end of the line, and around separators, goes with the line.
    place = len(kinds) - 1
    while place >= 0 and kinds[place] in ("WS", "BN"):
        levels[place] = level
        place -= 1
    for place, kind in enumerate(kinds):
        if kind in ("B", "S"):
            levels[place] = level
            before = place - 1
            while before >= 0 and kinds[before] in ("WS", "BN"):
                levels[before] = level
                before -= 1
    return levels


def visual_runs(levels: Sequence[int]) -> list[tuple[int, int, bool]]:
    """Runs of one level in the order in which they stand from left to right (L2).

    Returns
    -------
    (start, end, right to left) of each, in characters

    >>> visual_runs([0, 0, 1, 1, 0])
    [(0, 2, False), (2, 4, True), (4, 5, False)]
    >>> visual_runs([1, 1, 2, 2])
    [(2, 4, False), (0, 2, True)]
    """
    runs: list[tuple[int, int, int]] = []
    start = 0
    for place in range(1, len(levels) + 1):
        if place == len(levels) or levels[place] != levels[start]:
            runs.append((start, place, levels[start]))
            start = place
    highest = max(levels, default=0)
    for level in range(highest, 0, -1):
        place = 0
        while place < len(runs):
            if runs[place][2] < level:
                place += 1
                continue
            end = place
            while end < len(runs) and runs[end][2] >= level:
                end += 1
            runs[place:end] = runs[place:end][::-1]
            place = end
    return [(first, last, level % 2 == 1) for first, last, level in runs]


def _base_level(kinds: Sequence[str]) -> int:
    strong = next((k for k in kinds if k in ("L", *_STRONG_RTL)), "L")
    return 1 if strong in _STRONG_RTL else 0


def _weak(kinds: Sequence[str], sides: str) -> list[str]:
    """W1 to W7."""
    out = list(kinds)
    before = sides
    for i, kind in enumerate(out):  # W1
        if kind == "NSM":
            out[i] = before
        before = out[i]
    strong = sides
    for i, kind in enumerate(out):  # W2
        if kind in ("L", *_STRONG_RTL):
            strong = kind
        elif kind == "EN" and strong == "AL":
            out[i] = "AN"
    out = ["R" if kind == "AL" else kind for kind in out]  # W3
    for i in range(1, len(out) - 1):  # W4
        if (out[i] == "ES" and out[i - 1] == out[i + 1] == "EN") or (
            out[i] == "CS" and out[i - 1] == out[i + 1] and out[i - 1] in ("EN", "AN")
        ):
            out[i] = out[i - 1]
    _beside_numbers(out)  # W5
    out = ["ON" if kind in ("ES", "ET", "CS") else kind for kind in out]  # W6
    strong = sides
    for i, kind in enumerate(out):  # W7
        if kind in ("L", "R"):
            strong = kind
        elif kind == "EN" and strong == "L":
            out[i] = "L"
    return out


def _beside_numbers(out: list[str]) -> None:
    """W5: signs beside a European number belong to it."""
    i = 0
    while i < len(out):
        if out[i] != "ET":
            i += 1
            continue
        end = i
        while end < len(out) and out[end] in ("ET", "BN"):
            end += 1
        if (i > 0 and out[i - 1] == "EN") or (end < len(out) and out[end] == "EN"):
            out[i:end] = ["EN"] * (end - i)
        i = end


def _pair_brackets(text: str, kinds: Sequence[str], out: list[str], sides: str) -> None:
    """N0: brackets take the direction of what they hold, or of what stands before them."""
    closing = {c: o for o, c in _BRACKETS.items()}
    open_at: list[tuple[str, int]] = []
    pairs: list[tuple[int, int]] = []
    for i, character in enumerate(text):
        if out[i] != "ON":
            continue
        if character in _BRACKETS:
            open_at.append((character, i))
        elif character in closing:
            for depth in range(len(open_at) - 1, -1, -1):
                if open_at[depth][0] == closing[character]:
                    pairs.append((open_at[depth][1], i))
                    del open_at[depth:]
                    break
    for first, last in sorted(pairs):
        inside = {_strength(k) for k in out[first + 1 : last]} - {""}
        found = ""
        if sides in inside:
            found = sides
        elif inside:
            before = next((_strength(k) for k in reversed(out[:first]) if _strength(k)), sides)
            found = before if before in inside else sides
        if found:
            for i in (first, last):
                out[i] = found
                following = i + 1
                while following < len(out) and kinds[following] == "NSM":
                    out[following] = found
                    following += 1


def _strength(kind: str) -> str:
    """The direction that a character lends to neutrals beside it; numbers count as R."""
    return "L" if kind == "L" else "R" if kind in ("R", "EN", "AN") else ""


def _neutral(out: list[str], sides: str) -> None:
    """N1 and N2."""
    i = 0
    while i < len(out):
        if out[i] not in _NEUTRAL:
            i += 1
            continue
        end = i
        while end < len(out) and out[end] in _NEUTRAL:
            end += 1
        before = _strength(out[i - 1]) if i > 0 else sides
        after = _strength(out[end]) if end < len(out) else sides
        out[i:end] = [before if before == after else sides] * (end - i)
        i = end

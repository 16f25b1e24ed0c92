"""What of a line may be moved apart: letters, or whole words of writing that joins.

Space is put after a cluster, never between a letter and its marks. Scripts whose letters join, or hang from
one head line, are never spaced within a word, and neither is a Latin hand whose letters join: what is spread
there are the words.
"""

from __future__ import annotations

from itertools import pairwise

from fontTools import unicodedata
from uniseg.graphemecluster import grapheme_clusters

from kizami.remembering import remembered

__all__ = ["has_joined_units", "units_of"]

#: Scripts whose letters join by themselves, and those that hang from a head line (Unicode Standard 15,
#: chapters 9, 12, 13 and 14; from memory).
_JOINED = frozenset(
    {
        *("Arab", "Syrc", "Mong", "Nkoo", "Mand", "Phag", "Rohg", "Adlm", "Sogd", "Mani", "Chrs", "Ougr"),
        *("Deva", "Beng", "Guru", "Modi", "Tirh", "Newa", "Sylo", "Kthi", "Mahj", "Nand"),
    }
)
#: Scripts that a hand may join.
_HANDS = frozenset(("Latn", "Grek", "Cyrl"))
_NEITHER = frozenset(("Zyyy", "Zinh"))


@remembered
def units_of(text: str, hand_joins: bool = False) -> tuple[int, ...]:
    """For every character the index of the first character of its unit.

    Parameters
    ----------
    hand_joins : letters of the typeface run into each other, as those of a script face do

    >>> units_of("Ida"), units_of("Ida Bo", True)
    ((0, 1, 2), (0, 0, 0, 3, 4, 4))
    >>> units_of("e\\u0301a"), units_of("")
    ((0, 0, 2), ())
    """
    starts = [*range(len(text))] if _is_plain(text) else _clusters(text)
    for place in range(1, len(text)):
        if starts[place] == place and _runs_on(text[place - 1], text[place], hand_joins):
            starts[place] = starts[place - 1]
        elif starts[place] != place:
            starts[place] = starts[starts[place]]
    return tuple(starts)


def _is_plain(text: str) -> bool:
    """Whether every character is a cluster of its own (UAX 29: of ASCII only CR and LF belong together)."""
    return text.isascii() and "\r" not in text


def _clusters(text: str) -> list[int]:
    starts: list[int] = []
    for cluster in grapheme_clusters(text):
        starts.extend([len(starts)] * len(cluster))
    return starts


def _runs_on(before: str, after: str, hand_joins: bool) -> bool:
    """Whether two characters beside each other belong to one joined word."""
    if not _is_letter(before) or not _is_letter(after):
        return False
    scripts = {unicodedata.script(before), unicodedata.script(after)} - _NEITHER
    if scripts and scripts <= _JOINED:
        return True
    return hand_joins and bool(scripts) and scripts <= _HANDS


def _is_letter(character: str) -> bool:
    # Joiners without width and the stroke that lengthens Arabic words belong to them.
    return unicodedata.category(character)[0] in "LM" or character in "\u200c\u200d\u0640"


def has_joined_units(text: str, hand_joins: bool) -> bool:
    """Whether any letters of a text must stay together as they are set.

    >>> has_joined_units("Ida", False), has_joined_units("Ida", True), has_joined_units("I A", True)
    (False, True, False)
    """
    if not hand_joins and text.isascii():
        return False
    units = units_of(text, hand_joins)
    return any(
        one == other and unicodedata.category(text[place + 1])[0] == "L"
        for place, (one, other) in enumerate(pairwise(units))
    )

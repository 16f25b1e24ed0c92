"""Cleaning the words of a line, with a record of every change. The original is never lost."""

from __future__ import annotations

import unicodedata
from dataclasses import dataclass

__all__ = ["Change", "Wording", "clean_wording"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Change:
    """One thing that cleaning did.

    Attributes
    ----------
    code : permanent name of the rule
    said : the change in words, for the desk
    """

    code: str
    said: str


@dataclass(frozen=True, kw_only=True, slots=True)
class Wording:
    """The words that go on a piece.

    Attributes
    ----------
    text : cleaned, in Unicode normalisation form C
    original : as received
    changes : what cleaning did, in order
    """

    text: str
    original: str
    changes: tuple[Change, ...] = ()


#: Joiners change the shape of letters in several scripts, so they are wording, not rubbish.
_SHAPING_CONTROLS = {"\u200c", "\u200d"}


def clean_wording(original: str) -> Wording:
    """Make wording fit to be set, changing nothing that could be meant.

    Steps: control, direction-override and other invisible characters are dropped (joiners stay);
    every run of white space becomes one space and the ends are trimmed; the text is normalised
    to form C (Unicode Standard Annex 15). Idempotent.

    >>> clean_wording("  Ana\\u202e  Ivy ").text
    'Ana Ivy'
    >>> [c.code for c in clean_wording("Ana").changes]
    []
    >>> clean_wording("").text
    ''
    """
    changes: list[Change] = []
    kept: list[str] = []
    dropped: list[str] = []
    for char in original:
        category = unicodedata.category(char)
        if char.isspace():
            kept.append(" ")
        elif category in ("Cc", "Cf", "Cs", "Co", "Cn") and char not in _SHAPING_CONTROLS:
            dropped.append(f"U+{ord(char):04X}")
        else:
            kept.append(char)
    if dropped:
        named = ", ".join(dict.fromkeys(dropped[:6]))
        changes.append(Change(code="invisible", said=f"Took out {len(dropped)} invisible: {named}"))
    joined = "".join(kept)
    spaced = " ".join(part for part in joined.split(" ") if part)
    if spaced != joined:
        changes.append(Change(code="spaces", said="Took out spaces that were too many"))
    composed = unicodedata.normalize("NFC", spaced)
    if composed != spaced:
        changes.append(Change(code="composed", said="Put accents together with their letters"))
    return Wording(text=composed, original=original, changes=tuple(changes))

"""Letters that are written with two signs and count as one initial where their language is kept.

From memory of the alphabets in question: Czech and Slovak ch, Hungarian (The Rules of Hungarian Orthography),
Croatian, Welsh and Dutch ij.
"""

from __future__ import annotations

from collections.abc import Collection
from types import MappingProxyType

__all__ = ["DIGRAPHS", "begins_with", "digraphs_of"]

#: Two-letter language -> its letters of several signs, as they begin a name, the longest first.
DIGRAPHS = MappingProxyType({
    "nl": ("Ij",),
    "cs": ("Ch",),
    "sk": ("Ch", "Dz", "Dž"),
    "hu": ("Dzs", "Cs", "Dz", "Gy", "Ly", "Ny", "Sz", "Ty", "Zs"),
    "hr": ("Dž", "Lj", "Nj"),
    "cy": ("Ch", "Dd", "Ff", "Ng", "Ll", "Ph", "Rh", "Th"),
})  # fmt: skip


def digraphs_of(languages: Collection[str]) -> tuple[str, ...]:
    """Those of several languages, the longest first.

    >>> digraphs_of(["cs", "sk"]), digraphs_of([])
    (('Ch', 'Dz', 'Dž'), ())
    """
    found = dict.fromkeys(sign for language in languages for sign in DIGRAPHS.get(language, ()))
    return tuple(sorted(found, key=lambda sign: (-len(sign), sign)))


def begins_with(word: str, digraphs: Collection[str]) -> str:
    """The letter of several signs that a word begins with, as an initial is written, or "".

    >>> begins_with("Szabó", digraphs_of(["hu"])), begins_with("SZABÓ", digraphs_of(["hu"]))
    ('Sz', 'SZ')
    >>> begins_with("Ijsbrand", digraphs_of(["nl"])), begins_with("Sara", digraphs_of(["hu"]))
    ('IJ', '')
    """
    for sign in digraphs:
        if len(word) > len(sign) and word[: len(sign)].casefold() == sign.casefold():
            return sign.upper() if sign == "Ij" or word == word.upper() else sign
    return ""

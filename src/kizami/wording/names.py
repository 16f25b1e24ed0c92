"""Names: which part is the family's, and the initials that follow from it.

Rules of the trade, common practice, no source: honorifics and suffixes carry no initial, particles
(van, de, bin) neither, a hyphen joins two names that each have one. The family name comes last
unless the script or the desk says otherwise. A letter is a grapheme cluster (Unicode Standard
Annex 29), so that an accent or a Hangul syllable is never torn apart.
"""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

import regex

__all__ = [
    "FamilyPlace",
    "Initials",
    "Monogram",
    "NameParts",
    "are_initials",
    "initials",
    "monogram",
    "split_name",
]


class FamilyPlace(Enum):
    """Where the family name stands; `BY_SCRIPT` puts it first for Chinese, Japanese and Korean."""

    LAST = "last"
    FIRST = "first"
    BY_SCRIPT = "by script"


@dataclass(frozen=True, kw_only=True, slots=True)
class NameParts:
    """A name taken apart.

    Attributes
    ----------
    given : given names in order
    family : family names in order; empty for a single name
    left_out : honorifics, suffixes and particles, which carry no initial
    """

    given: tuple[str, ...]
    family: tuple[str, ...]
    left_out: tuple[str, ...]


@dataclass(frozen=True, kw_only=True, slots=True)
class Initials:
    """Initials with how they came about.

    Attributes
    ----------
    letters : in reading order, given names first unless the family name stands first
    note : what was left out or cut, or ""
    """

    letters: tuple[str, ...]
    note: str

    @property
    def text(self) -> str:
        """The letters set together."""
        return "".join(self.letters)


@dataclass(frozen=True, kw_only=True, slots=True)
class Monogram:
    """Three letters in a traditional order.

    Attributes
    ----------
    letters : in reading order
    large : index of the letter that is set largest, or None when all are alike
    """

    letters: tuple[str, ...]
    large: int | None

    @property
    def text(self) -> str:
        """The letters set together."""
        return "".join(self.letters)


_HONORIFICS = {
    "mr", "mrs", "ms", "miss", "mx", "dr", "prof", "professor", "sir", "dame", "lord", "lady", "rev", "fr", "capt",
    "captain", "herr", "frau", "mme", "mlle", "m", "sr", "sra", "srta", "don", "doña", "signor", "signora",
}  # fmt: skip
#: Honorifics that are also a common initial or suffix count as such only with a full stop.
_ONLY_WITH_STOP = {"m", "sr", "fr"}
_SUFFIXES = {
    "jr",
    "jnr",
    "sr",
    "snr",
    "ii",
    "iii",
    "iv",
    "phd",
    "md",
    "esq",
    "obe",
    "mbe",
    "cbe",
    "dds",
    "rn",
}
_PARTICLES = {
    "van", "von", "der", "den", "de", "del", "della", "di", "da", "do", "dos", "du", "la", "le", "ter", "ten", "zu",
    "zum", "zur", "af", "av", "bin", "bint", "ibn", "al", "el", "y", "e", "and", "und", "et", "of", "the",
}  # fmt: skip
_CJK = regex.compile(r"^[\p{Han}\p{Hiragana}\p{Katakana}\p{Hangul}々ー・\s]+$")
_GRAPHEME = regex.compile(r"\X")


def split_name(name: str, *, family: FamilyPlace = FamilyPlace.BY_SCRIPT) -> NameParts:
    """Take a name apart.

    “Family, Given” with a comma is understood whatever `family` says.

    >>> split_name("Dr. Anne-Marie van der Berg Jr.")
    NameParts(given=('Anne', 'Marie'), family=('Berg',), left_out=('Dr.', 'van', 'der', 'Jr.'))
    >>> split_name("山田 太郎").family
    ('山田',)
    >>> split_name("")
    NameParts(given=(), family=(), left_out=())
    """
    text = " ".join(name.split())
    first = family is FamilyPlace.FIRST
    if _CJK.match(text) and text:
        first = family is not FamilyPlace.LAST
        if " " not in text and "・" not in text:
            return _unspaced(text, family_first=first)
        text = text.replace("・", " ")
    before, comma, after = text.partition(",")
    if comma and after.strip() and _fold(after.split()[0]) not in _SUFFIXES:
        family_words, given_words = before.split(), after.split()
        left: list[str] = []
        return NameParts(
            given=_parts(_plain(given_words, left)),
            family=_parts(_plain(family_words, left)),
            left_out=tuple(left),
        )
    left = []
    words = _plain(text.replace(",", " ").split(), left)
    if len(words) < 2:
        return NameParts(given=_parts(words), family=(), left_out=tuple(left))
    given_part, family_part = (words[1:], words[:1]) if first else (words[:-1], words[-1:])
    return NameParts(given=_parts(given_part), family=_parts(family_part), left_out=tuple(left))


def initials(name: str, *, most: int = 3, family: FamilyPlace = FamilyPlace.BY_SCRIPT) -> Initials:
    """Initials of a name, at most `most` of them; the middle ones go first when there are too many.

    A text that is initials already ("A.B.", "AB") is taken as it is.

    >>> initials("Anne-Marie van der Berg").text
    'AMB'
    >>> initials("Ana").text
    'A'
    >>> initials("").letters
    ()
    """
    ready = _already(name, most)
    if ready is not None:
        return Initials(letters=ready, note="")
    parts = split_name(name, family=family)
    stands_first = family is FamilyPlace.FIRST or (bool(_CJK.match(name)) and family is not FamilyPlace.LAST)
    given = [_initial(word) for word in parts.given]
    family_letters = [_initial(word) for word in parts.family]
    notes = [f"left out {', '.join(parts.left_out)}"] if parts.left_out else []
    too_many = len(given) + len(family_letters) - most
    if too_many > 0:
        # The first given name and the last family name are the ones that people go by.
        while too_many > 0 and len(given) > 1:
            given.pop()
            too_many -= 1
        while too_many > 0 and len(family_letters) > 1:
            family_letters.pop(0)
            too_many -= 1
        notes.append(f"cut to {most}")
    letters = [*family_letters, *given] if stands_first else [*given, *family_letters]
    return Initials(letters=tuple(x for x in letters[:most] if x), note="; ".join(notes))


def are_initials(text: str, *, most: int) -> bool:
    """Whether a text is nothing but initials: few letters, each as an initial would be written.

    In scripts without capitals a short name looks the same, so only a person can vouch for it.

    >>> are_initials("AC", most=3), are_initials("Ana", most=3), are_initials("", most=3)
    (True, False, False)
    """
    letters = _GRAPHEME.findall(text)
    # Dutch IJ is one letter of two signs.
    return 0 < len(letters) <= most + letters.count("J") and all(_initial(sign) == sign for sign in letters)


def monogram(
    name: str, *, family_in_middle: bool = True, family: FamilyPlace = FamilyPlace.BY_SCRIPT
) -> Monogram:
    """Three letters in one of the two traditional orders.

    Family in the middle and largest (first, family, middle), or all in line (first, middle, family)
    and alike. With two names there are two letters in line.

    >>> monogram("Ana Beatriz Costa").text, monogram("Ana Beatriz Costa").large
    ('ACB', 1)
    >>> monogram("Ana Beatriz Costa", family_in_middle=False).text
    'ABC'
    """
    parts = split_name(name, family=family)
    given = [_initial(word) for word in parts.given]
    last = _initial(parts.family[-1]) if parts.family else ""
    if len(given) >= 2 and last:
        if family_in_middle:
            return Monogram(letters=(given[0], last, given[1]), large=1)
        return Monogram(letters=(given[0], given[1], last), large=None)
    return Monogram(letters=tuple(x for x in (*given[:2], last) if x), large=None)


def _unspaced(text: str, *, family_first: bool) -> NameParts:
    """A Chinese, Japanese or Korean name written together: one sign for the family, the rest given.

    Two-sign family names can't be told without a dictionary; with a space they are right.
    """
    signs = _GRAPHEME.findall(text)
    if len(signs) < 2:
        return NameParts(given=tuple(signs), family=(), left_out=())
    if family_first:
        return NameParts(given=("".join(signs[1:]),), family=(signs[0],), left_out=())
    return NameParts(given=("".join(signs[:-1]),), family=(signs[-1],), left_out=())


def _plain(words: list[str], left_out: list[str]) -> list[str]:
    """Words that carry an initial; the others are added to `left_out`."""
    kept: list[str] = []
    for place, word in enumerate(words):
        folded = _fold(word)
        honorific = folded in _HONORIFICS and (folded not in _ONLY_WITH_STOP or word.endswith("."))
        begins = not kept
        ends = place > 0 and len(kept) > 0 and all(_fold(w) in _SUFFIXES for w in words[place:])
        inner = 0 < place < len(words) - 1 or (place == 0 and len(words) > 1)
        # A particle stands before another word; a name that is only “Van” or ends in “De” is a name.
        particle = folded in _PARTICLES and inner and word[:1].islower()
        if (honorific and begins and len(words) > 1) or ends or particle or not _has_letter(word):
            left_out.append(word)
        else:
            kept.append(word)
    return kept


def _parts(words: list[str]) -> tuple[str, ...]:
    pieces = [piece for word in words for piece in regex.split(r"[-‐‑–·]", word)]
    return tuple(piece for piece in pieces if _has_letter(piece))


def _already(name: str, most: int) -> tuple[str, ...] | None:
    """Letters of a text that is initials already, or None."""
    dotted = regex.fullmatch(r"\s*(?:(\p{L}\p{M}*)\s*[.·]\s*)+(\p{L}\p{M}*)?\s*", name)
    if dotted or regex.fullmatch(r"\p{Lu}{2,4}", name.strip()):
        letters = tuple(g.upper() for g in _GRAPHEME.findall(name) if _has_letter(g))
        return letters if 0 < len(letters) <= max(most, 1) else None
    return None


def _initial(word: str) -> str:
    letters: list[str] = [g for g in _GRAPHEME.findall(word) if _has_letter(g)]
    if not letters:
        return ""
    # ß has no capital that a name begins with, and Dutch ij is one letter.
    if letters[0] in ("ß",):
        return "S"
    if word[:2] in ("IJ", "Ij", "ij"):
        return "IJ"
    upper = letters[0].upper()
    return upper if len(_GRAPHEME.findall(upper)) == 1 else letters[0]


def _has_letter(text: str) -> bool:
    return regex.search(r"\p{L}", text) is not None


def _fold(word: str) -> str:
    return word.casefold().strip(".,")

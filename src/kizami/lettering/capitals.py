"""Wording in capitals, as its language writes them."""

from __future__ import annotations

import unicodedata

__all__ = ["in_capitals"]

#: Languages in which i and dotless ı are two letters (Unicode Standard 15, SpecialCasing).
_DOTTED = ("tr", "az")
_TONOS = "\u0301"


def in_capitals(text: str, language: str = "") -> str:
    """Text in capitals.

    Greek capitals carry no tonos (common practice); a dieresis stays. Irish prefixes stay small before a
    capital vowel, as in “Ó hEochaidh”, only where they are written so.

    Parameters
    ----------
    language : BCP 47 tag, or ""

    >>> in_capitals("Ida Groß"), in_capitals("İpek Yıldız", "tr"), in_capitals("Ζωή"), in_capitals("")
    ('IDA GROẞ', 'İPEK YILDIZ', 'ΖΩΗ', '')
    >>> in_capitals("ipek", "tr"), in_capitals("Ελεΐνα"), in_capitals("Ó hEalaí", "ga")
    ('İPEK', 'ΕΛΕΪΝΑ', 'Ó hEALAÍ')
    """
    kind = language.lower().partition("-")[0]
    out = []
    for place, character in enumerate(text):
        if kind in _DOTTED and character == "i":
            out.append("İ")
        elif character == "ß":
            # One letter stays one, so that every letter keeps its place.
            out.append("ẞ")
        elif kind == "ga" and character in "hnt" and text[place + 1 : place + 2].isupper():
            out.append(character)
        else:
            # What has no capital of its own may be a letter with a mark that has.
            upper = unicodedata.normalize("NFC", character.upper())
            plain = _plain(character).upper()
            out.append(upper if len(upper) == 1 else plain if len(plain) == 1 else character)
    return unicodedata.normalize("NFC", "".join(map(_without_tonos, out)))


def _plain(character: str) -> str:
    """A letter with all of its marks but the tonos."""
    parts = [c for c in unicodedata.normalize("NFD", character) if c != _TONOS]
    return unicodedata.normalize("NFC", "".join(parts))


def _without_tonos(letter: str) -> str:
    parts = unicodedata.normalize("NFD", letter)
    if len(parts) < 2 or not "\u0370" <= parts[0] <= "\u03ff":
        return letter
    return unicodedata.normalize("NFC", parts.replace(_TONOS, ""))

"""Stuck capitals: a better form is proposed, never forced. What could be meant survives."""

from __future__ import annotations

import re
import unicodedata

__all__ = ["is_stuck", "propose_capitals"]

#: Words of a name that stay small inside it.
_PARTICLES = {
    "van", "von", "der", "den", "de", "del", "della", "di", "da", "do", "dos", "du", "la", "le", "ter", "ten",
    "zu", "zum", "zur", "af", "av", "och", "und", "and", "y", "e", "et", "bin", "bint", "ibn", "al", "el", "of", "the",
}  # fmt: skip
_ROMAN = re.compile(r"^(?=[IVXL])(X[LC]|L?X{0,3})(IX|IV|V?I{0,3})$")
_SHOUTED_SUFFIX = {"JR", "SR", "MD", "PHD"}
_WORD = re.compile(r"[^\W\d_]+(?:['’][^\W\d_]+)*")


def propose_capitals(text: str, *, title_case: bool) -> str | None:
    """A better use of capitals, or None when the text is fine as it is.

    Parameters
    ----------
    title_case : the product asks for capitals at the beginning of names only; without it only
        what nobody can have meant is proposed ("jOHN")

    >>> propose_capitals("jOHN", title_case=False)
    'John'
    >>> propose_capitals("MIRIAM VAN DER BERG", title_case=True)
    'Miriam van der Berg'
    >>> propose_capitals("McIntyre", title_case=True) is None
    True
    >>> propose_capitals("MIRIAM", title_case=False) is None
    True
    """
    words = _WORD.findall(text)
    all_shouted = len(words) > 0 and all(word == word.upper() for word in words) and text != text.lower()
    all_small = len(words) > 0 and text == text.lower() and text != text.upper()
    first = True

    def better(match: re.Match[str]) -> str:
        nonlocal first
        word, begins = match[0], first
        first = False
        if _is_stuck(word):
            return _titled(word)
        if not title_case:
            return word
        if all_shouted:
            return _from_shouted(word, begins=begins)
        if all_small and (begins or word not in _PARTICLES):
            return _titled(word)
        return word

    proposed = _WORD.sub(better, text)
    return proposed if proposed != text else None


def is_stuck(text: str) -> bool:
    """Whether a word of a text was typed with the shift key the wrong way round.

    >>> is_stuck("jOHN Smith"), is_stuck("McIntyre"), is_stuck("iPad")
    (True, False, False)
    """
    return any(_is_stuck(word) for word in _WORD.findall(text))


def _is_stuck(word: str) -> bool:
    """“jOHN”: small first letter, the rest shouted. A shift key was held the wrong way round."""
    rest = word[1:]
    return len(word) > 2 and word[0].islower() and rest == rest.upper() and rest != rest.lower()


def _from_shouted(word: str, *, begins: bool) -> str:
    if not begins and word.lower() in _PARTICLES:
        return word.lower()
    bare = word.replace("'", "").replace("’", "")
    # Short words without a vowel are initials: DJ, JR, TJ.
    without_vowel = len(bare) <= 3 and not any(_base(c) in "AEIOUY" for c in bare)
    if bare.isascii() and (without_vowel or _ROMAN.match(bare) or bare in _SHOUTED_SUFFIX):
        return word
    return _titled(word)


def _titled(word: str) -> str:
    """“o'neil” -> “O'Neil”, “mcintyre” -> “McIntyre”; a genitive s stays small."""
    parts = re.split(r"(['’])", word.lower())
    out = []
    for place, part in enumerate(parts):
        if not part or part in "'’" or (place > 0 and (part == "s" or len(parts[0]) > 2)):
            out.append(part)
        elif part.startswith("mc") and len(part) > 4:
            out.append("Mc" + part[2].upper() + part[3:])
        else:
            out.append(part[0].upper() + part[1:])
    return "".join(out)


def _base(char: str) -> str:
    return unicodedata.normalize("NFD", char)[0].upper()

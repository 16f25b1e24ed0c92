"""Words of a list that no careful person would engrave as they stand: broken letters, formulas, pointers.

Each doubt is a question with, where there is one, the reading that is likely meant.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import ftfy

from kizami.wording.no_words import Pointing, is_unfilled, points_elsewhere, seems_several

__all__ = ["Doubt", "doubt_about"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Doubt:
    """Why a line is held.

    Attributes
    ----------
    question : in words
    candidates : what may be meant, the likeliest first
    """

    question: str
    candidates: tuple[str, ...] = ()


_FORMULA_ERROR = re.compile(
    r"^#(?:N/?A|NV|NAME\?|NOM\s?\?|REF!|BEZUG!|VALUE!|WERT!|VALEUR!|DIV/0!|NUM!|ZAHL!|NULL!|NOMBRE\?|GETTING_DATA|"
    r"SPILL!|CALC!)$",
    re.I,
)
_FORMULA = re.compile(r"^[=@](?:[A-Za-zÀ-ÿ.]{1,20}\(|[$A-Z]{1,4}\$?\d|[\d(+-])|^[+-][A-Z]{1,3}\d{1,5}[+*/-]")
#: A mark that stands for a letter which was lost: between letters, or in front of small ones.
_LOST = re.compile(r"(?<=[^\W\d_])\?(?=[^\W\d_])|(?:^|(?<=\s))\?(?=[^\W\d_]*[a-zà-ÿ])")
#: Where a list's words are codes for machines, anything may stand in them.
_FOR_MACHINES = ("QR code", "Data Matrix")


def doubt_about(text: str, *, received: str = "", wording_kind: str = "") -> Doubt | None:
    """What is doubtful about words from a list, or None.

    Parameters
    ----------
    text : as cleaned
    received : as they stood in the list
    wording_kind : what the product asks for, see `kizami.wording.plan.WordingKind`

    >>> doubt_about("JÃ¼rgen").candidates
    ('Jürgen',)
    >>> doubt_about("siehe oben").candidates, doubt_about("Ana") is None, doubt_about("") is None
    ((), True, True)
    """
    shown = f"“{text[:40]}”"
    if "\ufffd" in text:
        return Doubt(question=f"{shown} has a letter that was lost on the way; ask how it is written.")
    if _FORMULA_ERROR.match(text):
        return Doubt(question=f"{shown} is an error of a spreadsheet, not wording; look into the list.")
    if wording_kind in _FOR_MACHINES:
        return None
    if _FORMULA.match(text):
        return Doubt(
            question=f"{shown} looks like a formula of a spreadsheet; write the words that are meant."
        )
    repaired = ftfy.fix_encoding(text)
    if repaired != text:
        return Doubt(
            question=f"{shown} was spoilt on the way; it likely means “{repaired[:40]}”.",
            candidates=(repaired,),
        )
    if _LOST.search(text):
        return Doubt(
            question=f"{shown} has a question mark where a letter may have been; ask how it is written."
        )
    field = is_unfilled(text)
    if field:
        return Doubt(
            question=f"{field} in {shown} is a field of a form that nobody filled in; ask for the words."
        )
    pointing = points_elsewhere(text)
    if pointing is Pointing.ABOVE:
        return Doubt(question=f"{shown} points to the row above; write the words that are meant.")
    if pointing is Pointing.BEFORE:
        return Doubt(question=f"{shown} points to an earlier order; look it up and write the words.")
    if pointing is Pointing.ELSEWHERE:
        return Doubt(question=f"{shown} points elsewhere; look there and write the words.")
    if seems_several(text) or seems_several(received):
        return Doubt(
            question=f"{shown} names several fields; write the words alone, or have the column taken apart."
        )
    return None

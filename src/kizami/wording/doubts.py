"""Words of a list that no careful person would engrave as they stand: broken letters, formulas, pointers.

Each doubt is a question with, where there is one, the reading that is likely meant.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import ftfy

from kizami.wording.no_words import Pointing, is_unfilled, points_elsewhere, seems_several
from kizami.wording.remarks import remark_in, remark_instead

__all__ = ["Doubt", "doubt_about"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Doubt:
    """Why a line is held.

    Attributes
    ----------
    question : in words
    candidates : what may be meant, the likeliest first
    pointing : where the words point, if they are none themselves
    """

    question: str
    candidates: tuple[str, ...] = ()
    pointing: Pointing | None = None


_FORMULA_ERROR = re.compile(
    r"^#(?:N/?A|NV|NAME\?|NOM\s?\?|REF!|BEZUG!|VALUE!|WERT!|VALEUR!|DIV/0!|NUM!|ZAHL!|NULL!|NOMBRE\?|GETTING_DATA|"
    r"SPILL!|CALC!)$",
    re.I,
)
_FORMULA = re.compile(r"^[=@](?:[A-Za-zÀ-ÿ.]{1,20}\(|[$A-Z]{1,4}\$?\d|[\d(+-])|^[+-][A-Z]{1,3}\d{1,5}[+*/-]")
#: A mark that stands for a letter which was lost: between letters, or in front of small ones.
_LOST = re.compile(r"(?<=[^\W\d_])\?(?=[^\W\d_])|(?:^|(?<=\s))\?(?=[^\W\d_]*[a-zà-ÿ])")
#: Where a list's words are codes for machines, anything may stand in them.
_WRAPPED = re.compile(
    r"\[([^\[\]]+)\]|\(([^()]+)\)|\"([^\"]+)\"|<([^<>]+)>|\{([^{}]+)\}|'([^']{2,})'|«([^»]+)»|「([^」]+)」"
)
#: How it shall be done, said where the words should be; in twelve languages, from memory.
_ORDERS = re.compile(
    r"^(?:(?:please|pls|plz),?\s+)?(?:engrave|to be engraved|engraved with)\b|\bshould be engraved\b|[,;.]?\s(?:please|pls|plz|bitte)[.!]*$"
    r"|^(?:please|pls|plz)\s+(?:write|put|use|make|print|add|do|see|check|don'?t|leave|in|only|just|with|no)\b"
    r"|^bitte\s+(?:nur|kein\w*|ohne|schreib\w*|in|mit|groß|klein|wie|auf|als)\b"
    r"|\b(?:in (?:script|cursive|italics?|bold|capitals|caps|block letters|gold|silver)|"
    r"(?:script|cursive|bold|italic|block) (?:font|letters)|all caps|upper ?case|lower ?case|capital letters|"
    r"(?:ein)?gravieren|schreibschrift|schriftart|großbuchstaben|druckbuchstaben|"
    r"s['’]il vous pla[iî]t|svp|graver|en majuscules|en script|en cursive|écriture|"
    r"per favore|incidere|in corsivo|(?:in )?maiuscolo|por favor|grabar|en cursiva|en mayúsculas|"
    r"gravar|em maiúsculas|em cursivo|graag|graveren|hoofdletters|sierletters|"
    r"proszę|wygrawerować|czcionk\w+|wielkimi literami|prosím|vyrýt|písmem|velkými písmeny|"
    r"vänligen|gravera|versaler|skrivstil|lütfen|kazıyın|büyük harf\w*|el yazısı)(?!\w)"
    r"|\b(?:font|typeface|schrift|police|carattere|fuente|lettertype|czcionka|písmo|typsnitt|colou?r|farbe)\s*[:=]"
    r"|[-–(/]\s*(?:(?:rose |white |yellow )?gold|silver|silber|argento|oro|plata|prata|zilver|srebro|stříbro|guld|gümüş)\)?$"
    r"|してください|お願いします|でお願い|筆記体|大文字で",
    re.I,
)
_LETTERS = ("initials", "monogram")
_MOST_LETTERS = 3
_AS_WRITTEN = ("", "as written", "name", "phrase")
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
    found = _spoilt(text)
    if found is None and wording_kind not in _FOR_MACHINES:
        found = _pointing(text) or _told_how(text, received, is_letters=wording_kind in _LETTERS)
    if found is None and wording_kind not in _FOR_MACHINES:
        # Initials may spell a short answer: JA, SI, OK.
        are_letters = wording_kind in _LETTERS and len(text) <= _MOST_LETTERS and text == text.upper()
        found = None if are_letters else _remarked(text, is_set_as_written=wording_kind in _AS_WRITTEN)
    return found


def _remarked(text: str, *, is_set_as_written: bool) -> Doubt | None:
    """Remarks beside the words or instead of them."""
    remark = remark_instead(text) or (remark_in(text) if is_set_as_written else None)
    if remark is None:
        return None
    return Doubt(question=f"{_shown(text)} {remark.said}.", candidates=remark.candidates)


def _spoilt(text: str) -> Doubt | None:
    """What was spoilt on its way."""
    shown = _shown(text)
    if "\ufffd" in text:
        return Doubt(question=f"{shown} has a letter that was lost on the way; ask how it is written.")
    if _FORMULA_ERROR.match(text):
        return Doubt(question=f"{shown} is an error of a spreadsheet, not wording; look into the list.")
    # ASCII reads the same in every encoding that could have been mistaken for another.
    repaired = text if text.isascii() else ftfy.fix_encoding(text)
    if repaired != text:
        return Doubt(
            question=f"{shown} was spoilt on the way; it likely means “{repaired[:40]}”.",
            candidates=(repaired,),
        )
    return None


def _pointing(text: str) -> Doubt | None:
    """What is no wording and says where it is, or that there is none yet."""
    shown = _shown(text)
    if _FORMULA.match(text):
        return Doubt(
            question=f"{shown} looks like a formula of a spreadsheet; write the words that are meant."
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
    if text.casefold().startswith("lorem ipsum"):
        return Doubt(question=f"{shown} is a printer's dummy text; ask for the words.")
    pointing = points_elsewhere(text)
    if pointing is None:
        return None
    return Doubt(question=f"{shown} {_POINTS_TO[pointing]}", pointing=pointing)


_POINTS_TO = {
    Pointing.ABOVE: "points to the row above; write the words that are meant.",
    Pointing.BEFORE: "points to an earlier order; look it up and write the words.",
    Pointing.ELSEWHERE: "points elsewhere; look there and write the words.",
}


def _told_how(text: str, received: str, *, is_letters: bool) -> Doubt | None:
    """Words that say more than what shall stand there."""
    shown = _shown(text)
    wrapped = _WRAPPED.fullmatch(text)
    if wrapped and not is_letters:
        inner = next(part for part in wrapped.groups() if part)
        return Doubt(
            question=f"{shown} may be meant with or without what stands around it.", candidates=(inner, text)
        )
    if _ORDERS.search(text):
        return Doubt(question=f"{shown} says how it shall be done; write the words alone.")
    if seems_several(text) or seems_several(received):
        return Doubt(
            question=f"{shown} names several fields; write the words alone, or have the column taken apart."
        )
    return None


def _shown(text: str) -> str:
    return f"“{text[:40]}”"

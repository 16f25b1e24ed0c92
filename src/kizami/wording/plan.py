"""What a product asks its wording to be, and how the words of a list are brought to it.

Reducing a full name to initials is done without asking, as the product's rule; what has two
readings is left open for a person; what could be meant as it is, is only proposed.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterable
from dataclasses import dataclass
from enum import Enum

from kizami.wording.capitals import is_stuck, propose_capitals
from kizami.wording.cleaning import PLACEHOLDERS, Change, Wording, clean_received, clean_typed
from kizami.wording.coordinates import read_coordinates, write_coordinates
from kizami.wording.dates import read_date, write_date
from kizami.wording.doubts import doubt_about
from kizami.wording.names import (
    Choices,
    FamilyPlace,
    Initials,
    Readings,
    are_initials,
    monogram_of,
    read_initials,
    read_name,
)

__all__ = ["Settled", "WordingKind", "WordingPlan", "settle"]


class WordingKind(Enum):
    """What may stand on the product."""

    AS_WRITTEN = "as written"
    NAME = "name"
    INITIALS = "initials"
    MONOGRAM = "monogram"
    DATE = "date"
    YEAR = "year"
    COORDINATES = "coordinates"
    PHRASE = "phrase"
    QR_CODE = "QR code"
    DATA_MATRIX = "Data Matrix"


@dataclass(frozen=True, kw_only=True, slots=True)
class WordingPlan:
    """A product's rule for its wording.

    Attributes
    ----------
    kind : what may stand on it
    most : initials at most
    family : where the family name stands in lists
    family_in_middle : monograms with the family letter in the middle, or all in line
    date_form : one of `DATE_FORMS`
    day_first : how the shop's lists write 03/04/2026; None leaves it open
    title_case : capitals at the beginning of names only are proposed
    second_after : what joins an optional second wording to the first; "" leaves it out always
    two_people : initials of two people in one wording are “joined” with an ampersand, or “asked” about
    longest : characters of a phrase at most
    decimals : of coordinates in degrees; None writes degrees, minutes and seconds
    """

    kind: WordingKind = WordingKind.AS_WRITTEN
    most: int = 3
    family: FamilyPlace = FamilyPlace.BY_SCRIPT
    family_in_middle: bool = True
    date_form: str = "2026-05-04"
    day_first: bool | None = None
    title_case: bool = False
    second_after: str = ""
    two_people: str = "asked"
    longest: int = 60
    decimals: int | None = 4


@dataclass(frozen=True, kw_only=True, slots=True)
class Settled:
    """Wording as the product wants it.

    Attributes
    ----------
    wording : the text with its original and every change
    proposal : a better form that only a person may take, or ""
    open_question : why the line must be held, or ""
    candidates : what may be meant, the likeliest first, where there is a question
    """

    wording: Wording
    proposal: str = ""
    open_question: str = ""
    candidates: tuple[str, ...] = ()


def settle(
    original: str,
    plan: WordingPlan,
    *,
    typed: bool = False,
    placeholders: Iterable[str] | None = None,
    day_first: bool | None = None,
) -> Settled:
    """Clean wording and bring it to what the product asks.

    Parameters
    ----------
    typed : a person has just typed it; only what does not show is cleaned
    placeholders : words that mean “nothing was written”; None for the usual ones
    day_first : how the list writes 03/04/2026, where the product does not say

    >>> settle("Dr. Ana Costa", WordingPlan(kind=WordingKind.INITIALS)).wording.text
    'AC'
    >>> settle("03/04/2026", WordingPlan(kind=WordingKind.DATE)).open_question
    '“03/04/2026” may be 2026-03-04 or 2026-04-03; write the one that is meant.'
    >>> settle("jOHN", WordingPlan()).proposal
    'John'
    """
    words = PLACEHOLDERS if placeholders is None else placeholders
    cleaned = clean_typed(original) if typed else clean_received(original, placeholders=words)
    if not cleaned.text:
        return Settled(wording=cleaned)
    if not typed:
        doubt = doubt_about(cleaned.text, received=cleaned.original, wording_kind=plan.kind.value)
        if doubt is not None:
            return Settled(wording=cleaned, open_question=doubt.question, candidates=doubt.candidates)
    if plan.kind in (WordingKind.INITIALS, WordingKind.MONOGRAM):
        if typed and are_initials(cleaned.text, most=plan.most):
            return Settled(wording=cleaned)
        return _letters(cleaned, plan)
    if plan.kind in (WordingKind.DATE, WordingKind.YEAR):
        return _date(cleaned, plan, day_first)
    if plan.kind is WordingKind.COORDINATES:
        return _coordinates(cleaned, plan)
    if plan.kind in (WordingKind.QR_CODE, WordingKind.DATA_MATRIX):
        return Settled(wording=cleaned)
    if plan.kind is WordingKind.PHRASE and len(cleaned.text) > plan.longest:
        return Settled(
            wording=cleaned,
            open_question=f"The phrase has {len(cleaned.text)} characters; the product takes {plan.longest}.",
        )
    proposal = propose_capitals(cleaned.text, title_case=plan.title_case)
    if not typed and is_stuck(cleaned.text):
        return Settled(
            wording=cleaned,
            proposal=proposal or "",
            open_question=f"“{cleaned.text[:40]}” looks as if the shift key was held the wrong way round.",
            candidates=(proposal,) if proposal else (),
        )
    return Settled(wording=cleaned, proposal=proposal or "")


#: What joins two people. Letters that are names as well join only whole names that are alike, see below.
_JOINT = re.compile(
    r"\s*[&+]\s*|\s+(?:and|und|et|och|og|en|ve|AND|UND|ET|OCH|OG|EN|VE)\s+|\s*[＆＋]\s*|(?<=[一-龯])\s*と\s*(?=[一-龯])"
)
_LETTER_JOINT = re.compile(r"\s+[yei]\s+")
_SLANG_JOINT = re.compile(r"\s+(?:u\.?|n|'n'|x|vs?\.?)\s+|\s*[/|♥❤💕]\ufe0f?\s*")
#: Words of a name that “and” joins within it: “von und zu”.
_WITHIN = {"von", "vom", "zu", "zum", "van", "de", "di", "do", "da"}
_HOUSEHOLD = re.compile(
    r"^(?:the|family|familie|fam\.?|famille|famiglia|familia|família|rodina|rodzina|familjen|familien|team|casa|house of|haus)"
    r"\s+\S|\s(?:family|familie|ailesi|家)$|^\S+家$",
    re.I,
)
#: What no name has: digits, brackets, signs.
_NO_NAME = re.compile(r"[^\w\s.,'’\-‐‑–·・&+!＆＋]|[\d_]")


def _sides(text: str) -> tuple[list[str], bool]:
    """The people of a text, and whether it is sure that they are several."""
    sides = [side for side in _JOINT.split(text) if side]
    if len(sides) > 1:
        within = any(
            one.split()[-1].casefold() in _WITHIN and other.split()[0].casefold() in _WITHIN
            for one, other in itertools.pairwise(sides)
        )
        return ([text], True) if within else (sides, True)
    sides = [side for side in _SLANG_JOINT.split(text) if side]
    if len(sides) > 1:
        return sides, True
    if re.fullmatch(r"[^\W\d_]+,\s*[^\W\d_]+", text):
        return [side.strip() for side in text.split(",")], False
    sides = _LETTER_JOINT.split(text)
    if len(sides) != 2 or text == text.lower():
        return [text], True
    one, other = (len(side.split()) for side in sides)
    # “José Ortega y Gasset” is one person, “Ana y Luis” are two.
    return sides, one == other


def _letters(cleaned: Wording, plan: WordingPlan) -> Settled:
    sides, is_sure = _sides(cleaned.text)
    if _HOUSEHOLD.search(cleaned.text):
        return _asked(cleaned, _single(cleaned.text.split()[-1], plan).texts, "it names a household")
    if len(sides) == 1 and _NO_NAME.search(_bare(cleaned.text)):
        letters = _NO_NAME.sub(" ", cleaned.text)
        return _asked(cleaned, _single(letters, plan).texts, "not all of it is a name")
    single = _single(cleaned.text if len(sides) == 1 else _LETTER_JOINT.sub(" ", cleaned.text), plan)
    if len(sides) == 1:
        return _chosen(cleaned, plan, single.texts, single.why, single.found[0].note if single.found else "")
    firsts = [read_initials(side, most=4, family=plan.family).texts[0][:1] for side in sides]
    joined = "&".join(firsts) if all(firsts) and len(sides) <= max(plan.most, 2) else ""
    bare = [side for side in sides if len(side.strip(". ")) == 1]
    if (
        joined
        and is_sure
        and plan.kind is WordingKind.INITIALS
        and (plan.two_people == "joined" or bare == sides)
    ):
        return Settled(wording=_changed(cleaned, joined, plan.kind.value, "Reduced to the initials of each"))
    candidates = [joined, "".join(firsts), *(read_initials(side, most=plan.most).texts[0] for side in sides)]
    if not is_sure:
        candidates = [*single.texts, *candidates]
    return _asked(cleaned, candidates, "it names two people" if is_sure else "it may name one person or two")


def _single(text: str, plan: WordingPlan) -> Choices:
    """Letters of one person, as the product orders them."""
    found = read_initials(text, most=plan.most, family=plan.family)
    if plan.kind is not WordingKind.MONOGRAM:
        return found
    readings = read_name(text, family=plan.family)
    if plan.family is FamilyPlace.BY_SCRIPT and _is_vietnamese(text):
        first = read_name(text, family=FamilyPlace.FIRST)
        readings = Readings(parts=(*first.parts, *readings.parts), why="its family name may stand first")
    letters = [monogram_of(parts, family_in_middle=plan.family_in_middle).letters for parts in readings.parts]
    if are_initials(text, most=plan.most) and len(text) > 1:
        # Letters stand as they were ordered, and whose they are is not known.
        return found
    every = tuple(Initials(letters=one, note="") for one in dict.fromkeys(letters))
    return Choices(found=every, why=readings.why if len(every) > 1 else "")


_VIETNAMESE = {
    "nguyễn", "nguyen", "trần", "tran", "lê", "phạm", "pham", "huỳnh", "huynh", "hoàng", "hoang", "phan", "vũ", "võ",
    "đặng", "dang", "bùi", "đỗ", "hồ", "ngô", "dương", "lý",
}  # fmt: skip


def _is_vietnamese(text: str) -> bool:
    words = text.casefold().split()
    return len(words) >= 2 and words[0] in _VIETNAMESE


def _bare(text: str) -> str:
    """Without brackets or quotes around the whole, as letters are often given."""
    return text[1:-1] if len(text) > 2 and text[0] + text[-1] in ("()", "[]", '""', "''") else text


def _chosen(cleaned: Wording, plan: WordingPlan, texts: tuple[str, ...], why: str, note: str) -> Settled:
    found = [text for text in texts if text]
    if not found:
        return Settled(
            wording=cleaned,
            open_question=f"“{cleaned.text[:40]}” gives no initials; write the letters that are meant.",
        )
    if why:
        return _asked(cleaned, found, why)
    said = f"Reduced to {plan.kind.value}" + (f" ({note})" if note else "")
    return Settled(wording=_changed(cleaned, found[0], plan.kind.value, said))


def _asked(cleaned: Wording, candidates: Iterable[str], why: str) -> Settled:
    """Held, with what may be meant."""
    found = tuple(dict.fromkeys(one for one in candidates if one))
    named = " or ".join(f"“{one}”" for one in found[:4])
    return Settled(
        wording=cleaned,
        open_question=f"“{cleaned.text[:40]}” may be {named}, as {why}; write the letters that are meant.",
        candidates=found,
    )


def _date(cleaned: Wording, plan: WordingPlan, day_first: bool | None) -> Settled:
    reading = read_date(cleaned.text, day_first=day_first if plan.day_first is None else plan.day_first)
    is_year = plan.kind is WordingKind.YEAR
    if is_year and not reading.dates and cleaned.text.isdecimal() and len(cleaned.text) == 4:
        return Settled(wording=cleaned)
    forms = {write_date(d, "2026" if is_year else plan.date_form) for d in reading.dates}
    if len(forms) == 1:
        return Settled(
            wording=_changed(cleaned, forms.pop(), plan.kind.value, "Turned to the product's form")
        )
    if forms:
        readings = " or ".join(write_date(d, "2026-05-04") for d in reading.dates)
        question = f"“{cleaned.text[:40]}” may be {readings}; write the one that is meant."
    else:
        question = f"“{cleaned.text[:40]}” can't be read as a date; write it as 2026-05-04."
    return Settled(wording=cleaned, open_question=question)


def _coordinates(cleaned: Wording, plan: WordingPlan) -> Settled:
    reading = read_coordinates(cleaned.text)
    if reading.position is None:
        return Settled(wording=cleaned, open_question=reading.question)
    text = write_coordinates(reading.position, decimals=plan.decimals)
    return Settled(wording=_changed(cleaned, text, plan.kind.value, "Turned to the product's form"))


def _changed(cleaned: Wording, text: str, code: str, said: str) -> Wording:
    if text == cleaned.text:
        return cleaned
    change = Change(code=code, said=said, before=cleaned.text, after=text)
    return Wording(text=text, original=cleaned.original, changes=(*cleaned.changes, change))

"""What a product asks its wording to be, and what becomes of the words of a list."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from kizami.wording.cleaning import Change, Wording
from kizami.wording.names import FamilyPlace

__all__ = ["Settled", "WordingKind", "WordingPlan", "reworded"]


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
    digraphs : languages whose letters of two signs are one initial, see `kizami.wording.digraphs`
    date_form : one of `DATE_FORMS`
    day_first : how the shop's lists write 03/04/2026; None leaves it open
    title_case : capitals at the beginning of names only are proposed
    second_after : what joins an optional second wording to the first; "" leaves it out always
    two_people : initials of two people in one wording are “joined” with an ampersand, or “asked” about
    line_breaks : lines that a customer wrote are “kept”, kept where they fit as a “wish”, or “undone”
    longest : characters of a phrase at most
    decimals : of coordinates in degrees; None writes degrees, minutes and seconds
    """

    kind: WordingKind = WordingKind.AS_WRITTEN
    most: int = 3
    family: FamilyPlace = FamilyPlace.BY_SCRIPT
    family_in_middle: bool = True
    digraphs: tuple[str, ...] = ()
    date_form: str = "2026-05-04"
    day_first: bool | None = None
    title_case: bool = False
    second_after: str = ""
    two_people: str = "asked"
    line_breaks: str = "kept"
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


def reworded(wording: Wording, text: str, *, code: str, said: str) -> Wording:
    """Wording changed once more, with the change among its record."""
    if text == wording.text:
        return wording
    change = Change(code=code, said=said, before=wording.text, after=text)
    return Wording(text=text, original=wording.original, changes=(*wording.changes, change))

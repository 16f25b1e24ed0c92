"""Dates in words or digits, turned to a product's own form; what has two readings is left to a person."""

from __future__ import annotations

import datetime as dt
import re
import unicodedata
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache

from babel import Locale

__all__ = ["DATE_FORMS", "DateReading", "day_first_in", "read_date", "write_date"]

#: How a product may write dates, by name.
DATE_FORMS: dict[str, str] = {
    "2026-05-04": "{y:04d}-{m:02d}-{d:02d}",
    "04.05.2026": "{d:02d}.{m:02d}.{y:04d}",
    "4.5.26": "{d}.{m}.{yy:02d}",
    "04 · 05 · 26": "{d:02d} · {m:02d} · {yy:02d}",
    "05.2026": "{m:02d}.{y:04d}",
    "2026": "{y:04d}",
}
_LANGUAGES = ("en", "de", "fr", "es", "it", "nl", "pt", "sv", "da", "pl", "cs", "tr", "nb", "fi", "hu")
_EARLIEST, _LATEST = 1800, 2199


@dataclass(frozen=True, kw_only=True, slots=True)
class DateReading:
    """What a text may mean as a date.

    Attributes
    ----------
    dates : every possible reading in calendar order; one when it is certain, none when it is no date
    """

    dates: tuple[dt.date, ...]

    @property
    def certain(self) -> dt.date | None:
        """The one reading, or None."""
        return self.dates[0] if len(self.dates) == 1 else None

    @property
    def ambiguous(self) -> bool:
        """More than one reading: a person must choose."""
        return len(self.dates) > 1


def read_date(text: str, *, day_first: bool | None = None) -> DateReading:
    """Read a date such as ``4 May 2026``, ``May 4th, 2026``, ``04.05.2026``, ``2026-05-04``, ``4. Mai 26``.

    Parameters
    ----------
    day_first : settles 03/04/2026 where the source always writes one way; None leaves it open.
        Dots settle it too: only day-first calendars write them.

    >>> read_date("4 May 2026").certain
    datetime.date(2026, 5, 4)
    >>> read_date("03/04/2026").ambiguous
    True
    >>> read_date("").dates
    ()
    """
    tidy = _TIME.sub("", " ".join(unicodedata.normalize("NFKC", text).split())).strip(" .,")
    found = _iso(tidy) or _era(tidy) or _digits(tidy, day_first) or _words(tidy)
    return DateReading(dates=tuple(sorted(set(found))))


def day_first_in(texts: Iterable[str]) -> bool | None:
    """Whether dates such as 03/04/2027 have the day first, by the others of the same column.

    A column that proves both, or neither, leaves it open.

    >>> day_first_in(["03/04/2027", "20/02/2027"]), day_first_in(["03/04/2027", "02/20/2027"])
    (True, False)
    >>> day_first_in(["20/02/2027", "02/20/2027"]) is None, day_first_in([]) is None
    (True, True)
    """
    proven = set()
    for text in texts:
        match = _SLASHED.match(text.strip())
        if match and match[2] != "." and (int(match[1]) > 12) != (int(match[3]) > 12):
            proven.add(int(match[1]) > 12)
    return proven.pop() if len(proven) == 1 else None


_SLASHED = re.compile(r"(\d{1,2})\s*([-/. ])\s*(\d{1,2})\s*[-/. ]\s*(?:\d{4}|\d{2})(?!\d)")
_TIME = re.compile(
    r"(?<=\d)(?:T|,?\s+)\d{1,2}:\d{2}(?::\d{2}(?:\.\d+)?)?\s*(?:[ap]m|Z|UTC|[+-]\d{2}:?\d{2})?$", re.I
)
#: First years of Japanese eras (Unicode CLDR has the same).
_ERAS = {"令和": 2019, "平成": 1989, "昭和": 1926, "大正": 1912, "R": 2019, "H": 1989, "S": 1926, "T": 1912}
#: Thai years count from 543 before ours.
_BUDDHIST_BEFORE = 543


def _era(text: str) -> list[dt.date]:
    match = re.fullmatch(
        r"(令和|平成|昭和|大正|[RHST])\s*(元|\d{1,2})\s*[年./-]\s*(\d{1,2})\s*[月./-]\s*(\d{1,2})日?", text
    )
    if not match:
        return []
    year = 1 if match[2] == "元" else int(match[2])
    return _date(_ERAS[match[1]] + year - 1, int(match[3]), int(match[4]))


def write_date(date: dt.date, form: str) -> str:
    """A date in one of `DATE_FORMS`.

    >>> write_date(dt.date(2026, 5, 4), "04 · 05 · 26")
    '04 · 05 · 26'
    """
    return DATE_FORMS[form].format(y=date.year, yy=date.year % 100, m=date.month, d=date.day)


def _date(year: int, month: int, day: int) -> list[dt.date]:
    if year < 100:
        # A two-digit year on a gift: this century up to 2069, else the last.
        year += 2000 if year < 70 else 1900
    if _LATEST < year <= _LATEST + _BUDDHIST_BEFORE:
        year -= _BUDDHIST_BEFORE
    if not _EARLIEST <= year <= _LATEST:
        return []
    try:
        return [dt.date(year, month, day)]
    except ValueError:
        return []


def _iso(text: str) -> list[dt.date]:
    match = re.fullmatch(r"(\d{4})\s*([-/.年])\s*(\d{1,2})\s*[-/.月]\s*(\d{1,2})日?", text)
    return _date(int(match[1]), int(match[3]), int(match[4])) if match else []


def _digits(text: str, day_first: bool | None) -> list[dt.date]:
    match = re.fullmatch(r"(\d{1,2})\s*([-/. ·])\s*(\d{1,2})\s*[-/. ·]\s*(\d{4}|\d{2})", text)
    if not match:
        return []
    first, mark, second, year = int(match[1]), match[2], int(match[3]), int(match[4])
    dotted = mark == "."
    readings: list[dt.date] = []
    if day_first is not False or dotted:
        readings += _date(year, second, first)
    if (day_first is not True and not dotted) or not readings:
        readings += _date(year, first, second)
    return readings


def _words(text: str) -> list[dt.date]:
    words = [w for w in re.split(r"[\s,./-]+", text.casefold()) if w]
    months = {_month(w) for w in words} - {None}
    if len(months) != 1:
        return []
    (month,) = months
    numbers = [int(m[1]) for w in words if (m := re.fullmatch(r"(\d{1,4})(?:st|nd|rd|th|er|º|ª)?", w))]
    known = {"of", "the", "de", "del", "den", "le", "der", "di"}
    if any(not re.match(r"\d", w) and _month(w) is None and w not in known for w in words):
        return []
    if len(numbers) != 2 or month is None:
        return []
    one, other = numbers
    if one > 31 or len(str(one)) > 2:
        one, other = other, one
    return _date(other, month, one)


def _month(word: str) -> int | None:
    return _month_names().get(word.rstrip("."))


@cache
def _month_names() -> dict[str, int]:
    """Full and short month names of several languages (Unicode CLDR, by Babel); doubtful ones left out."""
    names: dict[str, set[int]] = {}
    for language in _LANGUAGES:
        months = Locale.parse(language).months
        for context in ("format", "stand-alone"):
            for width in ("wide", "abbreviated"):
                for number, name in months[context][width].items():
                    names.setdefault(name.casefold().rstrip("."), set()).add(int(number))
    names.setdefault("sept", set()).add(9)
    return {name: next(iter(numbers)) for name, numbers in names.items() if len(numbers) == 1}

"""Limits in words: what each is called, what it counts in and which side of it is good."""

from __future__ import annotations

from dataclasses import dataclass

from kizami.checks.kinds import KINDS
from kizami.processes import LIMITS_AT_MOST

__all__ = ["LimitTold", "limit_told", "value_told"]


@dataclass(frozen=True, kw_only=True, slots=True)
class LimitTold:
    """A limit as people read it.

    Attributes
    ----------
    word : “at least” or “at most”
    """

    code: str
    title: str
    unit: str
    word: str


#: Where a limit is no check's own, or the check's name says what was found rather than what must be.
_TITLES = {
    "drain": ("Opening that lets it drain", "mm"),
    "lettering-depth.raised": ("Height of raised lettering", "mm"),
    "lettering-depth.engraved": ("Depth of engraved lettering", "mm"),
    "stroke-width.raised": ("Stroke of raised lettering", "mm"),
    "stroke-width.engraved": ("Stroke of engraved lettering", "mm"),
    "draft": ("Slope of the walls", "°"),
}


def limit_told(code: str) -> LimitTold:
    """What a limit is called.

    >>> limit_told("gap-width").title, limit_told("stroke-width.raised").unit, limit_told("overhang").word
    ('Narrowest gap', 'mm', 'at most')

    Raises
    ------
    KeyError : there is no such limit
    """
    title, unit = _TITLES[code] if code in _TITLES else (KINDS[code].title, KINDS[code].unit)
    word = "at most" if code in LIMITS_AT_MOST else "at least"
    return LimitTold(code=code, title=title, unit=unit.replace("mm2", "mm²"), word=word)


def value_told(code: str, value: float) -> str:
    """A limit's value with its unit.

    >>> value_told("gap-width", 0.3), value_told("draft", 2.0), value_told("islands", 0.0)
    ('0.3 mm', '2°', '0')
    """
    unit = limit_told(code).unit
    return f"{value:g}{unit if unit in ('°', '%', '') else f' {unit}'}"

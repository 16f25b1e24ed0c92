"""Right round: wording on an area that closes on itself.

Spread wording has the same spacing at the join as everywhere else. The spacing of a typeface is
optical already, so letters keep their own distances, kerning across the join included, and what
is left of the turn is shared evenly among all gaps, the join among them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from kizami.lettering.block import Block, Mark, set_line
from kizami.lettering.typeface import Style, Typeface
from kizami.lettering.units import units_of

__all__ = ["ONE_TURN", "OneTurn", "Repeated", "RoundAbout", "Sector", "Spread", "Turn", "set_round"]


@dataclass(frozen=True, kw_only=True, slots=True)
class OneTurn:
    """The wording stands once, centred on the area's anchor; the rest of the turn stays bare."""

    kind: Literal["once"] = "once"


@dataclass(frozen=True, kw_only=True, slots=True)
class Spread:
    """The wording fills the turn.

    Attributes
    ----------
    separator : set between the end and the beginning, or ""
    share_end : a phrase that ends with the letter it begins with uses that letter for both
    """

    separator: str = ""
    share_end: bool = False
    kind: Literal["spread"] = "spread"


@dataclass(frozen=True, kw_only=True, slots=True)
class Repeated:
    """The wording stands `times` times, evenly."""

    times: int
    kind: Literal["repeated"] = "repeated"


@dataclass(frozen=True, kw_only=True, slots=True)
class Sector:
    """The wording may take an arc of this angle, centred at a direction.

    Attributes
    ----------
    angle_deg : of the arc
    direction_deg : of its middle, anticlockwise from the anchor seen from above
    """

    angle_deg: float
    direction_deg: float = 0.0
    kind: Literal["sector"] = "sector"


RoundAbout = OneTurn | Spread | Repeated | Sector
ONE_TURN = OneTurn()


@dataclass(frozen=True, kw_only=True, slots=True)
class Turn:
    """A full turn of spread lettering.

    Attributes
    ----------
    block : the letters, from x = 0, without extra spacing, cap heights
    advance : length of the turn without extra spacing, cap heights
    units : clusters that stay together, from left to right; after each of them spacing is shared
    """

    block: Block
    advance: float
    units: tuple[tuple[int, ...], ...]

    def spread_over(self, period: float) -> Block:
        """The block with its gaps opened, or closed, so that it takes a whole period, cap heights."""
        extra = self.tracking_for(period)
        order = {cluster: place for place, several in enumerate(self.units) for cluster in several}
        marks = tuple(replace(m, x=m.x + extra * order[m.cluster]) for m in self.block.marks)
        return replace(self.block, marks=marks)

    def tracking_for(self, period: float) -> float:
        """What is added to every gap to fill a period, cap heights; negative when there is too little."""
        return (period - self.advance) / max(len(self.units), 1)


def set_round(text: str, typeface: Typeface, style: Style, turn: Spread) -> Turn:
    """Set a phrase for a full turn.

    The phrase is shaped twice in a row: what stands where the second copy begins is the length of
    the turn, with the kerning between the last letter and the first.
    """
    whole = text + turn.separator
    if turn.share_end and shares_end(text) and not turn.separator:
        # The last letter is the first one again: it is left out and the turn closes on the first.
        whole = text[:-1]
    block = set_line(whole, typeface, style)
    twice = set_line(whole + whole, typeface, style)
    second = [m.x for m in twice.marks if m.cluster >= len(whole)]
    first = [m.x for m in twice.marks if m.cluster < len(whole)]
    advance = abs(min(second) - min(first)) if second and first else 0.0
    units = _in_order(block.marks, units_of(whole, typeface.hand_joins))
    return Turn(block=replace(block, text=whole), advance=advance, units=units)


def shares_end(text: str) -> bool:
    """Whether a phrase ends with the letter that it begins with, so that the two may be one.

    >>> shares_end("AMORA"), shares_end("AMOR"), shares_end("A")
    (True, False, False)
    """
    return len(text) > 2 and text[0].casefold() == text[-1].casefold() and text[0] == text[-1]


def _in_order(marks: Sequence[Mark], units: Sequence[int]) -> tuple[tuple[int, ...], ...]:
    """Units from left to right, each with its clusters; an accent counts with its letter."""
    found: dict[int, list[int]] = {}
    for mark in sorted(marks, key=lambda m: m.x):
        found.setdefault(units[mark.cluster], []).append(mark.cluster)
    return tuple(tuple(dict.fromkeys(clusters)) for clusters in found.values())

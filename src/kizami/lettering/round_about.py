"""Right round: wording on an area that closes on itself.

Spread wording has the same spacing at the join as everywhere else: letters keep the distances that they
have by eye, kerning across the join included, and what is left of the turn is shared evenly among all gaps,
the join among them. Where that would leave letters too far apart to be read as words, the wording is set
more than once, followed by ornaments, or left to end.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import Enum
from typing import Literal

from kizami.lettering.block import Block, Mark, set_line
from kizami.lettering.typeface import Style, Typeface
from kizami.lettering.units import units_of

__all__ = [
    "ONCE",
    "ONE_TURN",
    "WIDEST_GAP",
    "Filling",
    "OneTurn",
    "Repeated",
    "RoundAbout",
    "Sector",
    "Spread",
    "Turn",
    "WhenWide",
    "ornament_of",
    "set_round",
]


@dataclass(frozen=True, kw_only=True, slots=True)
class OneTurn:
    """The wording stands once, centred on the area's anchor; the rest of the turn stays bare."""

    kind: Literal["once"] = "once"


class WhenWide(Enum):
    """What is done with wording that is too short for its turn."""

    REPEAT = "repeat"
    ORNAMENTS = "ornaments"
    ENDS = "ends"


#: Letters further apart than this are no longer read as a word (common practice, no source).
WIDEST_GAP = 0.8


@dataclass(frozen=True, kw_only=True, slots=True)
class Spread:
    """The wording fills the turn.

    Attributes
    ----------
    separator : set between the end and the beginning, or ""
    share_end : a phrase that ends with the letter it begins with uses that letter for both
    widest_gap : the most that is added between letters, cap heights
    when_wide : what is done where more would have to be added: the wording is repeated, it is followed by
        ornaments at the same distances, or it ends and the rest of the turn stays bare
    """

    separator: str = ""
    share_end: bool = False
    widest_gap: float = WIDEST_GAP
    when_wide: WhenWide = WhenWide.REPEAT
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
class Filling:
    """What a turn is filled with: the wording so many times, and ornaments after it.

    Attributes
    ----------
    ends : the wording ends, and the rest of the turn stays bare
    """

    times: int = 1
    ornaments: int = 0
    ends: bool = False


ONCE = Filling()
#: Small things more than this around say nothing any more.
_MOST_TIMES, _MOST_ORNAMENTS = 24, 120
_ORNAMENT = "·"


@dataclass(frozen=True, kw_only=True, slots=True)
class Turn:
    """A full turn of spread lettering.

    Attributes
    ----------
    block : the letters, from x = 0, without extra spacing, cap heights
    advance : length of the turn without extra spacing, cap heights
    units : clusters that stay together, from left to right; after each of them spacing is shared
    widest : the most that is added to a gap; what is left of the turn then stays bare
    """

    block: Block
    advance: float
    units: tuple[tuple[int, ...], ...]
    widest: float = math.inf

    def spread_over(self, period: float) -> Block:
        """The block with its gaps opened, or closed, so that it takes a whole period, cap heights."""
        extra = self.tracking_for(period)
        order = {cluster: place for place, several in enumerate(self.units) for cluster in several}
        marks = tuple(replace(m, x=m.x + extra * order[m.cluster]) for m in self.block.marks)
        return replace(self.block, marks=marks)

    def tracking_for(self, period: float) -> float:
        """What is added to every gap to fill a period, cap heights; negative when there is too little."""
        return min((period - self.advance) / max(len(self.units), 1), self.widest)

    def filling_for(self, period: float, spread: Spread, *, ornament: float) -> Filling:
        """How this turn, which has the wording once, is filled so that no gap is wider than it may be.

        Parameters
        ----------
        ornament : length of one ornament without extra spacing, cap heights
        """
        if self.tracking_for(period) <= spread.widest_gap or not self.advance:
            return ONCE
        if spread.when_wide is WhenWide.ENDS:
            return Filling(ends=True)
        full = self.advance + len(self.units) * spread.widest_gap
        if spread.when_wide is WhenWide.ORNAMENTS:
            count = math.ceil((period - full) / (ornament + spread.widest_gap) - 1e-9)
            return Filling(ornaments=min(max(count, 0), _MOST_ORNAMENTS))
        times = math.ceil(period / full - 1e-9)
        # Never so often that its letters would have to be pushed together instead.
        times = min(times, max(1, math.floor(period / self.advance + 1e-9)), _MOST_TIMES)
        return Filling(times=times)


def ornament_of(spread: Spread) -> str:
    """What follows wording that is too short: the middle of what parts its end from its beginning."""
    return spread.separator.strip()[:1] or _ORNAMENT


def set_round(text: str, typeface: Typeface, style: Style, spread: Spread, filling: Filling = ONCE) -> Turn:
    """Set a phrase for a full turn.

    The phrase is shaped twice in a row: what stands where the second copy begins is the length of
    the turn, with the kerning between the last letter and the first.
    """
    whole = text + spread.separator
    if spread.share_end and shares_end(text) and not spread.separator:
        # The last letter is the first one again: it is left out and the turn closes on the first.
        whole = text[:-1]
    if filling.ends:
        whole = text
    elif filling.ornaments:
        whole = text + ornament_of(spread) * filling.ornaments
    elif filling.times > 1:
        # Words that follow each other are parted.
        apart = "" if spread.separator or whole != text else " "
        whole = (whole + apart) * filling.times
    block = set_line(whole, typeface, style)
    twice = set_line(whole + whole, typeface, style)
    second = [m.x for m in twice.marks if m.cluster >= len(whole)]
    first = [m.x for m in twice.marks if m.cluster < len(whole)]
    advance = abs(min(second) - min(first)) if second and first else 0.0
    units = _in_order(block.marks, units_of(whole, typeface.hand_joins))
    widest = spread.widest_gap if filling.ends else math.inf
    return Turn(block=replace(block, text=whole), advance=advance, units=units, widest=widest)


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

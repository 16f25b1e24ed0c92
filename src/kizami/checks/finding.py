"""A finding: what a check measured, against which limit, and where."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

__all__ = ["CLOSE_SHARE", "Finding", "Level", "Sense", "Spot", "judge", "said"]

#: Within this share of the limit a value passes, but closely (common practice, no source).
CLOSE_SHARE = 0.10


class Level(Enum):
    """How a measurement stands to its limit."""

    PASSES = "passes"
    CLOSE = "close"
    FAILS = "fails"

    @property
    def rank(self) -> int:
        """Worst first: 0 fails, 1 close, 2 passes."""
        return {"fails": 0, "close": 1, "passes": 2}[self.value]


class Sense(Enum):
    """Which side of the limit is good."""

    AT_LEAST = "at least"
    AT_MOST = "at most"
    EXACTLY = "exactly"


@dataclass(frozen=True, kw_only=True, slots=True)
class Spot:
    """Where on the piece, in the unrolled mm of its area.

    Attributes
    ----------
    u_mm, v_mm : the place itself
    cluster : index of the character at fault in the wording, or None
    """

    u_mm: float
    v_mm: float
    cluster: int | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class Finding:
    """One check's verdict.

    Attributes
    ----------
    code : permanent name of the check, listed in docs/checks.md
    title : its name on screens
    level : passes, close or fails
    measured, limit, unit : the numbers behind the verdict; unit "" for a count
    sense : whether `limit` is a least, a most or an exact value
    message : a sentence with the numbers
    hint : what to do, or "" when nothing needs doing
    spot : where, or None when it is the piece as a whole
    area : name of the area that it is about, "" where a piece has one only or as a whole
    """

    code: str
    title: str
    level: Level
    measured: float
    limit: float
    unit: str
    sense: Sense
    message: str
    hint: str = ""
    spot: Spot | None = None
    area: str = ""

    @property
    def badness(self) -> float:
        """How far from the limit, as a share of it: above 0 fails. Orders held pieces worst first."""
        if self.sense is Sense.EXACTLY:
            return 0.0 if self.measured == self.limit else 1.0
        scale = abs(self.limit) if self.limit else 1.0
        gap = (self.limit - self.measured) / scale
        return gap if self.sense is Sense.AT_LEAST else -gap


def said(measured: float, limit: float) -> str:
    """A measured value in words: two decimals, or as many as tell it from its limit.

    >>> said(0.34, 0.3), said(0.2964, 0.3), said(0.3, 0.3)
    ('0.34', '0.296', '0.30')
    """
    for decimals in (2, 3, 4):
        text = f"{measured:.{decimals}f}"
        if text != f"{limit:.{decimals}f}":
            return text
    return f"{measured:.2f}"


def judge(measured: float, limit: float, sense: Sense) -> Level:
    """The level of a value; a value exactly on its limit passes closely.

    >>> judge(0.30, 0.30, Sense.AT_LEAST).value
    'close'
    >>> judge(0.29, 0.30, Sense.AT_LEAST).value
    'fails'
    """
    # Lengths come from sums of decimals: a nanometre below the limit is on the limit.
    slack = 1e-6
    if sense is Sense.EXACTLY:
        return Level.PASSES if measured == limit else Level.FAILS
    spare = measured - limit if sense is Sense.AT_LEAST else limit - measured
    if spare < -slack:
        return Level.FAILS
    if spare < abs(limit) * CLOSE_SHARE:
        return Level.CLOSE
    return Level.PASSES

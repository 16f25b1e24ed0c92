"""A finding: what a check measured, against which limit, where, and what caused it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from enum import Enum
from typing import Any

__all__ = [
    "CLOSE_SHARE",
    "Cause",
    "Finding",
    "Level",
    "Sense",
    "Severity",
    "Spot",
    "finding_from_table",
    "finding_table",
    "judge",
    "said",
    "worst_first",
]

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


class Severity(Enum):
    """How grave it is when a check fails. Shares of different limits compare only within one of these."""

    CANNOT_BE_MADE = "cannot be made"
    WILL_FAIL = "will fail"
    UGLY = "ugly"

    @property
    def rank(self) -> int:
        """Gravest first, from 0."""
        return {"cannot be made": 0, "will fail": 1, "ugly": 2}[self.value]


@dataclass(frozen=True, kw_only=True, slots=True)
class Spot:
    """Where on the piece.

    Attributes
    ----------
    u_mm, v_mm : in the unrolled mm of its area, or None where it lies on no area
    cluster : index of the character at fault in the wording, or None
    xyz_mm : in space, or None where that was not asked for
    """

    u_mm: float | None = None
    v_mm: float | None = None
    cluster: int | None = None
    xyz_mm: tuple[float, float, float] | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class Cause:
    """A part of the piece that a finding is about.

    Attributes
    ----------
    kind : see `kizami.as_made.as_made.Part`; “recess edge”, “edge”, or the name of a keep-out
    text : the letter itself, or ""
    cluster : index of its first character in the wording, or None
    """

    kind: str
    text: str = ""
    cluster: int | None = None

    @property
    def named(self) -> str:
        """In words: “A”, or the bridge."""
        return f"“{self.text}”" if self.text else f"the {self.kind}"


@dataclass(frozen=True, kw_only=True, slots=True)
class Finding:
    """One verdict of a check.

    Attributes
    ----------
    code : permanent name of the check, listed in docs/checks.md
    title : its name on screens
    level : passes, close or fails
    measured, limit, unit : the numbers behind the verdict; unit "" for a count
    sense : whether `limit` is a least, a most or an exact value
    severity : how grave it is
    message : a sentence with the numbers
    hint : what to do, or "" when nothing needs doing
    spot : where, or None when it is the piece as a whole
    cause : which parts
    needed : by how much the measured value misses its limit, in its unit; 0 when it does not
    area : name of the area that it is about, "" where a piece has one only or as a whole
    """

    code: str
    title: str
    level: Level
    measured: float
    limit: float
    unit: str
    sense: Sense
    severity: Severity
    message: str
    hint: str = ""
    spot: Spot | None = None
    cause: tuple[Cause, ...] = ()
    needed: float = 0.0
    area: str = ""

    @property
    def badness(self) -> float:
        """How far from the limit, as a share of it: above 0 fails."""
        if self.sense is Sense.EXACTLY:
            return 0.0 if self.measured == self.limit else 1.0
        scale = abs(self.limit) if self.limit else 1.0
        gap = (self.limit - self.measured) / scale
        return gap if self.sense is Sense.AT_LEAST else -gap

    @property
    def weight(self) -> float:
        """Orders failing findings of whole pieces, the greater the worse: gravity before the share."""
        grave = 10.0 * (2 - self.severity.rank)
        return grave + min(max(self.badness, 0.0), 9.0)


def worst_first(findings: Iterable[Finding]) -> tuple[Finding, ...]:
    """Failing ones first, among them the gravest, among those the one furthest beyond its limit.

    Of what passes, measures come before what is only counted or proven: those are what may be changed.
    """
    return tuple(sorted(findings, key=_place_in_order))


def _place_in_order(found: Finding) -> tuple[int, bool, int, float]:
    passes = found.level is Level.PASSES
    grave = found.severity.rank
    return found.level.rank, passes and not found.unit, -grave if passes else grave, -found.badness


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


def judge(measured: float, limit: float, sense: Sense, *, is_strict: bool = False) -> Level:
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
    if spare < abs(limit) * CLOSE_SHARE and not is_strict:
        return Level.CLOSE
    return Level.PASSES


def finding_table(finding: Finding) -> dict[str, object]:
    """A finding as plain data, numbers rounded to a tenth of a micrometre for stable reports."""
    spot = finding.spot
    return {
        "code": finding.code,
        "title": finding.title,
        "level": finding.level.value,
        "measured": round(finding.measured, 4),
        "limit": round(finding.limit, 4),
        "unit": finding.unit,
        "sense": finding.sense.value,
        "severity": finding.severity.value,
        "message": finding.message,
        "hint": finding.hint,
        "spot": None if spot is None else _spot_table(spot),
        "cause": [{"kind": c.kind, "text": c.text, "cluster": c.cluster} for c in finding.cause],
        "needed": round(finding.needed, 4),
        "area": finding.area,
    }


def _spot_table(spot: Spot) -> dict[str, object]:
    return {
        "u_mm": None if spot.u_mm is None else round(spot.u_mm, 3),
        "v_mm": None if spot.v_mm is None else round(spot.v_mm, 3),
        "cluster": spot.cluster,
        "xyz_mm": None if spot.xyz_mm is None else [round(x, 3) for x in spot.xyz_mm],
    }


def finding_from_table(table: Mapping[str, Any]) -> Finding:
    """A finding as `finding_table` wrote it, but for what was rounded there."""
    spot = table["spot"]
    words = ("code", "title", "measured", "limit", "unit", "message", "hint", "needed", "area")
    return Finding(
        **{name: table[name] for name in words},
        level=Level(table["level"]),
        sense=Sense(table["sense"]),
        severity=Severity(table["severity"]),
        spot=None if spot is None else Spot(**{**spot, "xyz_mm": spot["xyz_mm"] and tuple(spot["xyz_mm"])}),
        cause=tuple(Cause(**cause) for cause in table["cause"]),
    )

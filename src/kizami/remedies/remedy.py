"""What a remedy is: a setting, what it does in words, what it costs, and what it moves."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from kizami.checks.finding import Finding, Level
from kizami.pieces.make import Made
from kizami.setting.setting import Setting

__all__ = ["Moved", "Remedy", "moved_between"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Moved:
    """A measure that a remedy changes.

    Attributes
    ----------
    title, unit : of the check
    before, after : measured; None where it was not looked at
    limit : of it afterwards
    nearer : whether it came nearer to its limit, or beyond it
    cured : whether it failed before and passes now
    """

    title: str
    unit: str
    before: float | None
    after: float | None
    limit: float
    nearer: bool
    cured: bool = False


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Remedy:
    """A change of setting that was made and measured.

    Attributes
    ----------
    setting : the whole of it
    said : what it does, in words
    cost : how far the piece departs from what its product intended; see `kizami.remedies.departing`
    outside : what of it is beyond what the product offers, in words
    asks : what of it only the customer can say, in words
    made : the piece as it would be
    moved : measures that it changes: those that it cures, those that come nearer to their limit, the others
    """

    setting: Setting
    said: tuple[str, ...]
    cost: float
    made: Made
    moved: tuple[Moved, ...]
    outside: tuple[str, ...] = ()
    asks: tuple[str, ...] = ()

    @property
    def cures(self) -> bool:
        """Whether every check passes then."""
        return self.made.stage == "ready"


def moved_between(before: Iterable[Finding], after: Iterable[Finding]) -> tuple[Moved, ...]:
    """The measures that changed, those nearer to their limit first; each check at its worst place."""
    was, now = _worst(before), _worst(after)
    found = []
    for key, finding in now.items():
        old = was.get(key)
        if old is not None and abs(old.measured - finding.measured) < 5e-3:
            continue
        if old is None and finding.level is Level.PASSES:
            continue
        nearer = finding.level.rank < 2 and (old is None or _margin(finding) < _margin(old) - 1e-6)
        found.append(
            Moved(
                title=finding.title,
                unit=finding.unit,
                before=None if old is None else old.measured,
                after=finding.measured,
                limit=finding.limit,
                nearer=nearer,
                cured=old is not None and old.level is Level.FAILS and finding.level is not Level.FAILS,
            )
        )
    for key, old in was.items():
        if key not in now and old.level is Level.FAILS:
            # What was thickened, say, and is drawn as it is now, departs from nothing.
            found.append(
                Moved(
                    title=old.title, unit=old.unit, before=old.measured, after=None, limit=old.limit,
                    nearer=False, cured=True,
                )
            )  # fmt: skip
    return tuple(sorted(found, key=lambda row: (not row.cured, not row.nearer)))


def _worst(findings: Iterable[Finding]) -> dict[tuple[str, str], Finding]:
    worst: dict[tuple[str, str], Finding] = {}
    for finding in findings:
        key = (finding.code, finding.area)
        if key not in worst or _margin(finding) < _margin(worst[key]):
            worst[key] = finding
    return worst


def _margin(finding: Finding) -> float:
    """How far within its limit, as a share of it; below 0 beyond it."""
    sign = 1.0 if finding.sense.value == "at least" else -1.0
    return sign * (finding.measured - finding.limit) / max(abs(finding.limit), 0.1)

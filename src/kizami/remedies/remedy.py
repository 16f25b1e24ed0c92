"""What a remedy is: a setting, what it does in words, what it costs, and what it moves."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass, replace

from kizami.checks.finding import Finding, Level
from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import LaidOut
from kizami.pieces.make import Made
from kizami.setting.setting import Setting, depth_of

__all__ = ["Moved", "Patient", "Remedy", "departure", "moved_between"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Patient:
    """A piece that is held.

    Attributes
    ----------
    base : its inputs as its product has them, with the second wording as it was received
    setting : how it is set already
    """

    base: Inputs
    setting: Setting

    def inputs(self, setting: Setting | None = None) -> Inputs:
        """Its inputs, as it is set or otherwise."""
        chosen = self.setting if setting is None else setting
        product = chosen.on(self.base.product)
        own = self.base.typeface if product.typeface == self.base.product.typeface else None
        return replace(self.base, product=product, second=chosen.second_of(self.base.second), typeface=own)


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
    cost : how far the piece departs from what its product intended; see docs/remedies.md
    made : the piece as it would be
    moved : measures that it changes: those that it cures, those that come nearer to their limit, the others
    """

    setting: Setting
    said: tuple[str, ...]
    cost: float
    made: Made
    moved: tuple[Moved, ...]

    @property
    def cures(self) -> bool:
        """Whether every check passes then."""
        return self.made.stage == "ready"


#: What a piece departs by, each against what its product intended. Judged by eye (common practice, no
#: source); docs/remedies.md tells them.
_HEIGHT, _TRACKING, _NARROW, _WEIGHT, _DEPTH = 4.0, 3.0, 3.0, 1.0, 2.0
_LINE, _TYPEFACE, _SHAPE, _TIE, _SECOND = 0.3, 0.8, 1.0, 0.3, 1.0


def departure(setting: Setting, laid: LaidOut, base: Inputs) -> float:
    """How far a piece departs from what its product intended, as one number.

    Parameters
    ----------
    laid : the piece as it is set
    base : its inputs as the product has them
    """
    plan, product = base.product.plan, laid.inputs.product
    height = laid.layout.height_mm
    cost = 0.0
    if height > 0.0:
        # Within its own bounds a product means every height; larger is no better than it intended.
        low, high = plan.lowest_height_mm, plan.greatest_height_mm
        beyond = max(low / height, height / high, 1.0)
        cost += _HEIGHT * math.log(beyond) + 0.25 * _HEIGHT * math.log(max(high / height, 1.0))
        if setting.thicken_by_mm is not None:
            cost += _WEIGHT * abs(setting.thicken_by_mm) / (0.1 * height)
    if setting.tracking is not None:
        cost += _TRACKING * abs(setting.tracking - plan.tracking)
    if setting.narrowest is not None:
        cost += _NARROW * max(0.0, plan.narrowest - setting.narrowest)
    lines = laid.layout.text.count("\n") - base.wording.count("\n")
    cost += _LINE * max(0, lines)
    own, now = depth_of(base.product.treatment), depth_of(product.treatment)
    if own and now:
        cost += _DEPTH * abs(math.log(now / own))
    cost += _TYPEFACE * (product.typeface != base.product.typeface)
    cost += _SHAPE * (product.arrangement.shape != base.product.arrangement.shape)
    cost += _TIE * (product.soundness.one_piece != base.product.soundness.one_piece)
    cost += _SECOND * (setting.without_second and bool(base.second))
    return cost


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

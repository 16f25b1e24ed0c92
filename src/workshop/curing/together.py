"""Held lines gathered by their cause, the most common first."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from kizami.checks.kinds import KINDS
from workshop.curing.models import Cure
from workshop.orders.models import OrderLine

__all__ = ["MOST_SHOWN", "Cause", "gathered_by_cause"]

#: Lines of one cause that are shown at once; the others follow once these are cured.
MOST_SHOWN = 60
_MOST_LETTERS = 5
#: A cure that departs by more is for somebody to tick: another typeface, say, or half the width.
_FAR = 1.5


@dataclass(frozen=True, kw_only=True, slots=True)
class HeldLine:
    """A line with its cure.

    Attributes
    ----------
    cure : the best remedy; None while it is looked for, without a setting where none was found
    """

    line: OrderLine
    cure: Cure | None

    @property
    def is_curable(self) -> bool:
        """Whether there is something to take."""
        return self.cure is not None and self.cure.setting is not None

    @property
    def is_ticked(self) -> bool:
        """Taken with the others unless somebody says no: not what the customer must say, nor what departs far
        from its product."""
        cure = self.cure
        return self.is_curable and cure is not None and not cure.asks and cure.cost <= _FAR


@dataclass(frozen=True, kw_only=True, slots=True)
class Cause:
    """What holds lines.

    Attributes
    ----------
    code, title : of the worst check of each
    letters : the letters that it is about, the most frequent first, with how often
    lines : those shown
    count, curable, unknown : of all of them, of those with a cure, of those still looked at
    """

    code: str
    title: str
    letters: tuple[tuple[str, int], ...]
    lines: tuple[HeldLine, ...]
    count: int
    curable: int
    unknown: int


def gathered_by_cause(lines: Iterable[OrderLine]) -> list[Cause]:
    """Gather lines, each with its revision and its cure at hand, by what holds each of them most."""
    by_code: dict[str, list[HeldLine]] = {}
    for line in lines:
        worst: dict[str, Any] = (line.revision.worst if line.revision is not None else None) or {}
        cure = getattr(line, "cure", None)
        if cure is not None and (cure.edition, cure.revision_id) != (line.edition, line.revision_id):
            cure = None
        by_code.setdefault(worst.get("code", ""), []).append(HeldLine(line=line, cure=cure))
    causes = [_cause(code, held) for code, held in by_code.items()]
    return sorted(causes, key=lambda cause: (-cause.curable, -cause.count, cause.title))


def _cause(code: str, held: list[HeldLine]) -> Cause:
    letters: Counter[str] = Counter()
    for one in held:
        worst: dict[str, Any] = (one.line.revision.worst or {}) if one.line.revision is not None else {}
        letters.update({cause["text"] for cause in worst.get("cause") or () if cause.get("text")})
    ordered = sorted(held, key=lambda one: (not one.is_curable, one.cure.cost if one.cure else 0.0))
    return Cause(
        code=code,
        title=KINDS[code].title if code in KINDS else "Held",
        letters=tuple(letters.most_common(_MOST_LETTERS)),
        lines=tuple(ordered[:MOST_SHOWN]),
        count=len(held),
        curable=sum(one.is_curable for one in held),
        unknown=sum(one.cure is None for one in held),
    )

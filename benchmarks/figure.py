"""One measured figure and how it is written."""

from __future__ import annotations

import json
from dataclasses import dataclass

__all__ = ["Figure", "percentile"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Figure:
    """A value with its target; `at_most` tells which side is good, None that nothing is asked."""

    group: str
    name: str
    value: float
    unit: str
    target: float | None = None
    at_most: bool = True

    @property
    def ok(self) -> bool:
        """Whether the target is met."""
        if self.target is None:
            return True
        return self.value <= self.target if self.at_most else self.value >= self.target

    def line(self) -> str:
        """The figure as one JSON object."""
        return json.dumps(
            {
                "group": self.group,
                "name": self.name,
                "value": round(self.value, 4),
                "unit": self.unit,
                "target": self.target,
                "ok": self.ok,
            }
        )


def percentile(values: list[float], share: float) -> float:
    """The value that `share` of the values do not exceed (nearest rank)."""
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, max(0, round(share * len(ordered) + 0.5) - 1))]

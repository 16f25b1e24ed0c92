"""What a way to cure looks at, and what a way is: one change of a setting."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

from kizami.checks.finding import Finding
from kizami.lettering.layout import Layout
from kizami.pieces.inputs import Inputs
from kizami.products.product import Product
from kizami.setting.setting import Setting
from kizami.setting.values import BOUNDS

__all__ = ["NARROW", "Sight", "Way", "Ways", "way"]

#: Letters are condensed down to this share of their width.
NARROW = 0.6


@dataclass(frozen=True, kw_only=True, slots=True)
class Way:
    """One change.

    Attributes
    ----------
    cost : about how far a piece departs by it, see `kizami.remedies.departing`
    changes : fields of the setting with their new values
    """

    cost: float
    changes: Mapping[str, Any]

    def on(self, setting: Setting) -> Setting:
        """A setting with the change."""
        return setting.changed(self.changes)


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Sight:
    """What a way looks at.

    Attributes
    ----------
    inputs : as they are set
    own : the product as it is without the setting
    setting : how they are set
    product : of the piece, as it is set
    layout : what came of it
    findings : those of one check that fail, the worst first
    """

    inputs: Inputs
    own: Product
    setting: Setting
    product: Product
    layout: Layout
    findings: tuple[Finding, ...]

    @property
    def worst(self) -> Finding:
        return self.findings[0]

    @property
    def missing_mm(self) -> float:
        """By how much the worst misses its limit."""
        return self.worst.needed if self.worst.unit == "mm" else 0.0


Ways = Callable[[Sight], Iterator[Way]]


def way(cost: float, **changes: Any) -> Iterator[Way]:
    """A way whose values are within the bounds of settings; none else."""
    for name, value in changes.items():
        low, high = BOUNDS.get(name, (-math.inf, math.inf))
        if name in BOUNDS and value is not None and not low <= value <= high:
            return
    yield Way(cost=cost, changes=MappingProxyType(changes))

"""How lettering meets the body."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

__all__ = ["Engraved", "Raised", "Treatment"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Engraved:
    """Sunk into the body to a constant depth along the normal."""

    depth_mm: float
    kind: Literal["engraved"] = field(default="engraved", init=False)

    @property
    def layer(self) -> tuple[float, float]:
        """Heights between which material changes, mm along the outward normal."""
        return (-self.depth_mm, 0.0)

    @property
    def floor_below_mm(self) -> float:
        """How far into the wall the lettering reaches."""
        return self.depth_mm


@dataclass(frozen=True, kw_only=True, slots=True)
class Raised:
    """Proud of the body, with a root sunk into it so that the two are one."""

    height_mm: float
    root_mm: float
    kind: Literal["raised"] = field(default="raised", init=False)

    @property
    def layer(self) -> tuple[float, float]:
        """Heights between which material changes, mm along the outward normal."""
        return (0.0, self.height_mm)

    @property
    def floor_below_mm(self) -> float:
        """How far into the wall the lettering reaches: the root."""
        return self.root_mm


Treatment = Engraved | Raised

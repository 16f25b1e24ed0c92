"""Measures of a ring that something hangs by."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["Ring"]

#: Share of its wall by which a ring stands into a stroke: its hole stays clear of it by the rest.
_SUNK_SHARE = 0.7


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Ring:
    """A ring.

    Attributes
    ----------
    hole, wall : diameter of the hole, material around it
    gap : that it keeps from all that does not hold it
    least_hold : width of the finest stroke that may hold it
    """

    hole: float
    wall: float
    gap: float
    least_hold: float

    @property
    def outer(self) -> float:
        """Its radius, outside."""
        return self.hole / 2.0 + self.wall

    @property
    def reach(self) -> float:
        """From its middle to the outline that it stands into."""
        return self.hole / 2.0 + self.wall * (1.0 - _SUNK_SHARE)

    @property
    def within(self) -> float:
        """From its middle to that of its wall."""
        return self.hole / 2.0 + self.wall / 2.0

"""Level lettering on an unrolled cone: set on an arc about the apex, so that it does not droop."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from kizami.blanks.area import Area
from kizami.lettering.shapes import Arc
from kizami.outlines.curves import FloatArray
from kizami.surfaces.protocol import Apex

__all__ = ["Level"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Level:
    """Where level lines run on an area.

    Attributes
    ----------
    apex : about which they are arcs
    reach_mm : distance of the area's anchor from it
    is_above : the apex is above the lettering
    """

    apex: Apex
    reach_mm: float
    is_above: bool

    @classmethod
    def of(cls, area: Area) -> Level | None:
        """Of an area, or None where level lines are straight."""
        apex = area.surface.apex
        if apex is None:
            return None
        u, v = area.anchor
        return cls(apex=apex, reach_mm=math.hypot(u - apex.u_mm, v - apex.v_mm), is_above=apex.v_mm > v)

    def baseline_mm(self, middle_mm: float) -> float:
        """Distance of the baseline from the apex when the middle of the letters, so high above it, is
        to stand at the anchor."""
        return self.reach_mm + middle_mm if self.is_above else self.reach_mm - middle_mm

    def arc(self, middle_mm: float) -> Arc:
        """The shape of the line."""
        return Arc(radius_mm=self.baseline_mm(middle_mm), hollow=self.is_above)

    def offset(self, middle_mm: float) -> FloatArray:
        """Where the middle of the baseline stands, (u, v)."""
        reach = self.baseline_mm(middle_mm)
        return np.array([self.apex.u_mm, self.apex.v_mm + (-reach if self.is_above else reach)])

    def turned(self, points: FloatArray, share: float) -> FloatArray:
        """Points moved along the level lines by a share of the whole turn, to the right when above 0."""
        return self.apex.turned(points, self.angle(share))

    def angle(self, share: float) -> float:
        """Angle, anticlockwise, by which letters turn when they are moved by a share of the turn."""
        return share * self.apex.turn_rad * (1.0 if self.is_above else -1.0)

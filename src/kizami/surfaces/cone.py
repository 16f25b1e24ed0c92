"""A cone about the z axis, unrolled without stretch to a sector of a ring.

In the unrolled plane the apex is a point; generators are straight lines through it, and a level
line is an arc about it. A straight line of lettering laid on would droop, so level lettering is set
on that arc.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np

from kizami.surfaces.axis import axis_distance_mm
from kizami.surfaces.chords import chord_angle_rad
from kizami.surfaces.plain import Plain
from kizami.surfaces.protocol import Apex, Evenness, FloatArray

__all__ = ["Cone"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Cone(Plain):
    """The frustum between two radii.

    u = 0 is the generator at the front (-y); v = 0 is the lower edge there, and v is the length along
    the generator.

    Attributes
    ----------
    low_radius_mm, high_radius_mm : at z = 0 and at z = `height_mm`; they differ
    side : from which it is read
    front_rad : how far the generator at u = 0 is turned to the right of the front
    """

    low_radius_mm: float
    high_radius_mm: float
    height_mm: float
    side: Literal["outside", "inside"] = "outside"
    front_rad: float = 0.0

    @property
    def slant_mm(self) -> float:
        """Length of a generator between the two edges."""
        return math.hypot(self.high_radius_mm - self.low_radius_mm, self.height_mm)

    @property
    def sine(self) -> float:
        """Sine of the angle between a generator and the axis: the share of a turn that the sector has."""
        return abs(self.high_radius_mm - self.low_radius_mm) / self.slant_mm

    @property
    def sector_rad(self) -> float:
        """Angle of the unrolled sector: 2 pi r / l, with l from the apex."""
        return 2.0 * math.pi * self.sine

    @property
    def is_narrow_on_top(self) -> bool:
        """The apex is above."""
        return self.high_radius_mm < self.low_radius_mm

    @property
    def evenness(self) -> Evenness:
        """It changes with the distance from the apex."""
        return Evenness.SMOOTH

    @property
    def apex(self) -> Apex:
        """Above or below the sector, at the distance of the lower edge."""
        reach = self.low_radius_mm / self.sine
        height = reach if self.is_narrow_on_top else -reach
        return Apex(u_mm=0.0, v_mm=height, turn_rad=self.sector_rad)

    def polar(self, uv: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Angle in the sector from the front generator, and distance from the apex."""
        down = (self.apex.v_mm - uv[:, 1]) * (1.0 if self.is_narrow_on_top else -1.0)
        return np.arctan2(uv[:, 0], down), np.hypot(uv[:, 0], down)

    def outline(self, *, gap_mm: float = 0.0, sagitta_mm: float = 0.001) -> FloatArray:
        """The unrolled frustum, cut open at the back, as points (n, 2).

        Parameters
        ----------
        gap_mm : width at the lower edge of a strip at the back that is left out
        """
        half = self.sector_rad / 2.0 - gap_mm / 2.0 / (self.low_radius_mm / self.sine)
        return self.part(-half, half, sagitta_mm=sagitta_mm)

    def part(self, from_rad: float, to_rad: float, *, sagitta_mm: float = 0.001) -> FloatArray:
        """The unrolled frustum between two angles about its apex, as points (n, 2)."""
        reaches = (self.low_radius_mm / self.sine, self.high_radius_mm / self.sine)
        longest = 2.0 * math.acos(max(-1.0, 1.0 - sagitta_mm / max(reaches)))
        theta = np.linspace(from_rad, to_rad, max(3, math.ceil((to_rad - from_rad) / longest) + 1))
        down = -1.0 if self.is_narrow_on_top else 1.0
        arcs = [
            np.column_stack((reach * np.sin(theta), self.apex.v_mm + down * reach * np.cos(theta)))
            for reach in reaches
        ]
        points: FloatArray = np.vstack((arcs[0], arcs[1][::-1]))
        return points

    def place(self, uv: FloatArray, h: FloatArray) -> FloatArray:
        """See `Surface.place`.

        >>> cone = Cone(low_radius_mm=10, high_radius_mm=5, height_mm=12)
        >>> cone.place(np.array([[0.0, 13.0]]), np.zeros(1)).round(9) + 0
        array([[ 0., -5., 12.]])
        """
        sign = 1.0 if self.side == "outside" else -1.0
        theta, reach = self.polar(uv)
        turn = self.front_rad + sign * theta / self.sine
        cosine = math.sqrt(1.0 - self.sine**2)
        out = sign * np.asarray(h)
        # The apex of a cone that is narrow on top lies above it, and its outside faces upward.
        lift = 1.0 if self.is_narrow_on_top else -1.0
        r = reach * self.sine + out * cosine
        from_apex = self.low_radius_mm / self.sine - reach
        z = lift * (from_apex * cosine + out * self.sine)
        return np.column_stack((r * np.sin(turn), -r * np.cos(turn), z))

    def unplace(self, points: FloatArray) -> tuple[FloatArray, FloatArray]:
        """See `Surface.unplace`. The front is in the middle, so the cut lies at the back."""
        sign = 1.0 if self.side == "outside" else -1.0
        turn = np.arctan2(points[:, 0], -points[:, 1]) - self.front_rad
        theta = sign * self.sine * (np.remainder(turn + math.pi, 2.0 * math.pi) - math.pi)
        lift = 1.0 if self.is_narrow_on_top else -1.0
        # Along the generator and across it, in the half plane of the axis.
        past = axis_distance_mm(points) - self.low_radius_mm
        rise = lift * points[:, 2]
        from_low = rise * self._cosine - past * self.sine
        h = sign * (past * self._cosine + rise * self.sine)
        return self.unpolar(theta, self.low_radius_mm / self.sine - from_low), h

    def curvatures(self, uv: FloatArray) -> FloatArray:
        """Round the axis cos(half angle) / r; a generator is straight."""
        sign = 1.0 if self.side == "outside" else -1.0
        _, reach = self.polar(uv)
        cosine = math.sqrt(1.0 - self.sine**2)
        return np.column_stack((sign * cosine / (reach * self.sine), np.zeros(len(uv))))

    def max_step(self, *, sagitta_mm: float, h_mm: float) -> tuple[float, float]:
        """The narrow end decides. In the sector the level direction turns, so both ways count."""
        narrow = min(self.low_radius_mm, self.high_radius_mm)
        step = self._chord_rad(narrow, sagitta_mm=sagitta_mm, h_mm=h_mm) * narrow / self._cosine
        return step, step

    def turn_step_rad(self, *, sagitta_mm: float, h_mm: float) -> float:
        """Longest step about the apex that the tolerance allows: along generators there is no limit.

        An angle spans a longer chord the wider the cone is, so the wide end decides.
        """
        wide = max(self.low_radius_mm, self.high_radius_mm)
        return self._chord_rad(wide, sagitta_mm=sagitta_mm, h_mm=h_mm) * self.sine / self._cosine

    @property
    def _cosine(self) -> float:
        return math.sqrt(1.0 - self.sine**2)

    def _chord_rad(self, radius_mm: float, *, sagitta_mm: float, h_mm: float) -> float:
        """Angle of the longest chord in the normal section of a level line."""
        outward = h_mm if self.side == "outside" else -h_mm
        return chord_angle_rad(radius_mm=radius_mm / self._cosine + max(outward, 0.0), sagitta_mm=sagitta_mm)

    def unpolar(self, theta: FloatArray, reach: FloatArray) -> FloatArray:
        """The unrolled point at an angle in the sector and a distance from the apex; undoes `polar`."""
        down = -1.0 if self.is_narrow_on_top else 1.0
        return np.column_stack((reach * np.sin(theta), self.apex.v_mm + down * reach * np.cos(theta)))

"""The outside of a cylinder about the z axis. It unrolls without stretch."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from kizami.surfaces.axis import axis_distance_mm, turn_from_back_rad
from kizami.surfaces.chords import chord_angle_rad
from kizami.surfaces.plain import Plain
from kizami.surfaces.protocol import FloatArray

__all__ = ["Cylinder", "CylinderPart"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Cylinder(Plain):
    """Outside of a cylinder of radius `radius_mm` about z; v is z.

    u runs anticlockwise seen from +z, which is left to right for a reader who stands outside
    with z up. u = 0 lies at the back (+y), so the middle of the circumference faces the
    front (-y).
    """

    radius_mm: float

    @property
    def period_mm(self) -> float | None:
        """The circumference."""
        return 2.0 * math.pi * self.radius_mm

    def place(self, uv: FloatArray, h: FloatArray) -> FloatArray:
        """See `Surface.place`.

        >>> half = math.pi * 10
        >>> Cylinder(radius_mm=10).place(np.array([[half, 3.0]]), np.array([1.0])).round(9) + 0
        array([[  0., -11.,   3.]])
        """
        angle = math.pi / 2.0 + uv[:, 0] / self.radius_mm
        radius = self.radius_mm + np.asarray(h)
        return np.column_stack((radius * np.cos(angle), radius * np.sin(angle), uv[:, 1]))

    def unplace(self, points: FloatArray) -> tuple[FloatArray, FloatArray]:
        """See `Surface.unplace`."""
        turn = turn_from_back_rad(points)
        return np.column_stack((turn * self.radius_mm, points[:, 2])), axis_distance_mm(
            points
        ) - self.radius_mm

    def curvatures(self, uv: FloatArray) -> FloatArray:
        """Only the way round bends."""
        return np.column_stack((np.full(len(uv), 1.0 / self.radius_mm), np.zeros(len(uv))))

    def max_step(self, *, sagitta_mm: float, h_mm: float) -> tuple[float, float]:
        """Only u bends; what is cut into the body lies further in and needs no finer steps."""
        angle = chord_angle_rad(radius_mm=self.radius_mm + max(h_mm, 0.0), sagitta_mm=sagitta_mm)
        return angle * self.radius_mm, math.inf


@dataclass(frozen=True, kw_only=True, slots=True)
class CylinderPart(Cylinder):
    """A part of a cylinder that does not go all the way round."""

    @property
    def period_mm(self) -> float | None:
        """It does not meet itself."""
        return None

    def unplace(self, points: FloatArray) -> tuple[FloatArray, FloatArray]:
        """See `Surface.unplace`. Cut open at the back, where u is 0."""
        uv, h = super(CylinderPart, self).unplace(points)
        return np.column_stack((np.remainder(uv[:, 0], 2.0 * math.pi * self.radius_mm), uv[:, 1])), h

"""The inside of a cylinder about the z axis, read from inside. It unrolls without stretch."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from kizami.surfaces.axis import axis_distance_mm, turn_from_back_rad
from kizami.surfaces.chords import chord_angle_rad
from kizami.surfaces.plain import Plain
from kizami.surfaces.protocol import FloatArray

__all__ = ["Bore"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Bore(Plain):
    """Inside of a cylinder of radius `radius_mm` about z; v is z, the outward normal points at the axis.

    u runs clockwise seen from +z, which is left to right for a reader who looks outward from the
    axis with z up. u = 0 lies at the back (+y), as on the outside.
    """

    radius_mm: float

    @property
    def period_mm(self) -> float | None:
        """The circumference."""
        return 2.0 * math.pi * self.radius_mm

    def place(self, uv: FloatArray, h: FloatArray) -> FloatArray:
        """See `Surface.place`.

        >>> half = math.pi * 10
        >>> Bore(radius_mm=10).place(np.array([[half, 3.0]]), np.array([1.0])).round(9) + 0
        array([[ 0., -9.,  3.]])
        """
        angle = math.pi / 2.0 - uv[:, 0] / self.radius_mm
        radius = self.radius_mm - np.asarray(h)
        return np.column_stack((radius * np.cos(angle), radius * np.sin(angle), uv[:, 1]))

    def unplace(self, points: FloatArray) -> tuple[FloatArray, FloatArray]:
        """See `Surface.unplace`."""
        turn = -turn_from_back_rad(points)
        return np.column_stack((turn * self.radius_mm, points[:, 2])), self.radius_mm - axis_distance_mm(
            points
        )

    def curvatures(self, uv: FloatArray) -> FloatArray:
        """Only the way round bends."""
        return np.column_stack((np.full(len(uv), -1.0 / self.radius_mm), np.zeros(len(uv))))

    def max_step(self, *, sagitta_mm: float, h_mm: float) -> tuple[float, float]:
        """Only u bends; what is cut into the wall lies further out."""
        angle = chord_angle_rad(radius_mm=self.radius_mm - min(h_mm, 0.0), sagitta_mm=sagitta_mm)
        return angle * self.radius_mm, math.inf

"""The outside of a cylinder about the z axis. It unrolls without stretch."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from kizami.surfaces.protocol import FloatArray

__all__ = ["Cylinder", "chord_angle_rad"]


def chord_angle_rad(*, radius_mm: float, sagitta_mm: float) -> float:
    """Largest angle whose chord leaves a circle by at most `sagitta_mm`: 2 acos(1 - s/r).

    >>> round(math.degrees(chord_angle_rad(radius_mm=10, sagitta_mm=0.005)), 3)
    3.624
    """
    return 2.0 * math.acos(max(-1.0, 1.0 - sagitta_mm / radius_mm))


@dataclass(frozen=True, kw_only=True, slots=True)
class Cylinder:
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

    def stretch(self, uv: FloatArray) -> FloatArray:
        """True length everywhere: a cylinder unrolls exactly."""
        return np.ones((len(uv), 2))

    def max_step(self, *, sagitta_mm: float, h_mm: float) -> tuple[float, float]:
        """Only u bends."""
        angle = chord_angle_rad(radius_mm=self.radius_mm + h_mm, sagitta_mm=sagitta_mm)
        return angle * self.radius_mm, math.inf

    def layer_mm(self, low_mm: float, high_mm: float) -> float:
        """Integral of (1 + h/R) dh: h (1 + h / 2R) between the heights."""

        def up_to(h: float) -> float:
            return h * (1.0 + h / (2.0 * self.radius_mm))

        return up_to(high_mm) - up_to(low_mm)

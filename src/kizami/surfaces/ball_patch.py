"""A round patch of a ball about a point: true length and direction from its middle."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from kizami.surfaces.chords import chord_angle_rad
from kizami.surfaces.plain import Plain
from kizami.surfaces.protocol import Evenness, FloatArray

__all__ = ["BallPatch"]


@dataclass(frozen=True, kw_only=True, slots=True)
class BallPatch(Plain):
    """The outside of a ball about (0, 0, `centre_z_mm`), around its uppermost point.

    Distances from (0, 0) and directions there are true (the azimuthal equidistant map); across them
    lengths shrink by sin(a) / a at the angle a from the middle. Seen from above, u is x and v is y.
    """

    radius_mm: float
    centre_z_mm: float = 0.0

    @property
    def evenness(self) -> Evenness:
        """It changes with the distance from the middle."""
        return Evenness.SMOOTH

    def place(self, uv: FloatArray, h: FloatArray) -> FloatArray:
        """See `Surface.place`.

        >>> quarter = math.pi / 2 * 10
        >>> BallPatch(radius_mm=10).place(np.array([[quarter, 0.0]]), np.zeros(1)).round(9) + 0
        array([[10.,  0.,  0.]])
        """
        reach = np.hypot(*uv.T)
        angle = reach / self.radius_mm
        # sin(a) / reach, which is 1 / R in the very middle.
        share = np.sinc(angle / math.pi) / self.radius_mm
        out = np.column_stack((uv * share[:, None], np.cos(angle)))
        centre = np.array([0.0, 0.0, self.centre_z_mm])
        return centre + out * (self.radius_mm + np.asarray(h))[:, None]

    def stretch(self, uv: FloatArray) -> FloatArray:
        """Along the way from the middle 1, across it sin(a) / a."""
        angle = np.hypot(*uv.T) / self.radius_mm
        return np.column_stack((np.ones(len(uv)), np.sinc(angle / math.pi)))

    def curvatures(self, uv: FloatArray) -> FloatArray:
        """1 / R both ways."""
        return np.full((len(uv), 2), 1.0 / self.radius_mm)

    def max_step(self, *, sagitta_mm: float, h_mm: float) -> tuple[float, float]:
        """The same both ways, each with half of the tolerance."""
        angle = chord_angle_rad(radius_mm=self.radius_mm + max(h_mm, 0.0), sagitta_mm=sagitta_mm / 2.0)
        return angle * self.radius_mm, angle * self.radius_mm

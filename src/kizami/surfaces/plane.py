"""The plane: nothing bends, nothing stretches."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from kizami.surfaces.plain import Plain
from kizami.surfaces.protocol import FloatArray

__all__ = ["Plane", "PlaneAt"]

_Triple = tuple[float, float, float]


@dataclass(frozen=True, kw_only=True, slots=True)
class Plane(Plain):
    """The level plane at height `z_mm`, seen from above: u is x, v is y, h is z."""

    z_mm: float = 0.0

    def place(self, uv: FloatArray, h: FloatArray) -> FloatArray:
        """See `Surface.place`.

        >>> Plane(z_mm=3).place(np.array([[1.0, 2.0]]), np.array([-1.0]))
        array([[1., 2., 2.]])
        """
        return np.column_stack((uv, self.z_mm + np.asarray(h)))

    def unplace(self, points: FloatArray) -> tuple[FloatArray, FloatArray]:
        """See `Surface.unplace`."""
        return points[:, :2], points[:, 2] - self.z_mm

    def curvatures(self, uv: FloatArray) -> FloatArray:
        """Nothing bends."""
        return np.zeros((len(uv), 2))

    def max_step(self, *, sagitta_mm: float, h_mm: float) -> tuple[float, float]:
        """Never subdivided."""
        return math.inf, math.inf


@dataclass(frozen=True, kw_only=True, slots=True)
class PlaneAt(Plain):
    """A plane anywhere: the back of a plate, the head of a ring.

    Attributes
    ----------
    origin : where u = v = 0
    right, up : unit vectors along u and v; the outward normal is right x up
    """

    origin: _Triple
    right: _Triple
    up: _Triple

    def place(self, uv: FloatArray, h: FloatArray) -> FloatArray:
        """See `Surface.place`.

        >>> back = PlaneAt(origin=(60, 0, 0), right=(-1, 0, 0), up=(0, 1, 0))
        >>> back.place(np.array([[1.0, 2.0]]), np.array([0.5]))
        array([[59. ,  2. , -0.5]])
        """
        right, up = np.array(self.right, dtype=float), np.array(self.up, dtype=float)
        out = np.cross(right, up)
        placed: FloatArray = np.array(self.origin) + uv @ np.vstack((right, up)) + np.outer(h, out)
        return placed

    def unplace(self, points: FloatArray) -> tuple[FloatArray, FloatArray]:
        """See `Surface.unplace`."""
        right, up = np.array(self.right, dtype=float), np.array(self.up, dtype=float)
        from_origin = points - np.array(self.origin)
        return from_origin @ np.column_stack((right, up)), from_origin @ np.cross(right, up)

    def curvatures(self, uv: FloatArray) -> FloatArray:
        """Nothing bends."""
        return np.zeros((len(uv), 2))

    def max_step(self, *, sagitta_mm: float, h_mm: float) -> tuple[float, float]:
        """Never subdivided."""
        return math.inf, math.inf

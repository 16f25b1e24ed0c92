"""The plane: nothing bends, nothing stretches."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from kizami.surfaces.protocol import FloatArray

__all__ = ["Plane"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Plane:
    """The level plane at height `z_mm`, seen from above: u is x, v is y, h is z."""

    z_mm: float = 0.0

    @property
    def period_mm(self) -> float | None:
        """A plane does not meet itself."""
        return None

    def place(self, uv: FloatArray, h: FloatArray) -> FloatArray:
        """See `Surface.place`.

        >>> Plane(z_mm=3).place(np.array([[1.0, 2.0]]), np.array([-1.0]))
        array([[1., 2., 2.]])
        """
        return np.column_stack((uv, self.z_mm + np.asarray(h)))

    def stretch(self, uv: FloatArray) -> FloatArray:
        """True length everywhere."""
        return np.ones((len(uv), 2))

    def max_step(self, *, sagitta_mm: float, h_mm: float) -> tuple[float, float]:
        """Never subdivided."""
        return math.inf, math.inf

    def layer_mm(self, low_mm: float, high_mm: float) -> float:
        """A slab: its thickness."""
        return high_mm - low_mm

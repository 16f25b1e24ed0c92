"""What every surface offers. The rest of the core knows surfaces only through this."""

from __future__ import annotations

from typing import Protocol

import numpy as np
import numpy.typing as npt

__all__ = ["FloatArray", "Surface"]

FloatArray = npt.NDArray[np.float64]


class Surface(Protocol):
    """A map from (u, v, h) to space, right-handed: u along the reading direction, v up, h outward."""

    @property
    def period_mm(self) -> float | None:
        """Length of u after which the surface meets itself, mm; None when it does not."""
        ...

    def place(self, uv: FloatArray, h: FloatArray) -> FloatArray:
        """Points in space.

        Parameters
        ----------
        uv : (n, 2) float, unrolled coordinates, mm, true length on the surface itself
        h : (n,) float, height along the outward normal, mm; negative is into the body

        Returns
        -------
        (n, 3) float, mm
        """
        ...

    def stretch(self, uv: FloatArray) -> FloatArray:
        """Principal stretches of the map at h = 0, shape (n, 2); 1 is true length."""
        ...

    def max_step(self, *, sagitta_mm: float, h_mm: float) -> tuple[float, float]:
        """Longest steps (du, dv), mm, whose chords leave the surface at height h by `sagitta_mm`.

        A direction that does not bend gives infinity, so it is never subdivided.
        """
        ...

    def layer_mm(self, low_mm: float, high_mm: float) -> float:
        """Volume between two heights over one unit of unrolled area, mm3/mm2."""
        ...

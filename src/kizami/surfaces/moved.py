"""A surface that stands elsewhere in space: turned and moved as a whole, unrolled as before."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from kizami.surfaces.protocol import Apex, Evenness, FloatArray, Surface

__all__ = ["Moved"]

_Vector = tuple[float, float, float]


@dataclass(frozen=True, kw_only=True, slots=True)
class Moved:
    """Another surface after a turn and a move.

    Attributes
    ----------
    surface : as it was
    rows : of the rotation that takes its space to this one
    origin : where its origin comes to lie, mm
    """

    surface: Surface
    rows: tuple[_Vector, _Vector, _Vector]
    origin: _Vector = (0.0, 0.0, 0.0)

    @property
    def period_mm(self) -> float | None:
        """As it was."""
        return self.surface.period_mm

    @property
    def evenness(self) -> Evenness:
        """As it was."""
        return self.surface.evenness

    @property
    def apex(self) -> Apex | None:
        """As it was."""
        return self.surface.apex

    def place(self, uv: FloatArray, h: FloatArray) -> FloatArray:
        """See `Surface.place`.

        >>> from kizami.surfaces.plane import Plane
        >>> on_edge = Moved(surface=Plane(), rows=((1, 0, 0), (0, 0, -1), (0, 1, 0)))
        >>> on_edge.place(np.array([[2.0, 3.0]]), np.array([0.5])).tolist()
        [[2.0, -0.5, 3.0]]
        """
        placed: FloatArray = self.surface.place(uv, h) @ np.array(self.rows, dtype=float).T + self.origin
        return placed

    def unplace(self, points: FloatArray) -> tuple[FloatArray, FloatArray] | None:
        """See `Surface.unplace`."""
        return self.surface.unplace((points - np.array(self.origin)) @ np.array(self.rows, dtype=float))

    def stretch(self, uv: FloatArray) -> FloatArray:
        """As it was."""
        return self.surface.stretch(uv)

    def curvatures(self, uv: FloatArray) -> FloatArray:
        """As it was."""
        return self.surface.curvatures(uv)

    def max_step(self, *, sagitta_mm: float, h_mm: float) -> tuple[float, float]:
        """As it was."""
        return self.surface.max_step(sagitta_mm=sagitta_mm, h_mm=h_mm)

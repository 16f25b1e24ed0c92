"""What every surface offers. The rest of the core knows surfaces only through this."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Protocol

import numpy as np
import numpy.typing as npt

__all__ = ["Apex", "Evenness", "FloatArray", "Surface"]

FloatArray = npt.NDArray[np.float64]


@dataclass(frozen=True, kw_only=True, slots=True)
class Apex:
    """The point about which level lines of an unrolled surface are arcs.

    Attributes
    ----------
    u_mm, v_mm : where it is
    turn_rad : angle about it of a whole turn of the body
    """

    u_mm: float
    v_mm: float
    turn_rad: float

    def turned(self, points: FloatArray, angle_rad: float) -> FloatArray:
        """Points (n, 2) turned about it, anticlockwise.

        >>> Apex(u_mm=1.0, v_mm=0.0, turn_rad=1.0).turned(np.array([[2.0, 0.0]]), np.pi / 2).round(9).tolist()
        [[1.0, 1.0]]
        """
        cos, sin = np.cos(angle_rad), np.sin(angle_rad)
        centre = np.array([self.u_mm, self.v_mm])
        turned: FloatArray = (points - centre) @ np.array([[cos, sin], [-sin, cos]]) + centre
        return turned


class Evenness(Enum):
    """How stretch and curvature change from place to place."""

    SAME = "not at all"
    BY_V = "with v only"
    SMOOTH = "smoothly"
    ROUGH = "from facet to facet"


class Surface(Protocol):
    """A map from (u, v, h) to space, right-handed: u along the reading direction, v up, h outward."""

    @property
    def period_mm(self) -> float | None:
        """Length of u after which the surface meets itself, mm; None when it does not."""
        ...

    @property
    def evenness(self) -> Evenness:
        """How stretch and curvature change from place to place."""
        ...

    @property
    def apex(self) -> Apex | None:
        """About what level lines are arcs, as on an unrolled cone; None where they are straight."""
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

    def unplace(self, points: FloatArray) -> tuple[FloatArray, FloatArray] | None:
        """Undoes `place`: where points in space lie on the surface, and how far off it.

        Parameters
        ----------
        points : (n, 3) float, mm

        Returns
        -------
        uv (n, 2) and h (n,); on a surface that closes on itself u is within one period of 0. None
        where there is no closed formula, as on a patch of a supplied shape.
        """
        ...

    def stretch(self, uv: FloatArray) -> FloatArray:
        """Principal stretches of the map at h = 0, shape (n, 2); 1 is true length."""
        ...

    def curvatures(self, uv: FloatArray) -> FloatArray:
        """Principal curvatures, shape (n, 2), 1/mm; above 0 where the surface bends away from its normal."""
        ...

    def max_step(self, *, sagitta_mm: float, h_mm: float) -> tuple[float, float]:
        """Longest steps (du, dv), mm, whose chords leave the surface at height h by `sagitta_mm`.

        A direction that does not bend gives infinity, so it is never subdivided.
        """
        ...

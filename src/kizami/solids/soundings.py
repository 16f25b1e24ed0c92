"""Soundings: how high the finished piece stands over places of an area, found by rays from outside."""

from __future__ import annotations

from typing import Protocol

import numpy as np

from kizami.as_made.as_made import AsMade
from kizami.as_made.treatment import CutOut, proud_mm
from kizami.outlines.curves import FloatArray
from kizami.solids.rays import Rays

__all__ = ["HasRays", "sounded", "wall_under_mm"]

#: Rays start so far above what stands highest, mm.
_ABOVE_MM = 0.4


class HasRays(Protocol):
    """Something that rays can be shot at."""

    @property
    def rays(self) -> Rays:
        """Its triangles for rays."""
        ...


def sounded(piece: HasRays, made: AsMade, uv: FloatArray) -> FloatArray:
    """Height of what is met first over places (n, 2), along the normal or the pull, mm.

    Minus infinity where nothing is met.
    """
    treatment = made.treatment
    top = treatment.thickness_mm if isinstance(treatment, CutOut) else max(proud_mm(treatment), 0.0)
    start = np.full(len(uv), top + _ABOVE_MM)
    above, below = made.place(uv, start), made.place(uv, start - 1.0)
    heights: FloatArray = start - piece.rays.first(above, below - above).distance
    return heights


def wall_under_mm(rays: Rays, made: AsMade, uv: FloatArray) -> FloatArray:
    """Thickness of a bare body under places (n, 2) of an area, along the inward normal or the pull, mm.

    0 where there is no body under the face.
    """
    low = np.full(len(uv), -_UNDER_MM)
    foot, head = made.place(uv, low), made.place(uv, low + 1.0)
    # From just under the face, so that the face itself is not met.
    through = rays.first(foot, foot - head)
    thick: FloatArray = np.where(np.isfinite(through.distance), through.distance + _UNDER_MM, 0.0)
    return thick


#: Chords of a convex face lie up to 0.005 mm under it; deeper is inside, mm.
_UNDER_MM = 0.02

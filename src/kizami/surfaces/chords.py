"""How long a chord may be, so that it leaves its curve by no more than a tolerance."""

from __future__ import annotations

import math

__all__ = ["chord_angle_rad", "facets_of"]


def chord_angle_rad(*, radius_mm: float, sagitta_mm: float) -> float:
    """Largest angle whose chord leaves a circle by at most `sagitta_mm`: 2 acos(1 - s/r).

    >>> round(math.degrees(chord_angle_rad(radius_mm=10, sagitta_mm=0.005)), 3)
    3.624
    """
    return 2.0 * math.acos(max(-1.0, 1.0 - sagitta_mm / radius_mm))


def facets_of(*, radius_mm: float, sagitta_mm: float) -> int:
    """Sides of the polygon that stands for a circle, inscribed and true to the tolerance.

    >>> facets_of(radius_mm=10, sagitta_mm=0.005)
    100
    """
    angle = chord_angle_rad(radius_mm=radius_mm, sagitta_mm=sagitta_mm)
    return max(8, math.ceil(2.0 * math.pi / angle))

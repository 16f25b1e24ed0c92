"""Where points lie about the z axis."""

from __future__ import annotations

import numpy as np

from kizami.surfaces.protocol import FloatArray

__all__ = ["axis_distance_mm", "turn_from_back_rad"]


def axis_distance_mm(points: FloatArray) -> FloatArray:
    """Distances (n,) of points (n, 3) from the axis.

    >>> axis_distance_mm(np.array([[3.0, 4.0, 9.0]])).tolist()
    [5.0]
    """
    distance: FloatArray = np.hypot(points[:, 0], points[:, 1])
    return distance


def turn_from_back_rad(points: FloatArray) -> FloatArray:
    """Angles (n,) about the axis from +y, anticlockwise seen from +z, from -pi to pi.

    >>> turn_from_back_rad(np.array([[0.0, -2.0, 0.0], [-1.0, 0.0, 5.0]])).round(6).tolist()
    [-3.141593, 1.570796]
    """
    angle: FloatArray = np.arctan2(-points[:, 0], points[:, 1])
    return angle

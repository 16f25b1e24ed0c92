"""Flat shapes turned and shifted as they are."""

from __future__ import annotations

import math

import numpy as np
import shapely

from kizami.outlines.curves import FloatArray

__all__ = ["rotated", "shifted"]


def rotated(shape: shapely.Geometry, turn_deg: float) -> shapely.Geometry:
    """A shape turned anticlockwise about the origin.

    >>> [round(x, 9) + 0.0 for x in rotated(shapely.box(0, 0, 2, 1), 90.0).bounds]
    [-1.0, 0.0, 0.0, 2.0]
    >>> rotated(shapely.Polygon(), 30.0).is_empty
    True
    """
    a = math.radians(turn_deg)
    back = np.array([[math.cos(a), math.sin(a)], [-math.sin(a), math.cos(a)]])

    def turn(xy: FloatArray) -> FloatArray:
        return np.asarray(xy @ back)

    return shapely.transform(shape, turn)


def shifted(shape: shapely.Geometry, x_mm: float, y_mm: float) -> shapely.Geometry:
    """A shape moved by so much.

    >>> shifted(shapely.box(0, 0, 2, 1), 1.0, -1.0).bounds
    (1.0, -1.0, 3.0, 0.0)
    """
    return shapely.transform(shape, lambda xy: xy + np.array([x_mm, y_mm]))

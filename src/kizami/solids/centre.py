"""Centre of mass of a closed skin filled with one material."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from kizami.outlines.curves import FloatArray

__all__ = ["centre_of_mass"]


def centre_of_mass(points: npt.NDArray[np.floating], faces: npt.NDArray[np.integer]) -> FloatArray:
    """By the divergence theorem, from the middle of the points so that little is lost to rounding.

    Parameters
    ----------
    points : (n, 3)
    faces : (m, 3), anticlockwise seen from outside

    Returns
    -------
    (3,); the middle of the points where the skin encloses nothing

    >>> corners = np.array([[0, 0, 0], [4, 0, 0], [0, 4, 0], [0, 0, 4]], dtype=float)
    >>> centre_of_mass(corners, np.array([[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]])).tolist()
    [1.0, 1.0, 1.0]
    """
    whole = np.asarray(points, dtype=np.float64)
    middle = whole.mean(axis=0)
    a, b, c = (whole - middle)[faces.T]
    parts = np.einsum("ij,ij->i", a, np.cross(b, c))
    total = float(parts.sum())
    if abs(total) < 1e-9:
        return np.asarray(middle, dtype=np.float64)
    return np.asarray(middle + ((a + b + c) * parts[:, None]).sum(axis=0) / (4.0 * total))

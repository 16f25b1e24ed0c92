"""Geometry to SVG path data."""

from __future__ import annotations

import numpy as np
import shapely

__all__ = ["number", "path_data"]


def number(value: float, decimals: int = 3) -> str:
    """A number without needless digits.

    >>> number(2.50), number(-0.0001), number(3)
    ('2.5', '0', '3')
    """
    text = f"{value:.{decimals}f}"
    if "." in text:
        text = text.rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def path_data(geometry: shapely.Geometry, *, top_mm: float, decimals: int = 3) -> str:
    """Path data of polygons, v up turned to y down about `top_mm`.

    Parameters
    ----------
    geometry : Polygon or MultiPolygon in mm; holes become subpaths, for the non-zero or even-odd rule
    top_mm : the v that becomes y = 0

    Returns
    -------
    str, "" for an empty geometry; relative integers of the last decimal would be shorter, but
    absolute mm can be read and measured by hand

    >>> path_data(shapely.box(0, 0, 2, 1), top_mm=1, decimals=1)
    'M2 1L2 0 0 0 0 1Z'
    >>> path_data(shapely.Polygon(), top_mm=0)
    ''
    """
    pieces: list[str] = []
    for part in shapely.get_parts(geometry):
        if not isinstance(part, shapely.Polygon) or part.is_empty:
            continue
        for ring in (part.exterior, *part.interiors):
            pieces.append(_ring(np.asarray(ring.coords)[:-1], top_mm, decimals))
    return "".join(pieces)


def _ring(points: np.ndarray, top_mm: float, decimals: int) -> str:
    # Adding zero turns -0.0 into 0.0. Python's own shortest form of a rounded number is its
    # decimal form, and far quicker than formatting each one.
    grid = np.round(np.column_stack((points[:, 0], top_mm - points[:, 1])), decimals) + 0.0
    words = [word.removesuffix(".0") for word in map(repr, grid.ravel().tolist())]
    return f"M{words[0]} {words[1]}L{' '.join(words[2:])}Z"

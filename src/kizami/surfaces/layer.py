"""The volume of a layer on a surface: what engraving takes away and raising adds.

Over an area A at heights from a to b along the normal it is the integral of
s_u s_v (1 + k1 h) (1 + k2 h) dh dA, with the stretches s of the unrolled map and the principal
curvatures k: the area of a parallel surface (Steiner's formula for surfaces). On a cylinder of radius
R it is A d (1 - d / 2R) for a depth d and A h (1 + h / 2R) for a height h.
"""

from __future__ import annotations

import numpy as np
import shapely

from kizami.surfaces.protocol import FloatArray, Surface

__all__ = ["layer_along_mm", "layer_mm", "layer_volume_mm3"]


def layer_mm(surface: Surface, uv: FloatArray, low_mm: float, high_mm: float) -> FloatArray:
    """Volume between two heights over one unit of unrolled area at each point, mm3/mm2, shape (n,).

    >>> from kizami.surfaces.plane import Plane
    >>> layer_mm(Plane(), np.zeros((1, 2)), -0.5, 0.75)
    array([1.25])
    """
    k1, k2 = surface.curvatures(uv).T

    def up_to(h: float) -> FloatArray:
        result: FloatArray = h + (k1 + k2) * h**2 / 2.0 + k1 * k2 * h**3 / 3.0
        return result

    volume: FloatArray = surface.stretch(uv).prod(axis=1) * (up_to(high_mm) - up_to(low_mm))
    return volume


def layer_along_mm(
    surface: Surface, uv: FloatArray, low_mm: float, high_mm: float, pull: FloatArray
) -> FloatArray:
    """The same for heights along one direction: the surface as seen against it, times the height."""
    foot, head = (surface.place(uv, np.full(len(uv), h)) for h in (0.0, 1.0))
    facing: FloatArray = (head - foot) @ pull
    volume: FloatArray = surface.stretch(uv).prod(axis=1) * facing * (high_mm - low_mm)
    return volume


def layer_volume_mm3(
    surface: Surface,
    outlines: shapely.MultiPolygon,
    low_mm: float,
    high_mm: float,
    *,
    pull: FloatArray | None = None,
) -> float:
    """Volume between two heights over outlines in unrolled mm.

    Parameters
    ----------
    pull : unit direction along which heights run, or None for the normal

    Notes
    -----

    The integral over each triangle is the mean of its edge middles, exact for a layer that varies
    with the second power (Strang and Fix 1973).
    """
    if outlines.is_empty:
        return 0.0
    if surface.is_uniform and pull is None:
        anywhere = np.array([outlines.geoms[0].exterior.coords[0]])
        return float(outlines.area * layer_mm(surface, anywhere, low_mm, high_mm)[0])
    triangles = shapely.get_parts(shapely.constrained_delaunay_triangles(outlines))
    corners = shapely.get_coordinates(triangles).reshape(-1, 4, 2)[:, :3]
    middles = (corners + np.roll(corners, -1, axis=1)) / 2.0
    at = middles.reshape(-1, 2)
    layers = (
        layer_mm(surface, at, low_mm, high_mm)
        if pull is None
        else layer_along_mm(surface, at, low_mm, high_mm, pull)
    )
    return float((shapely.area(triangles) * layers.reshape(-1, 3).mean(axis=1)).sum())

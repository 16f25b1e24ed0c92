"""The volume of a layer on a surface: what engraving takes away and raising adds.

Over an area A at heights from a to b along the normal it is the integral of
s_u s_v (1 + k1 h) (1 + k2 h) dh dA, with the stretches s of the unrolled map and the principal
curvatures k: the area of a parallel surface (Steiner's formula for surfaces). On a cylinder of radius
R it is A d (1 - d / 2R) for a depth d and A h (1 + h / 2R) for a height h.
"""

from __future__ import annotations

import math

import numpy as np
import shapely

from kizami.prepared import prepared
from kizami.surfaces.protocol import Evenness, FloatArray, Surface

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
    No triangles are needed, only the edges of the outlines, each taken at Gauss's places. What changes
    with v only is integrated by Green's theorem, as f(v) is what u f(v) gains along u. What changes
    smoothly is integrated over the triangles that edges make with a point in their midst, those
    that run clockwise counting as less (the surveyor's formula, with a weight). What changes from facet to
    facet is sampled on a grid.
    """
    if outlines.is_empty:
        return 0.0
    evenness = surface.evenness
    if pull is not None and evenness is not Evenness.ROUGH:
        # Seen from one direction, a bend is another at every place; a profile may have several.
        evenness = Evenness.ROUGH if evenness is Evenness.BY_V else Evenness.SMOOTH

    def layer(at: FloatArray) -> FloatArray:
        if pull is None:
            return layer_mm(surface, at, low_mm, high_mm)
        return layer_along_mm(surface, at, low_mm, high_mm, pull)

    if evenness is Evenness.SAME:
        anywhere = np.array([outlines.geoms[0].exterior.coords[0]])
        return float(outlines.area * layer(anywhere)[0])
    if evenness is Evenness.ROUGH:
        return float(outlines.area * layer(_grid(outlines)).mean())
    midst = np.array(outlines.bounds).reshape(2, 2).mean(axis=0)
    starts, ends = (at - midst for at in _edges(outlines))
    # Three places along each edge, (n, 3, 2).
    at = starts[:, None] + _PLACES[:, None] * (ends - starts)[:, None]
    if evenness is Evenness.BY_V:
        over_edges = (layer(at.reshape(-1, 2) + midst).reshape(-1, 3) * at[..., 0]) @ _WEIGHTS
        return float(over_edges @ (ends - starts)[:, 1])
    # And three on the way from the midst to each of them.
    out = _PLACES[:, None, None] * at[:, None]
    over_triangles = layer(out.reshape(-1, 2) + midst).reshape(-1, 3, 3) @ _WEIGHTS @ (_WEIGHTS * _PLACES)
    twice = starts[:, 0] * ends[:, 1] - starts[:, 1] * ends[:, 0]
    return float(over_triangles @ twice)


#: Gauss's three places between 0 and 1, and their weights (Abramowitz and Stegun, 25.4.30, from memory).
_PLACES = 0.5 + 0.5 * np.array([-1.0, 0.0, 1.0]) * math.sqrt(0.6)
_WEIGHTS = np.array([5.0, 8.0, 5.0]) / 18.0
#: Places of a grid that are enough for what changes from facet to facet.
_ENOUGH = 300


def _edges(outlines: shapely.MultiPolygon) -> tuple[FloatArray, FloatArray]:
    """Edges from start to end, the inside to their left."""
    rings = shapely.get_rings(shapely.get_parts(shapely.orient_polygons(outlines)))
    corners, ring = shapely.get_coordinates(rings, return_index=True)
    along = ring[:-1] == ring[1:]
    return corners[:-1][along], corners[1:][along]


def _grid(outlines: shapely.MultiPolygon) -> FloatArray:
    """Places evenly inside of outlines; some of their corners where they are too fine for that."""
    low_u, low_v, high_u, high_v = outlines.bounds
    step = math.sqrt(outlines.area / _ENOUGH)
    u, v = (np.arange(low + step / 2.0, high, step) for low, high in ((low_u, high_u), (low_v, high_v)))
    places = np.stack(np.meshgrid(u, v), axis=-1).reshape(-1, 2)
    inside: FloatArray = places[shapely.contains_xy(prepared(outlines), places)]
    corners: FloatArray = shapely.get_coordinates(outlines)
    return inside if len(inside) else corners

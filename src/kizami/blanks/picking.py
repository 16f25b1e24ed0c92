"""Which area of a blank a point of its skin belongs to."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import shapely

from kizami.blanks.area import Area
from kizami.surfaces.protocol import FloatArray

__all__ = ["area_at"]

#: Places of an area that are looked at first, one way; the nearest of them is then improved.
_ACROSS = 48
_STEPS = 12
#: Step of the slopes, and how near a place need be found.
_SLOPE_MM, _NEAR_MM = 1e-4, 1e-6
#: A point at the very edge of an area is one of it.
_EDGE_MM = 0.05
#: A facet of an area looks at most so far away from it, as a cosine: half of a right angle.
_LEAST_COSINE = 0.7


def area_at(
    areas: Iterable[Area], point: FloatArray, *, out: FloatArray | None = None, within_mm: float
) -> Area | None:
    """The area that a point lies on, or nearest above or below; None where there is none so near.

    Parameters
    ----------
    point : (3,) mm
    out : (3,) how the skin looks there, so that a thin plate's face is not taken for its back; None for any
    within_mm : how far off an area may be, such as the floor of what is engraved into it

    Examples
    --------
    >>> area_at((), np.zeros(3), within_mm=1.0) is None
    True
    """
    best: tuple[float, Area] | None = None
    for area in areas:
        uv = _nearest(area, point)
        if uv is None:
            continue
        foot, head = area.surface.place(np.array([uv, uv]), np.array([0.0, 1.0]))
        if not area.outline.buffer(_EDGE_MM).covers(shapely.Point(uv)):
            continue
        normal = (head - foot) / np.linalg.norm(head - foot)
        if out is not None and float(normal @ out) < _LEAST_COSINE * float(np.linalg.norm(out)):
            continue
        away = float(np.linalg.norm(point - foot))
        if away <= within_mm and (best is None or away < best[0]):
            best = (away, area)
    return None if best is None else best[1]


def _nearest(area: Area, point: FloatArray) -> FloatArray | None:
    """Where on an area's surface a point is nearest to it: Gauss and Newton, from the nearest of many."""
    low_u, low_v, high_u, high_v = area.outline.bounds
    u, v = np.meshgrid(np.linspace(low_u, high_u, _ACROSS), np.linspace(low_v, high_v, _ACROSS))
    uv = np.column_stack([u.ravel(), v.ravel()])
    uv = uv[shapely.contains_xy(area.outline, uv[:, 0], uv[:, 1])]
    if not len(uv):
        return None
    away = np.linalg.norm(area.surface.place(uv, np.zeros(len(uv))) - point, axis=1)
    found: FloatArray = uv[int(np.argmin(away))]
    for _ in range(_STEPS):
        three = found + _SLOPE_MM * np.array([[0.0, 0.0], [1.0, 0.0], [0.0, 1.0]])
        at, along, across = area.surface.place(three, np.zeros(3))
        slopes = np.column_stack([along - at, across - at]) / _SLOPE_MM
        step, *_ = np.linalg.lstsq(slopes, point - at, rcond=None)
        # No further than the area is large: beyond it a surface may be another one.
        found = np.clip(found + step, [low_u, low_v], [high_u, high_v])
        if float(np.abs(step).max()) < _NEAR_MM:
            break
    return found

"""Fillets: inside corners filled by a round, where two parts of a blank meet.

A sharp inside corner tears in the mould and breaks in wear. A closing, outward by the radius and
back again, fills every corner that points inward with an arc of that radius and leaves the rest.
"""

from __future__ import annotations

import math

import numpy as np
import shapely

from kizami.outlines.shrinking import Level
from kizami.surfaces.protocol import FloatArray

__all__ = ["filleted_joint", "foot_levels", "quarter_round"]


def filleted_joint(
    whole: shapely.Geometry, part: shapely.Polygon, radius_mm: float, *, sagitta_mm: float
) -> shapely.Polygon:
    """An outline with its inside corners filled where one part of it joins the rest.

    Parameters
    ----------
    part : corners farther than two radii from it stay as they were drawn

    >>> bar, disc = shapely.box(-10, -2, 10, 0), shapely.Point(0, 2).buffer(2.5)
    >>> filleted = filleted_joint(bar.union(disc), disc, 1.0, sagitta_mm=0.001)
    >>> filleted.covers(bar.union(disc).buffer(-1e-9)), filleted.area > bar.union(disc).area
    (True, True)
    """
    if radius_mm <= 0:
        return shapely.orient_polygons(whole)
    quarter = max(4, len(quarter_round(radius_mm, sagitta_mm=sagitta_mm)) - 1)
    # The way back must be as round as the way out, or straight edges would come back a little short.
    closed = whole.buffer(radius_mm, join_style="mitre", mitre_limit=20.0)
    closed = closed.buffer(-radius_mm, quad_segs=quarter)
    near = part.buffer(2.0 * radius_mm)
    return shapely.orient_polygons(whole.union(closed.intersection(near)))


def quarter_round(radius_mm: float, *, sagitta_mm: float) -> FloatArray:
    """A quarter circle as (inward, down) from the wall to the floor, (n, 2), from (0, 0) to (r, r)."""
    step = 2.0 * math.acos(max(-1.0, 1.0 - sagitta_mm / radius_mm))
    angle = np.linspace(0.0, math.pi / 2.0, max(3, math.ceil(math.pi / 2.0 / step) + 1))
    points: FloatArray = radius_mm * np.column_stack((1.0 - np.cos(angle), np.sin(angle)))
    return points


def foot_levels(depth_mm: float, radius_mm: float, *, above_mm: float, sagitta_mm: float) -> list[Level]:
    """Levels of a pocket from above its mouth down, its floor joined to the walls by a round."""
    levels = [Level(inward_mm=0.0, height_mm=above_mm)]
    if radius_mm <= 0:
        return [*levels, Level(inward_mm=0.0, height_mm=-depth_mm)]
    foot = depth_mm - radius_mm
    return [
        *levels,
        *(
            Level(inward_mm=float(inward), height_mm=float(-foot - down))
            for inward, down in quarter_round(radius_mm, sagitta_mm=sagitta_mm)
        ),
    ]

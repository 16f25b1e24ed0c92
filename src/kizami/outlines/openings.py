"""What the openings of an outline are: holes, slots, and holes in an ear to hang a piece by."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
import shapely

from kizami.outlines.drawn import DrawnOutline
from kizami.surfaces.protocol import FloatArray

__all__ = ["openings_told"]

#: A shape is a round one, or a slot, when it fills so much of one and no more than is lost in drawing it.
_LEAST_SHARE = 0.97
#: A slot is so many times as long as it is wide at least.
_LEAST_LONG = 1.3
#: An ear is so many times as wide as its hole and the wall beside it ask for at most.
_EAR = 1.35
_STANDS_OUT = 0.2
#: More are counted and not named one by one.
_MOST_NAMED = 6


def openings_told(outline: DrawnOutline, scale: float) -> tuple[str, ...]:
    """What each opening is, the largest first, with its measures.

    Parameters
    ----------
    scale : mm of one unit of the outline

    >>> turn = np.linspace(0.0, 2.0 * np.pi, 97)[:-1]
    >>> hole = np.column_stack((8.0 + 2.0 * np.cos(turn), 10.0 + 2.0 * np.sin(turn)))
    >>> box = np.array([(0, 0), (40, 0), (40, 20), (0, 20)], dtype=float)
    >>> openings_told(DrawnOutline(edge=box, openings=(hole,), notes=()), 1.0)
    ('a hole 4.00 mm across',)
    """
    edge = shapely.Polygon(outline.edge * scale)
    told = [_told(edge, shapely.Polygon(points * scale)) for points in outline.openings]
    named, rest = told[:_MOST_NAMED], told[_MOST_NAMED:]
    return (*named, *([f"{len(rest)} more openings"] if rest else ()))


def _told(edge: shapely.Polygon, opening: shapely.Polygon) -> str:
    around = shapely.minimum_bounding_radius(opening)
    if opening.area >= _LEAST_SHARE * math.pi * around**2:
        where = ", in an ear" if _in_ear(edge, opening, around) else ""
        return f"a hole {2.0 * around:.2f} mm across{where}"
    long, wide = sorted(_sides(opening), reverse=True)
    full = (long - wide) * wide + math.pi * wide**2 / 4.0
    if long >= _LEAST_LONG * wide and any(
        _LEAST_SHARE <= opening.area / one <= 1.0 / _LEAST_SHARE for one in (full, long * wide)
    ):
        return f"a slot {long:.2f} by {wide:.2f} mm"
    return f"an opening {long:.2f} by {wide:.2f} mm"


def _sides(shape: shapely.Polygon) -> Iterator[float]:
    corners: FloatArray = shapely.get_coordinates(shapely.minimum_rotated_rectangle(shape))
    yield from (float(np.hypot(*(corners[n + 1] - corners[n]))) for n in (0, 1))


def _in_ear(edge: shapely.Polygon, hole: shapely.Polygon, radius: float) -> bool:
    """Whether a hole lies in what stands out from the rest: what is about it goes when all so narrow goes."""
    wall = edge.exterior.distance(hole)
    narrow = _EAR * (radius + wall)
    body = edge.buffer(-narrow).buffer(narrow)
    about = hole.centroid.buffer(radius + wall)
    # A corner is rounded off as well, but only a little of what is about a hole in it.
    return not body.is_empty and about.difference(body).area > _STANDS_OUT * about.area

"""What of a shape lies about another: questions about one letter need not be asked of the whole word."""

from __future__ import annotations

import shapely

__all__ = ["boxed"]


def boxed(shape: shapely.Geometry, about: shapely.Geometry, *, room: float) -> shapely.Geometry:
    """What of a shape lies in the box round another one.

    Parameters
    ----------
    room : by which the box is larger on every side; where the box cuts, the result has edges that the shape
        has not, so it is more than the question reaches

    >>> bar = shapely.box(0, 0, 100, 1)
    >>> [float(side) for side in boxed(bar, shapely.box(10, -3, 12, 3), room=0.5).bounds]
    [9.5, 0.0, 12.5, 1.0]
    """
    low_x, low_y, high_x, high_y = about.bounds
    return shapely.clip_by_rect(shape, low_x - room, low_y - room, high_x + room, high_y + room)

"""Shapes that come again, in other places and sizes, measured once."""

from __future__ import annotations

import numpy as np
import shapely

from kizami.outlines.narrow import ShapeFacts, measure_shape
from kizami.remembering import remembered

__all__ = ["measure_alike"]


def measure_alike(shape: shapely.MultiPolygon, *, cap_height: float) -> ShapeFacts:
    """As `kizami.outlines.narrow.measure_shape`; the same shape in another place or size is measured once.

    >>> bar = shapely.MultiPolygon([shapely.box(3, 4, 23, 6)])
    >>> round(measure_alike(bar, cap_height=20).stroke.width, 2)
    2.0
    >>> measure_alike(shapely.MultiPolygon(), cap_height=20).stroke is None
    True
    """
    if shape.is_empty:
        return ShapeFacts.of_nothing()
    low_x, low_y, _, _ = shape.bounds
    # To less than anything that is told, so that it is the same wherever it was moved from.
    unit = shapely.transform(shape, lambda xy: ((xy - (low_x, low_y)) / cap_height).round(_DIGITS))
    return _measured(unit).placed(np.eye(2), cap_height, (low_x, low_y))


#: Of a cap height: a nanometre on letters of 10 mm.
_DIGITS = 7


@remembered
def _measured(unit: shapely.MultiPolygon) -> ShapeFacts:
    return measure_shape(unit, cap_height=1.0)

"""A millimetre grid of an area, flat and on the body: how what is unrolled lies on what is round."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely

from kizami.blanks.area import Area
from kizami.remembering import remembered
from kizami.surfaces.protocol import FloatArray

__all__ = ["Grid", "area_grid"]

_STEPS_MM = (1.0, 2.0, 5.0, 10.0, 20.0, 50.0)
#: More lines one way than this would be a grey patch.
_MOST_LINES = 67
_LONGEST_CHORD_MM = 0.5
_MOST_CHORDS = 400


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Grid:
    """Lines of an area.

    Attributes
    ----------
    step_mm : from line to line
    flat : each line, (n, 2) unrolled mm
    """

    step_mm: float
    flat: tuple[FloatArray, ...]

    def on_body(self, area: Area, *, proud_mm: float) -> list[FloatArray]:
        """The same lines in space, (n, 3) mm, a little proud so that they are seen."""
        return [area.surface.place(line, np.full(len(line), proud_mm)) for line in self.flat]


@remembered
def area_grid(area: Area) -> Grid:
    """Lines along u and v, counted from the area's anchor, cut off at its outline and keep-outs."""
    low_u, low_v, high_u, high_v = area.outline.bounds
    longest = max(high_u - low_u, high_v - low_v)
    step = next((s for s in _STEPS_MM if longest / s <= _MOST_LINES), _STEPS_MM[-1])
    free = area.outline.difference(shapely.union_all([k.outline for k in area.keep_outs]))
    centre_u, centre_v = area.anchor

    def places(low: float, high: float, centre: float) -> list[float]:
        first, last = math.ceil((low - centre) / step), math.floor((high - centre) / step)
        return [centre + step * i for i in range(first, last + 1)]

    # Those of one way are cut together: they meet nowhere, and the outline is taken apart only once for all.
    ways = (
        shapely.MultiLineString([[(u, low_v), (u, high_v)] for u in places(low_u, high_u, centre_u)]),
        shapely.MultiLineString([[(low_u, v), (high_u, v)] for v in places(low_v, high_v, centre_v)]),
    )
    chord = max(_LONGEST_CHORD_MM, longest / _MOST_CHORDS)
    cut = shapely.get_parts([shapely.intersection(lines, free) for lines in ways])
    kept = [part for part in cut if part.geom_type == "LineString" and part.length > 0]
    return Grid(
        step_mm=step, flat=tuple(shapely.get_coordinates(shapely.segmentize(part, chord)) for part in kept)
    )

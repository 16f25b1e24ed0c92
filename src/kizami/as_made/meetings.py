"""Where parts come near each other: measured on what they make together, not on each by itself.

Each glyph is measured once for its typeface. Only where parts touch, or are held to each other, is what
they make together another shape: a neck, a slit beside the place where two letters meet, the web beside a
bridge. There, and only there, the medial axis of the whole is found from samples of its outlines.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

from kizami.outlines.curves import FloatArray
from kizami.outlines.narrow import (
    GAP_LEAST_PATH,
    GAP_RATIO,
    STROKE_LEAST_PATH,
    STROKE_RATIO,
    Places,
    Samples,
    axis_of,
    places_of,
)
from kizami.prepared import prepared

__all__ = ["Met", "Near", "Where", "beside", "places_met"]

#: Tells which of some places (n, 2) are asked about, within a reach.
Where = Callable[[FloatArray, float], npt.NDArray[np.bool_]]

#: Samples of outlines that meet, in what is looked for: a width w is overstated by less than s^2 / (2 w).
_SAMPLES = 10.0


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Met:
    """What is narrow where parts meet.

    Attributes
    ----------
    strokes : of the whole, necks among them
    gaps : beside it
    is_measured : False when it could not be
    """

    strokes: Places
    gaps: Places
    is_measured: bool = True


class Near:
    """Tells which places lie near two or more shapes.

    Parameters
    ----------
    shapes : parts, and what was taken out of them again
    """

    def __init__(self, shapes: Sequence[shapely.Geometry]) -> None:
        self.shapes = np.array(shapes, dtype=object)
        self.bounds = shapely.bounds(self.shapes)
        self._ready = [prepared(shape) for shape in shapes]

    def two(self, points: FloatArray, reach: float) -> npt.NDArray[np.bool_]:
        """Which of some places (n, 2) are within reach of at least two of the shapes."""
        low_u, low_v, high_u, high_v = (side[:, None] for side in self.bounds.T)
        u, v = points.T
        boxed = (u >= low_u - reach) & (u <= high_u + reach) & (v >= low_v - reach) & (v <= high_v + reach)
        # Most places are near the box of their own shape alone.
        boxed &= np.count_nonzero(boxed, axis=0) >= 2
        asked = np.flatnonzero(boxed.any(axis=0))
        places, boxed = shapely.points(points.take(asked, axis=0)), boxed[:, asked]
        count = np.zeros(len(asked), dtype=np.int64)
        for shape, box in zip(self._ready, boxed, strict=True):
            which = np.flatnonzero(box)
            if len(which):
                count[which] += shapely.dwithin(shape, places.take(which), reach)
        near: npt.NDArray[np.bool_] = np.zeros(len(points), dtype=np.bool_)
        near[asked] = count >= 2
        return near


def beside(shapes: Sequence[shapely.Geometry]) -> Where:
    """Tells which places lie near any of some shapes.

    >>> where = beside([shapely.box(0, 0, 1, 1), shapely.box(5, 0, 6, 1)])
    >>> where(np.array([[0.5, 0.5], [1.5, 0.5], [3.0, 0.5], [4.5, 0.5]]), 0.6).tolist()
    [True, True, False, True]
    """
    zone = prepared(shapely.union_all(list(shapes)))
    low_u, low_v, high_u, high_v = zone.bounds

    def within(points: FloatArray, reach: float) -> npt.NDArray[np.bool_]:
        u, v = points.T
        boxed = (u >= low_u - reach) & (u <= high_u + reach) & (v >= low_v - reach) & (v <= high_v + reach)
        asked = np.flatnonzero(boxed)
        near: npt.NDArray[np.bool_] = np.zeros(len(points), dtype=np.bool_)
        near[asked] = shapely.dwithin(zone, shapely.points(points.take(asked, axis=0)), reach)
        return near

    return within


def places_met(whole: shapely.MultiPolygon, where: Where, *, reach_mm: float, cap_height_mm: float) -> Met:
    """Strokes and gaps of a whole that are narrower than `reach_mm`, about the places that are asked for.

    Parameters
    ----------
    where : tells which places are asked for: those near two parts, see `Near`, or `beside` some shapes
    cap_height_mm : tells what lasts, see `kizami.outlines.narrow`

    Notes
    -----
    A disc of that diameter touches nothing further than half of it from its middle, so outlines further
    than one and a half times the reach from where it is asked need not be sampled; they are told from places
    a quarter of it away at most.

    >>> left, right = shapely.box(0, 0, 9.9, 10), shapely.box(10.1, 0, 20, 10)
    >>> foot = shapely.box(9, 0, 11, 1)
    >>> whole = shapely.MultiPolygon([shapely.union_all([left, right, foot])])
    >>> met = places_met(whole, Near([left, right, foot]).two, reach_mm=0.5, cap_height_mm=5)
    >>> round(met.gaps.narrowest.width, 2), len(met.strokes)
    (0.2, 0)
    """
    samples = _samples(whole, where, reach_mm)
    nothing = Met(strokes=Places.none(), gaps=Places.none())
    if len(samples.points) < 4:
        return nothing
    axis = axis_of(samples)
    if axis is None:
        return Met(strokes=Places.none(), gaps=Places.none(), is_measured=False)
    is_fine = axis.width <= reach_mm
    stroke = is_fine & (axis.path >= np.maximum(STROKE_RATIO * axis.width, STROKE_LEAST_PATH * cap_height_mm))
    gap = is_fine & (axis.path >= np.maximum(GAP_RATIO * axis.width, GAP_LEAST_PATH * cap_height_mm))
    asked = np.flatnonzero(stroke | gap)
    asked = asked[where(axis.centres.take(asked, axis=0), reach_mm)]
    inside = np.asarray(shapely.contains_xy(prepared(whole), axis.centres.take(asked, axis=0)), dtype=bool)
    return Met(
        strokes=places_of(axis, asked[inside & stroke[asked]]),
        gaps=places_of(axis, asked[~inside & gap[asked]]),
    )


def _samples(whole: shapely.MultiPolygon, where: Where, reach: float) -> Samples:
    """Points along the outlines of a whole about the places that are asked for."""
    rings = shapely.get_rings(shapely.get_parts(whole))
    points, ring = shapely.get_coordinates(rings, return_index=True)
    edges = np.flatnonzero(ring[:-1] == ring[1:])
    starts, way, contour = points[edges], points[edges + 1] - points[edges], ring[edges]
    lengths = np.hypot(*way.T)
    reached = np.cumsum(lengths) - lengths
    along = reached - reached[np.searchsorted(contour, np.arange(len(rings)))][contour]
    totals = np.bincount(contour, weights=lengths, minlength=len(rings)).astype(np.float64)
    # First coarsely, which of it counts at all; then what counts finely.
    owner, share, step = _divided(lengths, reach / 2.0)
    middles = starts[owner] + way[owner] * (share + step / 2.0)[:, None]
    kept = np.flatnonzero(where(middles, 1.75 * reach))
    owner, share, step = owner[kept], share[kept], step[kept]
    piece, within, _ = _divided(lengths[owner] * step, reach / _SAMPLES)
    owner, share = owner[piece], share[piece] + within * step[piece]
    return Samples(
        points=starts[owner] + way[owner] * share[:, None],
        contour=contour[owner],
        along=along[owner] + share * lengths[owner],
        lengths=totals,
    )


def _divided(lengths: FloatArray, longest: float) -> tuple[npt.NDArray[np.int64], FloatArray, FloatArray]:
    """Lengths in equal pieces: of which each is one, where in it it starts, and what share of it it is."""
    counts = np.maximum(1, np.ceil(lengths / longest)).astype(np.int64)
    owner = np.repeat(np.arange(len(lengths)), counts)
    place = np.arange(len(owner)) - np.repeat(np.cumsum(counts) - counts, counts)
    return owner, place / counts[owner], 1.0 / counts[owner]

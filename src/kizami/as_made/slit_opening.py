"""What is taken away to open a slit: along its middle, as wide as asked and no wider at its ends."""

from __future__ import annotations

import numpy as np
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.fineness import Fine
from kizami.as_made.meetings import beside
from kizami.outlines.curves import FloatArray

__all__ = ["opening_of"]


def opening_of(
    made: AsMade, fine: Fine, slit: shapely.Polygon | None, asked_mm: float, sturdier: FloatArray
) -> shapely.Geometry:
    """What is taken away to open a slit: along its middle as wide as asked, as far as it is narrower.

    Where the slit is as wide as asked its sides are only touched: nothing is seen of where the work ends.

    Parameters
    ----------
    slit : its ground; None for a neck between two tips, which has none
    sturdier : the unit direction to the side that everything is taken from, or (0, 0) where both give alike
    """
    half = asked_mm / 2.0
    at = np.array([fine.u_mm, fine.v_mm])
    zone = shapely.Point(at).buffer(asked_mm) if slit is None else slit
    around = shapely.orient_polygons(shapely.union_all([made.parts[n].outline for n in fine.parts]))
    # Where it was measured is made as wide as asked in any case.
    measured = at + sturdier * (asked_mm - fine.flat_mm) / 2.0
    along = np.array([-fine.across[1], fine.across[0]])
    window = zone.buffer(2.0 * asked_mm)
    here, edge = around.intersection(window), around.boundary.intersection(window)
    free = _free_mm(measured[None], along[None], here, half)[0]
    measured = measured + along * (min(free[1], half) - min(free[0], half))
    lines = [shapely.LineString([measured, measured])]
    for body in shapely.get_parts(around):
        for ring in (body.exterior, *body.interiors):
            if shapely.intersects(ring, window):
                lines += _middles(ring, (here, edge), zone, asked_mm, sturdier)
    simple = shapely.simplify(np.array(lines, dtype=object), _MIDDLE_MM)
    return shapely.union_all(shapely.buffer(simple, half, quad_segs=16))


#: Sides are looked at in steps of this share of the width; middles lie as near to the true ones, mm.
_STEP_SHARE, _MIDDLE_MM = 0.1, 0.001


def _middles(
    ring: shapely.LinearRing,
    around: tuple[shapely.Geometry, shapely.Geometry],
    zone: shapely.Geometry,
    asked_mm: float,
    sturdier: FloatArray,
) -> list[shapely.LineString]:
    """The middle of a slit as one of its sides sees it, where it is narrower than asked.

    Parameters
    ----------
    around : the ink about the slit, and its outline there
    """
    ink, edge = around
    points = shapely.get_coordinates(ring.segmentize(_STEP_SHARE * asked_mm))
    along = points[1:] - points[:-1]
    length = np.hypot(*along.T)
    points, along = (points[:-1] + points[1:])[length > 0.0] / 2.0, along[length > 0.0]
    along /= length[length > 0.0][:, None]
    seen = np.flatnonzero(beside([zone])(points, asked_mm))
    if not len(seen):
        return []
    # Ink lies to the left of a ring that is oriented, the slit to its right.
    out = np.column_stack((along[:, 1], -along[:, 0]))[seen]
    radius = _radii_touching(points[seen], out, edge, asked_mm / 2.0)
    middles = points[seen] + out * radius[:, None]
    # What joins the sides where the slit ends stays as it is.
    free = _free_mm(middles, along[seen], ink, asked_mm / 2.0)
    kept = (radius < asked_mm / 2.0) & (free > _SAME_SHARE * asked_mm / 2.0).all(axis=1)
    kept &= shapely.dwithin(shapely.points(middles), zone, asked_mm / 2.0)
    # All is taken from the sturdier side: the other is touched and no more.
    middles = (middles + sturdier * (asked_mm / 2.0 - radius)[:, None])[kept]
    apart = np.flatnonzero(np.diff(seen[kept]) > 1) + 1
    # A single place is a line without length.
    return [
        shapely.LineString(np.concatenate((run, run[-1:]))) for run in np.split(middles, apart) if len(run)
    ]


def _radii_touching(
    points: FloatArray, out: FloatArray, edge: shapely.Geometry, most_mm: float
) -> FloatArray:
    """Radii of the discs that touch an outline at these places and again somewhere else, up to the largest.

    Notes
    -----
    A disc that holds a place nearer to its middle than its radius is made as small as touches that as well,
    until none is nearer: r = |b - a|^2 / (2 n (b - a)) (Ma, Bae and Choi, 3D medial axis point approximation
    using nearest neighbors and the normal field, 2012; from memory of it).
    """
    radius = np.full(len(points), most_mm)
    going = np.arange(len(points))
    for _ in range(_SHRUNK):
        middle = points[going] + out[going] * radius[going, None]
        nearest = shapely.get_coordinates(shapely.shortest_line(edge, shapely.points(middle)))[::2]
        inside = radius[going] - np.hypot(*(nearest - middle).T) > _OFF_MM
        going, nearest = going[inside], nearest[inside]
        if not len(going):
            break
        chord = nearest - points[going]
        radius[going] = (chord**2).sum(axis=1) / (2.0 * np.maximum((chord * out[going]).sum(axis=1), _OFF_MM))
    least: FloatArray = np.minimum(radius, most_mm)
    return least


def _free_mm(middles: FloatArray, along: FloatArray, around: shapely.Geometry, reach_mm: float) -> FloatArray:
    """How far a slit goes on from its middles, along it one way and the other, (n, 2), up to a reach."""
    ways = np.stack((-along, along), axis=1)
    starts = np.repeat(middles[:, None], 2, axis=1)
    rays = shapely.linestrings(np.stack((starts, starts + reach_mm * ways), axis=2))
    hits = shapely.intersection(rays, around)
    free: FloatArray = np.where(
        shapely.is_empty(hits), reach_mm, shapely.distance(shapely.points(starts), hits)
    )
    return free


#: What goes on by this share of half the width is taken to go on.
_SAME_SHARE = 0.98
#: Times that a disc is made smaller at most, and by what it may be too large, mm.
_SHRUNK, _OFF_MM = 8, 1e-4

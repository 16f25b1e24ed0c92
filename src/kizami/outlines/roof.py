"""A pointed floor: walls at 45 degrees from the outline down until they meet, or until the depth is reached.

Seen from below it is a roof over the outline: the height over a place is its distance from the outline,
no more than the depth. Its ridges are the medial axis, found as the Voronoi corners of samples along the
outline; together with these samples their Delaunay triangles keep both (the crust of Amenta, Bern and
Eppstein 1998, from memory), so that no step and no tooth is left where strokes meet their own middle.
"""

from __future__ import annotations

import manifold3d as m3
import numpy as np
import numpy.typing as npt
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import Delaunay

from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray, twice_areas
from kizami.outlines.flat_facets import without_flat_ones
from kizami.outlines.narrow import circle_middles
from kizami.outlines.shrinking import thinnest_half_mm
from kizami.prepared import prepared

__all__ = ["roof_mesh", "roof_volume_mm3"]

#: Outlines are sampled so finely against the depth and against half the thinnest stroke, but no finer, mm.
_DEPTH_SHARE, _STROKE_SHARE, _LEAST_MM = 0.3, 0.7, 0.02
#: A side of the outline that no triangle has is parted, so often at most.
_MOST_ROUNDS = 12
#: Ridge places nearer to each other than this share of the spacing are one.
_SAME_SHARE = 0.25
#: Simpson's rule over so many slices.
_SLICES = 24


def roof_volume_mm3(outlines: shapely.MultiPolygon, depth_mm: float) -> float:
    """The volume under the roof: what lies deeper than t is the outline moved inward by t.

    >>> round(roof_volume_mm3(shapely.MultiPolygon([shapely.box(0, 0, 2, 2)]), 1.0), 6)  # a pyramid
    1.333333
    """
    depths = np.linspace(0.0, depth_mm, _SLICES + 1)
    areas = [outlines.buffer(-t, quad_segs=32).area for t in depths.tolist()]
    weights = np.where(np.arange(_SLICES + 1) % 2 == 1, 4.0, 2.0)
    weights[[0, -1]] = 1.0
    return float(weights @ np.array(areas) * depth_mm / _SLICES / 3.0)


def roof_mesh(
    outlines: shapely.MultiPolygon, depth_mm: float, *, above_mm: float, longest_mm: float
) -> tuple[FloatArray, IntArray] | None:
    """The closed solid from a level above the face down to the roof, which points into the body.

    Parameters
    ----------
    above_mm : height of its lid over the face
    longest_mm : sides are no longer, so that chords keep the tolerance once it is bent

    Returns
    -------
    Corners (n, 3) in (u, v, h) and faces (m, 3), anticlockwise from outside; None where outlines touch
    """
    # So fine that the ridge of the thinnest stroke is found.
    thinnest = thinnest_half_mm(outlines, enough_mm=depth_mm)
    spacing = max(min(_DEPTH_SHARE * depth_mm, _STROKE_SHARE * thinnest, longest_mm), _LEAST_MM)
    parts = [_roof_of(body, depth_mm, spacing, above_mm) for body in outlines.geoms]
    corners, faces, count = [], [], 0
    for part in parts:
        if part is None:
            return None
        corners.append(part[0])
        faces.append(part[1] + count)
        count += len(part[0])
    return np.concatenate(corners), np.concatenate(faces)


def _roof_of(
    body: shapely.Polygon, depth_mm: float, spacing: float, above_mm: float
) -> tuple[FloatArray, IntArray] | None:
    rings = _rings(shapely.segmentize(body, spacing))
    floor = _floor(body, depth_mm, spacing)
    edges = [ring for part in floor.geoms for ring in _rings(shapely.segmentize(part, spacing))]
    inner = np.concatenate([np.empty((0, 2)), *edges])
    # Kept while sides are parted: it stays away from the outline, so that parting comes to an end.
    ridge = _ridge(body, np.concatenate(rings), floor, spacing)
    for _ in range(_MOST_ROUNDS):
        points = np.concatenate(rings)
        count = len(points)
        every = np.concatenate((points, ridge, inner))
        sides = _sides(rings)
        delaunay = Delaunay(every)
        missing = ~np.isin(_marks(sides, len(every)), _marks(_around(delaunay.simplices), len(every)))
        if not missing.any():
            break
        places = np.split(missing, np.cumsum([len(ring) for ring in rings])[:-1])
        rings = [_parted(ring, m) for ring, m in zip(rings, places, strict=True)]
    else:
        return None
    triangles = _within(every, delaunay, sides)
    heights = np.zeros(len(every))
    heights[count:] = -np.minimum(shapely.distance(body.boundary, shapely.points(every[count:])), depth_mm)
    heights[count + len(ridge) :] = -depth_mm
    return _closed(rings, every, heights, triangles, above_mm)


def _rings(body: shapely.Polygon) -> list[FloatArray]:
    whole = shapely.orient_polygons(body)
    return [np.asarray(ring.coords)[:-1] for ring in (whole.exterior, *whole.interiors)]


def _floor(body: shapely.Polygon, depth_mm: float, spacing: float) -> shapely.MultiPolygon:
    """The flat floor, where strokes are so wide that there is one."""
    flat = body.buffer(-depth_mm, quad_segs=8)
    # Where a stroke is hardly wider than twice the depth the ridge says enough.
    parts = [p for p in shapely.get_parts(flat) if isinstance(p, shapely.Polygon) and p.area > spacing**2]
    return shapely.MultiPolygon([shapely.simplify(part, spacing * 0.02) for part in parts])


def _ridge(
    body: shapely.Polygon, samples: FloatArray, floor: shapely.MultiPolygon, spacing: float
) -> FloatArray:
    """Corners of the Voronoi diagram of the samples within the body but not on its floor."""
    middles = circle_middles(samples[Delaunay(samples).simplices])
    middles = middles[np.isfinite(middles).all(axis=1)]
    middles = middles[np.asarray(shapely.contains_xy(prepared(body), middles), dtype=bool)]
    away = np.asarray(shapely.distance(body.boundary, shapely.points(middles)), dtype=np.float64)
    # Beside the outline itself there is no ridge, and above the flat floor none is wanted.
    middles = middles[(away > 0.3 * spacing) & ~shapely.intersects_xy(prepared(floor), middles)]
    cells = np.round(middles / (_SAME_SHARE * spacing)).astype(np.int64)
    first = np.unique(cells, axis=0, return_index=True)[1]
    return np.array(middles[np.sort(first)], dtype=np.float64)


def _sides(rings: list[FloatArray]) -> IntArray:
    """The sides of rings as pairs of corners, counted through, (n, 2)."""
    found, start = [], 0
    for ring in rings:
        here = start + np.arange(len(ring))
        found.append(np.column_stack((here, np.roll(here, -1))))
        start += len(ring)
    return np.concatenate(found)


def _around(triangles: npt.NDArray[np.integer]) -> IntArray:
    """The sides of triangles (m, 3), each opposite to the corner of its place, (3 m, 2)."""
    corners = triangles.astype(np.int64)
    return np.stack((np.roll(corners, -1, axis=1), np.roll(corners, 1, axis=1)), axis=2).reshape(-1, 2)


def _marks(sides: IntArray, size: int) -> IntArray:
    """One number for each side, whichever way it runs."""
    marks: IntArray = sides.min(axis=1) * np.int64(size) + sides.max(axis=1)
    return marks


def _within(points: FloatArray, delaunay: Delaunay, sides: IntArray) -> IntArray:
    """Triangles within outlines, anticlockwise: those to the left of a side, and all that hang together
    with them without a side between."""
    triangles = _anticlockwise(points, delaunay.simplices.astype(np.int64))
    flat = np.flatnonzero(np.abs(twice_areas(points, triangles)) < _FLAT_MM2)
    triangles, _ = without_flat_ones(points, triangles, flat)
    size, count = len(points), len(triangles)
    around = _around(triangles)
    forward = around[:, 0] * np.int64(size) + around[:, 1]
    runs = sides[:, 0] * np.int64(size) + sides[:, 1]
    marks = _marks(around, size)
    owner = np.repeat(np.arange(count), 3)
    # Neighbours share a mark; sorted they stand side by side.
    order = np.argsort(marks, kind="stable")
    shared = np.flatnonzero(marks[order][1:] == marks[order][:-1])
    one, two = owner[order[shared]], owner[order[shared + 1]]
    is_open = ~np.isin(marks[order[shared]], _marks(sides, size))
    links = coo_array((np.ones(int(is_open.sum())), (one[is_open], two[is_open])), shape=(count, count))
    label = connected_components(links, directed=False)[1]
    inside = np.unique(label[owner[np.isin(forward, runs)]])
    kept: IntArray = triangles[np.isin(label, inside)]
    return kept


#: Twice the area of a triangle whose corners lie in a row but for rounding, mm2.
_FLAT_MM2 = 1e-11


def _anticlockwise(points: FloatArray, triangles: IntArray) -> IntArray:
    turned: IntArray = np.where((twice_areas(points, triangles) < 0)[:, None], triangles[:, ::-1], triangles)
    return turned


def _parted(ring: FloatArray, where: npt.NDArray[np.bool_]) -> FloatArray:
    """A ring with the middles of some of its sides as further corners."""
    middles = (ring + np.roll(ring, -1, axis=0)) / 2.0
    places = np.flatnonzero(where) + 1
    return np.array(np.insert(ring, places, middles[where], axis=0), dtype=np.float64)


def _closed(
    rings: list[FloatArray], points: FloatArray, heights: FloatArray, triangles: IntArray, above_mm: float
) -> tuple[FloatArray, IntArray] | None:
    """The roof with upright walls up to a lid."""
    edge = np.concatenate(rings)
    count, size = len(edge), len(points)
    sides = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    marks = np.sort(sides[:, 0] * size + sides[:, 1])
    border = sides[~np.isin(sides[:, 0] * size + sides[:, 1], sides[:, 1] * size + sides[:, 0])]
    if len(border) != count or len(np.unique(marks)) != len(marks):
        return None
    lid = np.asarray(m3.triangulate(rings), dtype=np.int64) + size
    a, b = border.T
    # Seen from outside the roof looks down, the lid up.
    walls = np.concatenate((np.column_stack((a, b, b + size)), np.column_stack((a, b + size, a + size))))
    faces = np.concatenate((triangles[:, ::-1], walls, lid))
    corners = np.vstack(
        (np.column_stack((points, heights)), np.column_stack((edge, np.full(count, above_mm))))
    )
    used, numbers = np.unique(faces, return_inverse=True)
    return corners[used], numbers.reshape(-1, 3)

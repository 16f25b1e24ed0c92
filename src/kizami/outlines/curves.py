"""Glyph outlines: overlaps resolved on the curves, then flattened within a chord tolerance."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
import numpy.typing as npt
import pathops
import shapely

__all__ = ["FloatArray", "bodies_of", "clean_path", "flatten", "polygons_from_contours", "snapped"]

FloatArray = npt.NDArray[np.float64]
_Point = tuple[float, float]


#: A grid so fine that nothing that is measured knows of it, and so coarse that sums and differences
#: of lengths on it below 4 m are exact in double precision (12 bits before and 40 behind the point).
_GRID_MM = 2.0**-40


def snapped(mm: FloatArray) -> FloatArray:
    """Lengths on the grid: a shape that is moved about on it keeps its form to the last bit."""
    on_grid: FloatArray = np.round(np.asarray(mm) / _GRID_MM) * _GRID_MM
    return on_grid


def clean_path(path: pathops.Path) -> pathops.Path:
    """The union of a glyph's contours under the non-zero rule, curves kept.

    Overlapping contours (common in composites) are resolved here once, so that nothing later
    meets a self-crossing.
    """
    united = pathops.Path(path)
    united.convertConicsToQuads(0.05)
    united.simplify(fix_winding=True, keep_starting_points=False)
    return united


def flatten(path: pathops.Path, *, sagitta: float) -> list[FloatArray]:
    """Replace every curve by chords that leave it by at most `sagitta`.

    Parameters
    ----------
    path : closed contours of lines, quadratic and cubic Béziers
    sagitta : largest distance between curve and chord, in the path's own unit

    Returns
    -------
    list of (n, 2) float arrays, one a contour, first point not repeated

    Notes
    -----
    A curve whose second differences are bounded by d leaves its n chords by at most
    d / (8 n^2) x 2 (quadratic: d = |p0 - 2 p1 + p2|, giving d / (4 n^2); cubic: sqrt(3)/18 x 27/4
    bounds folded into d_max x 6 / (8 n^2)): the standard second-derivative bound on linear
    interpolation, (h^2 / 8) max|f''|.
    """
    contours: list[FloatArray] = []
    points: list[_Point] = []
    # Verb by verb, as the segments that pens see leave out points that lie half-way.
    for verb, args in path:
        if verb == pathops.PathVerb.MOVE:
            _keep(points, contours)
            points = [args[0]]
        elif verb == pathops.PathVerb.LINE:
            points.append(args[0])
        elif verb == pathops.PathVerb.QUAD:
            points.extend(_quadratic(points[-1], args[0], args[1], sagitta))
        elif verb == pathops.PathVerb.CUBIC:
            points.extend(_cubic(points[-1], args[0], args[1], args[2], sagitta))
    _keep(points, contours)
    return contours


def _keep(points: list[_Point], contours: list[FloatArray]) -> None:
    """Add a finished contour, unless it bounds nothing."""
    array = np.array(points, dtype=np.float64)
    if len(array) > 1 and np.allclose(array[0], array[-1], atol=1e-9):
        array = array[:-1]
    if len(array) >= 3:
        contours.append(array)


def _quadratic(p0: _Point, p1: _Point, p2: _Point, sagitta: float) -> list[_Point]:
    bend = math.hypot(p0[0] - 2 * p1[0] + p2[0], p0[1] - 2 * p1[1] + p2[1])
    pieces = max(1, math.ceil(math.sqrt(bend / (4 * sagitta))))
    out = []
    for i in range(1, pieces):
        t = i / pieces
        a, b, c = (1 - t) ** 2, 2 * t * (1 - t), t * t
        out.append((a * p0[0] + b * p1[0] + c * p2[0], a * p0[1] + b * p1[1] + c * p2[1]))
    out.append(p2)
    return out


def _cubic(p0: _Point, p1: _Point, p2: _Point, p3: _Point, sagitta: float) -> list[_Point]:
    bend = max(
        math.hypot(p0[0] - 2 * p1[0] + p2[0], p0[1] - 2 * p1[1] + p2[1]),
        math.hypot(p1[0] - 2 * p2[0] + p3[0], p1[1] - 2 * p2[1] + p3[1]),
    )
    pieces = max(1, math.ceil(math.sqrt(6 * bend / (8 * sagitta))))
    out = []
    for i in range(1, pieces):
        t = i / pieces
        a, b, c, d = (1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3
        out.append(
            (a * p0[0] + b * p1[0] + c * p2[0] + d * p3[0], a * p0[1] + b * p1[1] + c * p2[1] + d * p3[1])
        )
    out.append(p3)
    return out


def polygons_from_contours(contours: Iterable[FloatArray]) -> shapely.MultiPolygon:
    """Sort closed contours that do not cross into bodies with their holes.

    Which contour is a hole follows from how deep it lies inside the others, not from its
    winding, so that both outline conventions come out alike.

    >>> polygons_from_contours([]).is_empty
    True
    """
    rings = [shapely.Polygon(c) for c in contours if len(c) >= 3]
    rings = [r for r in rings if r.area > 0]
    if not rings:
        return shapely.MultiPolygon()
    if len(rings) == 1:
        return shapely.MultiPolygon([shapely.orient_polygons(rings[0])])
    rings.sort(key=lambda r: r.area, reverse=True)
    probes = [r.representative_point() for r in rings]
    depth = [0] * len(rings)
    parent: list[int | None] = [None] * len(rings)
    for i in range(1, len(rings)):
        for j in range(i - 1, -1, -1):
            # The nearest enclosing ring comes first, as rings are sorted by area.
            if rings[j].covers(probes[i]) and rings[j].covers(rings[i]):
                parent[i], depth[i] = j, depth[j] + 1
                break
    holes: dict[int, list[FloatArray]] = {i: [] for i in range(len(rings)) if depth[i] % 2 == 0}
    for i, ring in enumerate(rings):
        if depth[i] % 2 == 1:
            owner = parent[i]
            assert owner is not None
            holes[owner].append(np.asarray(ring.exterior.coords))
    bodies = [shapely.orient_polygons(shapely.Polygon(rings[i].exterior.coords, holes[i])) for i in holes]
    return shapely.MultiPolygon(bodies)


def bodies_of(*shapes: shapely.Geometry) -> shapely.MultiPolygon:
    """Shapes united, as bodies with holes: stray lines and points that set operations leave are dropped.

    >>> bodies_of(shapely.box(0, 0, 1, 1), shapely.box(1, 0, 2, 1)).area
    2.0
    """
    united = shapes[0] if len(shapes) == 1 else shapely.union_all(shapes)
    parts = [p for p in shapely.get_parts(united) if isinstance(p, shapely.Polygon) and p.area > 0]
    return shapely.MultiPolygon([shapely.orient_polygons(part) for part in parts])

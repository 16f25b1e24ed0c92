"""Flat relief: outlines that shrink from level to level, as one closed solid in unrolled mm.

The ring between two levels is triangulated on the corners of both (constrained Delaunay), so slanted
walls, softened edges and pointed floors come out without steps and with no more triangles than their
corners ask for.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d as m3
import numpy as np
import numpy.typing as npt
import shapely

from kizami.outlines.curves import FloatArray, bodies_of

__all__ = ["Level", "prism", "prism_mesh", "relief", "shrunk", "thinnest_half_mm"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Level:
    """The outline moved inward by `inward_mm` stands at `height_mm` along the normal."""

    inward_mm: float
    height_mm: float


#: Corners of a shrunk outline nearer than this to a line between their neighbours are left out.
_SIMPLE_MM = 0.002


def shrunk(
    outlines: shapely.MultiPolygon, inward_mm: float, *, simple_mm: float = _SIMPLE_MM
) -> shapely.MultiPolygon:
    """Outlines moved inward; bodies that vanish are gone.

    Parameters
    ----------
    simple_mm : needless corners are left out within this

    >>> shrunk(shapely.MultiPolygon([shapely.box(0, 0, 4, 2)]), 0.5).area
    3.0
    """
    if inward_mm <= 0:
        return outlines
    inner = outlines.buffer(-inward_mm, join_style="mitre", mitre_limit=4.0)
    return bodies_of(shapely.simplify(inner, simple_mm)) if not inner.is_empty else shapely.MultiPolygon()


def thinnest_half_mm(outlines: shapely.MultiPolygon, *, step_mm: float = 0.02, most_mm: float = 2.0) -> float:
    """How far all bodies can be moved inward before one of them falls apart or vanishes."""
    count = len(outlines.geoms)
    low, high = 0.0, most_mm
    while high - low > step_mm:
        middle = (low + high) / 2.0
        inner = outlines.buffer(-middle, quad_segs=2)
        if not inner.is_empty and len(shapely.get_parts(inner)) == count:
            low = middle
        else:
            high = middle
    return low


def prism(outlines: shapely.MultiPolygon, low_mm: float, high_mm: float) -> m3.Manifold:
    """The upright solid over outlines, see `prism_mesh`.

    >>> frame = shapely.MultiPolygon([shapely.box(0, 0, 3, 3).difference(shapely.box(1, 1, 2, 2))])
    >>> solid = prism(bodies_of(frame), -0.5, 0.5)
    >>> round(solid.volume(), 9), solid.num_tri(), solid.genus()
    (8.0, 32, 1)
    """
    corners, faces = prism_mesh(outlines, low_mm, high_mm)
    return m3.Manifold(m3.Mesh64(corners, faces))


def prism_mesh(
    outlines: shapely.MultiPolygon, low_mm: float, high_mm: float
) -> tuple[FloatArray, npt.NDArray[np.uint64]]:
    """Corners (n, 3) and faces (m, 3) of the upright solid over outlines.

    Its level faces are triangulated without slivers (constrained Delaunay). Where outlines touch in a
    point the two share a corner, and the mesh is no manifold.

    Parameters
    ----------
    outlines : bodies anticlockwise with holes clockwise, unrolled mm
    """
    closed, owner = shapely.get_coordinates(shapely.get_rings(shapely.get_parts(outlines)), return_index=True)
    # Rings come closed: their last point is their first one again.
    is_last = np.append(owner[1:] != owner[:-1], True)
    points = closed[~is_last]
    count = len(points)
    here, after = np.arange(count), np.arange(count) + 1
    sizes = np.bincount(owner) - 1
    ends = np.cumsum(sizes)
    after[ends - 1] = ends - sizes
    walls = np.concatenate(
        (np.column_stack((here, after, after + count)), np.column_stack((here, after + count, here + count)))
    )
    marks = _as_complex(points)
    order = np.argsort(marks)
    top = order[np.searchsorted(marks[order], _as_complex(_triangles(outlines)))]
    faces = np.concatenate((top[:, ::-1], top + count, walls)).astype(np.uint64)
    heights = np.repeat((low_mm, high_mm), count)
    return np.column_stack((np.vstack((points, points)), heights)), faces


def relief(outlines: shapely.MultiPolygon, levels: Sequence[Level]) -> m3.Manifold:
    """The solid between the first level and the last.

    Parameters
    ----------
    outlines : bodies with holes, unrolled mm
    levels : inward offsets that never decrease; heights all upward or all downward

    Returns
    -------
    Manifold in (u, v, h), each body of the outlines a body of it
    """
    down = levels[-1].height_mm < levels[0].height_mm
    sign = -1.0 if down else 1.0
    mesh = _Mesh()
    outer = outlines
    steps = [b.inward_mm - a.inward_mm for a, b in itertools.pairwise(levels) if b.inward_mm > a.inward_mm]
    # Far below the finest step, or a corner that is left out would lie outside the outline before.
    simple_mm = min(_SIMPLE_MM, min(steps, default=1.0) / 8.0)
    mesh.face(outer, sign * levels[0].height_mm, up=False)
    for before, after in itertools.pairwise(levels):
        moved = after.inward_mm - before.inward_mm
        inner = outer if moved <= 1e-9 else shrunk(outlines, after.inward_mm, simple_mm=simple_mm)
        low, high = sign * before.height_mm, sign * after.height_mm
        if inner is outer:
            mesh.walls(outer, low, high)
        else:
            mesh.rings(outer, inner, low, high)
        outer = inner
        if outer.is_empty:
            break
    if not outer.is_empty:
        mesh.face(outer, sign * levels[-1].height_mm, up=True)
    solid = mesh.solid()
    return solid.mirror((0.0, 0.0, 1.0)) if down else solid


class _Mesh:
    """Triangles with shared corners, gathered face by face."""

    def __init__(self) -> None:
        self._points: list[FloatArray] = []

    def _add(self, triangles: FloatArray, *, up: bool) -> None:
        self._points.append(triangles if up else triangles[:, ::-1])

    def face(self, shape: shapely.MultiPolygon, height: float, *, up: bool) -> None:
        """A level face."""
        flat = _triangles(shape)
        self._add(np.concatenate((flat, np.full((*flat.shape[:2], 1), height)), axis=2), up=up)

    def walls(self, shape: shapely.MultiPolygon, low: float, high: float) -> None:
        """Upright walls."""
        for body in shape.geoms:
            for ring in (body.exterior, *body.interiors):
                xy = np.asarray(ring.coords)
                a, b = xy[:-1], xy[1:]
                a0, b0 = _at(a, low), _at(b, low)
                a1, b1 = _at(a, high), _at(b, high)
                self._add(np.stack((a0, b0, b1), axis=1), up=True)
                self._add(np.stack((a0, b1, a1), axis=1), up=True)

    def rings(
        self, outer: shapely.MultiPolygon, inner: shapely.MultiPolygon, low: float, high: float
    ) -> None:
        """Slanted faces from an outline at one height to the smaller one inside it at another.

        Where the inner one has vanished the slope closes over the middle line of what was left.
        """
        region = outer.difference(inner) if not inner.is_empty else outer
        flat = _triangles(bodies_of(region))
        heights = np.where(np.isin(_as_complex(flat), _as_complex(shapely.get_coordinates(inner))), high, low)
        self._add(np.concatenate((flat, heights[..., None]), axis=2), up=True)

    def solid(self) -> m3.Manifold:
        """Everything as one manifold."""
        triangles = np.concatenate(self._points)
        points, index = np.unique(np.round(triangles.reshape(-1, 3), 9), axis=0, return_inverse=True)
        faces = index.reshape(-1, 3)
        # A face whose corners all lie at one height between two levels closes a vanished body.
        distinct = (faces[:, 0] != faces[:, 1]) & (faces[:, 1] != faces[:, 2]) & (faces[:, 2] != faces[:, 0])
        return m3.Manifold(m3.Mesh64(points, faces[distinct].astype(np.uint64)))


def _at(xy: FloatArray, height: float) -> FloatArray:
    return np.column_stack((xy, np.full(len(xy), height)))


def _as_complex(xy: FloatArray) -> np.ndarray:
    """Points (…, 2) as single numbers, which can be looked up."""
    return np.ascontiguousarray(xy).view(np.complex128)[..., 0]


def _triangles(shape: shapely.MultiPolygon) -> FloatArray:
    """Triangles (n, 3, 2) that fill a shape on its own corners, anticlockwise."""
    if shape.is_empty:
        return np.empty((0, 3, 2))
    triangles = shapely.constrained_delaunay_triangles(shape)
    corners: FloatArray = shapely.get_coordinates(triangles).reshape(-1, 4, 2)[:, :3]
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    area = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])
    # All run the same way round. Turned all together, and none left out, so that one without area,
    # between three corners on a line, keeps its place among its neighbours.
    return corners if area.sum() >= 0 else corners[:, ::-1]

"""Lettering set into the facets of a body: the face is opened where letters stand, and nothing else changes.

Where lettering lies wholly on the face of its area, with nothing else of the body near it, no solid need
be cut by another: the face is divided along the outlines, letters get their walls, slopes and floor, and
all the rest of the body stays as it is, facet for facet. What a surface asks to be divided the body has
divided already, along the lines between its flat cells; the letters are cut along the same lines.

This is the short road; where it does not go, `kizami.solids.by_booleans` does.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d as m3
import numpy as np
import numpy.typing as npt
import shapely

from kizami.dividing.chains import Chain, Cut, Stood, cut_along, stood
from kizami.dividing.pencils import Pencil, pencils_of
from kizami.dividing.segments import Segments
from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray, directed_edges
from kizami.prepared import prepared
from kizami.remembering import remembered
from kizami.solids.body_mesh import BodyMesh
from kizami.solids.facets import Facets
from kizami.surfaces.protocol import Surface

__all__ = ["into_facets"]

#: Everything else of the body must stay so far from letters, mm; more than any chord is off.
_AWAY_MM = 0.1
#: Among so many cells those that letters really touch are not looked for: the same few come again and
#: again on a list, and what is known of them is kept.
_FEW_CELLS = 150


def into_facets(facets: Facets, chains: Sequence[Chain], surface: Surface) -> BodyMesh | None:
    """A body with lettering set into a face, or None where that can't be done.

    Parameters
    ----------
    facets : the body as the area sees it
    chains : of the lettering, the outermost standing on the face

    Returns
    -------
    A closed body, or None: the lettering does not lie within the face, other parts of the body are near
    it, or its outlines could not be divided
    """
    outlines = chains[0].outlines
    is_touched = _touched(facets, outlines)
    if not is_touched.any() or _is_in_the_way(facets, chains):
        return None
    face = _face(facets, is_touched.tobytes())
    if not shapely.contains_properly(prepared(face.region), outlines):
        return None
    cut = cut_along(chains, face.lines, region=face.region)
    letters = None if cut is None else stood(cut, chains)
    if cut is None or letters is None:
        return None
    return _put_together(facets, face, cut, letters, surface)


def _touched(facets: Facets, outlines: shapely.MultiPolygon) -> npt.NDArray[np.bool_]:
    """Cells (k,) that letters may lie on."""
    low_u, low_v, high_u, high_v = outlines.bounds
    bounds = facets.cell_bounds
    touched: npt.NDArray[np.bool_] = (bounds[:, 0] <= high_u) & (bounds[:, 1] <= high_v)
    touched &= (bounds[:, 2] >= low_u) & (bounds[:, 3] >= low_v)
    if np.count_nonzero(touched) > _FEW_CELLS:
        touched[touched] = shapely.intersects(prepared(outlines), shapely.box(*bounds[touched].T))
    return touched


def _is_in_the_way(facets: Facets, chains: Sequence[Chain]) -> bool:
    """Some other part of the body comes near the letters' walls, floor or top."""
    outlines, heights = chains[0].outlines, [chain.inside_mm for chain in chains]
    low_u, low_v, high_u, high_v = outlines.bounds
    low = np.array([low_u, low_v, min(0.0, *heights)]) - _AWAY_MM
    high = np.array([high_u, high_v, max(0.0, *heights)]) + _AWAY_MM
    beside = facets.beside
    near = beside[np.all(beside[:, [0, 1, 4]] <= high, axis=1) & np.all(beside[:, [2, 3, 5]] >= low, axis=1)]
    return bool(len(near)) and bool(shapely.dwithin(outlines, shapely.box(*near[:, :4].T), _AWAY_MM).any())


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Face:
    """Cells of the surface, unrolled.

    Attributes
    ----------
    triangles : (t, 3) the triangles of the body that they are
    rest, rest_runs : (m - t, 3), (m - t,) all other triangles, and of which solid each came
    run : of which solid they came
    border : (e, 2) their sides that are those of other triangles too
    own, own_marks : (k,) their corners, and the place of each as one number, in order of that
    region : what they fill together
    lines : between any two of them; none where they are all one cell
    found : finds the triangle at a place, by its number among those taken
    """

    triangles: IntArray
    rest: IntArray
    rest_runs: npt.NDArray[np.uint32]
    run: int
    own: IntArray
    own_marks: npt.NDArray[np.complex128]
    border: IntArray
    region: shapely.Geometry
    lines: list[Pencil]
    found: shapely.STRtree


@remembered
def _face(facets: Facets, touched: bytes) -> _Face:
    taken = np.append(np.frombuffer(touched, dtype=bool), False)[facets.cells]
    mesh = facets.mesh
    triangles, cells = mesh.triangles.compress(taken, axis=0), facets.cells[taken]
    edges, other, owner = directed_edges(triangles)
    is_around = other < 0
    is_between = ~is_around & (cells[owner] != cells[owner[other]]) & (edges[:, 0] < edges[:, 1])
    around = shapely.linestrings(facets.uv.take(edges.compress(is_around, axis=0), axis=0))
    parts = shapely.get_parts(shapely.polygonize(around))
    # A hole of the region is a part too, but no triangle lies in it.
    corners = facets.uv.take(triangles, axis=0)
    middles = corners.mean(axis=1)
    region = shapely.multipolygons(parts[[bool(shapely.contains_xy(p, middles).any()) for p in parts]])
    starts, ends = (facets.uv.take(edges[is_between, k], axis=0) for k in (0, 1))
    lines = pencils_of(Segments(starts=starts, ends=ends))
    found = shapely.STRtree(shapely.polygons(corners))
    own = np.unique(triangles)
    marks = _marks(facets.uv.take(own, axis=0))
    order = np.argsort(marks)
    return _Face(
        triangles=triangles,
        rest=mesh.triangles.compress(~taken, axis=0),
        rest_runs=mesh.runs[~taken],
        run=int(mesh.runs[taken][0]),
        own=own[order],
        own_marks=marks[order],
        border=edges.compress(is_around, axis=0),
        region=region,
        lines=lines,
        found=found,
    )


def _marks(places: FloatArray) -> npt.NDArray[np.complex128]:
    """Places (n, 2) as one number each."""
    marks: npt.NDArray[np.complex128] = np.ascontiguousarray(places).view(np.complex128)[:, 0]
    return marks


def _put_together(facets: Facets, face: _Face, cut: Cut, letters: Stood, surface: Surface) -> BodyMesh | None:
    """The body without its old face and with the new one; None when it does not close."""
    mesh, heights = facets.mesh, letters.heights
    if len(face.lines):
        heights = np.where(letters.is_foot, _foot_heights(facets, face, cut, letters, surface), heights)
    numbers = np.where(letters.is_ground, _own_corners(face, letters.corners), -1)
    numbers[numbers < 0] = len(mesh.points) + np.flatnonzero(numbers < 0)
    new_triangles = numbers.take(letters.triangles)
    if not _fills(new_triangles, face.border):
        return None
    triangles = np.concatenate((face.rest, new_triangles))
    points = np.vstack((mesh.points, surface.place(letters.corners, heights)))
    is_ground = np.zeros(len(new_triangles), dtype=bool)
    is_ground[: len(cut.rings)] = cut.rings == 0
    runs = np.where(is_ground, face.run, m3.Manifold.reserve_ids(1)).astype(np.uint32)
    runs = np.concatenate((face.rest_runs, runs))
    used = np.zeros(len(points), dtype=bool)
    used[triangles.ravel()] = True
    return BodyMesh(
        points=points.compress(used, axis=0), triangles=(np.cumsum(used) - 1).take(triangles), runs=runs
    )


def _foot_heights(facets: Facets, face: _Face, cut: Cut, letters: Stood, surface: Surface) -> FloatArray:
    """How far the body's own facets lie off the surface at each corner (n,): a chord's height.

    So the ground stays in the planes in which it was.
    """
    ground = np.flatnonzero(cut.rings == 0)
    # Any one triangle of the ground at each corner: where several meet, so do their planes.
    at = np.full(len(letters.corners), -1)
    at[letters.triangles.take(ground, axis=0)] = ground[:, None]
    corner = np.flatnonzero(letters.is_foot & (at >= 0))
    parts, first, part = np.unique(cut.part_of[at[corner]], return_index=True, return_inverse=True)
    middles = cut.corners.take(cut.triangles[at[corner[first]]], axis=0).mean(axis=1)
    which, hit = face.found.query(shapely.points(middles), predicate="intersects")
    lies_on = np.zeros(len(parts), dtype=np.int64)
    lies_on[which] = hit
    old = face.triangles.take(lies_on[part], axis=0)
    a, b, c = facets.mesh.points.take(old.T, axis=0)
    normal = np.cross(b - a, c - a)
    feet = letters.corners.take(corner, axis=0)
    on, above = (surface.place(feet, np.full(len(corner), h)) for h in (0.0, 1.0))
    heights = np.zeros(len(letters.corners))
    heights[corner] = np.einsum("nd,nd->n", a - on, normal) / np.einsum("nd,nd->n", above - on, normal)
    return heights


def _own_corners(face: _Face, corners: FloatArray) -> IntArray:
    """Which corners (n,) of the body these are; -1 where they are none of the face."""
    marks = _marks(corners)
    place = np.minimum(np.searchsorted(face.own_marks, marks), len(face.own) - 1)
    return np.where(face.own_marks[place] == marks, face.own[place], -1)


def _fills(new: IntArray, border: IntArray) -> bool:
    """Whether triangles fill the gap inside a border: it is their only border, and no side is there twice.

    Parameters
    ----------
    border : (e, 2) sides of the triangles that were there before
    """
    tails = np.concatenate((new.T.ravel(), border[:, 1]))
    heads = np.concatenate((np.roll(new.T, -1, axis=0).ravel(), border[:, 0]))
    low, high = np.minimum(tails, heads), np.maximum(tails, heads)
    # Sorted, every side must come next to the same side the other way round.
    marks = np.sort(2 * (low * np.int64(high.max() + 1) + high) + (tails > heads))
    return len(marks) % 2 == 0 and bool(np.all((marks[::2] % 2 == 0) & (marks[1::2] == marks[::2] + 1)))

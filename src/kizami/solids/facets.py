"""A body's facets as an area sees them: unrolled, and gathered into flat cells."""

from __future__ import annotations

from dataclasses import dataclass
from functools import reduce

import manifold3d as m3
import numpy as np
import numpy.typing as npt
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray, directed_edges, twice_areas
from kizami.solids.body_mesh import BodyMesh
from kizami.surfaces.protocol import Surface

__all__ = ["Facets", "facets_seen"]

#: A corner lies on the surface when it is no further off, mm: turned corners are off by rounding only.
_ON_SURFACE_MM = 1e-6
#: Two facets are one flat cell when neither leaves the plane of the other by more, mm.
_FLAT_MM = 1e-7
#: Facets whose unrolled sides are so many times longer than they are lie across the cut at the back.
_ACROSS_CUT = 4.0
#: What lies no further off than this is the surface itself, whose chords are nearer, mm.
_BESIDE_MM = 0.05
#: Longest side of a facet beside or behind the surface, as a share of the body, and at least so many mm:
#: between its corners a flat facet bends in the surface's own terms.
_BESIDE_SHARE = 1.0 / 40.0
_BESIDE_STEP_MM = 1.5


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Facets:
    """Triangles of a body, and where those of them lie that are the surface of an area.

    Attributes
    ----------
    mesh : the body
    uv : its corners unrolled, (n, 2), mm
    cells : (m,) number of the flat cell of the surface that a triangle is part of, -1 elsewhere
    cell_bounds : (k, 4) u low, v low, u high, v high of each cell
    beside : (j, 6) the same of everything that is not the surface, and its lowest and highest h, mm
    """

    mesh: BodyMesh
    uv: FloatArray
    cells: IntArray
    cell_bounds: FloatArray
    beside: FloatArray


def facets_seen(body: m3.Manifold, surface: Surface, *, middle_u_mm: float) -> Facets | None:
    """Unroll a body's facets; None where the surface can't be undone or no facet lies on it.

    Parameters
    ----------
    middle_u_mm : a surface that closes on itself is cut open opposite to this
    """
    mesh = BodyMesh.of(body)
    found = surface.unplace(mesh.points)
    if found is None:
        return None
    uv, h = _cut_open(found[0], surface, middle_u_mm), found[1]
    is_surface = np.all(np.abs(h[mesh.triangles]) < _ON_SURFACE_MM, axis=1)
    is_surface &= (twice_areas(uv, mesh.triangles) > 1e-9) & ~_lies_across_cut(mesh, uv)
    if not is_surface.any():
        return None
    cells = np.full(len(mesh.triangles), -1)
    cells[is_surface] = _flat_cells(mesh.points, mesh.triangles[is_surface])
    return Facets(
        mesh=mesh,
        uv=uv,
        cells=cells,
        cell_bounds=_cell_bounds(uv[mesh.triangles[is_surface]], cells[is_surface]),
        beside=_beside(body, surface, middle_u_mm),
    )


def _cut_open(uv: FloatArray, surface: Surface, middle_u_mm: float) -> FloatArray:
    """Within half a period of the middle."""
    period = surface.period_mm
    if period is None:
        return uv
    low = middle_u_mm - period / 2.0
    return np.column_stack((low + np.remainder(uv[:, 0] - low, period), uv[:, 1]))


def _lies_across_cut(mesh: BodyMesh, uv: FloatArray) -> npt.NDArray[np.bool_]:
    across = np.zeros(len(mesh.triangles), dtype=bool)
    for side in range(3):
        here, ahead = mesh.triangles[:, side], mesh.triangles[:, side - 2]
        flat, true = uv[ahead] - uv[here], mesh.points[ahead] - mesh.points[here]
        across |= _lengths(flat) > _ACROSS_CUT * _lengths(true) + 1e-6
    return across


def _lengths(ways: FloatArray) -> FloatArray:
    lengths: FloatArray = np.sqrt(np.einsum("nd,nd->n", ways, ways))
    return lengths


def _flat_cells(points: FloatArray, triangles: IntArray) -> IntArray:
    """Number of the flat cell of each triangle: neighbours in one plane belong together."""
    a, b, c = points[triangles.T]
    normals = np.cross(b - a, c - a)
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    edges, other, owner = directed_edges(triangles)
    paired = np.flatnonzero(other >= 0)
    one, two = owner[paired], owner[other[paired]]
    # The corner opposite to the shared side is the one that may leave the plane.
    apex = triangles[two].sum(axis=1) - edges[paired].sum(axis=1)
    off = np.einsum("nd,nd->n", points[apex] - points[edges[paired, 0]], normals[one])
    flat = np.abs(off) < _FLAT_MM
    size = len(triangles)
    joined = coo_array((np.ones(int(flat.sum())), (one[flat], two[flat])), shape=(size, size))
    labels: IntArray = connected_components(joined, directed=False)[1].astype(np.int64)
    return labels


def _cell_bounds(corners: FloatArray, cells: IntArray) -> FloatArray:
    bounds = np.empty((int(cells.max()) + 1, 4))
    bounds[:, :2], bounds[:, 2:] = np.inf, -np.inf
    np.minimum.at(bounds[:, :2], cells, corners.min(axis=1))
    np.maximum.at(bounds[:, 2:], cells, corners.max(axis=1))
    return bounds


def _beside(body: m3.Manifold, surface: Surface, middle_u_mm: float) -> FloatArray:
    low, high = np.array(body.bounding_box()).reshape(2, 3)
    step = max(_BESIDE_STEP_MM, _BESIDE_SHARE * float(np.linalg.norm(high - low)))
    mesh = BodyMesh.of(body.refine_to_length(step))
    found = surface.unplace(mesh.points)
    assert found is not None
    uv, h = _cut_open(found[0], surface, middle_u_mm), found[1]
    is_split = _lies_across_cut(mesh, uv)
    split, whole = mesh.triangles[is_split], mesh.triangles[~is_split]
    # Across the cut a facet has its corners at both ends, and stands around each of them.
    around = split.reshape(-1, 1)
    boxes = [_boxes(uv[whole], h[whole], 0.0), _boxes(uv[around], np.repeat(h[split], 3, axis=0), step)]
    return np.concatenate(boxes)


def _boxes(uv: FloatArray, h: FloatArray, room_mm: float) -> FloatArray:
    """Boxes (j, 6) around corners (m, k, 2) and their heights; what lies on the surface is left out."""
    lowest, highest = _least(h), -_least(-h)
    off = (lowest < -_BESIDE_MM) | (highest > _BESIDE_MM)
    uv = uv[off]
    boxes = np.empty((len(uv), 6))
    boxes[:, :2], boxes[:, 2:4] = _least(uv) - room_mm, -_least(-uv) + room_mm
    boxes[:, 4], boxes[:, 5] = lowest[off], highest[off]
    return boxes


def _least(corners: FloatArray) -> FloatArray:
    """Over the few corners of each of many triangles, one by one: along so short an axis is slower."""
    least: FloatArray = reduce(np.minimum, (corners[:, place] for place in range(corners.shape[1])))
    return least

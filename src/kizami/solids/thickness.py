"""Thinnest walls, thinnest standing parts and narrowest slots of a finished piece, by rays through it.

From the middle of a facet a ray goes inward, through metal, or outward, through air, until it meets the
piece again. What it meets counts only when it faces back: near an edge two faces come as near as one likes
without there being a wall, a stroke or a slot.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from kizami.as_made.as_made import AsMade
from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray
from kizami.outlines.narrow import GAP_LEAST_PATH, GAP_RATIO, STROKE_LEAST_PATH, STROKE_RATIO
from kizami.solids.measured import Measured

__all__ = ["Thin", "Thinnest", "thinnest", "thinnest_through"]

#: Two faces are those of a wall when they lean to each other by less than this; a wedge is none.
_WALL_RAD = math.radians(35.0)
#: Sides of a stroke or a slot lean to each other by less than this; how long they go on is asked besides.
_LASTING_RAD = math.radians(25.0)
#: Rays start so far from their facet, so that it is not met itself, mm; and what is met nearer is the
#: same edge seen from its other side.
_START_MM = 1e-4
_LEAST_MM = 5e-4
#: A facet that is narrower lies in single precision as it may, and its normal tells nothing, mm.
_NARROW_MM = 4e-3
#: So many facets that are no sides of lettering are asked; of more every so many.
_MOST_RAYS = 1200


@dataclass(frozen=True, kw_only=True, slots=True)
class Thin:
    """A thinnest place.

    Attributes
    ----------
    width_mm : from face to face
    at_mm : the middle between them, in space
    """

    width_mm: float
    at_mm: tuple[float, float, float]


@dataclass(frozen=True, kw_only=True, slots=True)
class Thinnest:
    """Thinnest places of a piece; None where there is none.

    Attributes
    ----------
    wall : of the body: from face to face, or from the floor or foot of lettering to what is behind it
    edge : between the side of lettering and an edge of the body
    standing : between two sides of lettering, through metal
    slot : between two sides of lettering, through air
    """

    wall: Thin | None
    edge: Thin | None
    standing: Thin | None
    slot: Thin | None


#: What a facet is a part of.
_BODY, _LEVEL, _SIDE = 0, 1, 2
#: Facets of lettering that lean to the face by less than this are its floor or top, the others its sides.
_LEVEL_COSINE = math.cos(math.radians(50.0))


def thinnest(
    piece: Measured, is_lettering: npt.NDArray[np.bool_], areas: Sequence[AsMade], *, look_mm: float
) -> Thinnest:
    """Find the thinnest places.

    Parameters
    ----------
    is_lettering : (m,) the triangles that the lettering made
    areas : all that is lettered: tells what is a side of lettering and what its floor or top
    look_mm : strokes and slots that are wider are not looked at

    Notes
    -----
    A stroke runs out in a point and a notch closes at its root, and neither is thin there. So a width
    counts only where it lasts, as in `kizami.outlines.narrow`: sides that are no further apart must be so
    long together.
    """
    broad = piece.breadths_mm > _NARROW_MM
    own = np.flatnonzero(is_lettering & broad)
    outward = _outward(piece, own, areas)
    lean = np.abs(np.einsum("nd,nd->n", piece.normals[own], outward))
    role = np.full(len(is_lettering), _BODY)
    role[own] = np.where(lean > _LEVEL_COSINE, _LEVEL, _SIDE)
    # Floors, tops and the rest of the body, right through.
    level = _some(np.flatnonzero((role != _SIDE) & broad))
    through = _across(piece, level, -1.0)
    met = role[through.met]
    # From the sides only what is as near as any limit. All of them, as it is counted how long they are: each
    # is two triangles.
    upright = np.flatnonzero(lean < _UPRIGHT)
    facets = own[upright]
    along = np.cross(piece.normals[facets], outward[upright])
    reach = np.einsum("nkd,nd->nk", piece.corners(facets), along)
    sides = _Sides(facets=facets, length_mm=np.ptp(reach, axis=1) / 2.0, role=role)
    inward = _across(piece, facets, -1.0, reach_mm=look_mm)
    air = _across(piece, facets, 1.0, reach_mm=look_mm)
    edges = [
        found
        for found in (
            through.thinnest((met == _SIDE) & (role[level] == _BODY), _LASTING_RAD),
            inward.thinnest(role[inward.met] == _BODY, _LASTING_RAD),
        )
        if found is not None
    ]
    # What lasts is told by the height of letters, or of a logo beside them.
    cap_mm = max((mark.scale_mm for made in areas for mark in made.layout.marks), default=0.0)
    # Between two cuts stands what between two strokes that stand is a gap, and the other way round.
    as_stroke = _Bar(ratio=STROKE_RATIO, least_mm=STROKE_LEAST_PATH * cap_mm)
    as_gap = _Bar(ratio=GAP_RATIO, least_mm=GAP_LEAST_PATH * cap_mm)
    sunk = [made.treatment.sinks for made in areas]
    return Thinnest(
        wall=through.thinnest(met != _SIDE, _WALL_RAD),
        edge=min(edges, key=lambda thin: thin.width_mm, default=None),
        standing=_lasting(piece, sides, inward, as_gap if any(sunk) else as_stroke),
        slot=_lasting(piece, sides, air, as_gap if not all(sunk) else as_stroke),
    )


def thinnest_through(piece: Measured) -> Thin | None:
    """The thinnest place of a body of which nobody says what of it is lettering: the tip of a stroke counts.

    It tells a body from one that was thinned; what a process can hold is asked of `thinnest`.
    """
    blind = np.zeros(len(piece.triangles), dtype=np.bool_)
    return thinnest(piece, blind, (), look_mm=0.0).wall


#: Sides of lettering that are all but upright: their length is told by them.
_UPRIGHT = math.cos(math.radians(65.0))


def _lasting(piece: Measured, sides: _Sides, found: _Across, bar: _Bar) -> Thin | None:
    """The thinnest stroke or slot that lasts, from what rays from all sides have met."""
    thin = found.met_any & (sides.role[found.met] == _SIDE) & (found.facing > math.cos(_LASTING_RAD))
    thin &= found.width > _LEAST_MM
    places = np.flatnonzero(thin)
    if not len(places):
        return None
    width = found.width[places]
    at = found.start[places] + found.way[places] * width[:, None] / 2.0
    length = sides.length_mm[places]
    group = _hang_together(piece, sides.facets[places], found.met[places])
    best: Thin | None = None
    for number in range(int(group.max()) + 1):
        here = np.flatnonzero(group == number)
        order = here[np.argsort(width[here], kind="stable")]
        lasts = np.cumsum(length[order]) >= np.maximum(bar.ratio * width[order], bar.least_mm)
        first = order[int(np.argmax(lasts))]
        if lasts.any() and (best is None or width[first] < best.width_mm):
            x, y, z = at[first].tolist()
            best = Thin(width_mm=float(width[first]), at_mm=(x, y, z))
    return best


def _hang_together(piece: Measured, facets: IntArray, met: IntArray) -> IntArray:
    """Numbers of groups: facets that share a corner, and those that face each other, are of one group."""
    corners = piece.triangles[facets].astype(np.int64)
    count, most = len(facets), len(piece.vertices)
    owner = np.repeat(np.arange(count), 3)
    order = np.argsort(facets)
    place = np.minimum(np.searchsorted(facets[order], met), count - 1)
    faced = order[place]
    is_one = facets[faced] == met
    one = np.concatenate((owner, np.flatnonzero(is_one)))
    two = np.concatenate((count + corners.ravel(), faced[is_one]))
    links = coo_array((np.ones(len(one)), (one, two)), shape=(count + most, count + most))
    label = connected_components(links, directed=False)[1][:count]
    groups: IntArray = np.unique(label, return_inverse=True)[1].astype(np.int64)
    return groups


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Sides:
    """Upright sides of lettering.

    Attributes
    ----------
    facets : (k,) their numbers
    length_mm : (k,) of outline that each stands for
    role : (m,) of every facet of the piece
    """

    facets: IntArray
    length_mm: FloatArray
    role: IntArray


@dataclass(frozen=True, kw_only=True, slots=True)
class _Bar:
    """What lasts: at least so long, and so many widths."""

    ratio: float
    least_mm: float


def _outward(piece: Measured, facets: IntArray, areas: Sequence[AsMade]) -> FloatArray:
    """Outward normal of the face of the area that each facet is nearest to, (k, 3)."""
    if not areas or not len(facets):
        return np.zeros((len(facets), 3))
    if len(areas) == 1:
        found = areas[0].area.surface.unplace(piece.middles[facets])
        if found is not None:
            return _normals(areas[0], found[0])
    uv = [shapely.get_coordinates(made.outlines)[::_EVERY] for made in areas]
    feet = np.concatenate([made.place(at, np.zeros(len(at))) for made, at in zip(areas, uv, strict=True)])
    outward = np.concatenate([_normals(made, at) for made, at in zip(areas, uv, strict=True)])
    _, nearest = cKDTree(feet).query(piece.middles[facets])
    normals: FloatArray = outward[nearest]
    return normals


#: Normals change slowly: one corner of the outlines in so many tells enough.
_EVERY = 4


def _normals(made: AsMade, uv: FloatArray) -> FloatArray:
    surface = made.area.surface
    foot, head = (surface.place(uv, np.full(len(uv), h)) for h in (0.0, 1.0))
    return head - foot


def _some(numbers: IntArray) -> IntArray:
    return numbers[:: max(1, math.ceil(len(numbers) / _MOST_RAYS))]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Across:
    """What rays met.

    Attributes
    ----------
    start, way : (n, 3)
    width : (n,) mm
    met, met_any : (n,) which triangle, and whether any
    facing : (n,) cosine between the ray and the normal of what it met, above 0 where it faces back
    """

    start: FloatArray
    way: FloatArray
    width: FloatArray
    met: IntArray
    met_any: npt.NDArray[np.bool_]
    facing: FloatArray

    def thinnest(self, asked: npt.NDArray[np.bool_], lean_rad: float) -> Thin | None:
        """The thinnest of those that are asked for whose faces lean to each other by less than an angle."""
        counts = asked & self.met_any & (self.facing > math.cos(lean_rad)) & (self.width > _LEAST_MM)
        places = np.flatnonzero(counts)
        if not len(places):
            return None
        best = places[np.argmin(self.width[places])]
        x, y, z = self.start[best] + self.way[best] * self.width[best] / 2.0
        return Thin(width_mm=float(self.width[best]), at_mm=(float(x), float(y), float(z)))


def _across(piece: Measured, facets: IntArray, side: float, *, reach_mm: float = math.inf) -> _Across:
    """Rays from the middles of facets; side 1 is outward, -1 inward."""
    start, way = piece.middles[facets], side * piece.normals[facets]
    hits = piece.rays.first(start + way * _START_MM, way, reach=reach_mm)
    met_any = hits.triangle >= 0
    met = np.where(met_any, hits.triangle, 0)
    # Leaving metal a ray runs along the normal of what it meets, leaving air against it.
    facing = -side * np.einsum("nd,nd->n", way, piece.normals[met])
    return _Across(
        start=start, way=way, width=hits.distance + _START_MM, met=met, met_any=met_any, facing=facing
    )

"""Lettering as chains of outlines at heights, cut along lines into triangles that bend no further than asked.

Seen from above, an outline and those that it shrinks to from level to level lie one inside the other and
nothing overlaps. So all of a lettering is one division of the plane: along its chains, and along the lines
at which the surface must be divided. Heights are given to the corners afterwards.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from scipy.spatial import cKDTree

from kizami.dividing.parts import divide
from kizami.dividing.pencils import Pencil
from kizami.dividing.rows import following
from kizami.dividing.segments import Segments
from kizami.dividing.tolerances import TOLERANCES
from kizami.dividing.triangulating import triangulated
from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray, directed_edges, twice_areas
from kizami.outlines.shrinking import BLUNT, SIMPLE_MM, Level, shrunk

__all__ = ["Chain", "Cut", "Stood", "chains_of", "cut_along", "stood"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Chain:
    """An outline of the lettering: what lies outside meets it at one height, what lies inside at another.

    Attributes
    ----------
    outlines : bodies with holes, unrolled mm
    inward_mm : how far they are moved inward from those that were drawn
    outside_mm, inside_mm : the two heights; between them stands an upright wall
    """

    outlines: shapely.MultiPolygon
    inward_mm: float
    outside_mm: float
    inside_mm: float


def chains_of(outlines: shapely.MultiPolygon, levels: Sequence[Level]) -> list[Chain]:
    """The chains of a lettering, from outside inward; those that have vanished are left out.

    Parameters
    ----------
    levels : inward offsets that never decrease, the first of them 0

    >>> levels = [Level(inward_mm=i, height_mm=h) for i, h in ((0, 0), (0, 1), (1, 2), (3, 3))]
    >>> square = shapely.MultiPolygon([shapely.box(0, 0, 4, 4)])
    >>> [(chain.outlines.area, chain.outside_mm, chain.inside_mm) for chain in chains_of(square, levels)]
    [(16.0, 0, 1), (4.0, 2, 2)]
    """
    steps = [b.inward_mm - a.inward_mm for a, b in itertools.pairwise(levels) if b.inward_mm > a.inward_mm]
    # Far below the finest step, or a corner that is left out would lie outside the chain before.
    simple_mm = min([SIMPLE_MM, *(step / 8.0 for step in steps)])
    chains: list[Chain] = []
    for inward, group in itertools.groupby(levels, key=lambda level: level.inward_mm):
        heights = [level.height_mm for level in group]
        shape = shrunk(outlines, inward, simple_mm=simple_mm)
        if shape.is_empty:
            break
        chains.append(Chain(outlines=shape, inward_mm=inward, outside_mm=heights[0], inside_mm=heights[-1]))
    return chains


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Cut:
    """A part of the plane in triangles.

    Attributes
    ----------
    corners : (n, 2), unrolled mm
    triangles : (m, 3), anticlockwise
    rings : (m,) how many chains go round each: 0 on the ground, the number of all on the floor or top
    part_of : (m,) number of the part between lines and chains that each triangle lies in
    """

    corners: FloatArray
    triangles: IntArray
    rings: IntArray
    part_of: IntArray


def cut_along(
    chains: Sequence[Chain], lines: Sequence[Pencil], *, region: shapely.Geometry | None = None
) -> Cut | None:
    """Divide what chains go round, and the region around them if there is one, along chains and lines.

    Parameters
    ----------
    lines : unrolled mm, each ends outside of what is divided or on its edge
    region : what is divided; None for no more than what the chains go round

    Returns
    -------
    None where something was lost, as when chains touch each other
    """
    shapes = [chain.outlines for chain in chains]
    # Where nothing is cut, nothing is levelled by a cut either.
    creases = _creases(chains) if len(lines) else None
    divided = divide(shapes, lines, creases=creases, ground=region)
    if divided is None:
        return None
    triangles, part_of = triangulated(divided)
    depths, corners = divided.depths[part_of], divided.contours.nodes
    areas = twice_areas(corners, triangles) / 2.0
    whole = [*(shape.area for shape in shapes), 0.0]
    expected = np.append(0.0 if region is None else region.area - whole[0], -np.diff(whole))
    found = np.bincount(depths, weights=areas, minlength=len(whole))
    # Compared ring by ring: a part that went over to its neighbour would not show in the sum. Where chains
    # cross, the sums are right, but some triangles lie the other way round.
    most = TOLERANCES.same_area_share * (whole[0] if region is None else region.area)
    if len(found) > len(expected) or np.any(np.abs(found - expected) > most) or areas.min() < -most:
        return None
    return Cut(corners=corners, triangles=triangles, rings=depths, part_of=part_of)


def _creases(chains: Sequence[Chain]) -> Segments:
    """Lines along which slopes meet, where there are any, from corners of one chain to those of the next.

    Without them a line that crosses two slopes beside a corner would level what is between.
    """
    found = [Segments.none()]
    # Every level is that of the drawn outline, so its corners run straight from level to level.
    drawn = _corners(chains[0].outlines)
    reach, foot = drawn.reach()
    foot_at = drawn.at.take(foot, axis=0)
    for outer, inner in itertools.pairwise(chains):
        if outer.inside_mm == inner.outside_mm:
            continue
        ends = [_met(chain, foot_at + chain.inward_mm * reach) for chain in (outer, inner)]
        both = ends[0][1] & ends[1][1]
        found.append(Segments(starts=ends[0][0][both], ends=ends[1][0][both]))
    return _apart(Segments.of(*found))


def _met(chain: Chain, places: FloatArray) -> tuple[FloatArray, npt.NDArray[np.bool_]]:
    """The corner of a chain that is nearest to each place (n, 2), and whether it is there."""
    corners = shapely.get_coordinates(chain.outlines)
    off, nearest = cKDTree(corners).query(places)
    return corners.take(nearest, axis=0), off < 3.0 * SIMPLE_MM


def _apart(creases: Segments) -> Segments:
    """Each once, and without those that cross others, as they may where a stroke narrows: of two the first
    stays."""
    first = np.unique(np.hstack((creases.starts, creases.ends)), axis=0, return_index=True)[1]
    creases = creases.take(np.sort(first))
    drawn = shapely.linestrings(np.stack((creases.starts, creases.ends), axis=1))
    one, other = shapely.STRtree(drawn).query(drawn, predicate="crosses")
    return creases.take(np.setdiff1d(np.arange(len(creases)), other[one < other]))


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Corners:
    """Corners of outlines, ring by ring; side k goes from corner k to the next of its ring.

    Attributes
    ----------
    at : (n, 2)
    sides : (n, 2) unit vectors along the side after each
    before : (n,) number of the side before each
    """

    at: FloatArray
    sides: FloatArray
    before: IntArray

    @property
    def normals(self) -> tuple[FloatArray, FloatArray]:
        """Unit vectors inward from the sides before and after each corner."""
        inward = np.column_stack((-self.sides[:, 1], self.sides[:, 0]))
        return inward.take(self.before, axis=0), inward

    @property
    def turns(self) -> FloatArray:
        """How far each turns left."""
        one, two = self.sides.take(self.before, axis=0), self.sides
        turns: FloatArray = np.arctan2(
            one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0], np.einsum("nd,nd->n", one, two)
        )
        return turns

    def is_blunt(self) -> npt.NDArray[np.bool_]:
        """Which point inward and turn so far that they are cut off, see `kizami.outlines.shrinking.BLUNT`."""
        turns = self.turns
        return (turns < 0.0) & (BLUNT * np.cos(turns / 2.0) < 1.0)

    def reach(self) -> tuple[FloatArray, IntArray]:
        """Where corners come to when sides move inward by one, from each, and the number of each.

        Both sides moved inward meet at (n1 + n2) / (1 + n1 n2), n being the normals; a blunt corner comes to
        two, where its sides end on the one that cuts it off.
        """
        one, two = self.normals
        turns, blunt = self.turns, self.is_blunt()
        share = 1.0 + np.einsum("nd,nd->n", one, two)
        sharp = np.flatnonzero((np.abs(turns) > TOLERANCES.creased_rad) & (share > 0.1) & ~blunt)
        cut = np.flatnonzero(blunt)
        half = np.abs(turns[cut]) / 2.0
        further = ((BLUNT - np.cos(half)) / np.sin(half))[:, None]
        incoming = self.sides.take(self.before[cut], axis=0)
        reach = (
            (one + two).take(sharp, axis=0) / share[sharp, None],
            one.take(cut, axis=0) + incoming * further,
            two.take(cut, axis=0) - self.sides.take(cut, axis=0) * further,
        )
        return np.vstack(reach), np.concatenate((sharp, cut, cut))


def _corners(shape: shapely.MultiPolygon) -> _Corners:
    coordinates, ring = shapely.get_coordinates(
        shapely.get_rings(shapely.get_parts(shape)), return_index=True
    )
    kept = np.flatnonzero(ring[:-1] == ring[1:])
    at, way = coordinates[kept], coordinates[kept + 1] - coordinates[kept]
    starts = np.append(np.searchsorted(ring[kept], np.arange(ring[-1] + 1)), len(kept))
    before = np.empty(len(kept), dtype=np.int64)
    before[following(starts)] = np.arange(len(kept))
    return _Corners(at=at, sides=way / np.hypot(*way.T)[:, None], before=before)


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Stood:
    """What was cut, each corner at its height, with upright walls.

    Attributes
    ----------
    corners : (n, 2), unrolled mm
    heights : (n,) mm
    corner_of : (n,) which corner of the cut each is
    triangles : (m + w, 3); those of the cut in their order, and then those of walls
    is_foot : (n,) corners of the outermost chain seen from outside
    is_ground : (n,) corners that are on no chain, outside of all
    """

    corners: FloatArray
    heights: FloatArray
    corner_of: IntArray
    triangles: IntArray
    is_foot: npt.NDArray[np.bool_]
    is_ground: npt.NDArray[np.bool_]


def stood(cut: Cut, chains: Sequence[Chain]) -> Stood | None:
    """Give the corners of a cut their heights; None where chains touch each other.

    Of a corner that is on no chain the height is that of the chain around it, but on a slope.
    """
    size = len(cut.corners)
    edges, other, owner = directed_edges(cut.triangles)
    here, there = cut.rings[owner], np.where(other >= 0, cut.rings[owner[other]], 0)
    inward = np.flatnonzero(here == there + 1)
    if np.any(np.abs(here - there) > 1):
        return None
    chain_of = np.zeros(size, dtype=np.int64)
    steps, step_ring = edges.take(inward, axis=0), here[inward]
    chain_of[steps.ravel()] = np.repeat(step_ring, 2)
    on, rings = chain_of.take(cut.triangles), cut.rings[:, None]
    if np.any(chain_of.take(steps) != step_ring[:, None]):
        return None
    if np.any((on != 0) & (on != rings) & (on != rings + 1)):
        return None
    walls = []
    for number, chain in enumerate(chains, start=1):
        if chain.outside_mm != chain.inside_mm:
            a, b = steps.take(np.flatnonzero(step_ring == number), axis=0).T
            out, into = (2 * number - 1) * size, 2 * number * size
            walls += [
                np.column_stack((a + out, b + out, b + into)),
                np.column_stack((a + out, b + into, a + into)),
            ]
    stands = _stands(rings, on, chains)
    corners_at = np.concatenate((cut.triangles + stands * size, *walls))
    is_used = np.zeros((2 * len(chains) + 1) * size, dtype=bool)
    is_used[corners_at.ravel()] = True
    stand, corner = np.divmod(np.flatnonzero(is_used), size)
    levels = [0.0, *itertools.chain.from_iterable((c.outside_mm, c.inside_mm) for c in chains)]
    heights, corners = np.array(levels)[stand], cut.corners.take(corner, axis=0)
    _on_slopes(heights, corners, np.where(chain_of[corner] == 0, stand // 2, 0), chains)
    return Stood(
        corners=corners,
        heights=heights,
        corner_of=corner,
        triangles=(np.cumsum(is_used) - 1).take(corners_at),
        is_foot=stand == 1,
        is_ground=stand == 0,
    )


def _stands(rings: IntArray, on: IntArray, chains: Sequence[Chain]) -> IntArray:
    """For the corners of all triangles (m, 3), on the chain `on` or on none, where each stands.

    0 is the ground, 2 k - 1 the chain k seen from outside, 2 k the same seen from inside and what it
    goes round.
    """
    stands: IntArray = np.where(on == rings + 1, 2 * on - 1, 2 * rings)
    # Without a wall the two are one.
    level = [2 * k for k, chain in enumerate(chains, start=1) if chain.outside_mm == chain.inside_mm]
    return np.where(np.isin(stands, level) & (on != 0), stands - 1, stands)


def _on_slopes(heights: FloatArray, corners: FloatArray, rings: IntArray, chains: Sequence[Chain]) -> None:
    """Set the heights of corners in the middle of a slope, where lines meet.

    Parameters
    ----------
    rings : how many chains go round each corner that is on none of them; 0 for all others
    """
    drawn = _corners(chains[0].outlines)
    for number in np.unique(rings[(rings > 0) & (rings < len(chains))]):
        here = np.flatnonzero(rings == number)
        outer, inner = chains[number - 1], chains[number]
        if outer.inside_mm == inner.outside_mm:
            continue
        away = _inward_of(drawn, corners.take(here, axis=0)) - outer.inward_mm
        share = np.clip(away / (inner.inward_mm - outer.inward_mm), 0.0, 1.0)
        heights[here] = outer.inside_mm + share * (inner.outside_mm - outer.inside_mm)


def _inward_of(outline: _Corners, places: FloatArray) -> FloatArray:
    """How far an outline must move inward to come to places (n, 2): as far as the nearest side, and about a
    corner as far as the last of those that meet there."""
    ahead = np.empty(len(outline.at), dtype=np.int64)
    ahead[outline.before] = np.arange(len(outline.at))
    sides = np.stack((outline.at, outline.at.take(ahead, axis=0)), axis=1)
    nearest = shapely.STRtree(shapely.linestrings(sides)).query_nearest(
        shapely.points(places), all_matches=False
    )[1]
    to = places - outline.at.take(nearest, axis=0)
    along = np.einsum("nd,nd->n", to, outline.sides.take(nearest, axis=0))
    length = np.hypot(*(sides[:, 1] - sides[:, 0]).T)[nearest]
    corner = np.where(along <= length / 2.0, nearest, ahead[nearest])
    to = places - outline.at.take(corner, axis=0)
    one, two = outline.normals
    off = [np.einsum("nd,nd->n", to, n.take(corner, axis=0)) for n in (one, two)]
    middle = (one + two).take(corner, axis=0)
    middle /= np.maximum(np.hypot(*middle.T), 1e-12)[:, None]
    blunt = np.where(outline.is_blunt()[corner], np.einsum("nd,nd->n", to, middle) / BLUNT, -np.inf)
    at_corner = (along <= 0.0) | (along >= length)
    own = np.where(corner == nearest, off[1], off[0])
    inward: FloatArray = np.where(at_corner, np.maximum(np.maximum(*off), blunt), own)
    return inward

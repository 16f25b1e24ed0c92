"""How good the facets of lettering are: chord error, number, and shape, as measured on what was built."""

from __future__ import annotations

import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import partial

import numpy as np
import shapely

from kizami.as_made.as_made import AsMade
from kizami.dividing.chains import Chain, chains_of
from kizami.dividing.relief import relief_mesh
from kizami.outlines.curves import FloatArray, bodies_of
from kizami.solids.lettering_bodies import flat_lettering
from kizami.solids.lettering_solid import lines_across, steps_mm
from kizami.surfaces.cone import Cone
from kizami.surfaces.protocol import Surface

__all__ = [
    "Quality",
    "added_asked",
    "added_share",
    "facets_asked",
    "lettering_quality",
    "smallest_angle_deg",
]


@dataclass(frozen=True, kw_only=True, slots=True)
class Quality:
    """Measures of lettering as it is laid on.

    Attributes
    ----------
    facets : triangles that it has
    facets_asked : triangles that its outlines and the chord tolerance ask for
    chord_error_mm : largest distance between the middle of an edge and the surface that it stands for
    smallest_angle_deg : of all triangles
    """

    facets: int
    facets_asked: int
    chord_error_mm: float
    smallest_angle_deg: float

    @property
    def share(self) -> float:
        """Facets a facet that is asked for."""
        return self.facets / self.facets_asked


def lettering_quality(made: AsMade, *, sagitta_mm: float) -> Quality | None:
    """Measure the lettering of an area; None when nothing is laid on."""
    outlines, surface = made.outlines, made.area.surface
    # A pointed floor is divided as its ridges ask, not by lines.
    flat = None if made.is_pointed else flat_lettering(made)
    if flat is None or outlines.is_empty:
        return None
    lines = lines_across(outlines, surface, sagitta_mm=sagitta_mm, span_mm=flat.span_mm)
    found = relief_mesh(flat.outlines, flat.levels, lines)
    if found is None:
        return None
    uvh, faces = found
    points = surface.place(uvh[:, :2], uvh[:, 2])
    ends = np.unique(np.sort(faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2), axis=1), axis=0)
    # Along faces, where both ends lie at one height; walls are ruled, so that they follow by themselves.
    ends = ends[np.abs(uvh[ends[:, 0], 2] - uvh[ends[:, 1], 2]) < 1e-9]
    middles = uvh[ends].mean(axis=1)
    off = np.linalg.norm(surface.place(middles[:, :2], middles[:, 2]) - points[ends].mean(axis=1), axis=1)
    return Quality(
        facets=len(faces),
        facets_asked=_asked(surface, chains_of(outlines, flat.levels), sagitta_mm=sagitta_mm),
        chord_error_mm=float(off.max(initial=0.0)),
        smallest_angle_deg=smallest_angle_deg(points, faces),
    )


def added_share(added: int, areas: Sequence[AsMade], *, sagitta_mm: float) -> float:
    """Triangles by which a piece has more than its blank, for each that its lettering asks for.

    Parameters
    ----------
    added : triangles of the piece less those of its blank, or all of them where the lettering is the piece
    areas : all that is lettered

    Returns
    -------
    The triangles themselves where nothing is asked for, as by lettering that is only scored
    """
    asked = 0
    for made in areas:
        kind, chains = made.treatment.kind, _chains(made)
        if kind == "cut-out":
            asked += _asked(made.area.surface, chains, sagitta_mm=sagitta_mm)
        elif kind != "scored":
            count = partial(added_asked, is_through=kind == "pierced")
            asked += _asked(made.area.surface, chains, sagitta_mm=sagitta_mm, count=count)
    return added / asked if asked else float(added)


def _chains(made: AsMade) -> Sequence[Chain]:
    """The chains of an area, as if it had upright walls where it has none."""
    through = Chain(outlines=made.outlines, inward_mm=0.0, outside_mm=-made.area.through_mm, inside_mm=0.0)
    return made.chains or [through]


def _asked(
    surface: Surface, chains: Sequence[Chain], *, sagitta_mm: float, count: Callable[..., int] | None = None
) -> int:
    """Triangles that chains on a surface ask for, counted as letters by themselves unless told otherwise."""
    count = count or facets_asked
    heights = [height for chain in chains for height in (chain.outside_mm, chain.inside_mm)]
    span = (min(heights), max(heights))
    if not isinstance(surface, Cone):
        step_u, step_v = steps_mm(surface, sagitta_mm=sagitta_mm, span_mm=span)
        return count(chains, step_u_mm=step_u, step_v_mm=step_v)
    # Laid about the apex, only the angle is cut.
    turn = min(surface.turn_step_rad(sagitta_mm=sagitta_mm, h_mm=h) for h in span)
    polar = [
        replace(c, outlines=shapely.transform(c.outlines, lambda uv: np.column_stack(surface.polar(uv))))
        for c in chains
    ]
    return count(polar, step_u_mm=turn, step_v_mm=math.inf)


def added_asked(
    chains: Sequence[Chain], *, step_u_mm: float, step_v_mm: float, is_through: bool = False
) -> int:
    """Triangles by which a body grows with lettering set into a face that has the grid's lines already.

    Every corner of a chain, and every place where a line crosses it, is a new corner of the face, and a
    corner inside a division into triangles adds two of them (Euler); each of its sides has a wall of two
    more where one stands. What goes through opens two faces, and takes its own out of both.

    >>> square = shapely.MultiPolygon([shapely.box(0, 0, 1, 1)])
    >>> sunk = [Chain(outlines=square, inward_mm=0.0, outside_mm=0.0, inside_mm=-1.0)]
    >>> added_asked(sunk, step_u_mm=math.inf, step_v_mm=math.inf)
    16
    >>> added_asked(sunk, step_u_mm=math.inf, step_v_mm=math.inf, is_through=True)
    20
    """
    steps = (step_u_mm, step_v_mm)
    corners = [_edges(chain.outlines, *steps) for chain in chains]
    walls = sum(2 * n for n, c in zip(corners, chains, strict=True) if c.outside_mm != c.inside_mm)
    if is_through:
        return 4 * corners[0] - 2 * _face(chains[0].outlines, *steps) + walls
    return 2 * sum(corners) + walls


def facets_asked(chains: Sequence[Chain], *, step_u_mm: float, step_v_mm: float, faces: int = 2) -> int:
    """Triangles of lettering, cut along a grid of the longest steps and no further.

    A polygon of V corners, H holes and B bodies has V + 2 H - 2 B triangles (Euler). A cut straight
    through it adds two corners, so two triangles, whether it parts a body or opens a hole. Lines of
    the grid make as many cuts as half of their crossings with the outline, and one more for each of
    its nodes inside. Walls have two triangles an edge, and slopes between two chains are the polygons
    between them.

    Parameters
    ----------
    faces : 1 leaves out the base, which is open where lettering meets its body; 0 the floor or top too

    >>> square = shapely.MultiPolygon([shapely.box(0, 0, 1, 1)])
    >>> box = [Chain(outlines=square, inward_mm=0.0, outside_mm=0.0, inside_mm=1.0)]
    >>> facets_asked(box, step_u_mm=math.inf, step_v_mm=math.inf)
    12
    >>> facets_asked(box, step_u_mm=0.6, step_v_mm=math.inf)
    20
    """
    steps = (step_u_mm, step_v_mm)
    level = [chains[-1].outlines, chains[0].outlines][:faces]
    slopes = [bodies_of(a.outlines.difference(b.outlines)) for a, b in itertools.pairwise(chains)]
    walls = [chain.outlines for chain in chains if chain.outside_mm != chain.inside_mm]
    return sum(_face(shape, *steps) for shape in (*level, *slopes)) + sum(
        2 * _edges(shape, *steps) for shape in walls
    )


def _rings(shape: shapely.MultiPolygon) -> list[FloatArray]:
    return [np.asarray(r.coords) for body in shape.geoms for r in (body.exterior, *body.interiors)]


def _crossings(ring: FloatArray, axis: int, step_mm: float) -> int:
    if math.isinf(step_mm):
        return 0
    # Off by a share of the step, so that corners that lie on round numbers lie on no line.
    cells = np.floor(ring[:, axis] / step_mm + 0.123)
    return int(np.abs(np.diff(cells)).sum())


def _edges(shape: shapely.MultiPolygon, step_u: float, step_v: float) -> int:
    return sum(len(r) - 1 + _crossings(r, 0, step_u) + _crossings(r, 1, step_v) for r in _rings(shape))


def _face(shape: shapely.MultiPolygon, step_u: float, step_v: float) -> int:
    holes = sum(len(body.interiors) for body in shape.geoms)
    corners = sum(len(ring) - 1 for ring in _rings(shape))
    cuts = sum(_crossings(r, 0, step_u) + _crossings(r, 1, step_v) for r in _rings(shape)) / 2
    nodes = 0.0 if math.isinf(step_u) or math.isinf(step_v) else shape.area / (step_u * step_v)
    return round(corners + 2 * holes - 2 * len(shape.geoms) + 2 * (cuts + nodes))


def smallest_angle_deg(points: FloatArray, faces: np.ndarray) -> float:
    """The smallest angle of all triangles, from their sides.

    Parameters
    ----------
    points : (n, 3)
    faces : (m, 3) corners

    >>> corners = np.array([(0.0, 0, 0), (1, 0, 0), (0, 1, 0)])
    >>> round(smallest_angle_deg(corners, np.array([(0, 1, 2)])), 6)
    45.0
    """
    corners = points[faces]
    ahead = np.roll(corners, -1, axis=1) - corners
    back = np.roll(corners, 1, axis=1) - corners
    across = np.linalg.norm(np.cross(ahead, back), axis=2)
    along = np.einsum("nkd,nkd->nk", ahead, back)
    return float(np.degrees(np.arctan2(across, along)).min(initial=60.0))

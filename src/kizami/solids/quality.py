"""How good the facets of lettering are: chord error, number, and shape, as measured on what was built."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

from kizami.blanks.area import Area
from kizami.outlines.curves import FloatArray
from kizami.outlines.relief import relief_mesh
from kizami.outlines.shrinking import shrunk
from kizami.solids.lettering_solid import lines_across, steps_mm
from kizami.solids.treat import face_levels, flat_lettering, most_inward_mm
from kizami.solids.treatment import Engraved, Raised, Treatment
from kizami.surfaces.cone import Cone
from kizami.surfaces.protocol import Surface

__all__ = ["Quality", "facets_asked", "finished_share", "lettering_quality", "smallest_angle_deg"]


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


def lettering_quality(
    area: Area, outlines: shapely.MultiPolygon, treatment: Treatment, *, sagitta_mm: float
) -> Quality | None:
    """Measure the lettering of an area; None when nothing is laid on."""
    flat = flat_lettering(outlines, treatment, through_mm=area.through_mm)
    if flat is None or outlines.is_empty:
        return None
    surface = area.surface
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
        facets_asked=_asked(surface, _levels(outlines, treatment), flat.span_mm, sagitta_mm=sagitta_mm),
        chord_error_mm=float(off.max(initial=0.0)),
        smallest_angle_deg=smallest_angle_deg(points, faces),
    )


def finished_share(
    is_lettering: npt.NDArray[np.bool_],
    area: Area,
    outlines: shapely.MultiPolygon,
    treatment: Treatment,
    *,
    sagitta_mm: float,
) -> float:
    """Triangles that the lettering has in a finished piece, for each that its outlines and tolerance ask for.

    Parameters
    ----------
    is_lettering : of `kizami.solids.solid.Solid`: walls, and floors or tops
    """
    levels = face_levels(treatment, outlines)
    if levels is None:
        shapes, heights = [outlines, outlines], [-area.through_mm, 0.0]
    else:
        shapes = [shrunk(outlines, level.inward_mm) for level in levels]
        heights = [level.height_mm for level in levels]
    # What is pierced has walls only, and what is a piece by itself has both faces.
    faces = {"pierced": 0, "cut-out": 2}.get(treatment.kind, 1)
    span = (min(heights), max(heights))
    asked = _asked(area.surface, shapes, span, sagitta_mm=sagitta_mm, faces=faces)
    return int(is_lettering.sum()) / asked


def _asked(
    surface: Surface,
    levels: list[shapely.MultiPolygon],
    span_mm: tuple[float, float],
    *,
    sagitta_mm: float,
    faces: int = 2,
) -> int:
    step_u, step_v = steps_mm(surface, sagitta_mm=sagitta_mm, span_mm=span_mm)
    if isinstance(surface, Cone):
        # Laid about the apex, only the angle is cut.
        levels = [shapely.transform(s, lambda uv: np.column_stack(surface.polar(uv))) for s in levels]
        step_u = min(surface.turn_step_rad(sagitta_mm=sagitta_mm, h_mm=h) for h in span_mm)
        step_v = math.inf
    return facets_asked(levels, step_u_mm=step_u, step_v_mm=step_v, faces=faces)


def _levels(outlines: shapely.MultiPolygon, treatment: Treatment) -> list[shapely.MultiPolygon]:
    if not isinstance(treatment, Engraved | Raised):
        return [outlines, outlines]
    levels = treatment.levels(most_inward_mm(outlines, treatment))
    if levels[-1].inward_mm == 0.0:
        return [outlines, outlines]
    above = [outlines] if treatment.sinks else []
    return above + [shrunk(outlines, level.inward_mm) for level in levels]


def facets_asked(
    levels: list[shapely.MultiPolygon], *, step_u_mm: float, step_v_mm: float, faces: int = 2
) -> int:
    """Triangles of a solid between outlines, cut along a grid of the longest steps and no further.

    A polygon of V corners, H holes and B bodies has V + 2 H - 2 B triangles (Euler). A cut straight
    through it adds two corners, so two triangles, whether it parts a body or opens a hole. Lines of
    the grid make as many cuts as half of their crossings with the outline, and one more for each of
    its nodes inside. Walls have two triangles an edge.

    Parameters
    ----------
    faces : 1 leaves out the first, which is open where lettering meets its body; 0 the last one too

    >>> square = shapely.MultiPolygon([shapely.box(0, 0, 1, 1)])
    >>> facets_asked([square, square], step_u_mm=math.inf, step_v_mm=math.inf)
    12
    >>> facets_asked([square, square], step_u_mm=0.6, step_v_mm=math.inf)
    20
    """
    ends = [levels[-1], levels[0]][:faces]
    level = sum(_face(end, step_u_mm, step_v_mm) for end in ends)
    walls = sum(2 * _edges(shape, step_u_mm, step_v_mm) for shape in levels[:-1])
    return level + walls


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

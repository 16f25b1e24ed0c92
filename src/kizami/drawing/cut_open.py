"""A finished piece cut open across its deepest letter, with what is measured there on the solid."""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d as m3
import numpy as np
import numpy.typing as npt
import shapely

from kizami.as_made.as_made import AsMade, Part
from kizami.as_made.treatment import CutOut, Pierced, Raised, Scored
from kizami.drawing.section import cutting_frame, section_of
from kizami.outlines.curves import FloatArray
from kizami.solids.rays import Rays
from kizami.solids.solid import Solid

__all__ = ["CutOpen", "Length", "cut_open"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Length:
    """A measure in the cut.

    Attributes
    ----------
    title : what it is of
    start, end : where it runs, xyz mm
    """

    title: str
    mm: float
    start: tuple[float, float, float]
    end: tuple[float, float, float]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class CutOpen:
    """A cut square on the lettering, along v.

    Attributes
    ----------
    letter : index of the first character of the letter that is cut, or None
    normal : (3,) of the cut, along the reading direction
    outward : (3,) of the face there
    at : (3,) a place in it, mm
    points, triangles : (n, 3) mm and (m, 3): what the cut meets, seen from where the normal points to
    lengths : what is measured there
    """

    letter: int | None
    normal: FloatArray
    outward: FloatArray
    at: FloatArray
    points: FloatArray
    triangles: npt.NDArray[np.int64]
    lengths: tuple[Length, ...]


#: Rays begin so far above what stands highest, and go on so far within a skin that they have met, mm.
_ABOVE_MM, _WITHIN_MM = 0.3, 2e-3
#: Beside a pierced letter its wall is measured so far from its edge, mm.
_BESIDE_MM = 0.4


def cut_open(made: AsMade, solid: Solid) -> CutOpen | None:
    """The cut across the letter that goes deepest, or stands highest; across the one that leaves least of the
    wall where they are alike. None where there is no letter or nothing to cut.

    Depth, height and wall are met by rays on the triangles of the solid, whatever was asked for.
    """
    letters = [part for part in made.parts if part.kind in ("letter", "logo")]
    if not letters:
        return None
    places = _places(letters, beside=isinstance(made.treatment, Pierced))
    top_mm, wall_mm = _met(made, solid, places)
    if not np.isfinite(wall_mm).any():
        return None
    best = int(np.lexsort((wall_mm, -np.abs(np.round(top_mm, 2))))[0])
    at = (float(places[best, 0]), float(places[best, 1]))
    # As arrays of its own: what is shared may not be written to, and the library takes no such arrays.
    vertices, faces = np.array(solid.vertices, dtype=np.float32), np.array(solid.triangles, dtype=np.uint32)
    body = m3.Manifold(m3.Mesh(vert_properties=vertices, tri_verts=faces))
    frame = cutting_frame(made.area, at)
    cut = section_of(body, made.area, at=at)
    if cut.is_empty:
        return None
    rows = frame[:3, :3]
    foot = -rows.T @ frame[:3, 3]
    up, outward, along = rows
    rings = [
        np.asarray(ring.coords)[:-1]
        for part in cut.geoms
        for body_part in (shapely.geometry.polygon.orient(part),)
        for ring in (body_part.exterior, *body_part.interiors)
    ]
    flat = np.vstack(rings)
    triangles = np.asarray(m3.triangulate(rings), dtype=np.int64)
    # Up, outward and along are right-handed, so that what runs anticlockwise in (v, height) is seen so from
    # where the cut's normal points to.
    points: FloatArray = foot + flat[:, :1] * up + flat[:, 1:] * outward
    lengths = tuple(
        Length(
            title=title, mm=abs(high - low), start=_xyz(foot + low * outward), end=_xyz(foot + high * outward)
        )
        for title, low, high in _lengths(made, float(top_mm[best]), float(wall_mm[best]))
    )
    return CutOpen(
        letter=letters[best].cluster,
        normal=along,
        outward=outward,
        at=foot,
        points=points,
        triangles=triangles,
        lengths=lengths,
    )


def _places(letters: list[Part], *, beside: bool) -> FloatArray:
    """Where each letter is widest, (n, 2) unrolled mm; above its upper edge where there is no floor in it."""
    found = []
    for part in letters:
        largest = max(part.outline.geoms, key=lambda body: float(body.area))
        middle = shapely.maximum_inscribed_circle(largest, tolerance=0.02).coords[0]
        found.append((middle[0], part.outline.bounds[3] + _BESIDE_MM) if beside else middle)
    return np.array(found)


def _met(made: AsMade, solid: Solid, places: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Heights of the first skin that rays from above meet at each place, and how far they run within."""
    above = max((level.height_mm for level in made.levels), default=0.0)
    start_mm = max(above, 0.0) + _ABOVE_MM
    count = len(places)
    foot = made.area.surface.place(places, np.zeros(count))
    head = made.area.surface.place(places, np.ones(count))
    way = (foot - head) / np.linalg.norm(head - foot, axis=1)[:, None]
    rays = Rays(solid.vertices, solid.triangles)
    first = rays.first(foot - way * start_mm, way).distance
    within = np.where(np.isfinite(first), first, 0.0) + _WITHIN_MM
    out = rays.first(foot - way * (start_mm - within[:, None]), way).distance + _WITHIN_MM
    return start_mm - first, np.where(np.isfinite(first), out, np.inf)


def _lengths(made: AsMade, top_mm: float, wall_mm: float) -> list[tuple[str, float, float]]:
    """What is measured: its title, and the heights that it runs between."""
    treatment = made.treatment
    low = top_mm - wall_mm
    if isinstance(treatment, CutOut):
        return [("thick", low, top_mm)]
    if isinstance(treatment, Raised):
        return [("proud", 0.0, top_mm), ("wall", low, 0.0)]
    if isinstance(treatment, Pierced | Scored):
        return [("wall", low, top_mm)]
    return [("deep", top_mm, 0.0), ("left under it", low, top_mm)]


def _xyz(point: FloatArray) -> tuple[float, float, float]:
    x, y, z = point.tolist()
    return (x, y, z)

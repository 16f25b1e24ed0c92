"""Where metal may be fed into a piece: at its heaviest section, away from the lettering, open to the
outside, and so that the piece hangs behind its feed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from kizami.outlines.curves import FloatArray
from kizami.solids.centre import centre_of_mass
from kizami.solids.rays import Rays
from kizami.solids.solid import Solid

__all__ = ["Feed", "feeds_of"]

#: Places that are looked at, and those of the lettering that they are to keep away from.
_PLACES, _LETTERING = 700, 1500
#: What is further away is as good as this far, mm.
_FAR_MM = 6.0
#: A section beyond this feeds no better, mm.
_HEAVY_MM = 5.0
#: How far under the skin the section is measured, mm.
_UNDER_MM = 1.2
#: Feeds whose directions differ by less are one, as cosine.
_ONE_WAY = 0.8
_MOST = 6


@dataclass(frozen=True, kw_only=True, slots=True)
class Feed:
    """A place for a feed.

    Attributes
    ----------
    at_mm : on the skin
    outward : direction away from the piece there, of length 1
    section_mm : the narrowest way through the metal there
    clear_mm : distance to the lettering, at most `_FAR_MM`
    """

    at_mm: tuple[float, float, float]
    outward: tuple[float, float, float]
    section_mm: float
    clear_mm: float

    def to_table(self) -> list[float]:
        """As eight numbers."""
        return [round(x, 4) for x in (*self.at_mm, *self.outward, self.section_mm, self.clear_mm)]

    @classmethod
    def from_table(cls, row: list[float]) -> Feed:
        """From eight numbers."""
        x, y, z, a, b, c, section, clear = row
        return cls(at_mm=(x, y, z), outward=(a, b, c), section_mm=section, clear_mm=clear)


def feeds_of(solid: Solid) -> tuple[Feed, ...]:
    """Places for a feed, the best first, each looking another way; none for a body without volume.

    Each place is rated by the narrowest way through the metal under it, its distance to the lettering and how
    near the line of the feed passes the centre of mass (common practice, no source).
    """
    points, normals, _ = _spread(solid, np.flatnonzero(~solid.is_lettering), _PLACES)
    if not len(points):
        # A piece that is all lettering is fed wherever it is heaviest.
        points, normals, _ = _spread(solid, np.arange(len(solid.triangles)), _PLACES)
    if not len(points):
        return ()
    rays = Rays(solid.vertices, solid.triangles)
    # What looks at the piece itself, as the inside of a ring does, no feed can reach.
    open_ = ~np.isfinite(rays.first(points + 1e-3 * normals, normals).distance)
    points, normals = points[open_], normals[open_]
    if not len(points):
        return ()
    section = _section(rays, points, normals)
    clear = np.full(len(points), _FAR_MM)
    letters, _, _ = _spread(solid, np.flatnonzero(solid.is_lettering), _LETTERING)
    if len(letters) and not solid.is_lettering.all():
        clear = np.minimum(cKDTree(letters).query(points)[0], _FAR_MM)
    low, high = np.array(solid.bounds_mm[:3]), np.array(solid.bounds_mm[3:])
    centre = centre_of_mass(solid.vertices, solid.triangles)
    beside = np.linalg.norm(np.cross(centre - points, normals), axis=1) / np.linalg.norm(high - low)
    worth = np.minimum(section, _HEAVY_MM) / _HEAVY_MM + clear / _FAR_MM - 1.5 * beside
    found: list[int] = []
    for number in np.argsort(-worth, kind="stable").tolist():
        if all(normals[number] @ normals[other] < _ONE_WAY for other in found):
            found.append(number)
        if len(found) == _MOST:
            break
    return tuple(
        Feed(
            at_mm=tuple(points[n].tolist()),
            outward=tuple(normals[n].tolist()),
            section_mm=float(section[n]),
            clear_mm=float(clear[n]),
        )
        for n in found
    )


def _section(rays: Rays, points: FloatArray, normals: FloatArray) -> FloatArray:
    """The narrowest of three ways through the metal under each place: inward, and across in two
    directions."""
    through = rays.first(points - 1e-3 * normals, -normals).distance
    under = points - normals * np.minimum(_UNDER_MM, through / 2.0)[:, None]
    aside = np.where(np.abs(normals[:, :1]) < 0.8, [[1.0, 0.0, 0.0]], [[0.0, 1.0, 0.0]])
    one = np.cross(normals, aside)
    one /= np.linalg.norm(one, axis=1, keepdims=True)
    other = np.cross(normals, one)
    widths = [rays.first(under, way).distance + rays.first(under, -way).distance for way in (one, other)]
    return np.asarray(np.minimum.reduce([through, *widths]), dtype=np.float64)


def _spread(
    solid: Solid, chosen: np.ndarray[tuple[int, ...], np.dtype[np.int64]], count: int
) -> tuple[FloatArray, FloatArray, np.ndarray[tuple[int, ...], np.dtype[np.int64]]]:
    """Points spread evenly over some facets, with their normals and facets; always the same ones."""
    corners = np.asarray(solid.vertices, dtype=np.float64)[solid.triangles[chosen]]
    doubled = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    area = np.linalg.norm(doubled, axis=1) / 2.0
    total = area.sum()
    if not len(chosen) or total <= 0.0:
        return np.empty((0, 3)), np.empty((0, 3)), np.empty(0, dtype=np.int64)
    at = (np.arange(count) + 0.5) / count * total
    number = np.minimum(np.searchsorted(np.cumsum(area), at), len(chosen) - 1)
    # The plastic number spreads pairs over a square (M. Roberts, from memory); folded, over a triangle.
    u, v = (0.5 + np.arange(count) * step for step in (0.7548776662466927, 0.5698402909980532))
    u, v = u % 1.0, v % 1.0
    u, v = np.where(u + v > 1.0, 1.0 - u, u), np.where(u + v > 1.0, 1.0 - v, v)
    a, b, c = (corners[number, k] for k in range(3))
    points = a + u[:, None] * (b - a) + v[:, None] * (c - a)
    normals = doubled[number] / (2.0 * area[number])[:, None]
    return points, normals, chosen[number]

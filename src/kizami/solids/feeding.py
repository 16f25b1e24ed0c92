"""Where metal may be fed into a piece: at its heaviest section, away from the lettering, open to the
outside, and so that the piece hangs behind its feed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray
from kizami.solids.measured import Measured, measured_of
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
    piece = measured_of(solid)
    points, normals = _spread(piece, np.flatnonzero(~solid.is_lettering), _PLACES)
    if not len(points):
        # A piece that is all lettering is fed wherever it is heaviest.
        points, normals = _spread(piece, np.arange(len(solid.triangles)), _PLACES)
    if not len(points):
        return ()
    rays = piece.rays
    # What looks at the piece itself, as the inside of a ring does, no feed can reach.
    open_ = ~np.isfinite(rays.first(points + 1e-3 * normals, normals).distance)
    points, normals = points[open_], normals[open_]
    if not len(points):
        return ()
    section = _section(rays, points, normals)
    clear = np.full(len(points), _FAR_MM)
    letters, _ = _spread(piece, np.flatnonzero(solid.is_lettering), _LETTERING)
    if len(letters) and not solid.is_lettering.all():
        clear = np.minimum(cKDTree(letters).query(points)[0], _FAR_MM)
    low, high = np.array(solid.bounds_mm[:3]), np.array(solid.bounds_mm[3:])
    beside = np.linalg.norm(np.cross(piece.centre_of_mass - points, normals), axis=1)
    beside /= np.linalg.norm(high - low)
    worth = np.minimum(section, _HEAVY_MM) / _HEAVY_MM + clear / _FAR_MM - 1.5 * beside
    found: list[int] = []
    left = np.argsort(-worth, kind="stable")
    while len(left) and len(found) < _MOST:
        best, left = int(left[0]), left[1:]
        found.append(best)
        left = left[normals[left] @ normals[best] < _ONE_WAY]
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


def _spread(piece: Measured, chosen: IntArray, count: int) -> tuple[FloatArray, FloatArray]:
    """Points spread evenly over some facets, with their normals; always the same ones."""
    reach = np.cumsum(piece.areas_mm2[chosen])
    if not len(chosen) or reach[-1] <= 0.0:
        return np.empty((0, 3)), np.empty((0, 3))
    at = (np.arange(count) + 0.5) / count * reach[-1]
    number = chosen[np.minimum(np.searchsorted(reach, at), len(chosen) - 1)]
    # The plastic number spreads pairs over a square (M. Roberts, from memory); folded, over a triangle.
    u, v = (0.5 + np.arange(count) * step for step in (0.7548776662466927, 0.5698402909980532))
    u, v = u % 1.0, v % 1.0
    u, v = np.where(u + v > 1.0, 1.0 - u, u), np.where(u + v > 1.0, 1.0 - v, v)
    a, b, c = piece.corners(number).transpose(1, 0, 2)
    return a + u[:, None] * (b - a) + v[:, None] * (c - a), piece.normals[number]

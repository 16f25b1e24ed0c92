"""A finished solid, measured from its triangles alone: nothing here knows how it was built."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray, directed_edges
from kizami.remembering import last_remembered
from kizami.solids.rays import Rays
from kizami.solids.solid import Solid

__all__ = ["Measured", "Shell", "Sides", "measured_of"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Shell:
    """A closed skin of a solid.

    Attributes
    ----------
    volume_mm3 : inside of it; below 0 for the skin of a cavity
    triangles : how many it has
    """

    volume_mm3: float
    triangles: int


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Sides:
    """Sides of triangles.

    Attributes
    ----------
    ends : (3 m, 2) vertices, in the order in which their triangle runs
    other : (3 m,) the same side as its neighbour has it, or -1
    owner : (3 m,) its triangle
    """

    ends: IntArray
    other: IntArray
    owner: IntArray


@dataclass(frozen=True, eq=False, kw_only=True)
class Measured:
    """Triangles with all that checks ask of them, each worked out once.

    Attributes
    ----------
    vertices : (n, 3) as they are written to files, mm
    triangles : (m, 3) anticlockwise seen from outside
    """

    vertices: npt.NDArray[np.float32]
    triangles: npt.NDArray[np.uint32]

    def corners(self, which: IntArray) -> FloatArray:
        """Corners of some triangles, (k, 3, 3)."""
        return np.asarray(self.vertices.take(self.triangles.take(which, axis=0), axis=0), dtype=np.float64)

    @cached_property
    def _columns(self) -> FloatArray:
        """x, y and z of the first, second and third corner of all triangles, (3, 3, m).

        Along so long an axis every sum of three is quick; along one of three it is not.
        """
        return _columns_of(self.vertices, self.triangles)

    @cached_property
    def _crossed(self) -> FloatArray:
        """Normals as long as twice the area, (3, m)."""
        a, b, c = self._columns.transpose(1, 0, 2)
        return _cross(b - a, c - a)

    @cached_property
    def areas_mm2(self) -> FloatArray:
        """Area of each triangle, (m,)."""
        return _length(self._crossed) / 2.0

    @cached_property
    def normals(self) -> FloatArray:
        """Outward normal of each triangle, (m, 3); (0, 0, 0) where it has no area."""
        normals = self._crossed / np.maximum(2.0 * self.areas_mm2, 1e-30)
        return np.ascontiguousarray(normals.T)

    @cached_property
    def breadths_mm(self) -> FloatArray:
        """Height of each triangle over its longest side, (m,)."""
        a, b, c = self._columns.transpose(1, 0, 2)
        longest = np.maximum(np.maximum(_length(b - a), _length(c - b)), _length(a - c))
        breadths: FloatArray = 2.0 * self.areas_mm2 / np.maximum(longest, 1e-30)
        return breadths

    @cached_property
    def middles(self) -> FloatArray:
        """Middle of each triangle, (m, 3)."""
        a, b, c = self._columns.transpose(1, 0, 2)
        return np.ascontiguousarray(((a + b + c) / 3.0).T)

    @cached_property
    def sides(self) -> Sides:
        """The sides of all triangles, each with the one that it lies against."""
        edges, other, owner = directed_edges(self.triangles.astype(np.int64))
        return Sides(ends=edges, other=other, owner=owner)

    @cached_property
    def rays(self) -> Rays:
        """The same triangles for rays."""
        return Rays(self.vertices, self.triangles)

    @cached_property
    def _shell_of(self) -> IntArray:
        """Number of the shell of each triangle, (m,): those that share a corner belong together."""
        size = len(self.vertices)
        ends = (self.triangles.ravel(), self.triangles[:, [1, 2, 0]].ravel())
        links = coo_array((np.ones(len(ends[0])), ends), shape=(size, size))
        labels = connected_components(links, directed=False)[1]
        of: IntArray = np.unique(labels[self.triangles[:, 0]], return_inverse=True)[1].astype(np.int64)
        return of

    @cached_property
    def shells(self) -> tuple[Shell, ...]:
        """Its skins, the largest first."""
        of = self._shell_of
        volumes = np.bincount(of, weights=self._signed_mm3)
        counts = np.bincount(of)
        found = [Shell(volume_mm3=float(v), triangles=int(n)) for v, n in zip(volumes, counts, strict=True)]
        return tuple(sorted(found, key=lambda shell: -abs(shell.volume_mm3)))

    @cached_property
    def _signed_mm3(self) -> FloatArray:
        """Six times less the volume of the tetrahedron of each triangle with the middle of all, (m,)."""
        a, b, c = (self._columns - self._midst[:, None, None]).transpose(1, 0, 2)
        signed: FloatArray = np.einsum("dn,dn->n", a, _cross(b, c)) / 6.0
        return signed

    @cached_property
    def _midst(self) -> FloatArray:
        midst: FloatArray = np.asarray(self.vertices, dtype=np.float64).mean(axis=0)
        return midst

    @property
    def volume_mm3(self) -> float:
        """Volume, cavities taken out."""
        return float(self._signed_mm3.sum())

    @cached_property
    def centre_of_mass(self) -> FloatArray:
        """(3,) mm: each tetrahedron weighs at the middle of its four corners.

        Of a skin that encloses nothing the middle of all vertices.
        """
        if abs(self.volume_mm3) < _NO_VOLUME_MM3:
            return self._midst
        middles = (self._columns - self._midst[:, None, None]).sum(axis=1) / 4.0
        centre: FloatArray = self._midst + (middles @ self._signed_mm3) / self._signed_mm3.sum()
        return centre

    @cached_property
    def faults(self) -> int:
        """Facets without area, and sides that are not those of just two facets, as a reader would find them
        who takes vertices at one place for one."""
        faces, count = self.triangles.astype(np.int64), len(self.vertices)
        if self._has_twins:
            points, number = np.unique(self.vertices + np.float32(0.0), axis=0, return_inverse=True)
            faces, count = number.reshape(-1)[faces], len(points)
        flat = (faces[:, 0] == faces[:, 1]) | (faces[:, 1] == faces[:, 2]) | (faces[:, 2] == faces[:, 0])
        if not self._has_twins and not np.any(self.sides.other < 0):
            unpaired = 0
        else:
            tails, heads = faces.T.ravel(), np.roll(faces.T, -1, axis=0).ravel()
            marks = np.minimum(tails, heads) * np.int64(count) + np.maximum(tails, heads)
            marks = np.sort(2 * marks + (tails > heads))
            _, place = np.unique(marks // 2, return_inverse=True)
            backward = np.bincount(place, weights=marks % 2)
            unpaired = int(np.count_nonzero((np.bincount(place) != 2) | (backward != 1)))
        return int(np.count_nonzero(flat | (self.areas_mm2 < _NO_AREA_MM2))) + unpaired

    @cached_property
    def _has_twins(self) -> bool:
        """Whether two vertices are at one place, or, once in a million pieces, only seem to be."""
        x, y, z = (self.vertices + np.float32(0.0)).view(np.uint32).astype(np.uint64).T
        marks = (x * _MIX[0] + y * _MIX[1] + z * _MIX[2]) ^ (z << np.uint64(17))
        marks.sort()
        return bool(np.any(marks[1:] == marks[:-1]))


@last_remembered
def measured_of(solid: Solid) -> Measured:
    """A solid as its triangles alone tell of it; checks, feeds and files ask it one after the other."""
    return Measured(vertices=solid.vertices, triangles=solid.triangles)


def _columns_of(vertices: npt.NDArray[np.float32], triangles: npt.NDArray[np.integer]) -> FloatArray:
    columns: FloatArray = np.asarray(vertices.T, dtype=np.float64, order="C").take(triangles.T, axis=1)
    return columns


def _cross(one: FloatArray, other: FloatArray) -> FloatArray:
    """Of vectors (3, m)."""
    (a, b, c), (d, e, f) = one, other
    return np.stack((b * f - c * e, c * d - a * f, a * e - b * d))


def _length(ways: FloatArray) -> FloatArray:
    """Of vectors (3, m)."""
    x, y, z = ways
    length: FloatArray = np.sqrt(x * x + y * y + z * z)
    return length


#: Odd numbers that scatter the bits of a place over its mark.
_MIX = np.array([0x9E3779B97F4A7C15, 0xC2B2AE3D27D4EB4F, 0x165667B19E3779F9], dtype=np.uint64)
#: A skin round less encloses nothing, mm3.
_NO_VOLUME_MM3 = 1e-9
#: A facet of less area is none, mm2: in single precision its corners lie in a row.
_NO_AREA_MM2 = 1e-12

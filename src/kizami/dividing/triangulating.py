"""Triangles of parts of the plane on their own corners: every corner of a part is that of a triangle.

Most parts of lettering that is cut along lines are small and bend one way only; those are done many at a
time, and the rest by the ear clipping of manifold3d.
"""

from __future__ import annotations

import itertools

import manifold3d as m3
import numpy as np
import numpy.typing as npt

from kizami.dividing.parts import Contours, Divided
from kizami.dividing.rows import of_rows
from kizami.dividing.slopes import across_slopes
from kizami.dividing.tolerances import TOLERANCES
from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray

__all__ = ["triangulated"]

_Complexes = npt.NDArray[np.complex128]
_Bools = npt.NDArray[np.bool_]
#: Contours of more corners are not worth doing many at a time.
_MOST_CORNERS = 6


def triangulated(divided: Divided) -> tuple[IntArray, IntArray]:
    """Triangles of parts.

    Returns
    -------
    triangles (m, 3), numbers of nodes, anticlockwise; and the part that each is of (m,)
    """
    contours = divided.contours
    starts, lengths = contours.starts, contours.lengths
    is_whole = np.bincount(divided.part_of, minlength=len(divided.depths)) == 1
    simple = is_whole[divided.part_of] & (lengths <= _MOST_CORNERS)
    places = np.ascontiguousarray(contours.nodes).view(np.complex128)[:, 0]
    triangles: list[IntArray] = []
    parts: list[IntArray] = []
    for size in range(3, _MOST_CORNERS + 1):
        which = np.flatnonzero(simple & (lengths == size))
        if len(which):
            corners = contours.around[starts[which, None] + np.arange(size)]
            found, done = _clipped(places, corners)
            triangles.append(found.reshape(-1, 3))
            parts.append(np.repeat(divided.part_of[which[done]], size - 2))
            simple[which[~done]] = False
    strips, whose = _strips(divided)
    triangles.append(strips)
    parts.append(whose)
    simple |= np.isin(divided.part_of, whose)
    rest = np.flatnonzero(~simple)
    if len(rest):
        found, owner = _by_ears(divided, rest)
        triangles.append(found)
        parts.append(owner)
    return np.concatenate(triangles), np.concatenate(parts)


def _strips(divided: Divided) -> tuple[IntArray, IntArray]:
    """Triangles of the parts that are slopes right round an outline, and the part of each."""
    contours, part_of = divided.contours, divided.part_of
    by_part = np.argsort(part_of, kind="stable")
    two = np.flatnonzero(np.bincount(part_of, minlength=len(divided.depths)) == 2)
    if not len(two):
        return np.empty((0, 3), dtype=np.int64), np.empty(0, dtype=np.int64)
    first = np.searchsorted(part_of[by_part], two)
    pairs = np.stack((by_part[first], by_part[first + 1]))
    is_outer = contours.areas_mm2()[pairs] > 0.0
    outer, inner = np.where(is_outer[0], pairs[0], pairs[1]), np.where(is_outer[0], pairs[1], pairs[0])
    triangles, strip = across_slopes(contours.nodes, *_taken(contours, outer), *_taken(contours, inner))
    return triangles, two[strip]


def _taken(contours: Contours, which: IntArray) -> tuple[IntArray, IntArray]:
    """Nodes of some contours one after the other, and where each begins."""
    entries, begins = of_rows(contours.starts, which)
    return contours.around[entries], begins


def _clipped(places: _Complexes, corners: IntArray) -> tuple[IntArray, _Bools]:
    """Clip the best shaped ear of each contour (k, n) until nothing is left.

    Parameters
    ----------
    places : of nodes, u + i v

    Returns
    -------
    triangles (j, n - 2, 3) of those that this serves, and which they are (k,): those that nowhere turn
    inward and leave nothing flat
    """
    count = len(corners)
    good = np.ones(count, dtype=bool)
    if corners.shape[1] == 3:
        return corners[:, None], good
    rows, found, left, at = np.arange(count), [], corners, places.take(corners)
    while left.shape[1] > 3:
        wide = left.shape[1]
        sides = at[:, _AHEAD[wide]] - at
        quality = _quality(sides[:, _BACK[wide]], sides)
        if wide == corners.shape[1]:
            good = np.all(quality > -TOLERANCES.flat_share, axis=1)
        if wide == 4:
            # Both halves count: the second is what is left.
            quality = np.minimum(quality, quality[:, [2, 3, 0, 1]])
        best = quality.argmax(axis=1)
        good &= quality[rows, best] > TOLERANCES.flat_share
        found.append(left[rows[:, None], (best[:, None] + _EAR) % wide])
        kept = np.arange(wide) != best[:, None]
        left, at = (array[kept].reshape(count, wide - 1) for array in (left, at))
    found.append(left)
    return np.stack(found, axis=1)[good], good


_EAR = np.array([-1, 0, 1])
_AHEAD = [np.roll(np.arange(n), -1) for n in range(_MOST_CORNERS + 1)]
_BACK = [np.roll(np.arange(n), 1) for n in range(_MOST_CORNERS + 1)]


def _quality(before: _Complexes, after: _Complexes) -> FloatArray:
    """Height over the longest side of triangles, by two sides one after the other; below 0 clockwise."""
    twice = before.real * after.imag - before.imag * after.real
    longest = np.maximum(np.maximum(np.abs(before), np.abs(after)), np.abs(before + after))
    quality: FloatArray = twice / longest**2
    return quality


def _by_ears(divided: Divided, contours: IntArray) -> tuple[IntArray, IntArray]:
    """Triangles of the parts whose contours these are, all of each."""
    part_of = divided.part_of[contours]
    # Parts that share sides go together only where none has a hole, which might be taken for that of
    # its neighbour.
    is_holed = np.bincount(part_of)[part_of] > 1
    sets = np.where(is_holed, 1 + part_of, 0)
    order = np.argsort(sets, kind="stable")
    sets = sets[order]
    numbers, stops = _taken(divided.contours, contours[order])
    rings = np.split(divided.contours.nodes.take(numbers, axis=0), stops[1:-1])
    begins = np.flatnonzero(np.append(True, sets[1:] != sets[:-1]))
    found = [
        stops[begin] + np.asarray(m3.triangulate(rings[begin:end]), dtype=np.int64)
        for begin, end in itertools.pairwise([*begins.tolist(), len(sets)])
    ]
    triangles = np.concatenate(found)
    owner = np.repeat(part_of[order], np.diff(stops))
    return numbers.take(triangles), owner[triangles[:, 0]]

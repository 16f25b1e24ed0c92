"""Triangles between an outline and the one that it shrinks to: corner to corner, all the way round.

A slope is a narrow strip that closes on itself. Clipping ears knows nothing of that; going along both sides
at once takes a third of the time, and its triangles reach straight across.
"""

from __future__ import annotations

import numpy as np
from scipy.spatial import cKDTree

from kizami.dividing.rows import following, steps_of
from kizami.dividing.tolerances import TOLERANCES
from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray, twice_areas

__all__ = ["across_slopes"]


def across_slopes(
    places: FloatArray, outer: IntArray, outer_starts: IntArray, inner: IntArray, inner_starts: IntArray
) -> tuple[IntArray, IntArray]:
    """Triangles of strips between two contours each.

    Parameters
    ----------
    places : (n, 2) of nodes
    outer, inner : nodes of the contours one after the other, outer ones anticlockwise, inner ones clockwise
    outer_starts, inner_starts : (k + 1,) where each begins

    Returns
    -------
    triangles (m, 3), numbers of nodes, anticlockwise; and the strip of each (m,). Strips of which nothing is
    returned are not narrow or even enough for that.

    >>> places = np.array([(0.0, 0), (4, 0), (4, 4), (0, 4), (1, 1), (3, 1), (3, 3), (1, 3)])
    >>> ring = np.arange(4), np.array([0, 4]), np.array([7, 6, 5, 4]), np.array([0, 4])
    >>> len(across_slopes(places, *ring)[0])
    8
    """
    strips = np.arange(len(outer_starts) - 1)
    many, few = np.diff(outer_starts), np.diff(inner_starts)
    strip = np.repeat(strips, few)
    # Both anticlockwise. Strips lie apart in a third direction, so that each finds its own.
    inner = inner[np.repeat(inner_starts[1:] - 1, few) - (np.arange(len(inner)) - inner_starts[strip])]
    on_outer, on_inner = places.take(outer, axis=0), places.take(inner, axis=0)
    apart = 4.0 * (np.ptp(places, axis=0).max() + 1.0)
    tree = cKDTree(np.column_stack((on_outer, apart * np.repeat(strips, many))))
    width, nearest = tree.query(np.column_stack((on_inner, apart * strip)))
    at = nearest - outer_starts[strip]
    ahead_of = following(inner_starts)
    steps = np.remainder(at[ahead_of] - at, many[strip])
    is_even = np.maximum.reduceat(width, inner_starts[:-1]) < TOLERANCES.even_share * np.minimum.reduceat(
        width, inner_starts[:-1]
    )
    is_even &= np.add.reduceat(steps, inner_starts[:-1]) == many
    steps = np.where(is_even[strip], steps, 0)
    # Of the outer edges between two corners of the inner contour the first half goes to the one, the rest
    # to the other.
    half = (steps + 1) // 2
    start = np.repeat(np.arange(len(inner)), steps)
    step = steps_of(steps)
    base, turn = outer_starts[strip], many[strip]
    edge, ahead = (base[start] + (at[start] + step + n) % turn[start] for n in (0, 1))
    tip = np.where(step < half[start], start, ahead_of[start])
    kept = np.flatnonzero(is_even[strip])
    foot = base[kept] + (at[kept] + half[kept]) % turn[kept]
    triangles = np.concatenate(
        (
            np.column_stack((outer[edge], outer[ahead], inner[tip])),
            np.column_stack((inner[ahead_of[kept]], inner[kept], outer[foot])),
        )
    )
    owner = np.concatenate((strip[start], strip[kept]))
    a, b, c = places.take(triangles.T, axis=0)
    twice = twice_areas(places, triangles)
    longest = np.maximum(((b - a) ** 2).sum(axis=1), ((c - a) ** 2).sum(axis=1))
    is_good = np.bincount(owner, weights=twice <= TOLERANCES.flat_share * longest, minlength=len(strips)) == 0
    held = np.flatnonzero(is_good[owner])
    return triangles.take(held, axis=0), owner[held]

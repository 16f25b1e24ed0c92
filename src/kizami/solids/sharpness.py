"""Sharp points: the corner of a finished piece that encloses least, as an angle.

A corner of a solid encloses a part of a small ball round it, its solid angle. That of an upright prism's
corner in steradians is the angle of its outline in radians, so solid angles are told as such angles: a
corner of a box has 90 degrees, the tip of a stroke that runs out at 10 degrees has 10.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray
from kizami.solids.measured import Measured

__all__ = ["Sharp", "corner_angles_rad", "sharpest"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Sharp:
    """The sharpest corner of a piece."""

    angle_deg: float
    at_mm: tuple[float, float, float]


def corner_angles_rad(piece: Measured, corners: IntArray) -> FloatArray:
    """Solid angles of vertices of a closed skin, (k,) steradians; 4 pi less of it is outside.

    Parameters
    ----------
    corners : (k,) numbers of vertices

    Notes
    -----
    By the excess of the spherical polygon in which the corner meets the ball: the sum of the angles between
    neighbouring facets, through metal, less (n - 2) pi of n facets (Girard's theorem).
    """
    size = len(piece.vertices)
    asked = np.zeros(size, dtype=bool)
    asked[corners] = True
    # Each side once for either of its ends: every vertex has as many sides as facets.
    which = np.flatnonzero(asked[piece.sides.ends[:, 0]])
    at, turn = piece.sides.ends[which, 0], _turns_rad(piece, which)
    total = np.bincount(at, weights=math.pi - turn, minlength=size)
    count = np.bincount(at, minlength=size)
    angles: FloatArray = (total - (count - 2) * math.pi)[corners]
    return angles


def _turns_rad(piece: Measured, sides: IntArray) -> FloatArray:
    """By how much the skin turns outward over sides, (k,): above 0 over an edge, below 0 in a corner."""
    other = piece.sides.other[sides]
    beside = piece.sides.owner[np.where(other >= 0, other, sides)]
    tails, heads = piece.sides.ends[sides].T
    way = piece.vertices[heads].astype(np.float64) - piece.vertices[tails]
    way /= np.maximum(np.linalg.norm(way, axis=1), 1e-30)[:, None]
    one, two = piece.normals[piece.sides.owner[sides]], piece.normals[beside]
    turns: FloatArray = np.arctan2(
        np.einsum("nd,nd->n", np.cross(one, two), way), np.einsum("nd,nd->n", one, two)
    )
    return turns


def sharpest(piece: Measured) -> Sharp | None:
    """The sharpest corner; None where none is sharper than that of a box.

    Only corners at sharp edges are asked, and only those whose own edges can be felt: what is finer is
    measured as strokes and walls are.
    """
    sides = piece.sides
    forward = np.flatnonzero((sides.other >= 0) & (sides.ends[:, 0] < sides.ends[:, 1]))
    one, two = sides.owner[forward], sides.owner[sides.other[forward]]
    leaning = np.einsum("nd,nd->n", piece.normals[one], piece.normals[two]) < math.cos(_EDGE_TURN_RAD)
    # Along a bent face a needle of a facet stands on its edge, by less than anybody feels: no edge is there.
    leaning &= np.minimum(piece.breadths_mm[one], piece.breadths_mm[two]) > _NEEDLE_MM
    sharp = forward[leaning]
    sharp = sharp[_turns_rad(piece, sharp) > 0.0]
    corners = np.unique(sides.ends[sharp])
    corners = corners[_shortest_mm(piece, corners) > _FELT_MM]
    if not len(corners):
        return None
    angles = corner_angles_rad(piece, corners)
    angles = np.where(angles > _ROUNDING_RAD, angles, np.inf)
    at = int(np.argmin(angles))
    if angles[at] > math.pi / 2.0:
        return None
    x, y, z = piece.vertices[corners[at]].tolist()
    return Sharp(angle_deg=math.degrees(float(angles[at])), at_mm=(x, y, z))


def _shortest_mm(piece: Measured, corners: IntArray) -> FloatArray:
    """Length of the shortest side at each corner, (k,)."""
    size = len(piece.vertices)
    asked = np.zeros(size, dtype=bool)
    asked[corners] = True
    which = np.flatnonzero(asked[piece.sides.ends[:, 0]])
    tails, heads = piece.sides.ends[which].T
    length = np.linalg.norm(piece.vertices[heads].astype(np.float64) - piece.vertices[tails], axis=1)
    shortest = np.full(size, np.inf)
    np.minimum.at(shortest, tails, length)
    found: FloatArray = shortest[corners]
    return found


#: A point has an edge at which the skin turns by more than this.
_EDGE_TURN_RAD = math.radians(100.0)
#: A facet that is narrower lies within what faces may be off by, mm: its own direction tells nothing.
_NEEDLE_MM = 0.005
#: Edges that are shorter are not felt, mm (common practice, no source).
_FELT_MM = 0.05
#: A corner can't be told to enclose less than this: its facets lie on each other but for rounding.
_ROUNDING_RAD = math.radians(0.05)

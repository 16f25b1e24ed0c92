"""Surfaces turned about the z axis: any profile of lines and arcs, from outside or from inside.

u runs along the parallel through the reference point in true length, v along the profile. Away from
the reference, lengths along u shrink or grow with the radius: r / r0. A ball lettered along a parallel
is the turned surface of an arc, and there that ratio is cos(latitude) / cos(reference latitude).
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np

from kizami.surfaces.axis import axis_distance_mm, turn_from_back_rad
from kizami.surfaces.chords import chord_angle_rad
from kizami.surfaces.plain import Plain
from kizami.surfaces.protocol import Evenness, FloatArray

__all__ = ["Arc", "Line", "Profile", "Turned", "ball_band", "smooth_enough"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Line:
    """A straight piece of a profile, from (r, z) to (r, z), mm."""

    start: tuple[float, float]
    end: tuple[float, float]

    @property
    def length_mm(self) -> float:
        """Its length."""
        return math.dist(self.start, self.end)

    @property
    def bend(self) -> float:
        """Curvature: none."""
        return 0.0

    def at(self, s: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Points (n, 2) and unit tangents (n, 2) at lengths from the start."""
        along = (np.array(self.end) - self.start) / self.length_mm
        return np.array(self.start) + np.outer(s, along), np.broadcast_to(along, (len(s), 2))

    def foot_mm(self, points: FloatArray) -> FloatArray:
        """Lengths from the start to the feet of points (n, 2), below 0 or past the end where they lie so."""
        along = (np.array(self.end) - self.start) / self.length_mm
        foot: FloatArray = (points - self.start) @ along
        return foot


@dataclass(frozen=True, kw_only=True, slots=True)
class Arc:
    """An arc of a profile about (r, z), from one angle to another; angles as in a plane of r and z."""

    centre: tuple[float, float]
    radius_mm: float
    from_rad: float
    to_rad: float

    @property
    def length_mm(self) -> float:
        """Its length."""
        return abs(self.to_rad - self.from_rad) * self.radius_mm

    @property
    def bend(self) -> float:
        """Curvature; above 0 when the arc turns to the left."""
        return math.copysign(1.0 / self.radius_mm, self.to_rad - self.from_rad)

    def at(self, s: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Points (n, 2) and unit tangents (n, 2) at lengths from the start."""
        sign = math.copysign(1.0, self.to_rad - self.from_rad)
        angle = self.from_rad + sign * s / self.radius_mm
        out = np.column_stack((np.cos(angle), np.sin(angle)))
        along = sign * np.column_stack((-np.sin(angle), np.cos(angle)))
        return np.array(self.centre) + self.radius_mm * out, along

    def foot_mm(self, points: FloatArray) -> FloatArray:
        """Lengths from the start to the feet of points (n, 2), below 0 or past the end where they lie so."""
        right, up = (points - self.centre).T
        sign = math.copysign(1.0, self.to_rad - self.from_rad)
        middle = (self.from_rad + self.to_rad) / 2.0
        # Counted from the middle of the arc, so that the cut of the angle lies opposite to it.
        turn = np.remainder(np.arctan2(up, right) - middle + math.pi, 2.0 * math.pi) - math.pi
        foot: FloatArray = sign * turn * self.radius_mm + self.length_mm / 2.0
        return foot


@dataclass(frozen=True, kw_only=True)
class Profile:
    """A profile of pieces end to end, upward, in the plane of r and z, its tangent without a jump."""

    pieces: tuple[Line | Arc, ...]

    @cached_property
    def starts_mm(self) -> FloatArray:
        """Length along the profile at which each piece begins."""
        return np.concatenate(([0.0], np.cumsum([p.length_mm for p in self.pieces])))

    @property
    def length_mm(self) -> float:
        """Its whole length."""
        return float(self.starts_mm[-1])

    def at(self, s: FloatArray) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Points (r, z), unit tangents and curvatures at lengths; beyond the ends it goes on smoothly."""
        which = np.clip(np.searchsorted(self.starts_mm, s, side="right") - 1, 0, len(self.pieces) - 1)
        points, tangents, bends = np.empty((len(s), 2)), np.empty((len(s), 2)), np.empty(len(s))
        for number, piece in enumerate(self.pieces):
            here = which == number
            if here.any():
                points[here], tangents[here] = piece.at(s[here] - self.starts_mm[number])
                bends[here] = piece.bend
        return points, tangents, bends

    def nearest(self, points: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Where points (r, z) stand over the profile, as lengths along it, and how far to its right.

        Beyond the ends it goes on smoothly, as `at` does.
        """
        best_s, best_off = np.zeros(len(points)), np.zeros(len(points))
        least = np.full(len(points), np.inf)
        for number, piece in enumerate(self.pieces):
            foot = piece.foot_mm(points)
            first, last = number == 0, number == len(self.pieces) - 1
            inside = np.clip(foot, -np.inf if first else 0.0, np.inf if last else piece.length_mm)
            at, along = piece.at(inside)
            right = np.column_stack((along[:, 1], -along[:, 0]))
            off = np.einsum("nd,nd->n", points - at, right)
            # A foot beyond the end of its piece is a corner, and belongs to the neighbour.
            stray = np.hypot(*(points - at).T)
            nearer = stray < least
            least[nearer] = stray[nearer]
            best_s[nearer], best_off[nearer] = (inside + self.starts_mm[number])[nearer], off[nearer]
        return best_s, best_off

    def polyline(self, *, sagitta_mm: float) -> FloatArray:
        """Points along it whose chords leave it by at most the tolerance, shape (n, 2)."""
        return np.vstack(
            [self._chords(p, sagitta_mm) for p in self.pieces] + [self.at(self.starts_mm[-1:])[0]]
        )

    @staticmethod
    def _chords(piece: Line | Arc, sagitta_mm: float) -> FloatArray:
        if isinstance(piece, Line):
            return piece.at(np.zeros(1))[0]
        step = chord_angle_rad(radius_mm=piece.radius_mm, sagitta_mm=sagitta_mm) * piece.radius_mm
        count = max(1, math.ceil(piece.length_mm / step))
        return piece.at(np.arange(count) * piece.length_mm / count)[0]


@dataclass(frozen=True, kw_only=True)
class Turned(Plain):
    """A profile turned about z.

    Attributes
    ----------
    profile : upward; seen from outside the body lies to its left
    reference_mm : length along the profile at which u has its true length
    side : from which it is read; “inside” as a bore is
    """

    profile: Profile
    reference_mm: float
    side: Literal["outside", "inside"] = "outside"

    @property
    def _sign(self) -> float:
        return 1.0 if self.side == "outside" else -1.0

    @cached_property
    def reference_radius_mm(self) -> float:
        """Radius of the parallel on which u has its true length."""
        return float(self.profile.at(np.array([self.reference_mm]))[0][0, 0])

    @property
    def period_mm(self) -> float | None:
        """Length of the reference parallel."""
        return 2.0 * math.pi * self.reference_radius_mm

    @property
    def evenness(self) -> Evenness:
        """Every parallel is the same all round."""
        return Evenness.BY_V

    def place(self, uv: FloatArray, h: FloatArray) -> FloatArray:
        """See `Surface.place`.

        >>> half = math.pi * 10 * math.cos(math.radians(30))
        >>> ball_band(radius_mm=10, latitude_deg=30).place(np.array([[half, 0.0]]), np.zeros(1)).round(6) + 0
        array([[ 0.      , -8.660254,  5.      ]])
        """
        points, tangents, _ = self.profile.at(uv[:, 1] + self.reference_mm)
        normal = self._sign * np.column_stack((tangents[:, 1], -tangents[:, 0]))
        r, z = (points + normal * np.asarray(h)[:, None]).T
        angle = math.pi / 2.0 + self._sign * uv[:, 0] / self.reference_radius_mm
        return np.column_stack((r * np.cos(angle), r * np.sin(angle), z))

    def unplace(self, points: FloatArray) -> tuple[FloatArray, FloatArray]:
        """See `Surface.unplace`."""
        s, off = self.profile.nearest(np.column_stack((axis_distance_mm(points), points[:, 2])))
        turn = self._sign * turn_from_back_rad(points)
        return np.column_stack((turn * self.reference_radius_mm, s - self.reference_mm)), self._sign * off

    def stretch(self, uv: FloatArray) -> FloatArray:
        """Along u the radius against the reference radius; along v true length."""
        points, _, _ = self.profile.at(uv[:, 1] + self.reference_mm)
        return np.column_stack((points[:, 0] / self.reference_radius_mm, np.ones(len(uv))))

    def curvatures(self, uv: FloatArray) -> FloatArray:
        """Round the axis n_r / r (Meusnier), along the profile its own."""
        points, tangents, bends = self.profile.at(uv[:, 1] + self.reference_mm)
        return self._sign * np.column_stack((tangents[:, 1] / points[:, 0], bends))

    def max_step(self, *, sagitta_mm: float, h_mm: float) -> tuple[float, float]:
        """The tightest place decides; where both ways bend each takes half of the tolerance."""
        bends = [abs(p.bend) for p in self.profile.pieces]
        share = sagitta_mm / 2.0 if max(bends) > 0 else sagitta_mm
        line = self.profile.polyline(sagitta_mm=sagitta_mm)
        widest = float(line[:, 0].max()) + max(self._sign * h_mm, 0.0)
        angle = chord_angle_rad(radius_mm=widest, sagitta_mm=share)
        if max(bends) == 0:
            return angle * self.reference_radius_mm, math.inf
        radius = 1.0 / max(bends)
        # Offset outward an arc grows with its radius, and the same angle spans more of it.
        up = chord_angle_rad(radius_mm=radius + max(h_mm, 0.0), sagitta_mm=share) * radius
        return angle * self.reference_radius_mm, up


def ball_band(*, radius_mm: float, latitude_deg: float = 0.0, reach_deg: float = 60.0) -> Turned:
    """The outside of a ball about its centre at the origin, lettered along a parallel.

    Parameters
    ----------
    latitude_deg : of the parallel at v = 0
    reach_deg : how far the band goes on either side of it, never beyond 80 degrees of latitude
    """
    low = math.radians(max(latitude_deg - reach_deg, -80.0))
    high = math.radians(min(latitude_deg + reach_deg, 80.0))
    arc = Arc(centre=(0.0, 0.0), radius_mm=radius_mm, from_rad=low, to_rad=high)
    return Turned(profile=Profile(pieces=(arc,)), reference_mm=(math.radians(latitude_deg) - low) * radius_mm)


def smooth_enough(pieces: Sequence[Line | Arc], *, tolerance_rad: float = 1e-6) -> bool:
    """Whether the pieces meet end to end without a corner."""
    for one, other in itertools.pairwise(pieces):
        end, along = one.at(np.array([one.length_mm]))
        start, onward = other.at(np.zeros(1))
        if not np.allclose(end, start, atol=1e-6) or float((along * onward).sum()) < math.cos(tolerance_rad):
            return False
    return True

"""A flat band ring: an annular cylinder with lettering all the way round its outside."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import manifold3d as m3
import shapely

from kizami.blanks.area import Area, KeepOut
from kizami.surfaces.cylinder import Cylinder, chord_angle_rad

__all__ = ["BandRing"]


@dataclass(frozen=True, kw_only=True, slots=True)
class BandRing:
    """A flat band.

    Attributes
    ----------
    bore_mm : inner diameter
    width_mm : along the finger
    wall_mm : thickness
    seam_mm : width of the sizing seam at the back, kept clear so that the ring can be resized
    """

    bore_mm: float
    width_mm: float
    wall_mm: float
    seam_mm: float

    @property
    def outer_radius_mm(self) -> float:
        """Radius of the lettered surface."""
        return self.bore_mm / 2.0 + self.wall_mm

    @property
    def areas(self) -> tuple[Area, ...]:
        """The outside of the band, one full turn; u = 0 is the seam at the back."""
        return (_outside(self),)

    def body(self, sagitta_mm: float) -> m3.Manifold:
        """The band before lettering, chords within `sagitta_mm` of the true circles."""
        return _body(self, sagitta_mm)


@lru_cache(maxsize=256)
def _outside(ring: BandRing) -> Area:
    surface = Cylinder(radius_mm=ring.outer_radius_mm)
    turn = 2.0 * math.pi * ring.outer_radius_mm
    half = ring.seam_mm / 2.0
    seams = (
        shapely.box(0.0, 0.0, half, ring.width_mm),
        shapely.box(turn - half, 0.0, turn, ring.width_mm),
    )
    return Area(
        name="outside",
        surface=surface,
        outline=shapely.box(0.0, 0.0, turn, ring.width_mm),
        keep_outs=tuple(KeepOut(name="sizing seam", outline=s) for s in seams),
        anchor=(turn / 2.0, ring.width_mm / 2.0),
        wall_mm=ring.wall_mm,
    )


@lru_cache(maxsize=128)
def _body(ring: BandRing, sagitta_mm: float) -> m3.Manifold:
    outer = ring.outer_radius_mm
    facets = math.ceil(2.0 * math.pi / chord_angle_rad(radius_mm=outer, sagitta_mm=sagitta_mm))
    profile = m3.CrossSection.circle(outer, facets) - m3.CrossSection.circle(ring.bore_mm / 2.0, facets)
    body = m3.Manifold.extrude(profile, ring.width_mm)
    body.num_tri()  # built now, as results are otherwise worked out on first use
    return body

"""Band rings: flat, domed, tapered, with a channel between rims; flat or comfort-fit inside."""

from __future__ import annotations

import math
from dataclasses import asdict, dataclass
from typing import Literal

import manifold3d as m3
import numpy as np

from kizami.blanks.area import Area
from kizami.blanks.blank import polygon_of, round_area, sector_area, turned_body
from kizami.blanks.fillets import quarter_round
from kizami.remembering import remembered
from kizami.sizes import RingSize
from kizami.surfaces.bore import Bore
from kizami.surfaces.chords import facets_of
from kizami.surfaces.cone import Cone
from kizami.surfaces.cylinder import Cylinder
from kizami.surfaces.protocol import FloatArray
from kizami.surfaces.turned import Arc, Profile, Turned

__all__ = ["BandRing", "BandRingSpec", "bulging_arc"]


@dataclass(frozen=True, kw_only=True, slots=True)
class BandRingSpec:
    """A band ring whose bore comes from each line's size.

    Attributes
    ----------
    width_mm, wall_mm : along the axis; from the bore to the lettered surface, in the middle
    seam_mm : sizing seam at the back that must stay clear
    outer : “flat”, “domed” by `rise_mm` in the middle, “tapered” by `rise_mm` from below to above, or
        “channel”: between rims `rim_mm` wide that stand `rise_mm` proud
    fillet_mm : radius in the corners between channel and rims
    inner : “flat”, or “comfort”: the bore is `ease_mm` wider in radius at both edges
    """

    width_mm: float
    wall_mm: float
    seam_mm: float
    outer: Literal["flat", "domed", "tapered", "channel"] = "flat"
    inner: Literal["flat", "comfort"] = "flat"
    rise_mm: float = 0.0
    rim_mm: float = 0.0
    ease_mm: float = 0.0
    fillet_mm: float = 0.0

    def blank(self, size: RingSize) -> BandRing:
        """The ring in a size."""
        return BandRing(bore_mm=size.bore_mm, **asdict(self))


@dataclass(frozen=True, kw_only=True, slots=True)
class BandRing(BandRingSpec):
    """A band ring in a size, standing on its edge plane z = 0.

    Attributes
    ----------
    bore_mm : diameter inside, at the narrowest place
    """

    bore_mm: float

    @property
    def outer_radius_mm(self) -> float:
        """Radius of the lettered surface in its middle."""
        return self.bore_mm / 2.0 + self.wall_mm

    @property
    def areas(self) -> tuple[Area, ...]:
        """The outside and the inside; u = 0 is the seam at the back, of a cone the front."""
        return (_outside(self), _inside(self))

    def body(self, sagitta_mm: float) -> m3.Manifold:
        """The band before lettering."""
        return _body(self, sagitta_mm)


def bulging_arc(*, middle: float, edge: float, width: float) -> Arc:
    """The arc from (edge, 0) through (middle, width / 2) to (edge, width), upward.

    The sagitta d of a chord w has the radius (w^2 / 4 + d^2) / 2 d.
    """
    rise = middle - edge
    radius = (width**2 / 4.0 + rise**2) / (2.0 * abs(rise))
    half = math.asin(min(1.0, width / 2.0 / radius))
    if rise > 0:
        centre = (middle - radius, width / 2.0)
        return Arc(centre=centre, radius_mm=radius, from_rad=-half, to_rad=half)
    centre = (middle + radius, width / 2.0)
    return Arc(centre=centre, radius_mm=radius, from_rad=math.pi + half, to_rad=math.pi - half)


@remembered
def _outside(ring: BandRing) -> Area:
    radius, width = ring.outer_radius_mm, ring.width_mm
    if ring.outer == "domed":
        arc = bulging_arc(middle=radius, edge=radius - ring.rise_mm, width=width)
        reach = arc.length_mm / 2.0
        surface = Turned(profile=Profile(pieces=(arc,)), reference_mm=reach)
        return round_area(
            "outside", surface, low_v=-reach, high_v=reach,
            wall_mm=_thinnest(ring), thickest_mm=_thickest(ring), seam_mm=ring.seam_mm, back="inside",
        )  # fmt: skip
    if ring.outer == "tapered":
        cone = _cone(ring)
        return sector_area(
            "outside",
            cone,
            cone.outline(gap_mm=ring.seam_mm),
            anchor_v=cone.slant_mm / 2.0,
            wall_mm=_thinnest(ring),
            thickest_mm=_thickest(ring),
            back="inside",
        )
    rim = ring.rim_mm + ring.fillet_mm if ring.outer == "channel" else 0.0
    return round_area(
        "outside", Cylinder(radius_mm=radius), low_v=rim, high_v=width - rim,
        wall_mm=_thinnest(ring), thickest_mm=_thickest(ring), seam_mm=ring.seam_mm, back="inside",
    )  # fmt: skip


def _cone(ring: BandRing) -> Cone:
    half = ring.rise_mm / 2.0
    return Cone(
        low_radius_mm=ring.outer_radius_mm + half,
        high_radius_mm=ring.outer_radius_mm - half,
        height_mm=ring.width_mm,
    )


@remembered
def _inside(ring: BandRing) -> Area:
    if ring.inner == "comfort":
        arc = bulging_arc(
            middle=ring.bore_mm / 2.0, edge=ring.bore_mm / 2.0 + ring.ease_mm, width=ring.width_mm
        )
        reach = arc.length_mm / 2.0
        surface = Turned(profile=Profile(pieces=(arc,)), reference_mm=reach, side="inside")
        return round_area(
            "inside",
            surface,
            low_v=-reach,
            high_v=reach,
            wall_mm=_thinnest(ring),
            thickest_mm=_thickest(ring),
            seam_mm=ring.seam_mm,
            back="outside",
        )
    return round_area(
        "inside", Bore(radius_mm=ring.bore_mm / 2.0), low_v=0.0, high_v=ring.width_mm,
        wall_mm=_thinnest(ring), thickest_mm=_thickest(ring), seam_mm=ring.seam_mm, back="outside",
    )  # fmt: skip


def _thinnest(ring: BandRing) -> float:
    """Wall at the thinnest place along the width: at an edge, where dome and comfort both take from it."""
    outer = ring.rise_mm if ring.outer == "domed" else ring.rise_mm / 2.0 if ring.outer == "tapered" else 0.0
    return ring.wall_mm - outer - (ring.ease_mm if ring.inner == "comfort" else 0.0)


def _thickest(ring: BandRing) -> float:
    """Wall along the normal at the thickest place, a tilted normal allowed for."""
    more = ring.rise_mm / 2.0 if ring.outer == "tapered" else 0.0
    return (ring.wall_mm + more) * 1.15


@remembered
def _body(ring: BandRing, sagitta_mm: float) -> m3.Manifold:
    if ring.outer == ring.inner == "flat":
        # An extruded ring has its corners exactly on its circles, a turned one to a billionth.
        outer = ring.outer_radius_mm
        facets = facets_of(radius_mm=outer, sagitta_mm=sagitta_mm)
        section = m3.CrossSection.circle(outer, facets) - m3.CrossSection.circle(ring.bore_mm / 2.0, facets)
        body = m3.Manifold.extrude(section, ring.width_mm)
        body.num_tri()  # built now, as results are otherwise worked out on first use
        return body
    # Half of the tolerance each way where a side bends both ways at once.
    share = sagitta_mm / 2.0 if ring.outer == "domed" or ring.inner == "comfort" else sagitta_mm
    section_rz = polygon_of(_outer_line(ring, share), _inner_line(ring, share))
    return turned_body(section_rz, sagitta_mm=share)


def _outer_line(ring: BandRing, sagitta_mm: float) -> FloatArray:
    """(r, z) of the outside, upward."""
    radius, width = ring.outer_radius_mm, ring.width_mm
    if ring.outer == "domed":
        arc = bulging_arc(middle=radius, edge=radius - ring.rise_mm, width=width)
        return Profile(pieces=(arc,)).polyline(sagitta_mm=sagitta_mm)
    if ring.outer == "tapered":
        half = ring.rise_mm / 2.0
        return np.array([(radius + half, 0.0), (radius - half, width)])
    if ring.outer == "channel":
        proud, rim = radius + ring.rise_mm, ring.rim_mm
        if not ring.fillet_mm:
            r = np.array([proud, proud, radius, radius, proud, proud])
            return np.column_stack((r, [0.0, rim, rim, width - rim, width - rim, width]))
        inward, down = quarter_round(ring.fillet_mm, sagitta_mm=sagitta_mm).T
        foot = np.column_stack((radius + ring.fillet_mm - down, rim + inward))
        lower = np.vstack((np.array([(proud, 0.0), (proud, rim)]), foot))
        upper = (np.array([0.0, width]) + lower * np.array([1.0, -1.0]))[::-1]
        return np.vstack((lower, upper))
    return np.array([(radius, 0.0), (radius, width)])


def _inner_line(ring: BandRing, sagitta_mm: float) -> FloatArray:
    """(r, z) of the bore, downward."""
    radius, width = ring.bore_mm / 2.0, ring.width_mm
    if ring.inner == "comfort":
        arc = bulging_arc(middle=radius, edge=radius + ring.ease_mm, width=width)
        line: FloatArray = Profile(pieces=(arc,)).polyline(sagitta_mm=sagitta_mm)[::-1]
        return line
    return np.array([(radius, width), (radius, 0.0)])

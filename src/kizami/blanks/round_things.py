"""Round blanks: a bead, a domed disc, a coin with its edge, a straight or tapered sleeve."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import manifold3d as m3
import numpy as np
import shapely

from kizami.blanks.area import Area, KeepOut, disc
from kizami.blanks.blank import polygon_of, round_area, sector_area, turned_body
from kizami.remembering import remembered
from kizami.surfaces.ball_patch import BallPatch
from kizami.surfaces.chords import facets_of
from kizami.surfaces.cone import Cone
from kizami.surfaces.cylinder import Cylinder, CylinderPart
from kizami.surfaces.plane import Plane
from kizami.surfaces.turned import Arc, Line, Profile, Turned, ball_band

__all__ = ["BallBead", "Coin", "DomedDisc", "Sleeve"]


@dataclass(frozen=True, kw_only=True, slots=True)
class BallBead:
    """A ball with a hole through it from top to bottom, its centre at the origin; 0 is no hole."""

    diameter_mm: float
    hole_mm: float

    @property
    def areas(self) -> tuple[Area, ...]:
        """A band round the middle, up to where lengths shrink by a seventh or the hole is near."""
        return (_bead_band(self),)

    def body(self, sagitta_mm: float) -> m3.Manifold:
        """The bead before lettering."""
        return _bead(self, sagitta_mm)


#: A band round a ball goes up to the latitude at which lengths have shrunk by a seventh: 30 degrees.
_BAND_RAD = math.radians(30.0)


@remembered
def _bead_band(bead: BallBead) -> Area:
    radius = bead.diameter_mm / 2.0
    reach = min(_BAND_RAD, math.acos(min(1.0, bead.hole_mm / bead.diameter_mm)) * 0.9) * radius
    wall = radius * math.cos(_BAND_RAD) - bead.hole_mm / 2.0
    surface = ball_band(radius_mm=radius, reach_deg=60.0)
    return round_area(
        "band", surface, low_v=-reach, high_v=reach, wall_mm=wall, thickest_mm=radius - bead.hole_mm / 4.0
    )


@remembered
def _bead(bead: BallBead, sagitta_mm: float) -> m3.Manifold:
    radius, hole = bead.diameter_mm / 2.0, bead.hole_mm / 2.0
    angle = math.acos(hole / radius)
    arc = Arc(centre=(0.0, 0.0), radius_mm=radius, from_rad=-angle, to_rad=angle)
    # Half of the tolerance each way, as a ball bends both ways at once.
    line = Profile(pieces=(arc,)).polyline(sagitta_mm=sagitta_mm / 2.0)
    top, bottom = line[-1], line[0]
    return turned_body(
        polygon_of(line, np.array([(hole, top[1])]), np.array([(hole, bottom[1])])),
        sagitta_mm=sagitta_mm / 2.0,
    )


@dataclass(frozen=True, kw_only=True, slots=True)
class DomedDisc:
    """A disc with a flat back and a domed face, and a hole near its upper edge.

    Attributes
    ----------
    edge_mm : thickness at the edge
    rise_mm : how much the middle is thicker
    hole_mm, web_mm : hole, and material between it and the edge
    """

    diameter_mm: float
    edge_mm: float
    rise_mm: float
    hole_mm: float
    web_mm: float

    @property
    def ball_radius_mm(self) -> float:
        """Radius of the dome: (w^2 / 4 + d^2) / 2 d for a chord w and its sagitta d."""
        return (self.diameter_mm**2 / 4.0 + self.rise_mm**2) / (2.0 * self.rise_mm)

    @property
    def areas(self) -> tuple[Area, ...]:
        """The dome, unrolled from its middle."""
        return (_dome(self),)

    def body(self, sagitta_mm: float) -> m3.Manifold:
        """The disc before lettering."""
        return _domed(self, sagitta_mm)


def _round_outline(radius_mm: float) -> shapely.Polygon:
    """A disc about (0, 0), anticlockwise."""
    return shapely.orient_polygons(shapely.Point(0.0, 0.0).buffer(radius_mm, quad_segs=64))


@remembered
def _dome(of: DomedDisc) -> Area:
    radius = of.ball_radius_mm
    reach = math.asin(of.diameter_mm / 2.0 / radius) * radius
    surface = BallPatch(radius_mm=radius, centre_z_mm=of.edge_mm + of.rise_mm - radius)
    # The hole goes straight through: on the dome it lies a little further out than it looks from above.
    off = of.diameter_mm / 2.0 - of.web_mm - of.hole_mm / 2.0
    v = math.asin(off / radius) * radius
    return Area(
        name="face",
        surface=surface,
        outline=_round_outline(reach),
        keep_outs=(KeepOut(name="hole", outline=disc(0.0, v, of.hole_mm / 2.0 * 1.05)),),
        anchor=(0.0, -of.hole_mm / 4.0),
        wall_mm=of.edge_mm,
        thickest_mm=(of.edge_mm + of.rise_mm) * 1.1,
    )


@remembered
def _domed(of: DomedDisc, sagitta_mm: float) -> m3.Manifold:
    outer, radius = of.diameter_mm / 2.0, of.ball_radius_mm
    arc = Arc(
        centre=(0.0, of.edge_mm + of.rise_mm - radius), radius_mm=radius,
        from_rad=math.acos(outer / radius), to_rad=math.pi / 2.0,
    )  # fmt: skip
    line = Profile(pieces=(arc,)).polyline(sagitta_mm=sagitta_mm / 2.0)
    line[-1, 0] = 0.0
    section = polygon_of(np.array([(0.0, 0.0), (outer, 0.0)]), line)
    body = turned_body(section, sagitta_mm=sagitta_mm / 2.0)
    off = outer - of.web_mm - of.hole_mm / 2.0
    facets = facets_of(radius_mm=of.hole_mm / 2.0, sagitta_mm=sagitta_mm)
    drill = m3.Manifold.cylinder(of.edge_mm + of.rise_mm + 2.0, of.hole_mm / 2.0, circular_segments=facets)
    pierced = body - drill.translate((0.0, off, -1.0))
    pierced.num_tri()
    return pierced


@dataclass(frozen=True, kw_only=True, slots=True)
class Coin:
    """A coin or button, lettered on its face or right round its edge.

    Attributes
    ----------
    round_mm : radius by which the edge is rounded; 0 is a square edge
    """

    diameter_mm: float
    thickness_mm: float
    round_mm: float = 0.0

    @property
    def areas(self) -> tuple[Area, ...]:
        """The edge all the way round, and the face."""
        return (_coin_edge(self), _coin_face(self))

    def body(self, sagitta_mm: float) -> m3.Manifold:
        """The coin before lettering."""
        return _coin(self, sagitta_mm)

    @property
    def profile(self) -> Profile:
        """The edge upward, from face to face."""
        outer, thick, r = self.diameter_mm / 2.0, self.thickness_mm, self.round_mm
        if not r:
            return Profile(pieces=(Line(start=(outer, 0.0), end=(outer, thick)),))
        quarter = math.pi / 2.0
        low = Arc(centre=(outer - r, r), radius_mm=r, from_rad=-quarter, to_rad=0.0)
        high = Arc(centre=(outer - r, thick - r), radius_mm=r, from_rad=0.0, to_rad=quarter)
        flat = thick - 2.0 * r
        straight = (Line(start=(outer, r), end=(outer, thick - r)),) if flat > 1e-9 else ()
        return Profile(pieces=(low, *straight, high))


@remembered
def _coin_edge(coin: Coin) -> Area:
    outer = coin.diameter_mm / 2.0
    if not coin.round_mm:
        surface = Cylinder(radius_mm=outer)
        return round_area("edge", surface, low_v=0.0, high_v=coin.thickness_mm, wall_mm=outer)
    middle, r = coin.profile.length_mm / 2.0, coin.round_mm
    # Up to 60 degrees round the edge: beyond, lettering would face up more than out.
    reach = middle - r * math.radians(30.0)
    turned = Turned(profile=coin.profile, reference_mm=middle)
    # There a cut along the normal comes out of the other face.
    slope = math.sin(math.radians(60.0))
    wall = min(outer - r, (coin.thickness_mm - r + r * slope) / slope)
    return round_area("edge", turned, low_v=-reach, high_v=reach, wall_mm=wall)


@remembered
def _coin_face(coin: Coin) -> Area:
    return Area(
        name="face",
        surface=Plane(z_mm=coin.thickness_mm),
        outline=_round_outline(coin.diameter_mm / 2.0 - coin.round_mm),
        keep_outs=(),
        anchor=(0.0, 0.0),
        wall_mm=coin.thickness_mm,
    )


@remembered
def _coin(coin: Coin, sagitta_mm: float) -> m3.Manifold:
    share = sagitta_mm / 2.0 if coin.round_mm else sagitta_mm
    line = coin.profile.polyline(sagitta_mm=share)
    section = polygon_of(line, np.array([(0.0, line[-1, 1])]), np.array([(0.0, line[0, 1])]))
    return turned_body(section, sagitta_mm=share)


@dataclass(frozen=True, kw_only=True, slots=True)
class Sleeve:
    """A tube or grip standing on z = 0, straight or tapered.

    Attributes
    ----------
    low_mm, high_mm : outer diameters below and above
    bore_mm : diameter of the hole through it; 0 is solid
    sectors : 2 or 3 parts the outside into as many areas, each of its own; 0 does not
    """

    low_mm: float
    high_mm: float
    length_mm: float
    bore_mm: float = 0.0
    sectors: float = 0.0

    @property
    def areas(self) -> tuple[Area, ...]:
        """The outside all round, and its sectors, the first at the front."""
        return (_sleeve_outside(self), *_sleeve_sectors(self))

    def body(self, sagitta_mm: float) -> m3.Manifold:
        """The sleeve before lettering."""
        return _sleeve(self, sagitta_mm)


@remembered
def _sleeve_outside(of: Sleeve) -> Area:
    wall = (min(of.low_mm, of.high_mm) - of.bore_mm) / 2.0
    if of.low_mm == of.high_mm:
        surface = Cylinder(radius_mm=of.low_mm / 2.0)
        return round_area("outside", surface, low_v=0.0, high_v=of.length_mm, wall_mm=wall)
    cone = Cone(low_radius_mm=of.low_mm / 2.0, high_radius_mm=of.high_mm / 2.0, height_mm=of.length_mm)
    # A cut along the tilted normal is longer than the wall is thick, and the wide end is thicker.
    cosine = math.sqrt(1.0 - cone.sine**2)
    thickest = (max(of.low_mm, of.high_mm) - of.bore_mm) / 2.0 / cosine
    return sector_area(
        "outside", cone, cone.outline(), anchor_v=cone.slant_mm / 2.0, wall_mm=wall, thickest_mm=thickest
    )


@remembered
def _sleeve_sectors(of: Sleeve) -> tuple[Area, ...]:
    whole, count = _sleeve_outside(of), round(of.sectors)
    areas = []
    for number in range(count):
        # The first at the front, the others to its right, and of three the last to its left.
        shift = number / count if number / count <= 0.5 else number / count - 1.0
        low, high = shift - 0.5 / count, shift + 0.5 / count
        surface = whole.surface
        if isinstance(surface, Cone):
            half = surface.sector_rad / 2.0 / count
            outline, anchor = shapely.Polygon(surface.part(-half, half)), whole.anchor
            # Level lettering is bent about the front, so that is where each sector's own front is turned to.
            surface = replace(surface, front_rad=2.0 * math.pi * shift)
        else:
            turn = math.pi * of.low_mm
            surface = CylinderPart(radius_mm=of.low_mm / 2.0)
            outline = shapely.box(turn * (0.5 + low), 0.0, turn * (0.5 + high), of.length_mm)
            anchor = (turn * (0.5 + shift), of.length_mm / 2.0)
        areas.append(
            replace(whole, name=f"sector {number + 1}", surface=surface, outline=outline, anchor=anchor)
        )
    return tuple(areas)


@remembered
def _sleeve(of: Sleeve, sagitta_mm: float) -> m3.Manifold:
    inner = of.bore_mm / 2.0
    section = [(of.low_mm / 2.0, 0.0), (of.high_mm / 2.0, of.length_mm), (inner, of.length_mm), (inner, 0.0)]
    return turned_body(np.array(section), sagitta_mm=sagitta_mm)

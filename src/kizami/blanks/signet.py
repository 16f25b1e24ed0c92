"""Signet rings: a head, flat or domed, on a shank that grows out of it."""

from __future__ import annotations

import math
from dataclasses import asdict, dataclass
from typing import Literal

import manifold3d as m3
import numpy as np
import shapely

from kizami.blanks.area import Area
from kizami.blanks.blank import polygon_of, round_area, turned_body
from kizami.blanks.outlines import plate_outline
from kizami.remembering import remembered
from kizami.sizes import RingSize
from kizami.surfaces.ball_patch import BallPatch
from kizami.surfaces.bore import Bore
from kizami.surfaces.chords import facets_of
from kizami.surfaces.moved import Moved
from kizami.surfaces.plane import Plane
from kizami.surfaces.protocol import FloatArray
from kizami.surfaces.turned import Arc, Profile

__all__ = ["Signet", "SignetSpec"]


@dataclass(frozen=True, kw_only=True, slots=True)
class SignetSpec:
    """A signet ring whose bore comes from each line's size.

    Attributes
    ----------
    head : outline of the head
    head_length_mm, head_width_mm : along the finger's turn and along the finger
    corner_mm : of a rounded head
    rise_mm : how far the head stands above the shank
    dome_mm : how much higher its middle is than the ends of its longer side; 0 is flat
    shank_mm, wall_mm : width and wall of the shank
    """

    head: Literal["oval", "rounded"] = "oval"
    head_length_mm: float
    head_width_mm: float
    corner_mm: float = 0.0
    rise_mm: float
    dome_mm: float = 0.0
    shank_mm: float
    wall_mm: float

    def blank(self, size: RingSize) -> Signet:
        """The ring in a size."""
        return Signet(bore_mm=size.bore_mm, **asdict(self))


@dataclass(frozen=True, kw_only=True, slots=True)
class Signet(SignetSpec):
    """A signet ring in a size: its axis is y, its head looks up, the bore's middle is the origin."""

    bore_mm: float

    @property
    def face_mm(self) -> float:
        """Height of the flat face, or of the ends of a domed one, above the axis."""
        return self.bore_mm / 2.0 + self.wall_mm + self.rise_mm

    @property
    def ball_radius_mm(self) -> float:
        """Of a domed face: (a^2 + d^2) / 2 d for half its longer side a and its dome d."""
        half = max(self.head_length_mm, self.head_width_mm) / 2.0
        return (half**2 + self.dome_mm**2) / (2.0 * self.dome_mm)

    @property
    def areas(self) -> tuple[Area, ...]:
        """The face of the head and the inside of the bore, both read with the finger pointing up."""
        return (_face(self), _inside(self))

    def body(self, sagitta_mm: float) -> m3.Manifold:
        """The ring before lettering."""
        return _body(self, sagitta_mm)


def _head(ring: Signet, sagitta_mm: float) -> FloatArray:
    """The head from above, its middle at (0, 0)."""
    corner = ring.corner_mm if ring.head == "rounded" else 0.0
    points = plate_outline(
        ring.head,
        length_mm=ring.head_length_mm,
        height_mm=ring.head_width_mm,
        corner_mm=corner,
        sagitta_mm=sagitta_mm,
    )
    return points - np.array([ring.head_length_mm, ring.head_width_mm]) / 2.0


@remembered
def _face(ring: Signet) -> Area:
    outline = _head(ring, 0.001)
    surface: Plane | BallPatch = Plane(z_mm=ring.face_mm)
    if ring.dome_mm:
        radius = ring.ball_radius_mm
        surface = BallPatch(radius_mm=radius, centre_z_mm=ring.face_mm + ring.dome_mm - radius)
        # From the middle out, an arc of the ball lies above each straight length.
        reach = np.hypot(*outline.T)
        outline = outline * (radius * np.arcsin(reach / radius) / reach)[:, None]
    return Area(
        name="face",
        surface=surface,
        outline=shapely.Polygon(outline),
        keep_outs=(),
        anchor=(0.0, 0.0),
        wall_mm=ring.wall_mm + ring.rise_mm,
        thickest_mm=ring.face_mm + ring.dome_mm,
        back="inside",
    )


@remembered
def _inside(ring: Signet) -> Area:
    """The bore, as wide as the shank; wording stands under the head."""
    bore = Bore(radius_mm=ring.bore_mm / 2.0)
    # A bore about z, its front and so the middle of its wording turned up under the head.
    surface = Moved(
        surface=bore,
        rows=((1.0, 0.0, 0.0), (0.0, 0.0, 1.0), (0.0, -1.0, 0.0)),
        origin=(0.0, -ring.shank_mm / 2.0, 0.0),
    )
    # The wall is the shank's: elsewhere than under the head it is no thicker.
    return round_area(
        "inside",
        surface,
        low_v=0.0,
        high_v=ring.shank_mm,
        wall_mm=ring.wall_mm,
        thickest_mm=ring.face_mm + ring.dome_mm,
    )


@remembered
def _body(ring: Signet, sagitta_mm: float) -> m3.Manifold:
    outer = ring.bore_mm / 2.0 + ring.wall_mm
    facets = facets_of(radius_mm=outer, sagitta_mm=sagitta_mm)

    def along_y(radius: float, width: float) -> m3.Manifold:
        drum = m3.Manifold.cylinder(width, radius, circular_segments=facets, center=True)
        return drum.rotate((90.0, 0.0, 0.0))

    shank = along_y(outer, ring.shank_mm)
    outline = m3.CrossSection([_head(ring, sagitta_mm)])
    # Shoulders run straight from the head's edge to the shank, level with the axis where it is widest.
    upper = shank.trim_by_plane((0.0, 0.0, 1.0), outer * math.sin(_SHOULDER_RAD))
    foot = ring.face_mm - ring.rise_mm / 2.0
    edge = m3.Manifold.extrude(outline, ring.rise_mm / 2.0).translate((0.0, 0.0, foot))
    whole = shank + m3.Manifold.batch_hull([edge, upper])
    if ring.dome_mm:
        post = m3.Manifold.extrude(outline, ring.dome_mm + ring.rise_mm).translate((0.0, 0.0, foot))
        # All that would stand above the dome is taken off, so that the head's edge follows it.
        whole = (whole + post) ^ _under_dome(ring, outer, sagitta_mm)
    body = whole - along_y(ring.bore_mm / 2.0, 4.0 * (ring.head_width_mm + ring.shank_mm))
    body.num_tri()
    return body


def _under_dome(ring: Signet, outer_mm: float, sagitta_mm: float) -> m3.Manifold:
    """Everything below the dome: a turned body wider and deeper than the ring."""
    radius = ring.ball_radius_mm
    reach = math.hypot(ring.head_length_mm, ring.head_width_mm) / 2.0 + 0.5
    arc = Arc(
        centre=(0.0, ring.face_mm + ring.dome_mm - radius),
        radius_mm=radius,
        from_rad=math.acos(min(1.0, reach / radius)),
        to_rad=math.pi / 2.0,
    )
    # Half of the tolerance each way, as a ball bends both ways at once.
    line = Profile(pieces=(arc,)).polyline(sagitta_mm=sagitta_mm / 2.0)
    line[-1, 0] = 0.0
    far, low = 2.0 * (outer_mm + reach), -2.0 * outer_mm
    rim = float(line[0, 1])
    section = polygon_of(np.array([(0.0, low), (far, low), (far, rim)]), line)
    return turned_body(section, sagitta_mm=sagitta_mm / 2.0)


#: The shank is its own again this far above the axis.
_SHOULDER_RAD = math.radians(15.0)

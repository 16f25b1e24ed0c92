"""An area: the bounded part of a blank's surface that may carry lettering."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import TypeVar

import numpy as np
import shapely

from kizami.remembering import remembered
from kizami.surfaces.protocol import Apex, Surface

__all__ = ["Area", "KeepOut", "disc"]

_Shape = TypeVar("_Shape", bound=shapely.Geometry)


def disc(u_mm: float, v_mm: float, radius_mm: float) -> shapely.Polygon:
    """A round outline, drawn just outside the true circle so that a clearance from it is never short.

    64 sides: a corner stands out by r (1/cos(pi/64) - 1), 0.004 mm at r = 3 mm.
    """
    grown = radius_mm / math.cos(math.pi / 64.0)
    return shapely.Point(u_mm, v_mm).buffer(grown, quad_segs=16)


@dataclass(frozen=True, kw_only=True, slots=True)
class KeepOut:
    """A spot of an area that must stay clear: a hole, a sizing seam, a stone.

    Attributes
    ----------
    name : in workshop words
    outline : unrolled mm
    is_ornament : made with the letters, not there before them
    """

    name: str
    outline: shapely.Polygon
    is_ornament: bool = False


@dataclass(frozen=True, kw_only=True, slots=True)
class Area:
    """A bounded part of a surface, in unrolled mm.

    Attributes
    ----------
    name : in workshop words
    surface : the map to space
    outline : bounds of the area; on a surface that closes on itself one full turn of it
    keep_outs : spots that must stay clear
    anchor : (u, v) about which wording is centred
    wall_mm : body thickness under the area along the normal, where it is thinnest, mm
    thickest_mm : the same where it is thickest; 0 when it is even
    notes : what people should know of how it was laid out
    back : name of the area on the other side of that wall, or ""
    standing : what of the blank already stands where letters that are the piece are cut, or None
    ornaments : closed shapes that get the letters' treatment, among the keep-outs too, or None
    """

    name: str
    surface: Surface
    outline: shapely.Polygon
    keep_outs: tuple[KeepOut, ...]
    anchor: tuple[float, float]
    wall_mm: float
    thickest_mm: float = 0.0
    notes: tuple[str, ...] = ()
    back: str = ""
    standing: shapely.Polygon | None = None
    ornaments: shapely.Geometry | None = None

    @property
    def through_mm(self) -> float:
        """How deep a cut must go to come out everywhere."""
        return max(self.wall_mm, self.thickest_mm)

    @property
    def spots(self) -> tuple[KeepOut, ...]:
        """Keep-outs of the blank itself."""
        return tuple(k for k in self.keep_outs if not k.is_ornament)

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """(u low, v low, u high, v high) of the outline and of what stands around it, mm."""
        whole = self.outline if self.standing is None else self.outline.union(self.standing)
        low_u, low_v, high_u, high_v = whole.bounds
        return (low_u, low_v, high_u, high_v)

    @property
    def is_closed(self) -> bool:
        """A full turn of a surface that meets itself: its two ends are no edges."""
        return _is_closed(self)

    def turned(self, shape: _Shape, turns: float) -> _Shape:
        """A shape moved along the reading direction by so many turns of the body."""
        apex, period = self.surface.apex, self.surface.period_mm
        if apex is not None:
            angle = turns * apex.turn_rad * (1.0 if apex.v_mm > self.anchor[1] else -1.0)
            turned: _Shape = shapely.transform(shape, lambda uv: apex.turned(uv, angle))
            return turned
        assert period is not None
        moved: _Shape = shapely.transform(shape, lambda uv: uv + np.array([turns * period, 0.0]))
        return moved

    def wedge(self, half_rad: float) -> shapely.Polygon:
        """All that lies within an angle of the middle of an unrolled cone; it is far longer than any area."""
        apex = self.surface.apex
        assert apex is not None
        away = -1.0 if apex.v_mm > self.anchor[1] else 1.0
        angles = np.linspace(-half_rad, half_rad, 33)
        rim = np.column_stack((np.sin(angles), away * np.cos(angles))) * 1e4
        centre = np.array([[apex.u_mm, apex.v_mm]])
        return shapely.Polygon(np.vstack((centre, centre + rim)))

    def clear_region(self, clearance_mm: float) -> shapely.Polygon | shapely.MultiPolygon:
        """Where lettering may be, `clearance_mm` away from every edge and keep-out.

        On a closed surface the two ends of the unrolled area are not edges: neighbouring turns
        are laid beside it before the clearance is taken.
        """
        return _clear_region(self, clearance_mm)

    def clear_turns(self, clearance_mm: float) -> shapely.Geometry:
        """The clear region of a closed area with what lies beyond its two ends, where letters may reach."""
        return _clear_turns(self, clearance_mm)

    def edges(self) -> shapely.Geometry:
        """Lines that lettering must keep away from: the outline and the keep-outs, as one geometry."""
        return _edges(self)


@remembered
def _is_closed(area: Area) -> bool:
    apex = area.surface.apex
    if apex is None:
        return area.surface.period_mm is not None
    reach = shapely.get_coordinates(area.outline) - (apex.u_mm, apex.v_mm)
    away = -1.0 if apex.v_mm > area.anchor[1] else 1.0
    angles = np.arctan2(reach[:, 0], away * reach[:, 1])
    return bool(np.ptp(angles) >= apex.turn_rad - 1e-6 and _spare_rad(apex) > 0.01)


def _spare_rad(apex: Apex) -> float:
    """How much of the plane is left beside an unrolled cone for what reaches over its cut, either way."""
    return min(apex.turn_rad, (2.0 * math.pi - apex.turn_rad) / 2.0 * 0.9)


@remembered
def _free(area: Area) -> shapely.Geometry:
    """The area less its keep-outs; of a closed one with what lies beyond its two ends."""
    if not area.is_closed:
        spots = shapely.union_all([k.outline for k in area.keep_outs])
        return area.outline.difference(spots)
    apex = area.surface.apex
    room = None if apex is None else area.wedge(apex.turn_rad / 2.0 + _spare_rad(apex))

    def turns(outline: shapely.Polygon) -> list[shapely.Geometry]:
        sides = [area.turned(outline, side) for side in (-1.0, 1.0)]
        return [outline, *(side if room is None else side.intersection(room) for side in sides)]

    whole = shapely.union_all(turns(area.outline))
    if apex is not None:
        # Turned ends meet but for rounding: a hair's breadth closes them.
        whole = whole.buffer(1e-6).buffer(-1e-6)
    spots = [spot for keep_out in area.keep_outs for spot in turns(keep_out.outline)]
    # The neighbouring turns have ends of their own, far from the turn that carries the wording.
    return whole.difference(shapely.union_all(spots)) if spots else whole


@remembered
def _clear_region(area: Area, clearance_mm: float) -> shapely.Polygon | shapely.MultiPolygon:
    region = _clear_turns(area, clearance_mm)
    return region.intersection(area.outline) if area.is_closed else region


@remembered
def _clear_turns(area: Area, clearance_mm: float) -> shapely.Geometry:
    # Round about corners that point inward, such as the notch of a heart: that is where a distance ends.
    # With 64 chords a quarter turn it is short by less than a ten-thousandth of the clearance.
    return _free(area).buffer(-clearance_mm, quad_segs=64)


@remembered
def _edges(area: Area) -> shapely.Geometry:
    boundary = _free(area).boundary
    apex, period = area.surface.apex, area.surface.period_mm
    if area.is_closed and apex is not None:
        half = apex.turn_rad / 2.0 + _spare_rad(apex) / 2.0
        boundary = boundary.intersection(area.wedge(half))
    elif period is not None:
        low, _, high, _ = area.outline.bounds
        boundary = boundary.intersection(shapely.box(low - 0.5 * period, -1e6, high + 0.5 * period, 1e6))
    return boundary

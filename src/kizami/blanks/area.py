"""An area: the bounded part of a blank's surface that may carry lettering."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import shapely

from kizami.surfaces.protocol import Surface

__all__ = ["Area", "KeepOut", "disc"]


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

    def clear_region(self, clearance_mm: float) -> shapely.Polygon | shapely.MultiPolygon:
        """Where lettering may be, `clearance_mm` away from every edge and keep-out.

        On a closed surface the two ends of the unrolled area are not edges: neighbouring turns
        are laid beside it before the clearance is taken.
        """
        return _clear_region(self, clearance_mm)

    def edges(self) -> shapely.Geometry:
        """Lines that lettering must keep away from: the outline and the keep-outs, as one geometry."""
        return _edges(self)


def _free(area: Area) -> shapely.Geometry:
    period = area.surface.period_mm
    shifts = (0.0,) if period is None else (-period, 0.0, period)
    turns = shapely.union_all([_along(area.outline, s) for s in shifts])
    spots = [_along(k.outline, s) for k in area.keep_outs for s in shifts]
    # The neighbouring turns have ends of their own, far from the turn that carries the wording.
    return turns.difference(shapely.union_all(spots)) if spots else turns


def _along(outline: shapely.Polygon, shift_mm: float) -> shapely.Polygon:
    """The outline moved along u."""
    return shapely.transform(outline, lambda uv: uv + np.array([shift_mm, 0.0]))


@lru_cache(maxsize=512)
def _clear_region(area: Area, clearance_mm: float) -> shapely.Polygon | shapely.MultiPolygon:
    # Round about corners that point inward, such as the notch of a heart: that is where a distance ends.
    # With 64 chords a quarter turn it is short by less than a ten-thousandth of the clearance.
    shrunk = _free(area).buffer(-clearance_mm, quad_segs=64)
    region = shrunk.intersection(area.outline) if area.surface.period_mm is not None else shrunk
    shapely.prepare(region)
    return region


@lru_cache(maxsize=512)
def _edges(area: Area) -> shapely.Geometry:
    period = area.surface.period_mm
    boundary = _free(area).boundary
    if period is not None:
        low, _, high, _ = area.outline.bounds
        boundary = boundary.intersection(shapely.box(low - 0.5 * period, -1e6, high + 0.5 * period, 1e6))
    shapely.prepare(boundary)
    return boundary

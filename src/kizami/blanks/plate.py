"""Plates of any outline, with a hole or an ear to hang them by, and by choice a tray with a rim."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import manifold3d as m3
import numpy as np
import shapely

from kizami.blanks.area import Area, KeepOut, disc
from kizami.blanks.fillets import filleted_joint, foot_levels
from kizami.blanks.outlines import plate_outline
from kizami.dividing.relief import relief
from kizami.remembering import remembered
from kizami.surfaces.chords import facets_of
from kizami.surfaces.plane import Plane, PlaneAt

__all__ = ["WORDS_FORM", "Plate"]

#: How much longer than high the room for words is looked for (common practice, no source).
WORDS_FORM = 3.0


@dataclass(frozen=True, kw_only=True, slots=True)
class Plate:
    """A plate lying with its face up, the lower left corner of its box at (0, 0, 0).

    Attributes
    ----------
    outline : see `kizami.blanks.outlines`, or “free”
    points : corners of a free outline in any unit; it is drawn as large as length and height say
    openings : corners of what is open right through it, in the numbers of its points
    length_mm, height_mm, thickness_mm : overall, without an ear
    corner_mm : for outlines that have corners
    hang : “none”, “hole left”, “hole top”: inside the outline, or “ear top”: a ring on top of it
    hole_mm : diameter of that hole
    web_mm : material between the hole and the outline, or of the ear
    tray_mm : depth of a tray that leaves a rim; 0 is none
    rim_mm : width of that rim
    fillet_mm : radius in the corners between ear and plate, and between floor and rim of a tray
    """

    outline: str
    length_mm: float
    height_mm: float
    thickness_mm: float
    corner_mm: float = 0.0
    hang: Literal["none", "hole left", "hole top", "ear top"] = "none"
    hole_mm: float = 0.0
    web_mm: float = 0.0
    tray_mm: float = 0.0
    rim_mm: float = 0.0
    points: tuple[tuple[float, float], ...] = ()
    fillet_mm: float = 0.0
    openings: tuple[tuple[tuple[float, float], ...], ...] = ()

    @property
    def areas(self) -> tuple[Area, ...]:
        """The face, which is the floor of a tray, and the back, which reads from behind."""
        return (_face(self), _back(self))

    def body(self, sagitta_mm: float) -> m3.Manifold:
        """The plate before lettering."""
        return _body(self, sagitta_mm)

    @property
    def hole_centre(self) -> tuple[float, float] | None:
        """Where the hole is, or None."""
        middle = (self.length_mm / 2.0, self.height_mm / 2.0)
        reach = self.web_mm + self.hole_mm / 2.0
        return {
            "none": None,
            "hole left": (reach, middle[1]),
            "hole top": (middle[0], self.height_mm - reach),
            # An ear stands half its web into the plate, so that the two are one.
            "ear top": (middle[0], self._top_at_middle + self.hole_mm / 2.0 + self.web_mm / 2.0),
        }[self.hang]

    @property
    def hangs_at_mm(self) -> tuple[float, float] | None:
        """Where it hangs upright: the top of its hole; None where it hangs by a side or not at all."""
        centre = self.hole_centre
        if centre is None or self.hang == "hole left":
            return None
        return (centre[0], centre[1] + self.hole_mm / 2.0)

    @property
    def _top_at_middle(self) -> float:
        """Height of the outline above its middle: a heart has a notch there."""
        line = shapely.LineString(
            [(self.length_mm / 2.0, -1.0), (self.length_mm / 2.0, self.height_mm + 1.0)]
        )
        return float(_polygon(self, 0.001).intersection(line).bounds[3])


def _drawn(plate: Plate, corners: tuple[tuple[float, float], ...]) -> shapely.Polygon:
    """A shape in the numbers of a free outline's points, as large as the plate is."""
    points = np.array(plate.points)
    low, size = points.min(axis=0), np.ptp(points, axis=0)
    scaled = (np.array(corners) - low) / size * (plate.length_mm, plate.height_mm)
    return shapely.orient_polygons(shapely.Polygon(scaled))


def _openings(plate: Plate) -> list[shapely.Polygon]:
    return [_drawn(plate, corners) for corners in plate.openings]


def _polygon(plate: Plate, sagitta_mm: float) -> shapely.Polygon:
    """The outline, without what is open within it."""
    if plate.outline == "free":
        return _drawn(plate, plate.points)
    return shapely.Polygon(
        plate_outline(
            plate.outline,
            length_mm=plate.length_mm,
            height_mm=plate.height_mm,
            corner_mm=plate.corner_mm,
            sagitta_mm=sagitta_mm,
        )
    )


def _floor(plate: Plate, sagitta_mm: float) -> shapely.Polygon:
    """What lies within the rim of a tray; without one the whole outline."""
    whole = _polygon(plate, sagitta_mm)
    if not plate.tray_mm:
        return whole
    fine = max(4, math.ceil(math.sqrt(plate.rim_mm / sagitta_mm)))
    inner = whole.buffer(-plate.rim_mm, quad_segs=fine)
    hole = plate.hole_centre
    if hole is not None and plate.hang != "ear top":
        # The hole keeps a collar as wide as its web, so that the tray does not weaken it.
        inner = inner.difference(disc(*hole, plate.hole_mm / 2.0 + plate.web_mm))
    # So do openings, as wide as the rim.
    for opening in _openings(plate):
        inner = inner.difference(opening.buffer(plate.rim_mm, quad_segs=fine))
    parts = shapely.get_parts(inner)
    return shapely.orient_polygons(max(parts, key=lambda p: p.area)) if len(parts) else whole


@remembered
def _face(plate: Plate) -> Area:
    floor = _floor(plate, 0.001)
    if plate.tray_mm and plate.fillet_mm:
        # What is level: the round at the foot of the rim carries no lettering.
        level = shapely.get_parts(floor.buffer(-plate.fillet_mm, join_style="mitre"))
        floor = shapely.orient_polygons(max(level, key=lambda p: p.area))
    return Area(
        name="face",
        surface=Plane(z_mm=plate.thickness_mm - plate.tray_mm),
        outline=floor,
        keep_outs=_holes(plate, mirrored=False),
        anchor=_anchor(plate, floor),
        wall_mm=plate.thickness_mm - plate.tray_mm,
        back="back",
    )


@remembered
def _back(plate: Plate) -> Area:
    whole = shapely.transform(
        _polygon(plate, 0.001), lambda xy: np.array([plate.length_mm, 0.0]) + xy * (-1.0, 1.0)
    )
    u, v = _anchor(plate, _polygon(plate, 0.001))
    return Area(
        name="back",
        surface=PlaneAt(origin=(plate.length_mm, 0.0, 0.0), right=(-1.0, 0.0, 0.0), up=(0.0, 1.0, 0.0)),
        outline=shapely.orient_polygons(whole),
        keep_outs=_holes(plate, mirrored=True),
        anchor=(plate.length_mm - u, v),
        wall_mm=plate.thickness_mm - plate.tray_mm,
        back="face",
    )


def _holes(plate: Plate, *, mirrored: bool) -> tuple[KeepOut, ...]:
    across = np.array([plate.length_mm, 0.0])
    openings = tuple(
        KeepOut(
            name="opening",
            outline=shapely.transform(one, lambda xy: across + xy * (-1.0, 1.0)) if mirrored else one,
        )
        for one in _openings(plate)
    )
    if plate.hole_centre is None:
        return openings
    u, v = plate.hole_centre
    name = "ear" if plate.hang == "ear top" else "hole"
    at = plate.length_mm - u if mirrored else u
    return (KeepOut(name=name, outline=disc(at, v, plate.hole_mm / 2.0)), *openings)


def _anchor(plate: Plate, region: shapely.Polygon) -> tuple[float, float]:
    """Centred on what a hole leaves; in a heart on its widest part, where the eye looks for words."""
    low_u, low_v, high_u, high_v = region.bounds
    u, v = (low_u + high_u) / 2.0, (low_v + high_v) / 2.0
    if plate.hang == "hole left":
        u = (plate.web_mm + plate.hole_mm + plate.length_mm) / 2.0
    elif plate.hang == "hole top" and plate.outline in ("rounded", "ticket"):
        v = (plate.height_mm - plate.web_mm - plate.hole_mm) / 2.0
    if plate.outline == "free":
        # Where most room is for words, clear of holes: a word is about three times as long as it is high, so
        # it is the largest oval of that form which goes in, found as a circle in what is squeezed so much.
        spots = shapely.union_all([k.outline.buffer(plate.web_mm) for k in _holes(plate, mirrored=False)])
        squeezed = shapely.transform(region.difference(spots), lambda uv: uv / (WORDS_FORM, 1.0))
        u, v = shapely.maximum_inscribed_circle(squeezed).coords[0]
        u *= WORDS_FORM
    if plate.outline == "heart":
        v = plate.height_mm * 0.58
    return (u, v)


@remembered
def _body(plate: Plate, sagitta_mm: float) -> m3.Manifold:
    whole, hole = _polygon(plate, sagitta_mm), plate.hole_centre
    if hole is not None and plate.hang == "ear top":
        outer = plate.hole_mm / 2.0 + plate.web_mm
        (ring,) = _circle(hole, outer, sagitta_mm).to_polygons()
        ear = shapely.Polygon(ring)
        whole = filleted_joint(whole.union(ear), ear, plate.fillet_mm, sagitta_mm=sagitta_mm)
    rings = [np.asarray(r.coords)[:-1] for r in (whole.exterior, *whole.interiors)]
    flat = m3.CrossSection(rings, m3.FillRule.EvenOdd)
    if hole is not None:
        flat = flat - _circle(hole, plate.hole_mm / 2.0, sagitta_mm)
    if plate.openings:
        rings = [np.asarray(one.exterior.coords)[:-1] for one in _openings(plate)]
        flat = flat - m3.CrossSection(rings, m3.FillRule.NonZero)
    body = m3.Manifold.extrude(flat, plate.thickness_mm)
    if plate.tray_mm:
        # It reaches a little above the face, so that the two tops never share a plane.
        levels = foot_levels(plate.tray_mm, plate.fillet_mm, above_mm=1.0, sagitta_mm=sagitta_mm)
        cut = relief(shapely.MultiPolygon([_floor(plate, sagitta_mm)]), levels)
        body = body - cut.translate((0.0, 0.0, plate.thickness_mm))
    body.num_tri()
    return body


def _circle(centre: tuple[float, float], radius: float, sagitta_mm: float) -> m3.CrossSection:
    return m3.CrossSection.circle(radius, facets_of(radius_mm=radius, sagitta_mm=sagitta_mm)).translate(
        centre
    )

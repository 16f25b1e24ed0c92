"""A rounded plate tag with a hole to hang it by."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import manifold3d as m3
import numpy as np
import shapely

from kizami.blanks.area import Area, KeepOut, disc
from kizami.surfaces.chords import chord_angle_rad
from kizami.surfaces.plane import Plane

__all__ = ["PlateTag"]


@dataclass(frozen=True, kw_only=True, slots=True)
class PlateTag:
    """A plate with rounded corners and a hole at its left end, lying with its face up.

    Attributes
    ----------
    length_mm, height_mm, thickness_mm : overall
    corner_mm : corner radius
    hole_mm : diameter of the hole
    hole_web_mm : material between the hole and the left edge
    """

    length_mm: float
    height_mm: float
    thickness_mm: float
    corner_mm: float
    hole_mm: float
    hole_web_mm: float

    @property
    def hole_centre(self) -> tuple[float, float]:
        """Centre of the hole, mm from the lower left corner."""
        return (self.hole_web_mm + self.hole_mm / 2.0, self.height_mm / 2.0)

    @property
    def areas(self) -> tuple[Area, ...]:
        """The face of the plate."""
        return (_face(self),)

    def body(self, sagitta_mm: float) -> m3.Manifold:
        """The plate before lettering, chords within `sagitta_mm` of the true arcs."""
        return _body(self, sagitta_mm)


def _outline(tag: PlateTag, sagitta_mm: float) -> np.ndarray:
    """The rounded rectangle, anticlockwise, shape (n, 2)."""
    r = tag.corner_mm
    if r <= 0.0:
        return np.array(
            [(0, 0), (tag.length_mm, 0), (tag.length_mm, tag.height_mm), (0, tag.height_mm)], float
        )
    steps = max(1, math.ceil((math.pi / 2.0) / chord_angle_rad(radius_mm=r, sagitta_mm=sagitta_mm)))
    quarter = np.linspace(0.0, math.pi / 2.0, steps + 1)
    centres = (
        (tag.length_mm - r, tag.height_mm - r, 0.0),
        (r, tag.height_mm - r, math.pi / 2.0),
        (r, r, math.pi),
        (tag.length_mm - r, r, 1.5 * math.pi),
    )
    arcs = [
        np.column_stack((x + r * np.cos(start + quarter), y + r * np.sin(start + quarter)))
        for x, y, start in centres
    ]
    points = np.vstack(arcs)
    # Half the height as radius makes arcs meet: the point they share must stand once only.
    distinct = np.hypot(*(points - np.roll(points, 1, axis=0)).T) > 1e-9
    outline: np.ndarray = points[distinct]
    return outline


@lru_cache(maxsize=256)
def _face(tag: PlateTag) -> Area:
    u, v = tag.hole_centre
    hole_end = tag.hole_web_mm + tag.hole_mm
    return Area(
        name="face",
        surface=Plane(z_mm=tag.thickness_mm),
        outline=shapely.Polygon(_outline(tag, 0.001)),
        keep_outs=(KeepOut(name="hole", outline=disc(u, v, tag.hole_mm / 2.0)),),
        # Centred on what the hole leaves, not on the plate: that is where the eye looks for it.
        anchor=((hole_end + tag.length_mm) / 2.0, tag.height_mm / 2.0),
        wall_mm=tag.thickness_mm,
    )


@lru_cache(maxsize=128)
def _body(tag: PlateTag, sagitta_mm: float) -> m3.Manifold:
    plate = m3.CrossSection([_outline(tag, sagitta_mm)])
    facets = math.ceil(2 * math.pi / chord_angle_rad(radius_mm=tag.hole_mm / 2.0, sagitta_mm=sagitta_mm))
    hole = m3.CrossSection.circle(tag.hole_mm / 2.0, facets).translate(tag.hole_centre)
    body = m3.Manifold.extrude(plate - hole, tag.thickness_mm)
    body.num_tri()  # built now, as results are otherwise worked out on first use
    return body

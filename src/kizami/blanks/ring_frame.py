"""A round frame with a loop, filled by a name that is cut from the same wall and joined to it."""

from __future__ import annotations

import math
from dataclasses import dataclass

import manifold3d as m3
import numpy as np
import shapely

from kizami.blanks.area import Area, disc
from kizami.blanks.fillets import filleted_joint
from kizami.remembering import remembered
from kizami.surfaces.chords import facets_of
from kizami.surfaces.plane import Plane

__all__ = ["RingFrame"]


@dataclass(frozen=True, kw_only=True, slots=True)
class RingFrame:
    """A frame lying on z = 0, its box from (0, 0); the loop stands on top of it.

    Attributes
    ----------
    diameter_mm : outer
    frame_mm : width of the frame
    thickness_mm : of the frame
    hole_mm, web_mm : of the loop: its hole and the material around it; 0 is no loop
    fillet_mm : radius in the corners between loop and frame
    """

    diameter_mm: float
    frame_mm: float
    thickness_mm: float
    hole_mm: float = 0.0
    web_mm: float = 0.0
    fillet_mm: float = 0.0

    @property
    def areas(self) -> tuple[Area, ...]:
        """What lies within the frame, half of the frame among it, where the letters join."""
        return (_inside(self),)

    def body(self, sagitta_mm: float) -> m3.Manifold:
        """The frame with its loop."""
        return _body(self, sagitta_mm)

    @property
    def hangs_at_mm(self) -> tuple[float, float] | None:
        """Where it hangs, the top of its loop's hole, or None."""
        if not self.hole_mm:
            return None
        return (self.diameter_mm / 2.0, self.diameter_mm + self.hole_mm + self.web_mm / 2.0)

    @property
    def flat(self) -> shapely.Polygon:
        """The frame with its loop from above, drawn finely."""
        return _flat(self, 64)


#: Fine enough for every use of the outline.
_FILLET_SAGITTA_MM = 0.001


def _flat(of: RingFrame, quarter: int) -> shapely.Polygon:
    middle = of.diameter_mm / 2.0
    centre = shapely.Point(middle, middle)
    whole = centre.buffer(middle, quad_segs=quarter)
    opening = centre.buffer(middle - of.frame_mm, quad_segs=quarter)
    if of.hole_mm:
        # It stands half its web into the frame, so that the two are one.
        at = shapely.Point(middle, of.diameter_mm + of.hole_mm / 2.0 + of.web_mm / 2.0)
        loop = at.buffer(of.hole_mm / 2.0 + of.web_mm, quad_segs=quarter)
        whole = filleted_joint(whole.union(loop), loop, of.fillet_mm, sagitta_mm=_FILLET_SAGITTA_MM)
        opening = opening.union(at.buffer(of.hole_mm / 2.0, quad_segs=quarter))
    return shapely.orient_polygons(whole.difference(opening))


@remembered
def _inside(of: RingFrame) -> Area:
    middle = of.diameter_mm / 2.0
    return Area(
        name="inside",
        surface=Plane(),
        outline=disc(middle, middle, middle - of.frame_mm / 2.0),
        keep_outs=(),
        anchor=(middle, middle),
        # Nothing lies under the letters: what stands is as thick as their treatment says.
        wall_mm=math.inf,
        standing=of.flat,
    )


@remembered
def _body(of: RingFrame, sagitta_mm: float) -> m3.Manifold:
    quarter = math.ceil(facets_of(radius_mm=of.diameter_mm / 2.0, sagitta_mm=sagitta_mm) / 4)
    flat = _flat(of, quarter)
    rings = [np.asarray(ring.coords)[:-1] for ring in (flat.exterior, *flat.interiors)]
    body = m3.Manifold.extrude(m3.CrossSection(rings, m3.FillRule.EvenOdd), of.thickness_mm)
    body.num_tri()
    return body

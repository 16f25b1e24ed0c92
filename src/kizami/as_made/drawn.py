"""How wide a stroke must be drawn, so that it is wide enough where it is narrowest on the piece."""

from __future__ import annotations

import numpy as np
import shapely

from kizami.as_made.scale import Scale
from kizami.as_made.treatment import Engraved, Raised, Treatment
from kizami.outlines.curves import FloatArray
from kizami.surfaces.protocol import Surface

__all__ = ["drawn_stroke_mm"]

#: A thickened stroke comes out a little narrower than its pen, by its chords, mm.
_SPARE_MM = 0.004


def drawn_stroke_mm(
    stroke_mm: float,
    treatment: Treatment,
    surface: Surface,
    bounds: tuple[float, float, float, float],
    *,
    pull: FloatArray | None = None,
) -> float:
    """Width of a drawn stroke that is `stroke_mm` wide at its top or floor as well, and where the surface is
    narrowest.

    Parameters
    ----------
    bounds : of the lettering, unrolled mm

    >>> from kizami.surfaces.plane import Plane
    >>> chamfered = Raised(height_mm=0.5, root_mm=0.3, edge="chamfer", edge_mm=0.1)
    >>> round(drawn_stroke_mm(0.35, chamfered, Plane(), (0.0, 0.0, 9.0, 3.0)), 3)
    0.554
    """
    if not isinstance(treatment, Engraved | Raised):
        return stroke_mm
    # A floor that is pointed or rounded is as wide as its stroke at the face, and nowhere else.
    is_flat = not isinstance(treatment, Engraved) or treatment.floor == "flat"
    inward_mm = treatment.inward_mm if is_flat else 0.0
    scale = Scale(surface, pull)
    least = 1.0
    if not scale.is_true:
        corners = shapely.get_coordinates(shapely.box(*bounds))
        around = np.vstack((corners, corners.mean(axis=0), (corners[:-1] + corners[1:]) / 2.0))
        heights = treatment.layer if is_flat else (0.0,)
        least = min(1.0, *(scale.span(around, height)[0] for height in heights))
    if inward_mm == 0.0 and least == 1.0:
        return stroke_mm
    return (stroke_mm + 2.0 * inward_mm) / max(least, _LEAST) + _SPARE_MM


#: Where a surface is narrower still, no stroke is drawn so wide that it makes up for it.
_LEAST = 0.5

"""A flat piece as what a beam does to a sheet: cuts, engraved areas and scored lines, in mm at full size."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d as m3
import numpy as np
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.treatment import CutOut, Engraved, InRecess, Pierced, Scored
from kizami.outlines.curves import bodies_of, polygons_from_contours
from kizami.surfaces.plane import Plane

__all__ = ["FlatWork", "flat_work"]

#: A sheet is looked at so far from its two faces, as a share of its thickness: softened edges end before.
_NEAR_FACE = 0.02
#: Less is what chords leave, mm2.
_SPECK_MM2 = 1e-3


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class FlatWork:
    """What is done to a sheet, from the lower left corner of the piece.

    Attributes
    ----------
    piece : what is left of the sheet: its outside, holes and pierced letters are cut
    engraved : areas that are taken down: trays, engraved letters, recesses around letters
    scored : letters whose outlines are drawn
    size_mm : width and height
    """

    piece: shapely.MultiPolygon
    engraved: shapely.MultiPolygon
    scored: shapely.MultiPolygon
    size_mm: tuple[float, float]


def flat_work(body: m3.Manifold | None, areas: Sequence[AsMade]) -> FlatWork | None:
    """What a beam does to make a piece; None for what no flat sheet gives.

    Parameters
    ----------
    body : the bare blank, its curves as fine as they are to be cut; None where the lettering is the piece
    areas : all that is lettered; what lies on the back is not done from the front
    """
    front = [made for made in areas if isinstance(made.area.surface, Plane) and made.pull is None]
    if not front:
        return None
    whole, taken = _sheet(body)
    engraved, scored = [taken], []
    for made in front:
        outlines, treatment = made.outlines, made.treatment
        if isinstance(treatment, CutOut):
            standing = made.area.standing
            whole = bodies_of(whole, outlines) if standing is None else bodies_of(outlines, standing)
        elif isinstance(treatment, Pierced):
            whole = bodies_of(whole.difference(outlines))
        elif isinstance(treatment, Engraved):
            engraved.append(outlines)
        elif isinstance(treatment, InRecess) and made.panel is not None:
            engraved.append(made.panel.difference(outlines))
        elif isinstance(treatment, Scored):
            scored.append(outlines)
    if whole.is_empty:
        return None
    low_u, low_v, high_u, high_v = whole.bounds

    def placed(shape: shapely.Geometry) -> shapely.MultiPolygon:
        return bodies_of(shapely.transform(shape, lambda uv: uv - np.array([low_u, low_v])))

    return FlatWork(
        piece=placed(whole),
        engraved=placed(shapely.union_all(engraved)),
        scored=placed(shapely.union_all(scored)) if scored else shapely.MultiPolygon(),
        size_mm=(high_u - low_u, high_v - low_v),
    )


def _sheet(body: m3.Manifold | None) -> tuple[shapely.MultiPolygon, shapely.MultiPolygon]:
    """The outline of a sheet with its holes, and what is taken down from its upper face."""
    if body is None:
        return shapely.MultiPolygon(), shapely.MultiPolygon()
    _, _, low, _, _, high = body.bounding_box()
    step = _NEAR_FACE * (high - low)
    under, over = (
        polygons_from_contours([np.asarray(c) for c in body.slice(z).to_polygons()])
        for z in (low + step, high - step)
    )
    taken = [part for part in shapely.get_parts(under.difference(over)) if part.area > _SPECK_MM2]
    return under, bodies_of(shapely.union_all(taken)) if taken else shapely.MultiPolygon()

"""A body with its lettering: the one place where a treatment becomes a solid."""

from __future__ import annotations

import itertools
from collections.abc import Callable
from functools import lru_cache

import manifold3d as m3
import numpy as np
import shapely

from kizami.blanks.area import Area
from kizami.errors import SolidError
from kizami.outlines.chains import Chain, chains_of
from kizami.outlines.curves import FloatArray, bodies_of
from kizami.outlines.relief import relief_volume_mm3
from kizami.outlines.shrinking import Level, thinnest_half_mm
from kizami.solids.flat import Flat, upright
from kizami.solids.lettering_solid import lay_on
from kizami.solids.treatment import CutOut, Engraved, InRecess, Pierced, Raised, Scored, Treatment
from kizami.surfaces.layer import layer_volume_mm3

__all__ = [
    "OVERSHOOT_MM",
    "changed_volume_mm3",
    "face_chains",
    "face_levels",
    "flat_lettering",
    "most_inward_mm",
    "pull_of",
    "recess_of",
    "recess_outline",
    "through_holes",
    "treat",
]

#: A cutter stands proud of the surface by this much, so that it never shares a face with the
#: body; it must exceed the chord error of both.
OVERSHOOT_MM = 0.05


def treat(
    body: m3.Manifold | None,
    outlines: shapely.MultiPolygon,
    *,
    area: Area,
    treatment: Treatment,
    sagitta_mm: float,
    pull: FloatArray | None = None,
    whole: shapely.MultiPolygon | None = None,
) -> m3.Manifold:
    """Lettering on a body as its treatment asks.

    Parameters
    ----------
    body : the blank; None where the lettering is the piece
    outlines : unrolled mm
    pull : see `kizami.solids.lettering_solid.lay_on`
    whole : all of the lettering where this is a part of it: its thinnest stroke bounds what is softened

    Raises
    ------
    SolidError : nothing is left of the body
    """
    surface = area.surface

    def laid(flat: Flat) -> m3.Manifold:
        return lay_on(flat, surface, sagitta_mm=sagitta_mm, pull=pull)

    letters = flat_lettering(outlines, treatment, through_mm=area.through_mm, whole=whole)
    if body is None:
        if not isinstance(treatment, CutOut) or letters is None:
            raise SolidError("A piece without a body can only be cut out.")
        result = laid(letters)
    elif letters is None:
        result = body
    elif isinstance(treatment, InRecess):
        result = body - recess_of(outlines, treatment, area, sagitta_mm=sagitta_mm, pull=pull) + laid(letters)
    else:
        result = body - laid(letters) if treatment.sinks else body + laid(letters)
    if result.status() != m3.Error.NoError:
        raise SolidError(f"The solid could not be built: {result.status().name}.")
    if result.is_empty():
        raise SolidError("Nothing is left of the body.")
    return result


def pull_of(area: Area) -> FloatArray:
    """The direction in which a mould is drawn off: the normal at the area's anchor, a unit vector."""
    at = np.array([area.anchor, area.anchor])
    foot, head = area.surface.place(at, np.array([0.0, 1.0]))
    pull: FloatArray = head - foot
    return pull / np.linalg.norm(pull)


def flat_lettering(
    outlines: shapely.MultiPolygon,
    treatment: Treatment,
    *,
    through_mm: float,
    whole: shapely.MultiPolygon | None = None,
) -> Flat | None:
    """What is cut away or added, before it is laid on, see `treat`; None when nothing is."""
    if isinstance(treatment, Scored):
        return None
    if isinstance(treatment, Pierced):
        return upright(outlines, -through_mm - OVERSHOOT_MM, OVERSHOOT_MM)
    if isinstance(treatment, CutOut):
        return upright(outlines, 0.0, treatment.thickness_mm)
    if isinstance(treatment, InRecess):
        low, high = treatment.layer
        return upright(outlines, low - treatment.root_mm, high)
    levels = treatment.levels(most_inward_mm(whole or outlines, treatment))
    top = (Level(inward_mm=0.0, height_mm=OVERSHOOT_MM),) if treatment.sinks else ()
    heights = [level.height_mm for level in (*top, *levels)]
    span = (min(heights), max(heights))
    if levels[-1].inward_mm == 0.0:
        return upright(outlines, *span)
    return Flat(outlines=outlines, levels=(*top, *levels))


def face_levels(treatment: Treatment, outlines: shapely.MultiPolygon) -> tuple[Level, ...] | None:
    """Levels from the face to the floor or the top, the outlines standing on the face as they are drawn.

    None for what does not start on the face or has no floor.
    """
    if not isinstance(treatment, Engraved | Raised):
        return None
    beyond = [
        lev
        for lev in treatment.levels(most_inward_mm(outlines, treatment))
        if lev.height_mm * _way(treatment) > 0
    ]
    return (Level(inward_mm=0.0, height_mm=0.0), *beyond)


def face_chains(
    treatment: Treatment, outlines: shapely.MultiPolygon, *, whole: shapely.MultiPolygon | None = None
) -> list[Chain] | None:
    """What stands on the face and in it, from outside inward, see `treat`; None for what can't be said so."""
    if isinstance(treatment, InRecess):
        panel = shapely.MultiPolygon([recess_outline(outlines, treatment.margin_mm)])
        floor, top = treatment.layer
        return [
            Chain(outlines=panel, inward_mm=0.0, outside_mm=0.0, inside_mm=floor),
            Chain(outlines=outlines, inward_mm=treatment.margin_mm, outside_mm=floor, inside_mm=top),
        ]
    levels = face_levels(treatment, whole or outlines)
    return None if levels is None else list(_chains(outlines, levels))


@lru_cache(maxsize=16)
def _chains(outlines: shapely.MultiPolygon, levels: tuple[Level, ...]) -> tuple[Chain, ...]:
    """Kept for a while, as a piece is measured against the chains that it was made of."""
    return tuple(chains_of(outlines, levels))


def _way(treatment: Treatment) -> float:
    return -1.0 if treatment.sinks else 1.0


def most_inward_mm(outlines: shapely.MultiPolygon, treatment: Treatment) -> float:
    """How far softened edges and slanted walls may move inward, so that no stroke loses its face.

    No more is said than the treatment asks for: that is found with one look.
    """
    asked = treatment.inward_mm if isinstance(treatment, Engraved | Raised) else 0.0
    return _INWARD_SHARE * thinnest_half_mm(outlines, enough_mm=asked / _INWARD_SHARE) if asked else 0.0


#: Share of half the thinnest stroke that a softened edge may take; the rest stays face.
_INWARD_SHARE = 0.7


def recess_outline(outlines: shapely.MultiPolygon, margin_mm: float) -> shapely.Polygon:
    """The recess around lettering: its box with rounded corners, the margin wide."""
    low_u, low_v, high_u, high_v = outlines.bounds
    return shapely.orient_polygons(shapely.box(low_u, low_v, high_u, high_v).buffer(margin_mm, quad_segs=16))


def recess_of(
    outlines: shapely.MultiPolygon,
    treatment: InRecess,
    area: Area,
    *,
    sagitta_mm: float,
    pull: FloatArray | None = None,
) -> m3.Manifold:
    """The recess around lettering, laid on."""
    panel = shapely.MultiPolygon([recess_outline(outlines, treatment.margin_mm)])
    flat = upright(panel, -treatment.depth_mm, OVERSHOOT_MM)
    return lay_on(flat, area.surface, sagitta_mm=sagitta_mm, pull=pull)


def changed_volume_mm3(
    area: Area, outlines: shapely.MultiPolygon, treatment: Treatment, *, pull: FloatArray | None = None
) -> tuple[float, float]:
    """The volume that a treatment adds, by the closed formula of the surface: least and most.

    What is taken away is below 0.

    The two differ only where a wall of uneven thickness is pierced. Between two levels the mean over
    three sections is taken (Simpson), which is exact for slanted walls. A pointed floor has no closed
    formula, as its ridges run where strokes meet: its section is measured flat and bent by the formula.
    """

    def layer(shape: shapely.MultiPolygon, low_mm: float, high_mm: float) -> float:
        return layer_volume_mm3(area.surface, shape, low_mm, high_mm, pull=pull)

    if isinstance(treatment, CutOut) and area.standing is not None:
        outlines = bodies_of(outlines.difference(area.standing))
    if isinstance(treatment, Pierced):
        least = layer(outlines, -area.wall_mm, 0.0)
        return -max(least, layer(outlines, -area.through_mm, 0.0)), -least
    volume = _changed_mm3(layer, outlines, treatment)
    return volume, volume


def _changed_mm3(
    layer: Callable[[shapely.MultiPolygon, float, float], float],
    outlines: shapely.MultiPolygon,
    treatment: Treatment,
) -> float:
    if isinstance(treatment, Scored | Pierced):
        return 0.0
    if isinstance(treatment, CutOut):
        return layer(outlines, 0.0, treatment.thickness_mm)
    if isinstance(treatment, InRecess):
        panel = shapely.MultiPolygon([recess_outline(outlines, treatment.margin_mm)])
        low, high = treatment.layer
        return layer(outlines, low, high) - layer(panel, low, 0.0)
    if isinstance(treatment, Engraved) and treatment.floor == "pointed":
        levels = treatment.levels(0.0)
        # Most of it lies in the upper half, where the groove is wide.
        middle = treatment.depth_mm / 2.0
        bent = layer(outlines, -middle, 0.0) / (outlines.area * middle)
        return float(-relief_volume_mm3(outlines, levels) * bent)
    chains = face_chains(treatment, outlines) or []
    total = 0.0
    for chain in chains:
        low, high = sorted((chain.outside_mm, chain.inside_mm))
        total += layer(chain.outlines, low, high) if high > low else 0.0
    for outer, inner in itertools.pairwise(chains):
        low, high = sorted((outer.inside_mm, inner.outside_mm))
        first, last = layer(outer.outlines, low, high), layer(inner.outlines, low, high)
        # As much more or less than its area as the two others are.
        bent = (first / outer.outlines.area + last / inner.outlines.area) / 2.0
        total += (first + 4.0 * bent * _area_between(outer, inner) + last) / 6.0
    return -total if treatment.sinks else total


def _area_between(outer: Chain, inner: Chain) -> float:
    """Area half way between two chains.

    An outline moved inward by d with sharp corners has the area A - P d + c d^2, P being its length; c
    follows from both ends.
    """
    width, length = inner.inward_mm - outer.inward_mm, outer.outlines.length
    bend = (inner.outlines.area - outer.outlines.area + length * width) / width**2
    return float(outer.outlines.area - length * width / 2.0 + bend * width**2 / 4.0)


def through_holes(
    outlines: shapely.MultiPolygon,
    treatment: Treatment,
    *,
    blank_holes: int,
    standing: shapely.Polygon | None = None,
) -> int:
    """Through holes that the finished piece must have."""
    if isinstance(treatment, Pierced):
        return blank_holes + len(outlines.geoms)
    if isinstance(treatment, CutOut):
        whole = outlines if standing is None else bodies_of(outlines, standing)
        return sum(len(body.interiors) for body in whole.geoms)
    return blank_holes

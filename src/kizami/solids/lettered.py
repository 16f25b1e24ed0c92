"""Lettering on a body by whichever way serves it best."""

from __future__ import annotations

import math
from collections.abc import Callable

import manifold3d as m3
import shapely

from kizami.blanks.area import Area
from kizami.errors import SolidError
from kizami.outlines.curves import FloatArray, bodies_of
from kizami.solids.body_mesh import BodyMesh
from kizami.solids.facets import Facets, facets_seen
from kizami.solids.imprint import imprinted
from kizami.solids.lettering_solid import lay_on
from kizami.solids.treat import face_chains, flat_lettering, treat
from kizami.solids.treatment import Treatment
from kizami.surfaces.protocol import Surface

__all__ = ["face_sagitta_mm", "lettered"]


def lettered(
    body: m3.Manifold | BodyMesh | None,
    outlines: shapely.MultiPolygon,
    *,
    area: Area,
    treatment: Treatment,
    sagitta_mm: float,
    pull: FloatArray | None = None,
    facets: Callable[[], Facets | None] | None = None,
) -> m3.Manifold | BodyMesh:
    """Lettering on a body: set into its facets where that can be done, else cut out of it or added to it.

    Parameters
    ----------
    body : None where the lettering is the piece
    outlines : unrolled mm
    pull : see `kizami.solids.lettering_solid.lay_on`
    facets : gives the body as the area sees it, where that is known already

    Raises
    ------
    SolidError : nothing is left of the body, or it could not be built
    """
    strips, letters = _all_round(outlines, area)
    if not letters.is_empty or not strips:
        body = _lettered(
            body,
            letters,
            whole=outlines,
            area=area,
            treatment=treatment,
            sagitta_mm=sagitta_mm,
            pull=pull,
            facets=facets,
        )
    assert body is not None
    flats = [flat_lettering(s, treatment, through_mm=area.through_mm, whole=outlines) for s in strips]
    laid = [lay_on(flat, area.surface, sagitta_mm=sagitta_mm, pull=pull) for flat in flats if flat]
    if not laid:
        return body
    manifold = body.manifold() if isinstance(body, BodyMesh) else body
    joined = m3.OpType.Subtract if treatment.sinks else m3.OpType.Add
    result = m3.Manifold.batch_boolean([manifold, *laid], joined)
    if result.status() != m3.Error.NoError or result.is_empty():
        raise SolidError("What goes right round could not be built.")
    return result


def _lettered(
    body: m3.Manifold | BodyMesh | None,
    outlines: shapely.MultiPolygon,
    *,
    whole: shapely.MultiPolygon,
    area: Area,
    treatment: Treatment,
    sagitta_mm: float,
    pull: FloatArray | None,
    facets: Callable[[], Facets | None] | None,
) -> m3.Manifold | BodyMesh:
    manifold = body.manifold() if isinstance(body, BodyMesh) else body
    if manifold is not None and pull is None and not outlines.is_empty:
        chains = face_chains(treatment, outlines, whole=whole)
        if chains is not None:
            seen = facets() if facets else facets_seen(manifold, area.surface, middle_u_mm=area.anchor[0])
            done = imprinted(seen, chains, area.surface) if seen else None
            if done is not None:
                return done
    return treat(
        manifold, outlines, area=area, treatment=treatment, sagitta_mm=sagitta_mm, pull=pull, whole=whole
    )


def _all_round(
    outlines: shapely.MultiPolygon, area: Area
) -> tuple[list[shapely.MultiPolygon], shapely.MultiPolygon]:
    """What goes right round the body, in halves that overlap, and the rest of the outlines.

    Laid on in one, both ends would only touch, and might leave a skin between them.
    """
    period = area.surface.period_mm
    low_u, low_v, high_u, high_v = area.outline.bounds
    if period is None or not area.is_closed:
        return [], outlines
    parts = shapely.get_parts(outlines)
    bounds = shapely.bounds(parts)
    is_round = (bounds[:, 0] <= low_u + _TOUCHES_MM) & (bounds[:, 2] >= high_u - _TOUCHES_MM)
    if not is_round.any():
        return [], outlines
    ring = shapely.union_all(parts[is_round])
    twice = ring.union(area.turned(ring, 1.0))
    half = low_u + period / 2.0
    halves = [
        shapely.box(low_u, low_v, half + _OVERLAP_MM, high_v).intersection(ring),
        shapely.box(half, low_v, high_u + _OVERLAP_MM, high_v).intersection(twice),
    ]
    return [bodies_of(shape) for shape in halves], shapely.MultiPolygon(list(parts[~is_round]))


#: How near to the end of a turn an outline ends that goes on beyond it.
_TOUCHES_MM = 1e-6
#: More than softened edges and slanted walls take off an end.
_OVERLAP_MM = 1.0


def face_sagitta_mm(surface: Surface, *, sagitta_mm: float, top_mm: float) -> float:
    """How near chords of the face must come to it, so that what stands on them keeps the tolerance.

    The face's facets are the letters' facets; further out the same angle spans more, and the distance
    of a chord from its curve grows with the square of its length.

    >>> from kizami.surfaces.cylinder import Cylinder
    >>> round(face_sagitta_mm(Cylinder(radius_mm=10.0), sagitta_mm=0.005, top_mm=1.0), 6)
    0.004545
    """
    pairs = zip(*(surface.max_step(sagitta_mm=sagitta_mm, h_mm=h) for h in (top_mm, 0.0)), strict=True)
    shares = [above / below for above, below in pairs if not math.isinf(below)]
    share: float = min([1.0, *shares])
    return sagitta_mm * share**2

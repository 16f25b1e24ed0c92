"""Lettering on a body by whichever way serves it best."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial

import manifold3d as m3
import numpy as np
import shapely

from kizami.as_made.as_made import AsMade
from kizami.blanks.area import Area
from kizami.dividing.tolerances import TOLERANCES
from kizami.errors import SolidError
from kizami.outlines.curves import FloatArray
from kizami.outlines.shrinking import Level
from kizami.remembering import remembered
from kizami.solids.body_mesh import BodyMesh
from kizami.solids.by_booleans import by_booleans
from kizami.solids.facets import Facets, facets_seen
from kizami.solids.into_facets import into_facets
from kizami.solids.lettering_bodies import flat_lettering
from kizami.solids.turned_ring import turned_ring
from kizami.surfaces.protocol import Surface

__all__ = ["face_sagitta_mm", "facets_of_body", "lettered"]


def lettered(
    body: m3.Manifold | BodyMesh | None,
    made: AsMade,
    *,
    sagitta_mm: float,
    facets: Callable[[], Facets | None] | None = None,
) -> m3.Manifold | BodyMesh:
    """Lettering on a body: set into its facets where that can be done, else cut out of it or added to it.

    Parameters
    ----------
    body : None where the lettering is the piece
    facets : gives the body as the area sees it, where that is known already

    Raises
    ------
    SolidError : nothing is left of the body, or it could not be built
    """
    area = made.area
    ring, rest = _all_round(made.outlines, area)
    flat = None
    if body is not None and not ring.is_empty:
        flat = flat_lettering(made, ring)
    if body is None or flat is None:
        return _lettered(body, made, made.outlines, sagitta_mm=sagitta_mm, facets=facets)
    body = body.manifold() if isinstance(body, BodyMesh) else body
    strips = _Strips(
        ring=ring, levels=flat.levels, area=area, sinks=made.treatment.sinks, sagitta_mm=sagitta_mm
    )
    body = _with_strips(body, strips) if made.pull is None else _joined(body, strips, made.pull)
    if rest.is_empty:
        return body
    return _lettered(body, made, rest, sagitta_mm=sagitta_mm, facets=partial(facets_of_body, body, area))


def _lettered(
    body: m3.Manifold | BodyMesh | None,
    made: AsMade,
    outlines: shapely.MultiPolygon,
    *,
    sagitta_mm: float,
    facets: Callable[[], Facets | None] | None,
) -> m3.Manifold | BodyMesh:
    manifold = body.manifold() if isinstance(body, BodyMesh) else body
    if manifold is not None and made.pull is None and not outlines.is_empty:
        chains = made.chains_around(outlines)
        if chains is not None:
            surface = made.area.surface
            seen = facets() if facets else facets_seen(manifold, surface, middle_u_mm=made.area.anchor[0])
            done = into_facets(seen, chains, surface) if seen else None
            if done is not None:
                return done
    return by_booleans(manifold, made, outlines=outlines, sagitta_mm=sagitta_mm)


def _all_round(
    outlines: shapely.MultiPolygon, area: Area
) -> tuple[shapely.MultiPolygon, shapely.MultiPolygon]:
    """What goes right round the body, and the rest of the outlines."""
    if area.surface.period_mm is None or not area.is_closed:
        return shapely.MultiPolygon(), outlines
    low_u, _, high_u, _ = area.outline.bounds
    parts = shapely.get_parts(outlines)
    bounds = shapely.bounds(parts)
    is_round = (bounds[:, 0] <= low_u + _TOUCHES_MM) & (bounds[:, 2] >= high_u - _TOUCHES_MM)
    # A strip: its edges are level.
    boxes = (bounds[:, 2] - bounds[:, 0]) * (bounds[:, 3] - bounds[:, 1])
    is_round &= np.abs(shapely.area(parts) - boxes) < _TOUCHES_MM
    ring, rest = (shapely.MultiPolygon(list(parts[which])) for which in (is_round, ~is_round))
    return ring, rest


#: How near to the end of a turn an outline ends that goes on beyond it.
_TOUCHES_MM = 1e-6


@dataclass(frozen=True, kw_only=True, slots=True)
class _Strips:
    """What goes right round a body.

    Attributes
    ----------
    ring : from one end of the turn to the other, unrolled mm
    levels : where it stands, see `kizami.solids.flat.Flat`
    sinks : it is cut away
    """

    ring: shapely.MultiPolygon
    levels: tuple[Level, ...]
    area: Area
    sinks: bool
    sagitta_mm: float


@remembered
def _with_strips(body: m3.Manifold, strips: _Strips) -> m3.Manifold:
    """Kept for a while: what goes right round is the same on all pieces of a product and size."""
    return _joined(body, strips, None)


@remembered
def facets_of_body(body: m3.Manifold, area: Area) -> Facets | None:
    """A body's facets as an area sees them; kept for this very body, never for another that is like it."""
    return facets_seen(body, area.surface, middle_u_mm=area.anchor[0])


def _joined(body: m3.Manifold, strips: _Strips, pull: FloatArray | None) -> m3.Manifold:
    """A body with what goes right round it.

    Rings have their corners where the body's own facets have theirs, so that the face between them stays
    as it was, and letters can be set into it.
    """
    area, surface = strips.area, strips.area.surface
    seen = facets_of_body(body, area)
    columns = np.empty(0) if seen is None else _places(seen.cell_bounds[:, [0, 2]], surface.period_mm)
    rings = [
        turned_ring(
            low_v, high_v, strips.levels, surface, columns_mm=columns, sagitta_mm=strips.sagitta_mm, pull=pull
        )
        for _, low_v, _, high_v in shapely.bounds(shapely.get_parts(strips.ring)).tolist()
    ]
    joined = m3.OpType.Subtract if strips.sinks else m3.OpType.Add
    result = m3.Manifold.batch_boolean([body, *rings], joined)
    if result.status() != m3.Error.NoError or result.is_empty():
        raise SolidError("What goes right round could not be built.")
    return result


def _places(u_mm: FloatArray, period_mm: float | None) -> FloatArray:
    """Places in order within one period, those that are the same but for rounding once."""
    u = np.unique(u_mm)
    u = u[np.append(True, np.diff(u) > TOLERANCES.same_place_mm)]
    places: FloatArray = u[u < u[0] + (period_mm or math.inf) - TOLERANCES.same_place_mm]
    return places


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

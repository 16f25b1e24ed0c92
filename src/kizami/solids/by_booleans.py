"""A body with its lettering by booleans: cut by, or joined with, bodies of letters.

The road that always leads there; `kizami.solids.into_facets` is the shorter one, where it goes.
"""

from __future__ import annotations

import manifold3d as m3
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.treatment import CutOut, InRecess
from kizami.errors import SolidError
from kizami.solids.flat import Flat
from kizami.solids.lettering_bodies import flat_lettering, pointed_lettering, recess_of
from kizami.solids.lettering_solid import lay_on

__all__ = ["by_booleans"]


def by_booleans(
    body: m3.Manifold | None,
    made: AsMade,
    *,
    sagitta_mm: float,
    outlines: shapely.MultiPolygon | None = None,
) -> m3.Manifold:
    """Lettering on a body as its treatment asks.

    Parameters
    ----------
    body : the blank; None where the lettering is the piece
    outlines : a part of the lettering where not all of it is still to be made

    Raises
    ------
    SolidError : nothing is left of the body
    """
    surface, treatment = made.area.surface, made.treatment

    def laid(flat: Flat) -> m3.Manifold:
        return lay_on(flat, surface, sagitta_mm=sagitta_mm, pull=made.pull)

    if body is not None and made.is_pointed:
        return _checked(body - pointed_lettering(made, outlines, sagitta_mm=sagitta_mm))
    letters = flat_lettering(made, outlines)
    if body is None:
        if not isinstance(treatment, CutOut) or letters is None:
            raise SolidError("A piece of letters alone can only be cut out.")
        result = laid(letters)
    elif letters is None:
        result = body
    elif isinstance(treatment, InRecess):
        result = body - recess_of(made, sagitta_mm=sagitta_mm) + laid(letters)
    else:
        result = body - laid(letters) if treatment.sinks else body + laid(letters)
    return _checked(result)


def _checked(body: m3.Manifold) -> m3.Manifold:
    if body.status() != m3.Error.NoError:
        raise SolidError(f"The piece could not be built: {body.status().name}.")
    if body.is_empty():
        raise SolidError("Nothing is left of the piece.")
    return body

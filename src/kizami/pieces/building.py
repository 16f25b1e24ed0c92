"""The solid of a piece: its bare body, and every lettered area worked into it in turn."""

from __future__ import annotations

from functools import partial

import manifold3d as m3

from kizami.as_made.treatment import proud_mm
from kizami.blanks.area import Area
from kizami.blanks.name_piece import NamePiece
from kizami.pieces.laying_out import LaidOut
from kizami.remembering import remembered
from kizami.solids.body_mesh import BodyMesh
from kizami.solids.lettered import face_sagitta_mm, facets_of_body, lettered
from kizami.solids.solid import Solid, solid_of
from kizami.tolerance import SAGITTA_MM

__all__ = ["bare_body", "body_sagitta_mm", "fine_body", "in_order", "make_solid"]


def make_solid(laid_out: LaidOut) -> Solid | None:
    """The body with its lettering, or None when there is nothing to set.

    Raises
    ------
    SolidError : it could not be built
    """
    if laid_out.layout.is_empty:
        return None
    blank = bare_body(laid_out)
    body: m3.Manifold | BodyMesh | None = blank
    for number, part in enumerate(in_order(laid_out)):
        # What is known of the bare blank holds for the first area only.
        known = partial(facets_of_body, blank, part.area) if blank is not None and number == 0 else None
        body = lettered(body, part.made, sagitta_mm=SAGITTA_MM, facets=known)
    assert body is not None
    return solid_of(body, blank=blank)


def bare_body(laid_out: LaidOut) -> m3.Manifold | None:
    """The body before lettering; None where the lettering is the piece."""
    return None if isinstance(laid_out.blank, NamePiece) else laid_out.blank.body(body_sagitta_mm(laid_out))


def fine_body(laid_out: LaidOut) -> m3.Manifold | None:
    """The body before lettering with curves as fine as a beam cuts them."""
    return None if isinstance(laid_out.blank, NamePiece) else laid_out.blank.body(_BEAM_SAGITTA_MM)


#: A tenth of what a beam is wide.
_BEAM_SAGITTA_MM = 0.001


def body_sagitta_mm(laid_out: LaidOut) -> float:
    """How near the blank's chords come to its curves: near enough for what stands proud of them too."""
    return min(
        _face_sagitta_mm(part.area, max(0.0, proud_mm(part.made.treatment))) for part in laid_out.every_area
    )


@remembered
def _face_sagitta_mm(area: Area, top_mm: float) -> float:
    return face_sagitta_mm(area.surface, sagitta_mm=SAGITTA_MM, top_mm=top_mm)


def in_order(laid_out: LaidOut) -> list[LaidOut]:
    """Areas in the order in which they are worked: what is added first, so that no root fills a cut."""
    inked = [part for part in laid_out.every_area if not part.layout.is_empty]
    return sorted(inked, key=lambda part: part.made.treatment.sinks)

"""How a piece stands in the turning view."""

from __future__ import annotations

from typing import Any

from kizami.as_made.treatment import Engraved, Raised, Treatment
from kizami.blanks.area import Area
from kizami.drawing.looking import FROM_ABOVE, FROM_THE_FRONT, Stance, look_at, stance_of
from kizami.products.product import Product
from kizami.surfaces.bore import Bore
from kizami.surfaces.cylinder import Cylinder
from kizami.surfaces.plane import Plane
from kizami.surfaces.turned import Turned

__all__ = ["colours_of", "stand_of"]


def stand_of(area: Area, treatment: Treatment) -> dict[str, Any]:
    """From where a piece is first seen, and where its engraved floors lie.

    Flat faces are looked down upon, round ones from the front, the inside of a band over its rim; where the
    lettering looks another way, the directions to the eye and the lamp say so. The view blackens engraved
    floors, and the ground of raised letters, as a workshop does, where one number says how far from the axis
    or how high the lettered surface is.
    """
    surface, level = area.surface, None
    if isinstance(surface, Cylinder | Bore):
        level = surface.radius_mm
    elif isinstance(surface, Plane):
        level = surface.z_mm
    look, view = look_at(area), _VIEWS[stance_of(area)]
    if view == "bore" and not isinstance(surface, Bore | Turned):
        # A bore that does not stand upright.
        view = "plate"
    is_usual = look in (FROM_ABOVE, FROM_THE_FRONT)
    return {
        "view": view,
        "eye": "" if is_usual else _said(look.towards_eye),
        "lamp": "" if is_usual else _said(look.lamp),
        "engraved": treatment.depth_mm if isinstance(treatment, Engraved) and level is not None else 0,
        "raised": treatment.height_mm if isinstance(treatment, Raised) and level is not None else 0,
        "level": level or 0,
    }


_VIEWS = {Stance.LYING: "plate", Stance.STANDING: "band", Stance.INSIDE: "bore"}


def _said(way: tuple[float, float, float]) -> str:
    """Three numbers as the page's scripts read them."""
    return " ".join(f"{one:.4f}" for one in way)


def colours_of(product: Product) -> dict[str, str]:
    """Of body and lettering: those that a product is made in, or its material's for both."""
    return {
        "colour": product.body_colour or product.made_of.colour,
        "lettering_colour": product.lettering_colour,
    }

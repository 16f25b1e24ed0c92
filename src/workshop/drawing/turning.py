"""How a piece stands in the turning view."""

from __future__ import annotations

from typing import Any

from kizami.as_made.treatment import Engraved, Raised, Treatment
from kizami.drawing.picture import FROM_ABOVE, OVER_THE_RIM, look_at
from kizami.products.product import Product
from kizami.surfaces.bore import Bore
from kizami.surfaces.cylinder import Cylinder
from kizami.surfaces.plane import Plane
from kizami.surfaces.protocol import Surface

__all__ = ["colours_of", "stand_of"]


def stand_of(surface: Surface, treatment: Treatment) -> dict[str, Any]:
    """From where a piece is first seen, and where its engraved floors lie.

    Flat faces are looked down upon, round ones from the front, the inside of a band over its rim. The view
    blackens engraved floors, and the ground of raised letters, as a workshop does, where one number says how
    far from the axis or how high the lettered surface is.
    """
    level = None
    if isinstance(surface, Cylinder | Bore):
        level = surface.radius_mm
    elif isinstance(surface, Plane):
        level = surface.z_mm
    look = look_at(surface)
    return {
        "view": "plate" if look is FROM_ABOVE else "bore" if look is OVER_THE_RIM else "band",
        "engraved": treatment.depth_mm if isinstance(treatment, Engraved) and level is not None else 0,
        "raised": treatment.height_mm if isinstance(treatment, Raised) and level is not None else 0,
        "level": level or 0,
    }


def colours_of(product: Product) -> dict[str, str]:
    """Of body and lettering: those that a product is made in, or its material's for both."""
    return {
        "colour": product.body_colour or product.made_of.colour,
        "lettering_colour": product.lettering_colour,
    }

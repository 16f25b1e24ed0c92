"""Whether a product's ornaments can be made: told before anything is sold."""

from __future__ import annotations

from kizami.as_made.treatment import InRecess
from kizami.blanks.area import Area
from kizami.blanks.ornaments import Border, Ornament, goes_round, ornament_outlines
from kizami.products.product import Product, SizedBlank
from kizami.sizes import SizeSystem, parse_ring_size

__all__ = ["wrong_ornaments"]


def wrong_ornaments(product: Product) -> str:
    """What the process can't hold or the area has no room for, or "": said before anything is sold."""
    if not product.ornaments:
        return ""
    blank = product.blank
    # What goes on the smallest ring goes on all.
    least = (
        blank.blank(parse_ring_size("44", default=SizeSystem.ISO)) if isinstance(blank, SizedBlank) else blank
    )
    area = product.area_of(least)
    return next(filter(None, (_wrong(one, product, area) for one in product.ornaments)), "")


def _wrong(ornament: Ornament, product: Product, area: Area) -> str:
    limits = product.process.limits
    stroke = limits.of("stroke-width", sunk=product.treatment.sinks)
    name = ornament.kind if isinstance(ornament, Border) else ornament.shape
    if 0 < ornament.line_mm < stroke:
        return (
            f"a line {ornament.line_mm:g} mm wide is finer than the {stroke:g} mm that "
            f"{product.process.name} holds"
        )
    if isinstance(ornament, Border) and goes_round(area) and area.surface.apex is not None:
        return f"the {area.name} is a taper that closes on itself without a seam, so it can have no border"
    if isinstance(ornament, Border) and goes_round(area) and isinstance(product.treatment, InRecess):
        return f"a recess can't go right round the {area.name}, so it can have no border"
    shape = ornament_outlines(area, ornament)
    if shape.is_empty or not area.clear_region(0.0).buffer(1e-6).covers(shape):
        return f"the {name} does not go into the {area.name}"
    gap, clear = shape.distance(area.edges()), limits.of("edge-gap")
    if gap < clear - 1e-6:
        return f"the {name} comes within {gap:.2f} mm of an edge; {clear:g} mm must stay clear"
    return ""

"""Ornaments from the tables of products files, and whether they can be made."""

from __future__ import annotations

from typing import Any

from kizami.as_made.treatment import InRecess
from kizami.blanks.area import Area
from kizami.blanks.ornaments import Border, Figure, goes_round, ornament_outlines
from kizami.errors import CatalogueError
from kizami.products import Product, SizedBlank
from kizami.sizes import SizeSystem, parse_ring_size
from kizami.table_values import numbers_of

__all__ = ["ornaments_from_tables", "wrong_ornaments"]

_Bounds = dict[str, tuple[float, float]]
_MOST_ORNAMENTS = 12
_ORNAMENTS: dict[str, tuple[type[Border | Figure], _Bounds, _Bounds]] = {
    # Its class, the numbers that it needs, and those that may be added.
    "border": (Border, {"inset_mm": (0, 50), "line_mm": (0.05, 20)}, {}),
    **dict.fromkeys(
        ("slot", "oval", "panel"),
        (
            Figure,
            {"length_mm": (0.2, 300), "height_mm": (0.2, 300)},
            {"corner_mm": (0, 100), "line_mm": (0, 20), "right_mm": (-300, 300), "up_mm": (-300, 300)},
        ),
    ),
}


def ornaments_from_tables(tables: object, *, where: str) -> tuple[Border | Figure, ...]:
    """Ornaments from their tables.

    Raises
    ------
    CatalogueError : a key is missing, unknown or out of bounds; begins with `where`
    """
    if not isinstance(tables, list) or len(tables) > _MOST_ORNAMENTS:
        raise CatalogueError(f"{where} must be a list of at most {_MOST_ORNAMENTS} tables.")
    return tuple(_ornament(table, where) for table in tables)


def _ornament(table: object, where: str) -> Border | Figure:
    kind = table.get("kind") if isinstance(table, dict) else None
    if not isinstance(table, dict) or kind not in _ORNAMENTS:
        raise CatalogueError(f"{where}: kind must be one of {', '.join(_ORNAMENTS)}.")
    make, needed, optional = _ORNAMENTS[str(kind)]
    given = {key: value for key, value in table.items() if key != "kind"}
    bounds = {**needed, **{key: optional[key] for key in given if key in optional}}
    values: dict[str, Any] = dict(numbers_of(given, bounds, where=where))
    if make is Figure:
        values["shape"] = kind
    return make(**values)


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


def _wrong(ornament: Border | Figure, product: Product, area: Area) -> str:
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

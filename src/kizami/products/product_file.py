"""Products files, TOML: read into a catalogue, and written."""

from __future__ import annotations

import tomllib
from collections.abc import Collection, Iterable, Mapping
from typing import Any

import tomli_w

from kizami.errors import CatalogueError
from kizami.products.blank_tables import Bodies, no_bodies
from kizami.products.product import Catalogue, Product
from kizami.products.product_tables import read_table
from kizami.standards import Standards

__all__ = ["product_from_table", "product_tables", "read_catalogue", "write_products"]


def read_catalogue(text: str, *, bodies: Bodies = no_bodies, standards: Standards | None = None) -> Catalogue:
    """Read a products file.

    Parameters
    ----------
    bodies : finds the bodies that supplied shapes name
    standards : what the shop holds to; None for those that ship

    Raises
    ------
    CatalogueError : not TOML, or a product that can't be; names the product and the key
    """
    products: dict[str, Product] = {}
    for table in product_tables(text):
        product = product_from_table(table, bodies=bodies, standards=standards)
        key = product.code.casefold()
        if key in products:
            raise CatalogueError(f"Product {product.code} stands twice in the products file.")
        products[key] = product
    return Catalogue(products=products)


def product_tables(text: str) -> list[dict[str, Any]]:
    """The tables of a products file, not yet looked at.

    Raises
    ------
    CatalogueError : it is not TOML, or has no [[product]] tables
    """
    try:
        data = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise CatalogueError(f"The products file is not valid TOML: {error}.") from error
    tables = data.get("product")
    if not isinstance(tables, list) or not tables or not all(isinstance(t, dict) for t in tables):
        raise CatalogueError("The products file has no [[product]] tables.")
    return tables


def write_products(tables: Iterable[Mapping[str, Any]]) -> str:
    """Tables of products as a products file; read again they are the same tables.

    >>> text = write_products([{"code": "TAG", "blank": {"kind": "bead", "diameter_mm": 12.0}}])
    >>> product_tables(text)
    [{'code': 'TAG', 'blank': {'kind': 'bead', 'diameter_mm': 12.0}}]
    """
    return tomli_w.dumps({"product": list(tables)})


def product_from_table(
    table: Mapping[str, Any],
    *,
    typefaces: Collection[str] = (),
    bodies: Bodies = no_bodies,
    standards: Standards | None = None,
) -> Product:
    """One product from its table, see `kizami.products.product_tables.read_table`.

    Raises
    ------
    CatalogueError : a key is missing, unknown or out of bounds
    """
    return read_table(dict(table), typefaces=tuple(typefaces), bodies=bodies, standards=standards)

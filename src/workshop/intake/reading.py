"""How a stored list is read: its settings as values of the core, and back."""

from __future__ import annotations

from typing import Any

from kizami.wording.columns import ColumnMap
from kizami.wording.field_rules import FieldRule
from kizami.wording.order_list import columns_of as columns_of_table
from kizami.wording.tables import Table
from workshop.cage.readers import table_in
from workshop.catalogue.models import Product

__all__ = ["column_names", "columns_of", "rule_of", "rule_table", "table_of"]


def rule_of(table: dict[str, Any] | None) -> FieldRule | None:
    """A rule from its stored form."""
    return FieldRule(separator=table["separator"], keys=table["keys"]) if table else None


def rule_table(rule: FieldRule | None) -> dict[str, Any] | None:
    """A rule in the form that is stored."""
    return {"separator": rule.separator, "keys": dict(rule.keys)} if rule else None


def table_of(data: bytes, encoding: str) -> Table:
    """The rows of a list on trial."""
    catalogue, _ = Product.objects.catalogue()
    return table_in(data, encoding=encoding, products=catalogue.product_words)


def columns_of(table: Table, chosen: dict[str, str]) -> ColumnMap:
    """The columns of a table as the desk chose them, the others guessed."""
    catalogue, _ = Product.objects.catalogue()
    return columns_of_table(table, remembered=chosen, is_product=catalogue.knows)


def column_names(table: Table, columns: ColumnMap) -> dict[str, str]:
    """Field code -> column name, in the form that is stored."""
    return {code: table.header[place] for code, place in columns.places.items()}

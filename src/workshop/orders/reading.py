"""How a stored list is read: its settings as values of the core, and back."""

from __future__ import annotations

from typing import Any

from kizami.wording.columns import ColumnMap, guess_columns
from kizami.wording.field_rules import FieldRule
from kizami.wording.tables import Table

__all__ = ["column_names", "columns_of", "rule_of", "rule_table"]


def rule_of(table: dict[str, Any] | None) -> FieldRule | None:
    """A rule from its stored form."""
    return FieldRule(separator=table["separator"], keys=table["keys"]) if table else None


def rule_table(rule: FieldRule | None) -> dict[str, Any] | None:
    """A rule in the form that is stored."""
    return {"separator": rule.separator, "keys": dict(rule.keys)} if rule else None


def columns_of(table: Table, chosen: dict[str, str]) -> ColumnMap:
    """The columns of a table as the desk chose them, the others guessed."""
    return guess_columns(table.header, remembered=chosen)


def column_names(table: Table, columns: ColumnMap) -> dict[str, str]:
    """Field code -> column name, in the form that is stored."""
    return {code: table.header[place] for code, place in columns.places.items()}

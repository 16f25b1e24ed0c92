"""A station as a form: the values of its table, and the table back from what was typed."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from django.http import QueryDict

from kizami.runs.machine import Kind, Work
from kizami.standards import Standards

__all__ = ["FIELDS", "OPERATION_FIELDS", "StationField", "fields_of", "operations_of", "table_from"]


@dataclass(frozen=True, kw_only=True, slots=True)
class StationField:
    """One number.

    Attributes
    ----------
    key : in the table; label, unit : shown
    kinds : of station that have it; none for all
    """

    key: str
    label: str
    unit: str = "mm"
    kinds: tuple[Kind, ...] = ()


_PRINTS, _CASTS = (Kind.PLATE,), (Kind.TREE, Kind.SAND)
FIELDS: tuple[StationField, ...] = (
    StationField(key="margin_mm", label="Kept clear along the edges"),
    StationField(key="spacing_mm", label="Between pieces at least"),
    StationField(
        key="turns_deg", label="Pieces may be turned by steps of", unit="°, 0 for never",
        kinds=(Kind.PLATE, Kind.SHEET, Kind.SAND),
    ),
    StationField(key="layers_gap_mm", label="Between layers, 0 for one layer", kinds=_PRINTS),
    StationField(key="speed_mm3_h", label="Builds", unit="mm³ an hour", kinds=_PRINTS),
    StationField(key="hour_cost", label="An hour costs", unit=""),
    StationField(key="kerf_mm", label="Width of a cut", kinds=(Kind.SHEET,)),
    StationField(key="tabs", label="Holding tabs a piece", unit="", kinds=(Kind.SHEET,)),
    StationField(key="tab_mm", label="Length of a tab", kinds=(Kind.SHEET,)),
    StationField(key="sprue_mm", label="Sprue, diameter", kinds=(Kind.TREE,)),
    StationField(key="feed_mm", label="Feeds, diameter", kinds=(Kind.TREE,)),
    StationField(key="feed_length_mm", label="Feeds, length", kinds=(Kind.TREE,)),
    StationField(key="angle_deg", label="Feeds rise by", unit="°", kinds=(Kind.TREE,)),
    StationField(key="button_mm3", label="Left in the button", unit="mm³", kinds=(Kind.TREE,)),
    StationField(key="loss_percent", label="Lost in melting", unit="%", kinds=_CASTS),
    StationField(key="draft_deg", label="Slope that a pattern needs", unit="°", kinds=(Kind.SAND,)),
)  # fmt: skip
#: Columns of the operations' table: key, label, kind of value.
OPERATION_FIELDS: tuple[tuple[str, str, type], ...] = (
    ("work", "Work", str), ("name", "Called", str), ("colour", "Colour", str), ("material", "Material", str),
    ("thickness_mm", "Thick, mm", float), ("power_percent", "Power, %", float),
    ("speed_mm_s", "Speed, mm/s", float), ("passes", "Passes", int), ("focus_mm", "Focus, mm", float),
    ("spacing_mm", "Lines, mm", float),
)  # fmt: skip
_MOST_OPERATIONS = 40


def fields_of(table: Mapping[str, Any]) -> list[tuple[StationField, Any]]:
    """The numbers that a station of its kind has."""
    kind = Kind(table["kind"])
    return [(f, table.get(f.key, 0)) for f in FIELDS if not f.kinds or kind in f.kinds]


def operations_of(table: Mapping[str, Any]) -> list[dict[str, Any]]:
    """Rows of its operations, with one empty row to add another."""
    if table["kind"] != Kind.SHEET.value:
        return []
    return [*table.get("operations", ()), {"work": "", "passes": 1, "power_percent": 50, "speed_mm_s": 20}]


def table_from(typed: QueryDict, before: Mapping[str, Any], now: Standards) -> dict[str, Any]:
    """The table that was typed, over what stood there.

    Parameters
    ----------
    now : what the shop holds to

    Raises
    ------
    ValueError : something that must be a number is none; says what
    """
    table = dict(before)
    table["name"] = typed.get("name", "").strip()[:80] or before["name"]
    table["processes"] = [p for p in typed.getlist("processes") if p in now.processes]
    table["materials"] = [m for m in typed.getlist("materials") if m in now.materials]
    table["bed_mm"] = [_number(typed.get(f"bed_{axis}", ""), f"Bed {axis}") for axis in "xyz"]
    for field, _ in fields_of(before):
        if field.key in typed:
            value = _number(typed[field.key], field.label)
            table[field.key] = int(value) if field.key == "tabs" else value
    if before["kind"] == Kind.SHEET.value:
        table["operations"] = _operations(typed)
    return table


def _operations(typed: QueryDict) -> list[dict[str, Any]]:
    columns = {key: typed.getlist(f"operation_{key}")[:_MOST_OPERATIONS] for key, _, _ in OPERATION_FIELDS}
    rows = []
    for number, work in enumerate(columns["work"]):
        # A row without work is one that was not filled in, or is to go.
        if work not in tuple(Work):
            continue
        row: dict[str, Any] = {"work": work}
        for key, label, kind in OPERATION_FIELDS[1:]:
            text = columns[key][number].strip() if number < len(columns[key]) else ""
            if kind is str:
                row[key] = text.lower() if key == "colour" else text
            elif text:
                row[key] = kind(_number(text, label))
        rows.append(row)
    return rows


def _number(text: str, label: str) -> float:
    try:
        return float(text.strip().replace(",", "."))
    except ValueError:
        raise ValueError(f"{label}: “{text[:20]}” is no number.") from None

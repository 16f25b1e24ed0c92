"""Tables that are of several kinds, by key and kind, and what one has when it is first chosen."""

from __future__ import annotations

from typing import Any

from kizami.products.lettering_tables import (
    ArchedTable,
    ArcTable,
    BorderTable,
    FigureTable,
    FilledTable,
    OnceTable,
    PathTable,
    RepeatedTable,
    SectorTable,
    SpreadTable,
    StraightTable,
)  # fmt: skip
from kizami.products.values import Table

__all__ = ["FIRST", "KIND_TABLES", "NEEDED", "ORNAMENTS", "ORNAMENT_TABLES"]

KIND_TABLES: dict[str, dict[str, type[Table]]] = {
    "shape": {
        "straight": StraightTable, "arc": ArcTable, "path": PathTable, "arched": ArchedTable,
        "filled": FilledTable,
    },
    "turn": {"once": OnceTable, "spread": SpreadTable, "repeated": RepeatedTable, "sector": SectorTable},
}  # fmt: skip
ORNAMENTS = ("border", "slot", "oval", "panel")
ORNAMENT_TABLES: dict[str, type[Table]] = {
    "border": BorderTable, "slot": FigureTable, "oval": FigureTable, "panel": FigureTable,
}  # fmt: skip
#: What is chosen begins with these (common practice, no source).
FIRST: dict[str, dict[str, Any]] = {
    "arc": {"angle_deg": 120.0},
    "arched": {"rise": 0.4},
    "filled": {"outline": "round"},
    "repeated": {"times": 2},
    "sector": {"angle_deg": 120.0},
    "border": {"inset_mm": 1.0, "line_mm": 0.6},
    "slot": {"length_mm": 10.0, "height_mm": 1.2},
    "oval": {"length_mm": 6.0, "height_mm": 4.0},
    "panel": {"length_mm": 10.0, "height_mm": 5.0},
    "engraved": {"depth_mm": 0.5},
    "raised": {"height_mm": 0.5, "root_mm": 0.4},
    "in recess": {"depth_mm": 0.5, "height_mm": 0.5, "margin_mm": 1.0},
}

#: What a word asks for besides: (table, key, words, measures that it needs above 0 and begins with).
#: A tray is no word but a depth; it is asked for with any depth.
NEEDED: tuple[tuple[str, str, tuple[str, ...], dict[str, float]], ...] = (
    ("blank", "hang", ("hole left", "hole top", "ear top"), {"hole_mm": 3.0, "web_mm": 1.8}),
    ("blank", "outer", ("domed", "tapered"), {"rise_mm": 0.4}),
    ("blank", "outer", ("channel",), {"rise_mm": 0.4, "rim_mm": 1.0}),
    ("blank", "inner", ("comfort",), {"ease_mm": 0.2}),
    ("blank", "tray_mm", (), {"rim_mm": 2.0}),
    ("treatment", "edge", ("chamfer", "rounded"), {"edge_mm": 0.1}),
    ("soundness", "thicken", ("all over",), {"thicken_by_mm": 0.1}),
)

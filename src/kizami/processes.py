"""Processes with their limits, and materials with their densities. The values are data."""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Any

from kizami.errors import CatalogueError

__all__ = ["Limits", "Material", "Process", "shipped_materials", "shipped_processes", "shipped_table"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Limits:
    """What a process can hold, mm.

    Attributes
    ----------
    raised_stroke_mm, engraved_stroke_mm : thinnest stroke
    raised_height_mm, engraved_depth_mm : least height or depth that still shows
    gap_mm : narrowest gap between strokes
    floor_mm : least material left under lettering
    edge_gap_mm : least distance from lettering to an edge, rim or keep-out
    size_mm : largest piece, x y z
    web_mm : narrowest web between cut-outs; 0 is the same as the gap
    """

    raised_stroke_mm: float
    raised_height_mm: float
    engraved_stroke_mm: float
    engraved_depth_mm: float
    gap_mm: float
    floor_mm: float
    edge_gap_mm: float
    size_mm: tuple[float, float, float]
    web_mm: float = 0.0

    def stroke_mm(self, *, sunk: bool) -> float:
        """Thinnest stroke, sunk or standing."""
        return self.engraved_stroke_mm if sunk else self.raised_stroke_mm


@dataclass(frozen=True, kw_only=True, slots=True)
class Process:
    """A way of making pieces."""

    code: str
    name: str
    limits: Limits


@dataclass(frozen=True, kw_only=True, slots=True)
class Material:
    """What pieces are made of; `colour` is its real colour for pictures, `#rrggbb`."""

    code: str
    name: str
    density_g_cm3: float
    colour: str

    def weight_g(self, volume_mm3: float) -> float:
        """Weight of a body; 1 cm3 is 1000 mm3."""
        return volume_mm3 * self.density_g_cm3 / 1000.0


def shipped_table(name: str) -> dict[str, Any]:
    """A TOML table of the package's data folder."""
    return tomllib.loads((files("kizami") / "data" / name).read_text("utf-8"))


def process_from_table(code: str, table: Mapping[str, Any]) -> Process:
    """A process from its TOML table.

    Raises
    ------
    CatalogueError : a key is missing, unknown or not a positive number
    """
    values = dict(table)
    name = values.pop("name", code)
    wrong = set(Limits.__dataclass_fields__).symmetric_difference({"web_mm": 0.0, **values})
    if wrong:
        raise CatalogueError(f"Process {code}: missing or unknown {', '.join(sorted(wrong))}.")
    size = values.pop("size_mm")
    for key, value in values.items():
        if not isinstance(value, int | float) or value <= 0:
            raise CatalogueError(f"Process {code}: {key} must be a positive number, not {value!r}.")
    return Process(code=code, name=name, limits=Limits(size_mm=(size[0], size[1], size[2]), **values))


@cache
def shipped_processes() -> Mapping[str, Process]:
    """The processes that ship, by code."""
    return {code: process_from_table(code, t) for code, t in shipped_table("processes.toml").items()}


@cache
def shipped_materials() -> Mapping[str, Material]:
    """The materials that ship, by code."""
    return {code: Material(code=code, **t) for code, t in shipped_table("materials.toml").items()}

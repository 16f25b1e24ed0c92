"""Processes with their limits, and materials with their densities. The values are data."""

from __future__ import annotations

import tomllib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cache
from importlib.resources import files
from typing import Any

from kizami.errors import CatalogueError

__all__ = ["Limits", "Material", "Process", "shipped_materials", "shipped_processes", "shipped_table"]


#: Where a process says nothing of a limit, that of another check holds, or a value of its own (common
#: practice, no source). So a new check breaks no older table.
_DEFAULTS: Mapping[str, str | float] = {
    "neck-width": "stroke-width.raised",
    "web-width": "gap-width",
    "middle-width": "gap-width",
    "wall-thickness": "floor-left",
    "standing-thickness": "stroke-width.raised",
    "slot-width": "gap-width",
    # Two loops that differ by more in height, mm, or stand further from their ends, %, look wrong.
    "loops-level": 0.1,
    "loop-place": 20.0,
    # A loop that hangs straighter than this looks straight.
    "tilt": 3.0,
    # A point blunter than this neither pricks nor stays empty.
    "sharp-point": 10.0,
    # The weight must hang below its loops by this, or the piece turns over, mm.
    "hangs-below": 0.5,
    "draft": 0.0,
    # Wax, resin and powder can't leave a closed cavity.
    "cavities": 0.0,
}
#: Asked only of processes that say so.
_MAY_ASK = ("islands", "overhang", "drain")
#: What a process must say.
_ASKED = (
    "stroke-width.raised",
    "stroke-width.engraved",
    "lettering-depth.raised",
    "lettering-depth.engraved",
    "gap-width",
    "floor-left",
    "edge-gap",
)


@dataclass(frozen=True, kw_only=True, slots=True)
class Limits:
    """What a process can hold, by check code.

    Attributes
    ----------
    table : pairs of a check's code and its limit, in the unit of the check. Where lettering that stands and
        lettering that is sunk have limits of their own, the code ends in “.raised” or “.engraved”
    size_mm : largest piece, x y z
    """

    table: tuple[tuple[str, float], ...]
    size_mm: tuple[float, float, float]

    def of(self, code: str, *, sunk: bool = False) -> float:
        """The limit of a check.

        >>> limits = Limits(table=(("gap-width", 0.3), ("stroke-width.raised", 0.35)), size_mm=(1, 1, 1))
        >>> limits.of("gap-width"), limits.of("middle-width"), limits.of("stroke-width", sunk=False)
        (0.3, 0.3, 0.35)

        Raises
        ------
        KeyError : there is no such limit
        """
        said = dict(self.table)
        for name in (f"{code}.{'engraved' if sunk else 'raised'}", code):
            if name in said:
                return said[name]
            fallback = _DEFAULTS.get(name)
            if fallback is not None:
                return self.of(fallback) if isinstance(fallback, str) else fallback
        raise KeyError(code)

    def get(self, code: str) -> float | None:
        """The limit of a check that is not asked of every process, or None."""
        return dict(self.table).get(code)

    def with_limit(self, code: str, value: float) -> Limits:
        """The same with another limit."""
        return replace(self, table=tuple(sorted({**dict(self.table), code: value}.items())))

    def to_table(self) -> dict[str, float]:
        """By code, as plain data."""
        return dict(self.table)


@dataclass(frozen=True, kw_only=True, slots=True)
class Process:
    """A way of making pieces; `is_flat` where they are cut from a flat sheet."""

    code: str
    name: str
    limits: Limits
    is_flat: bool = False


@dataclass(frozen=True, kw_only=True, slots=True)
class Material:
    """What pieces are made of; `colour` is its real colour for pictures, `#rrggbb`.

    Attributes
    ----------
    parts : of an alloy, its metals with their shares by weight
    melts_c : from where it begins to melt to where all of it is molten, °C
    """

    code: str
    name: str
    density_g_cm3: float
    colour: str
    parts: tuple[tuple[str, float], ...] = ()
    melts_c: tuple[float, float] | None = None

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
    CatalogueError : a limit is missing, unknown or not a positive number
    """
    values = dict(table)
    name = values.pop("name", code)
    size = values.pop("size_mm", None)
    is_flat = values.pop("flat", False)
    limits = dict(_flat(values.pop("limits", {})))
    # Tables of before, with a name for each limit.
    limits |= {new: values.pop(old) for old, new in _OLDER.items() if old in values}
    known = {*_ASKED, *_DEFAULTS, *_MAY_ASK}
    lacking = {*(set(_ASKED) - set(limits)), *(["size_mm"] if size is None else [])}
    wrong = sorted({*values, *(set(limits) - known), *lacking})
    if wrong:
        raise CatalogueError(f"Process {code}: missing or unknown {', '.join(wrong)}.")
    for key, value in limits.items():
        if not isinstance(value, int | float) or value < 0 or (value == 0 and key in _ASKED):
            raise CatalogueError(f"Process {code}: {key} must be a positive number, not {value!r}.")
    rows = tuple(sorted((key, float(value)) for key, value in limits.items()))
    return Process(
        code=code,
        name=name,
        limits=Limits(table=rows, size_mm=(size[0], size[1], size[2])),
        is_flat=bool(is_flat),
    )


_OLDER = {
    "raised_stroke_mm": "stroke-width.raised",
    "engraved_stroke_mm": "stroke-width.engraved",
    "raised_height_mm": "lettering-depth.raised",
    "engraved_depth_mm": "lettering-depth.engraved",
    "gap_mm": "gap-width",
    "web_mm": "web-width",
    "floor_mm": "floor-left",
    "edge_gap_mm": "edge-gap",
}


def _flat(table: Mapping[str, Any]) -> Iterator[tuple[str, Any]]:
    """Tables within the table as names with a dot."""
    for key, value in table.items():
        if isinstance(value, Mapping):
            yield from ((f"{key}.{inner}", item) for inner, item in value.items())
        else:
            yield key, value


@cache
def shipped_processes() -> Mapping[str, Process]:
    """The processes that ship, by code."""
    return {code: process_from_table(code, t) for code, t in shipped_table("processes.toml").items()}


@cache
def shipped_materials() -> Mapping[str, Material]:
    """The materials that ship, by code."""
    return {code: _material(code, t) for code, t in shipped_table("materials.toml").items()}


def _material(code: str, table: Mapping[str, Any]) -> Material:
    values = dict(table)
    parts = tuple(values.pop("parts", {}).items())
    melts = values.pop("melts_c", None)
    return Material(code=code, parts=parts, melts_c=(melts[0], melts[1]) if melts else None, **values)

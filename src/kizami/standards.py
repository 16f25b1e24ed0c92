"""What a shop holds to: its processes with their limits, and its materials. The values are data.

Those that ship are common practice. A shop changes them to what its own machines hold and its own suppliers
state; every product is read with the standards of its shop.
"""

from __future__ import annotations

import math
import re
import tomllib
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cache
from importlib.resources import files
from typing import Any

from kizami.errors import CatalogueError
from kizami.processes import LIMITS_ASKED, LIMITS_KNOWN, Limits, Material, Process

__all__ = [
    "MOST_LIMIT",
    "Standards",
    "flat_limits",
    "material_from_table",
    "process_from_table",
    "shipped_standards",
    "shipped_table",
    "table_of_material",
    "table_of_process",
]

#: Whatever a limit counts in, nothing that fits on a machine asks for more.
MOST_LIMIT = 10_000.0
_LONGEST_SIDE_MM = 10_000.0
#: Osmium, the densest of all elements, has 22.6 (CRC Handbook, from memory); foam boards have 0.03.
_DENSITIES = (0.01, 25.0)
#: Shares of an alloy are often written to three places.
_SAME_SHARE = 2e-3
_HOTTEST_C = 4000.0
_CODE = re.compile(r"[a-z0-9][a-z0-9-]{0,39}")
_LONGEST_NAME = 60


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Standards:
    """Processes and materials by code, in the order in which people see them."""

    processes: Mapping[str, Process]
    materials: Mapping[str, Material]

    def process(self, code: str) -> Process:
        """The process with a code; one that ships where the shop no longer has it.

        Raises
        ------
        KeyError : there is none
        """
        return self.processes.get(code) or shipped_standards().processes[code]

    def material(self, code: str) -> Material:
        """The material with a code; one that ships where the shop no longer has it.

        Raises
        ------
        KeyError : there is none
        """
        return self.materials.get(code) or shipped_standards().materials[code]

    def changed(self, *, processes: Iterable[Process] = (), materials: Iterable[Material] = ()) -> Standards:
        """The same with some others, in their places or after the rest."""
        return replace(
            self,
            processes={**self.processes, **{process.code: process for process in processes}},
            materials={**self.materials, **{material.code: material for material in materials}},
        )


def shipped_table(name: str) -> dict[str, Any]:
    """A TOML table of the package's data folder."""
    return tomllib.loads((files("kizami") / "data" / name).read_text("utf-8"))


@cache
def shipped_standards() -> Standards:
    """Those that ship: common practice, no source."""
    processes = {code: process_from_table(code, t) for code, t in shipped_table("processes.toml").items()}
    materials = {code: material_from_table(code, t) for code, t in shipped_table("materials.toml").items()}
    return Standards(processes=processes, materials=materials)


def process_from_table(code: str, table: Mapping[str, Any]) -> Process:
    """A process from its table.

    Raises
    ------
    CatalogueError : a limit is missing, unknown or out of its bounds
    """
    where = f"Process {code[:40]}"
    values = dict(table)
    name = _name(_coded(where, code), values.pop("name", code))
    size = values.pop("size_mm", None)
    is_flat = values.pop("flat", False)
    limits = dict(flat_limits(values.pop("limits", {})))
    # Tables of before, with a name for each limit.
    limits |= {new: values.pop(old) for old, new in _OLDER.items() if old in values}
    lacking = {*(set(LIMITS_ASKED) - set(limits)), *(["size_mm"] if size is None else [])}
    unknown = sorted({*values, *(set(limits) - set(LIMITS_KNOWN)), *lacking})
    if unknown:
        raise CatalogueError(f"{where}: missing or unknown {', '.join(unknown)}.")
    for key, value in limits.items():
        if not _is_number(value, 0, MOST_LIMIT) or (value == 0 and key in LIMITS_ASKED):
            raise CatalogueError(
                f"{where}: {key} must be a positive number up to {MOST_LIMIT:g}, not {value!r}."
            )
    if not isinstance(size, list | tuple) or len(size) != 3:
        raise CatalogueError(f"{where}: size_mm must be three lengths, x y z.")
    if not all(_is_number(side, 0.1, _LONGEST_SIDE_MM) for side in size):
        raise CatalogueError(f"{where}: size_mm must be three lengths from 0.1 to {_LONGEST_SIDE_MM:g} mm.")
    rows = tuple(sorted((key, float(value)) for key, value in limits.items()))
    x, y, z = map(float, size)
    return Process(code=code, name=name, limits=Limits(table=rows, size_mm=(x, y, z)), is_flat=bool(is_flat))


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


def table_of_process(process: Process) -> dict[str, Any]:
    """A process as plain data; reads back as the same process.

    >>> resin = shipped_standards().processes["resin"]
    >>> process_from_table("resin", table_of_process(resin)) == resin
    True
    """
    return {
        "name": process.name,
        "flat": process.is_flat,
        "size_mm": list(process.limits.size_mm),
        "limits": process.limits.to_table(),
    }


def material_from_table(code: str, table: Mapping[str, Any]) -> Material:
    """A material from its table.

    Raises
    ------
    CatalogueError : a value is missing, unknown or out of its bounds
    """
    where = f"Material {code[:40]}"
    values = dict(table)
    name = _name(_coded(where, code), values.pop("name", code))
    density, colour = values.pop("density_g_cm3", None), values.pop("colour", "")
    parts, melts = values.pop("parts", None) or {}, values.pop("melts_c", None)
    if values:
        raise CatalogueError(f"{where}: unknown {', '.join(sorted(values))}.")
    low, high = _DENSITIES
    if not _is_number(density, low, high):
        raise CatalogueError(f"{where}: density_g_cm3 must be from {low:g} to {high:g}, not {density!r}.")
    if not isinstance(colour, str) or not re.fullmatch(r"#[0-9a-f]{6}", colour):
        raise CatalogueError(f"{where}: colour must be a colour such as #c9c9c4.")
    if not isinstance(parts, Mapping) or not all(
        str(metal).isprintable() and str(metal).strip() and _is_number(share, 0, 1)
        for metal, share in parts.items()
    ):
        raise CatalogueError(f"{where}: parts must be metals with their shares, from 0 to 1.")
    if parts and abs(sum(parts.values()) - 1.0) > _SAME_SHARE:
        raise CatalogueError(
            f"{where}: the shares of its parts come to {sum(parts.values()):g} instead of 1."
        )
    melting = None
    if melts is not None:
        if not isinstance(melts, list | tuple) or not all(_is_number(t, 0, _HOTTEST_C) for t in melts):
            raise CatalogueError(f"{where}: melts_c must be two temperatures in degrees Celsius.")
        if len(melts) != 2 or melts[0] > melts[1]:
            raise CatalogueError(f"{where}: melts_c is from where it begins to where all of it is molten.")
        melting = (float(melts[0]), float(melts[1]))
    return Material(
        code=code,
        name=name,
        density_g_cm3=float(density),
        colour=colour,
        parts=tuple((str(metal), float(share)) for metal, share in parts.items()),
        melts_c=melting,
    )


def table_of_material(material: Material) -> dict[str, Any]:
    """A material as plain data; reads back as the same material.

    >>> silver = shipped_standards().materials["sterling-silver"]
    >>> material_from_table("sterling-silver", table_of_material(silver)) == silver
    True
    """
    return {
        "name": material.name,
        "density_g_cm3": material.density_g_cm3,
        "colour": material.colour,
        "parts": dict(material.parts),
        "melts_c": None if material.melts_c is None else list(material.melts_c),
    }


def flat_limits(table: Any) -> Iterator[tuple[str, Any]]:
    """Limits by code, of a table that may have those of raised and engraved lettering as tables of its own.

    >>> dict(flat_limits({"gap-width": 0.3, "stroke-width": {"raised": 0.35}}))
    {'gap-width': 0.3, 'stroke-width.raised': 0.35}
    """
    for key, value in table.items() if isinstance(table, Mapping) else ():
        if isinstance(value, Mapping):
            yield from ((f"{key}.{inner}", item) for inner, item in value.items())
        else:
            yield key, value


def _is_number(value: Any, low: float, high: float) -> bool:
    return (
        isinstance(value, int | float)
        and not isinstance(value, bool)
        and math.isfinite(value)
        and low <= value <= high
    )


def _coded(where: str, code: str) -> str:
    if not _CODE.fullmatch(code):
        raise CatalogueError(f"{where}: a code has 1 to 40 small letters, digits and dashes.")
    return where


def _name(where: str, name: Any) -> str:
    text = " ".join(str(name).split())
    if not text or len(text) > _LONGEST_NAME or not text.isprintable():
        raise CatalogueError(f"{where}: its name must have 1 to {_LONGEST_NAME} characters.")
    return text

"""A process or a material as a form: its values, and the table back from what was typed."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from django.http import QueryDict

from kizami.checks.limits_told import limit_told, value_told
from kizami.errors import AdjustmentError, CatalogueError
from kizami.processes import LIMITS_ASKED, LIMITS_KNOWN, Process
from kizami.setting.typed import typed_number
from kizami.standards import MOST_LIMIT, shipped_standards

__all__ = ["LimitRow", "limit_parts", "material_from", "parts_of", "process_from"]


@dataclass(frozen=True, kw_only=True, slots=True)
class LimitRow:
    """One limit of a process.

    Attributes
    ----------
    title, unit, word : see `kizami.checks.limits_told`
    value : as the process says it, or None where it says nothing
    follows : what holds where it says nothing, in words
    common : common practice, in words; "" for a process that does not ship
    is_asked : a process must say it
    """

    code: str
    title: str
    unit: str
    word: str
    value: float | None
    follows: str
    common: str
    is_asked: bool

    @property
    def is_own(self) -> bool:
        """It is otherwise than common practice."""
        return (
            bool(self.common) and self.value is not None and self.common != value_told(self.code, self.value)
        )


_PARTS: Mapping[str, tuple[str, ...]] = {
    "Strokes and gaps": (
        "stroke-width.raised", "stroke-width.engraved", "gap-width", "edge-gap", "web-width", "middle-width",
        "neck-width",
    ),
    "Depth and walls": (
        "lettering-depth.raised", "lettering-depth.engraved", "floor-left", "wall-thickness",
        "standing-thickness", "slot-width", "sharp-point",
    ),
    "How it is made": ("draft", "drain", "cavities", "islands", "overhang"),
    "How it hangs": ("loops-level", "loop-place", "hangs-below", "tilt"),
}  # fmt: skip


def limit_parts(process: Process) -> list[tuple[str, list[LimitRow]]]:
    """Every limit that there is, as a process has it."""
    said = process.limits.to_table()
    ships = shipped_standards().processes.get(process.code)
    without = process.limits.without(set(said) - set(LIMITS_ASKED))
    return [
        (part, [_row(c, said, without.get_of(c), ships) for c in codes]) for part, codes in _PARTS.items()
    ]


def _row(code: str, said: Mapping[str, float], follows: float | None, ships: Process | None) -> LimitRow:
    told = limit_told(code)
    common = ships.limits.get_of(code) if ships is not None else None
    return LimitRow(
        code=code, title=told.title, unit=told.unit, word=told.word, value=said.get(code),
        follows="not asked for" if follows is None else value_told(code, follows),
        common="" if common is None else value_told(code, common), is_asked=code in LIMITS_ASKED,
    )  # fmt: skip


def process_from(typed: QueryDict, before: Mapping[str, Any]) -> dict[str, Any]:
    """The table of a process that was typed, over what stood there.

    Raises
    ------
    kizami.errors.CatalogueError : a value is no number, or out of its bounds
    """
    limits = {}
    for code in LIMITS_KNOWN:
        told = limit_told(code)
        name = f"limit.{code}"
        if name not in typed:
            if code in before["limits"]:
                limits[code] = before["limits"][code]
            continue
        unit = told.unit if told.unit in ("mm", "°") else ""
        value = _number(typed[name], unit, 0.0, MOST_LIMIT, told.title)
        if value is not None:
            limits[code] = value
        elif code in LIMITS_ASKED:
            raise CatalogueError(f"{told.title}: a process must say what it holds.")
    size = [
        _number(typed.get(f"size_{axis}", ""), "mm", 0.1, MOST_LIMIT, f"Largest piece, {axis}")
        or before["size_mm"][n]
        for n, axis in enumerate("xyz")
    ]
    return {
        "name": _name(typed, before), "flat": bool(before["flat"]), "size_mm": size,
        "limits": dict(sorted(limits.items())),
    }  # fmt: skip


#: Rows of metals of an alloy.
_MOST_METALS = 6


def parts_of(table: Mapping[str, Any]) -> list[tuple[int, str, str]]:
    """Rows of an alloy's metals with their shares in percent, and empty ones for more."""
    rows = [(metal, f"{100 * share:g}") for metal, share in (table.get("parts") or {}).items()]
    rows = (rows + [("", "")] * _MOST_METALS)[: max(_MOST_METALS, len(rows))]
    return [(number, metal, share) for number, (metal, share) in enumerate(rows, start=1)]


def material_from(typed: QueryDict, before: Mapping[str, Any]) -> dict[str, Any]:
    """The table of a material that was typed, over what stood there.

    Raises
    ------
    kizami.errors.CatalogueError : a value is no number, or out of its bounds
    """
    density = _number(typed.get("density", ""), "", 0.0, MOST_LIMIT, "Density")
    melts = [
        _number(typed.get(f"melts_{end}", ""), "", 0.0, MOST_LIMIT, "Melts at") for end in ("from", "to")
    ]
    if (melts[0] is None) != (melts[1] is None):
        raise CatalogueError("Melts at: say both where it begins and where all of it is molten, or neither.")
    return {
        "name": _name(typed, before),
        "density_g_cm3": before["density_g_cm3"] if density is None else density,
        "colour": typed.get("colour", before["colour"]).strip().lower(),
        "parts": dict(_metals(typed)) if "metal" in typed else dict(before["parts"]),
        "melts_c": None if melts[0] is None else melts,
    }


def _metals(typed: QueryDict) -> Iterator[tuple[str, float]]:
    shares = typed.getlist("share")
    for number, metal in enumerate(typed.getlist("metal")[: 2 * _MOST_METALS]):
        name = " ".join(metal.split())[:40]
        text = shares[number] if number < len(shares) else ""
        share = _number(text, "", 0.0, 100.0, f"Share of {name or 'a metal'}")
        if name and share is not None:
            # What is typed in percent is kept as a share, without the noise of the division.
            yield name, round(share / 100.0, 6)
        elif name or share is not None:
            raise CatalogueError("Parts: each metal needs its name and its share in percent.")


def _name(typed: QueryDict, before: Mapping[str, Any]) -> str:
    return " ".join(typed.get("name", "").split()) or str(before["name"])


def _number(text: str, unit: str, low: float, high: float, label: str) -> float | None:
    try:
        return typed_number(text, unit, low=low, high=high, label=label)
    except AdjustmentError as error:
        raise CatalogueError(str(error)) from error

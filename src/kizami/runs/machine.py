"""Machines: what a plate, sheet, flask or box offers to a run. Apart from processes, which say what a
material and a way of making can hold."""

from __future__ import annotations

import math
import re
import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, field, fields
from enum import StrEnum
from functools import cache
from typing import Any

from kizami.errors import RunError
from kizami.standards import Standards, shipped_standards, shipped_table

__all__ = ["Kind", "Machine", "Operation", "Work", "machine_from_table", "read_machines", "shipped_machines"]


class Kind(StrEnum):
    """What a run for a machine is called."""

    PLATE = "plate"
    SHEET = "sheet"
    TREE = "tree"
    SAND = "sand box"


class Work(StrEnum):
    """What a beam does to a sheet, in the order in which it is done."""

    SCORE = "score"
    ENGRAVE = "engrave"
    CUT = "cut"


@dataclass(frozen=True, kw_only=True, slots=True)
class Operation:
    """How a sheet machine does one kind of work in one material. Names, colours and values are the shop's
    own.

    Attributes
    ----------
    work : what is done
    name : what the group or layer is called in files
    colour : of its lines in files, #rrggbb
    material, thickness_mm : what it is for; "" and 0 for any
    power_percent, speed_mm_s, passes, focus_mm : settings as the machine takes them
    spacing_mm : distance between the lines of an engraved area
    """

    work: Work
    name: str
    colour: str
    material: str = ""
    thickness_mm: float = 0.0
    power_percent: float = 50.0
    speed_mm_s: float = 20.0
    passes: int = 1
    focus_mm: float = 0.0
    spacing_mm: float = 0.1

    def __post_init__(self) -> None:
        _check(f"Operation {self.name}", self, _OPERATION_BOUNDS)
        if not re.fullmatch(r"#[0-9a-f]{6}", self.colour):
            raise RunError(f"Operation {self.name}: the colour must be like #c0341d, not “{self.colour}”.")
        if not re.fullmatch(r"[\w -]{1,40}", self.name):
            raise RunError("An operation's name has 1 to 40 letters, digits, blanks, - or _.")


@dataclass(frozen=True, kw_only=True, slots=True)
class Machine:
    """What a run is laid out for.

    Attributes
    ----------
    code, name : how it is called
    kind : plate, sheet, tree or sand box
    processes, materials : codes that it takes; no material stands for every material
    bed_mm : room for pieces x y z; of a tree the flask's diameter twice and its height
    margin_mm : kept clear along the edges
    spacing_mm : between pieces at least
    turns_deg : steps in which a piece may be turned on the bed; 0 leaves it as it is, 1 turns it freely
    layers_gap_mm : between pieces above each other; 0 where there is one layer only
    speed_mm3_h, hour_cost : how much is built an hour, and what an hour costs; 0 where nobody has said
    kerf_mm : width of a cut; tabs : how many hold each piece in the sheet; tab_mm : how long each is
    operations : what a sheet machine does, with its settings
    sprue_mm : diameter of a tree's sprue; button_mm3 : metal left in its cup
    feed_mm, feed_length_mm : thickness and length of a tree's feeds; angle_deg : their rise above the level
    loss_percent : metal that melting loses
    draft_deg : slope that a sand pattern needs
    standards : what its shop holds to: processes and materials by code
    """

    code: str
    name: str
    kind: Kind
    processes: tuple[str, ...]
    bed_mm: tuple[float, float, float]
    materials: tuple[str, ...] = ()
    margin_mm: float = 3.0
    spacing_mm: float = 2.0
    turns_deg: float = 90.0
    layers_gap_mm: float = 0.0
    speed_mm3_h: float = 0.0
    hour_cost: float = 0.0
    kerf_mm: float = 0.0
    tabs: int = 0
    tab_mm: float = 0.6
    operations: tuple[Operation, ...] = ()
    sprue_mm: float = 6.0
    button_mm3: float = 1500.0
    feed_mm: float = 2.0
    feed_length_mm: float = 6.0
    angle_deg: float = 45.0
    loss_percent: float = 3.0
    draft_deg: float = 0.0
    standards: Standards = field(default_factory=shipped_standards, compare=False, repr=False)

    def __post_init__(self) -> None:
        said = f"Station {self.code}"
        if not re.fullmatch(r"[A-Z0-9][A-Z0-9-]{0,39}", self.code):
            raise RunError("A station's code has 1 to 40 capitals, digits and -.")
        if len(self.bed_mm) != 3 or not all(math.isfinite(x) and 0 < x <= 10_000 for x in self.bed_mm):
            raise RunError(f"{said} has no bed: it needs three lengths up to 10,000 mm, x y z.")
        _check(said, self, _MACHINE_BOUNDS)
        if min(self.bed_mm[:2]) <= 2 * self.margin_mm:
            raise RunError(f"{said}: a margin of {self.margin_mm:g} mm leaves nothing of its bed.")
        if not self.processes:
            raise RunError(f"{said} takes no process. Name one of {', '.join(self.standards.processes)}.")
        for given, known, what in (
            (self.processes, self.standards.processes, "process"),
            (self.materials, self.standards.materials, "material"),
        ):
            wrong = sorted(set(given) - set(known))
            if wrong:
                raise RunError(f"{said}: there is no {what} {wrong[0]}; there are {', '.join(known)}.")

    @property
    def room_mm(self) -> tuple[float, float]:
        """Width and depth within the margins."""
        return (self.bed_mm[0] - 2 * self.margin_mm, self.bed_mm[1] - 2 * self.margin_mm)

    def takes(self, process: str, material: str) -> bool:
        """Whether it makes pieces of a process and a material.

        >>> shipped_machines()["RESIN-1"].takes("resin", "printed-resin")
        True
        """
        return process in self.processes and (not self.materials or material in self.materials)

    def turns(self) -> tuple[float, ...]:
        """The turns that a piece may have on the bed, degrees; finer steps than 15 are taken for 15.

        >>> shipped_machines()["RESIN-1"].turns()[:3]
        (0.0, 15.0, 30.0)
        """
        if self.turns_deg <= 0:
            return (0.0,)
        step = max(self.turns_deg, _FINEST_TURN_DEG)
        return tuple(step * n for n in range(int(360.0 / step + 1e-9)))

    def operation(self, work: Work, material: str, thickness_mm: float) -> Operation:
        """The settings for a kind of work: those said for this material and thickness, else the nearest.

        Raises
        ------
        RunError : it has none for that work
        """
        fitting = [o for o in self.operations if o.work is work and o.material in ("", material)]
        if not fitting:
            raise RunError(f"Station {self.code} has no settings to {work} {material}. Add them to it.")
        return min(fitting, key=lambda o: (o.material == "", abs(o.thickness_mm - thickness_mm)))


_FINEST_TURN_DEG = 15.0
_MACHINE_BOUNDS: Mapping[str, tuple[float, float]] = {
    "margin_mm": (0, 500), "spacing_mm": (0, 200), "turns_deg": (0, 180), "layers_gap_mm": (0, 200),
    "speed_mm3_h": (0, 1e9), "hour_cost": (0, 1e6), "kerf_mm": (0, 3), "tabs": (0, 8), "tab_mm": (0.05, 10),
    "sprue_mm": (1, 60), "button_mm3": (0, 1e7), "feed_mm": (0.5, 30), "feed_length_mm": (1, 100),
    "angle_deg": (0, 80), "loss_percent": (0, 50), "draft_deg": (0, 15),
}  # fmt: skip
_OPERATION_BOUNDS: Mapping[str, tuple[float, float]] = {
    "thickness_mm": (0, 100), "power_percent": (0, 100), "speed_mm_s": (0.01, 10_000), "passes": (1, 50),
    "focus_mm": (-50, 50), "spacing_mm": (0.01, 5),
}  # fmt: skip


def _check(said: str, value: object, bounds: Mapping[str, tuple[float, float]]) -> None:
    for key, (low, high) in bounds.items():
        number = getattr(value, key)
        if not isinstance(number, int | float) or not low <= number <= high:
            shown = key.replace("_", " ")
            raise RunError(f"{said}: {shown} must be from {low:g} to {high:g}, not {number!r}.")


def machine_from_table(code: str, table: Mapping[str, Any], *, standards: Standards | None = None) -> Machine:
    """A machine from its TOML table.

    Parameters
    ----------
    standards : what the shop holds to; None for those that ship

    Raises
    ------
    RunError : a key is unknown or a value out of its bounds, by name
    """
    known = {f.name for f in fields(Machine)} - {"code", "standards"}
    wrong = sorted(set(table) - known)
    if wrong:
        raise RunError(f"Station {code}: {wrong[0]} is unknown; there are {', '.join(sorted(known))}.")
    missing = sorted({"name", "kind", "processes", "bed_mm"} - set(table))
    if missing:
        raise RunError(f"Station {code}: {', '.join(missing)} is missing.")
    values = dict(table)
    try:
        values["kind"] = Kind(values["kind"])
        values["operations"] = tuple(
            Operation(**{**row, "work": Work(row["work"])}) for row in values.get("operations", ())
        )
    except (ValueError, KeyError, TypeError) as error:
        raise RunError(
            f"Station {code}: {error}. Kinds are {', '.join(Kind)}; work is one of {', '.join(Work)}."
        ) from error
    for key in ("processes", "materials", "bed_mm"):
        if not isinstance(values.get(key, []), list | tuple):
            raise RunError(f"Station {code}: {key} must be a list.")
        values[key] = tuple(values.get(key, ()))
    return Machine(code=code, standards=standards or shipped_standards(), **values)


def read_machines(text: str) -> dict[str, Machine]:
    """The machines of a stations file, by code.

    Raises
    ------
    RunError : it can't be read, or a station in it can't be used
    """
    try:
        tables = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise RunError(f"The stations file can't be read: {error}.") from error
    return {code: machine_from_table(code, table) for code, table in tables.items()}


@cache
def shipped_machines() -> Mapping[str, Machine]:
    """The stations that ship, by code."""
    return {code: machine_from_table(code, t) for code, t in shipped_table("stations.toml").items()}

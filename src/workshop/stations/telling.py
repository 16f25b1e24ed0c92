"""What was set otherwise at a station, in words."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from itertools import zip_longest
from typing import Any

from kizami.runs.machine import Kind
from kizami.standards import Standards
from workshop.stations.models import StationChange
from workshop.stations.station_form import OPERATION_FIELDS, fields_of

__all__ = ["change_told"]


def change_told(change: StationChange, now: Standards) -> list[str]:
    """What a change set otherwise.

    Parameters
    ----------
    now : what the shop holds to, for the names of processes and materials
    """
    told = list(_tables_told(change.before, change.after, now))
    if change.retired != change.retired_before:
        told.append("out of use" if change.retired else "in use again")
    return told


def _tables_told(before: Mapping[str, Any], after: Mapping[str, Any], now: Standards) -> Iterator[str]:
    if before["name"] != after["name"]:
        yield f"called {after['name']}"
    if list(before["bed_mm"]) != list(after["bed_mm"]):
        what = "flask" if after["kind"] == Kind.TREE.value else "bed"
        yield f"{what} {_size(after)} instead of {_size(before)} mm"
    for (field, new), (_, old) in zip(fields_of(after), fields_of(before), strict=True):
        if new != old:
            unit = f" {field.unit.partition(',')[0]}" if field.unit else ""
            yield f"{field.label.lower()} {new:g} instead of {old:g}{unit}"
    names = {code: process.name for code, process in now.processes.items()}
    yield from _taken(before.get("processes", ()), after.get("processes", ()), names, "makes")
    materials = {code: material.name for code, material in now.materials.items()}
    yield from _taken(before.get("materials", ()), after.get("materials", ()), materials, "takes")
    pairs = zip_longest(before.get("operations", ()), after.get("operations", ()))
    for number, (old, new) in enumerate(pairs, start=1):
        yield from _operation_told(number, old, new)


def _size(table: Mapping[str, Any]) -> str:
    return " by ".join(f"{side:g}" for side in table["bed_mm"])


def _taken(before: Any, after: Any, names: Mapping[str, str], verb: str) -> Iterator[str]:
    for code in after:
        if code not in before:
            yield f"{verb} {names.get(code, code)}"
    for code in before:
        if code not in after:
            yield f"{verb} no {names.get(code, code)}" if after else f"{verb} any material"
            if not after:
                return


def _operation_told(
    number: int, old: Mapping[str, Any] | None, new: Mapping[str, Any] | None
) -> Iterator[str]:
    if new is None or old is None:
        there = old if new is None else new
        if there is not None:
            yield f"operation {there['name']} {'is gone' if new is None else 'is new'}"
        return
    changed = [
        f"{label.partition(',')[0].lower()} {new[key]} instead of {old[key]}"
        for key, label, _ in OPERATION_FIELDS
        if new.get(key) != old.get(key)
    ]
    if changed:
        yield f"operation {number}, {new['name']}: {', '.join(changed)}"

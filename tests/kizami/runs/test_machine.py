"""Stations as data: what they take, and what a broken one says."""

from __future__ import annotations

import pytest

from kizami.errors import RunError
from kizami.runs.machine import Kind, Work, machine_from_table, read_machines, shipped_machines

LEAST = {"name": "Printer", "kind": "plate", "processes": ["resin"], "bed_mm": [100, 80, 60]}


def test_every_kind_ships() -> None:
    assert {machine.kind for machine in shipped_machines().values()} == set(Kind)


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"bed_mm": [0, 80, 60]}, "no bed"),
        ({"bed_mm": [100, 80]}, "no bed"),
        ({"bed_mm": [100, float("nan"), 60]}, "no bed"),
        ({"margin_mm": 40}, "leaves nothing"),
        ({"processes": []}, "takes no process"),
        ({"processes": ["forging"]}, "no process forging"),
        ({"materials": ["cheese"]}, "no material cheese"),
        ({"spacing_mm": -1}, "spacing mm must be from"),
        ({"kind": "oven"}, "Kinds are plate"),
        ({"colour": "red"}, "colour is unknown"),
        ({"operations": [{"work": "cut", "name": "cut", "colour": "red"}]}, "colour must be like"),
        ({"operations": [{"work": "burn", "name": "b", "colour": "#000000"}]}, "work is one of"),
    ],
    ids=lambda value: str(value)[:30],
)
def test_what_is_wrong_with_a_station_is_said(changes: dict[str, object], said: str) -> None:
    with pytest.raises(RunError, match=said):
        machine_from_table("ONE", {**LEAST, **changes})


def test_what_is_missing_is_named() -> None:
    with pytest.raises(RunError, match="bed_mm, kind"):
        machine_from_table("ONE", {"name": "x", "processes": ["resin"]})
    with pytest.raises(RunError, match="can't be read"):
        read_machines("[[[")


@pytest.mark.parametrize(
    ("step", "turns"),
    [(0, [0]), (90, [0, 90, 180, 270]), (180, [0, 180]), (120, [0, 120, 240])],
)
def test_turns_on_the_bed(step: float, turns: list[float]) -> None:
    assert list(machine_from_table("ONE", {**LEAST, "turns_deg": step}).turns()) == turns


def test_turns_of_a_degree_are_taken_for_fifteen() -> None:
    assert len(machine_from_table("ONE", {**LEAST, "turns_deg": 1}).turns()) == 24


def test_settings_for_a_material_and_a_thickness_go_first() -> None:
    def cut(**values: object) -> dict[str, object]:
        return {"work": "cut", "name": "cut", "colour": "#000000", **values}

    machine = machine_from_table(
        "L", {**LEAST, "kind": "sheet", "operations": [
            cut(power_percent=10), cut(material="birch-plywood", thickness_mm=3, power_percent=30),
            cut(material="birch-plywood", thickness_mm=6, power_percent=60),
        ]},
    )  # fmt: skip
    power = [machine.operation(Work.CUT, m, t).power_percent for m, t in
             (("birch-plywood", 3.0), ("birch-plywood", 5.5), ("bronze", 3.0))]  # fmt: skip
    assert power == [30, 60, 10]
    with pytest.raises(RunError, match="no settings to score"):
        machine.operation(Work.SCORE, "bronze", 1.0)

"""What goes together, in which order, and why the rest waits."""

from __future__ import annotations

import datetime as dt

import pytest
import shapely

from kizami.runs.laying import Shape
from kizami.runs.machine import machine_from_table, shipped_machines
from kizami.runs.ready import Ready, gather, split_groups

TODAY = dt.date(2026, 12, 1)
SHAPE = Shape("s", shapely.box(0, 0, 10, 10), 5.0)


def ready(key: str, **values: object) -> Ready:
    usual = {"order": "A", "wording": key, "process": "resin", "material": "printed-resin", "shape": SHAPE}
    return Ready(key=key, **{**usual, **values})  # type: ignore[arg-type]


def test_late_and_rush_pieces_go_first_and_an_order_stays_together() -> None:
    pieces = [
        ready("later", order="B", due=dt.date(2027, 2, 1)),
        ready("soon-2", order="C", due=dt.date(2026, 12, 24)),
        ready("other", order="D", due=dt.date(2026, 12, 20)),
        ready("soon-1", order="C", due=dt.date(2026, 12, 10)),
        ready("never", order="E"),
        ready("late", order="F", due=dt.date(2026, 11, 20)),
        ready("rush", order="G", due=dt.date(2027, 5, 1), rush=True),
    ]
    (batch,) = gather(pieces, list(shipped_machines().values()), today=TODAY).batches
    assert [piece.key for piece in batch.pieces] == [
        "late", "rush", "soon-1", "soon-2", "other", "later", "never",
    ]  # fmt: skip
    assert "1 late" in batch.why and "2026-11-20 to 2027-05-01" in batch.why


def test_materials_and_thicknesses_stay_apart() -> None:
    laser = {"process": "laser-ply", "material": "birch-plywood"}
    pieces = [
        ready("a", thickness_mm=3.0, **laser), ready("b", thickness_mm=4.0, **laser),
        ready("c", process="lost-wax", material="bronze"),
        ready("d", process="lost-wax", material="sterling-silver"), ready("e"),
    ]  # fmt: skip
    found = gather(pieces, list(shipped_machines().values()), today=TODAY)
    assert sorted(tuple(p.key for p in batch.pieces) for batch in found.batches) == [
        ("a",), ("b",), ("c",), ("d",), ("e",),
    ]  # fmt: skip
    assert {b.thickness_mm for b in found.batches} == {0.0, 3.0, 4.0}


def test_the_first_station_that_takes_a_piece_gets_it() -> None:
    shipped = shipped_machines()
    wax = ready("w", process="lost-wax", material="bronze")
    for order, code in ((("FLASK-1", "PATTERNS-1"), "FLASK-1"), (("PATTERNS-1", "FLASK-1"), "PATTERNS-1")):
        (batch,) = gather([wax], [shipped[c] for c in order], today=TODAY).batches
        assert batch.machine.code == code


@pytest.mark.parametrize(
    ("piece", "said"),
    [
        (ready("a", process="sand", material="bronze"), "No station makes sand casting"),
        (ready("b", material="bronze"), "makes resin print but not Bronze"),
        (ready("c", shape=Shape("t", shapely.box(0, 0, 5, 5), 90.0)), "stands 90.0 mm high"),
    ],
    ids=["no station", "no material", "too high"],
)
def test_why_a_piece_waits(piece: Ready, said: str) -> None:
    table = {"name": "Small printer", "kind": "plate", "processes": ["resin"],
             "materials": ["printed-resin"], "bed_mm": [100, 80, 60]}  # fmt: skip
    found = gather([piece], [machine_from_table("P", table)], today=TODAY)
    assert not found.batches and said in found.waiting[0].why


def test_orders_that_lie_on_several_beds_are_told() -> None:
    beds = [[ready("a"), ready("b", order="B")], [ready("c"), ready("d", order="D", set_name="crew")]]
    assert split_groups(beds) == {("A", ""): [1, 2]}

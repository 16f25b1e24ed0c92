"""Stations on their pages, and what is left of their sheets."""

from __future__ import annotations

import re

import pytest
import shapely
from django.urls import reverse

from kizami.runs.machine import shipped_machines
from kizami.standards import shipped_standards
from tests.workshop.lists import HEADER
from tests.workshop.runs.acts import change, lay, move
from workshop.intake.taking import take_list
from workshop.making.tasks import make_list
from workshop.runs import remnants
from workshop.runs.gathering import ask_for_runs, gather_runs
from workshop.runs.models import Remnant, Run
from workshop.runs.releasing import release_run
from workshop.runs.remnants import free_remnants
from workshop.runs.rows import outline_on_map
from workshop.stations.models import Station, StationChange, table_of
from workshop.stations.station_form import OPERATION_FIELDS, fields_of
from workshop.stations.telling import change_told

pytestmark = pytest.mark.django_db


def test_stations_are_set_and_what_is_wrong_is_said(ready: None, owner_client) -> None:
    station = Station.objects.get(code="LASER-1")
    page = owner_client.get(reverse("stations:station", args=["LASER-1"])).content.decode()
    assert 'name="kerf_mm"' in page and 'name="sprue_mm"' not in page and 'name="operation_colour"' in page
    table = station.table
    sent = {
        "edition": station.edition, "name": "Laser two", "bed_x": "300", "bed_y": "200,5", "bed_z": "9",
        "margin_mm": "5", "spacing_mm": "2", "processes": ["laser-ply"], "materials": ["birch-plywood"],
        "operation_work": ["cut", ""], "operation_name": ["Kontur", ""], "operation_colour": ["#00FF00", "#16201c"],
        "operation_material": ["", ""], "operation_power_percent": ["55", "50"], "operation_thickness_mm": ["3", ""],
        "operation_speed_mm_s": ["12", "20"], "operation_passes": ["2", "1"], "operation_focus_mm": ["-0.5", ""],
        "operation_spacing_mm": ["0.1", ""], "why": "New lens, twelve test cuts",
    }  # fmt: skip
    keep = reverse("stations:keep", args=["LASER-1"])
    assert owner_client.post(keep, {**sent, "margin_mm": "150"}).status_code == 422
    assert "is no number" in owner_client.post(keep, {**sent, "kerf_mm": "wide"}).content.decode()
    refused = owner_client.post(keep, {**sent, "why": " new  "})
    assert refused.status_code == 422 and "why it is set otherwise" in refused.content.decode()
    # What was typed stays in the form.
    assert 'value="200,5"' in refused.content.decode()
    station.refresh_from_db()
    assert station.table == table and not StationChange.objects.exists()
    owner_client.post(keep, sent)
    station.refresh_from_db()
    machine = station.to_machine()
    assert machine.bed_mm == (300.0, 200.5, 9.0) and machine.name == "Laser two"
    (cut,) = machine.operations
    assert (cut.name, cut.colour, cut.passes, cut.focus_mm) == ("Kontur", "#00ff00", 2, -0.5)
    assert "while you had it open" in owner_client.post(keep, sent).content.decode()


def _sent(station: Station, **typed: object) -> dict[str, object]:
    """The form of a station as its page sends it."""
    table = station.table
    rows = table["operations"]
    return {
        "edition": station.edition, "name": table["name"], "processes": table["processes"],
        "materials": table["materials"], **{f"bed_{a}": v for a, v in zip("xyz", table["bed_mm"], strict=True)},
        **{field.key: table[field.key] for field, _ in fields_of(table)},
        **{f"operation_{key}": [row[key] for row in rows] for key, _, _ in OPERATION_FIELDS}, **typed,
    }  # fmt: skip


def test_who_set_a_station_and_why_stands_on_its_page_for_good(ready: None, owner_client) -> None:
    station = Station.objects.get(code="FLASK-1")
    keep = reverse("stations:keep", args=["FLASK-1"])
    page = owner_client.get(reverse("stations:station", args=["FLASK-1"])).content.decode()
    assert "As it ships: common practice, no source" in page
    # Kept as it is, it needs no reason and makes no entry.
    owner_client.post(keep, _sent(station))
    station.refresh_from_db()
    assert station.edition == 1 and not StationChange.objects.exists()
    sprue = station.table["sprue_mm"]
    owner_client.post(keep, _sent(station, sprue_mm="7", bed_z="99", why="Shrinkage in the <last> tree"))
    station.refresh_from_db()
    owner_client.post(keep, _sent(station, retired="on", why="The furnace is being relined"))
    page = owner_client.get(reverse("stations:station", args=["FLASK-1"])).content.decode()
    told = re.findall(r"data-change>(.*?)</li>", page, re.DOTALL)
    assert len(told) == 2
    assert "out of use" in told[0] and "The furnace is being relined" in told[0] and "edition 3" in told[0]
    assert (
        f"sprue, diameter 7 instead of {sprue:g} mm" in told[1] and "Shrinkage in the &lt;last&gt;" in told[1]
    )
    assert "by 99 instead of" in told[1] and "bench" not in told[1]
    # It is what the database keeps as well, in the order of its editions.
    assert [(c.number, c.retired) for c in StationChange.objects.all()] == [(3, True), (2, False)]


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"name": "Front laser"}, "called Front laser"),
        ({"kerf_mm": 0.25}, "width of a cut 0.25 instead of 0.15 mm"),
        ({"tabs": 3}, "holding tabs a piece 3 instead of 0"),
        ({"materials": []}, "takes any material"),
        ({"processes": ["laser-ply", "resin"]}, "makes Resin print"),
        ({"operations": []}, "is gone"),
    ],
    ids=lambda value: value if isinstance(value, str) else "",
)
def test_every_kind_of_change_is_told(db, change: dict[str, object], said: str) -> None:
    before = {**table_of(shipped_machines()["LASER-1"]), "kerf_mm": 0.15, "tabs": 0}
    row = StationChange(before=before, after={**before, **change}, retired=False, retired_before=False)
    assert any(said in one for one in change_told(row, shipped_standards()))
    same = StationChange(before=before, after=before, retired=False, retired_before=False)
    assert change_told(same, shipped_standards()) == []


def test_what_a_change_would_do_to_ready_pieces_is_said_before_it_is_kept(
    ready: None, owner_client, django_assert_max_num_queries
) -> None:
    def would(code: str, **typed: object) -> str:
        station = Station.objects.get(code=code)
        with django_assert_max_num_queries(25):
            answer = owner_client.post(reverse("runs:station-would", args=[code]), _sent(station, **typed))
        return " ".join(re.sub(r"<[^>]+>", " ", answer.content.decode()).split())

    assert "9 ready pieces would go where they go now" in would("RESIN-1")
    low = would("RESIN-1", bed_z="0.5")
    assert "would wait instead of going to RESIN-1" in low and "0.5 mm" in low and "P1" in low
    assert "would wait instead of going to LASER-1" in would("LASER-1", retired="on")
    assert "This can’t be kept" in would("LASER-1", margin_mm="900")
    # Nothing was kept by asking, and a second station takes over what the first gives up.
    assert not StationChange.objects.exists()
    owner_client.post(reverse("stations:add"), {"code": "LASER-9", "kind": "sheet"})
    assert "would go to LASER-9 instead of LASER-1" in would("LASER-1", retired="on")
    # One that is out of use and comes back takes its pieces again.
    Station.objects.filter(code="LASER-9").update(retired=True)
    Station.objects.filter(code="LASER-1").update(retired=True)
    assert "would go to LASER-9, which wait now" in would("LASER-9")


def test_a_station_is_added_once(ready: None, owner_client) -> None:
    add = reverse("stations:add")
    owner_client.post(add, {"code": "laser-9", "kind": "sheet", "name": "New"})
    assert Station.objects.get(code="LASER-9").kind == "sheet"
    count = Station.objects.count()
    for sent in (
        {"code": "LASER-9", "kind": "sheet"},
        {"code": "!", "kind": "sheet"},
        {"code": "X", "kind": "oven"},
    ):
        owner_client.post(add, sent)
    assert Station.objects.count() == count


def test_a_station_that_has_changed_leaves_runs_as_they_were_laid(proposed: dict[str, Run]) -> None:
    run = proposed["plate"]
    Station.objects.filter(pk=run.station_id).update(
        table={**run.station.table, "bed_mm": [50, 50, 50], "name": "smaller"}
    )
    assert Run.objects.get(pk=run.pk).to_machine().bed_mm == (140.0, 80.0, 160.0)


def test_what_is_left_of_a_sheet_is_laid_on_before_a_new_one(
    released: dict[str, Run], owner, owner_client
) -> None:
    first = released["sheet"]
    rows = lay(first)
    owner_client.post(reverse("runs:made", args=[first.code]), {"edition": first.edition})
    remnant = Remnant.objects.get()
    assert remnant.made_from == first.code and 0.85 < remnant.free_share < 1.0
    used = shapely.union_all([outline_on_map(first, row) for row in rows])
    assert remnant.shape.buffer(1e-6).covers(used)

    more = take_list((HEADER + "Q1,1,SORREL-LEAF,,Ida,5,2027-01-20,Quay\n").encode(), name="m", user=owner)
    make_list(more.pk)
    gather_runs(ask_for_runs(user=owner).pk)
    run = Run.objects.get(remnant=remnant)
    assert first.code in run.why and len(lay(run)) == 5
    gap = min(outline_on_map(run, row).distance(used) for row in lay(run))
    assert gap >= run.machine["spacing_mm"]
    assert "k-taken" in owner_client.get(run.get_absolute_url()).content.decode()

    # By hand nothing comes to lie where the sheet is used up.
    row = lay(run)[0]
    answer = move(
        owner_client, run, [row], right=str(rows[0].x_mm - row.x_mm), up=str(rows[0].y_mm - row.y_mm)
    )
    assert "used up" in answer.content.decode()

    # While somebody has it, it is nobody else's; made, it gives way to what is left then.
    change(owner_client, run, "lock")
    assert free_remnants(run.station, run.material, run.thickness_mm) == []
    release_run(run.pk)
    run.refresh_from_db()
    assert run.files_state == Run.Files.RELEASED, run.files_said
    owner_client.post(reverse("runs:made", args=[run.code]), {"edition": run.edition})
    remnant.refresh_from_db()
    (left,) = Remnant.objects.in_stock()
    assert remnant.gone and left.free_share < remnant.free_share
    assert left.shape.buffer(0.5).covers(remnant.shape)


def test_too_little_of_a_sheet_is_not_kept(
    released: dict[str, Run], owner_client, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(remnants, "LEAST_SHARE", 0.99)
    run = released["sheet"]
    owner_client.post(reverse("runs:made", args=[run.code]), {"edition": run.edition})
    assert not Remnant.objects.exists()


def test_stations_are_listed_in_the_order_in_which_pieces_go_to_them(shop, owner_client) -> None:
    Station.objects.add_shipped()
    last = Station.objects.order_by("place").last()
    assert last is not None
    Station.objects.filter(pk=last.pk).update(place=0)
    page = owner_client.get(reverse("stations:stations")).content.decode()
    shown = re.findall(r'data-station="([^"]+)"', page)
    assert shown[0] == last.code
    assert shown == list(Station.objects.order_by("place", "pk").values_list("code", flat=True))

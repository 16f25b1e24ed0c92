"""Stations on their pages, and what is left of their sheets."""

from __future__ import annotations

import re

import pytest
import shapely
from django.urls import reverse

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
from workshop.stations.models import Station

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
        "operation_spacing_mm": ["0.1", ""],
    }  # fmt: skip
    keep = reverse("stations:keep", args=["LASER-1"])
    assert owner_client.post(keep, {**sent, "margin_mm": "150"}).status_code == 422
    assert "is no number" in owner_client.post(keep, {**sent, "kerf_mm": "wide"}).content.decode()
    station.refresh_from_db()
    assert station.table == table
    owner_client.post(keep, sent)
    station.refresh_from_db()
    machine = station.to_machine()
    assert machine.bed_mm == (300.0, 200.5, 9.0) and machine.name == "Laser two"
    (cut,) = machine.operations
    assert (cut.name, cut.colour, cut.passes, cut.focus_mm) == ("Kontur", "#00ff00", 2, -0.5)
    assert "while you had it open" in owner_client.post(keep, sent).content.decode()


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

"""The Stations' pages: what each is doing, what it takes, how it is set."""

from __future__ import annotations

import re
from typing import Any

from django.contrib import messages
from django.db import IntegrityError, transaction
from django.db.models import Count, F, Max, Q
from django.http import HttpRequest, HttpResponse, QueryDict
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from kizami.errors import RunError
from kizami.runs.machine import Kind, Work, machine_from_table, shipped_machines
from kizami.standards import Standards
from workshop.standards.models import LONGEST_WHY, SHORTEST_WHY, Standard
from workshop.stations.models import Station, table_of
from workshop.stations.services import set_station
from workshop.stations.station_form import OPERATION_FIELDS, fields_of, operations_of, table_from
from workshop.stations.telling import change_told


@require_GET
def stations(request: HttpRequest) -> HttpResponse:
    """Every station."""
    # Of its runs it is asked by name, as stations know nothing of runs. Counted rows forget their own order.
    counts = {name: Count("runs", filter=Q(runs__standing=name)) for name in ("locked", "open", "proposed")}
    now = Standard.objects.now()
    rows = [(row, _takes(row, now)) for row in Station.objects.annotate(**counts).order_by("place", "pk")]
    return render(
        request, "stations/stations.html", {"stations": rows, "place": "stations", "kinds": list(Kind)}
    )


def _takes(row: Station, now: Standards) -> str:
    """Processes and materials in words."""
    processes, materials = now.processes, now.materials
    made = [processes[code].name if code in processes else code for code in row.table["processes"]]
    of = [materials[code].name if code in materials else code for code in row.table.get("materials") or ()]
    return ", ".join(made) + (f" in {', '.join(of)}" if of else "")


@require_GET
def station(request: HttpRequest, code: str) -> HttpResponse:
    """One station with its settings."""
    row = get_object_or_404(Station, code=code)
    return render(request, "stations/station.html", _context(row, row.table))


#: So many changes of a station are told, the newest first.
_MOST_TOLD = 40


def _context(row: Station, table: dict[str, Any], *, trouble: str = "", why: str = "") -> dict[str, Any]:
    now = Standard.objects.now()
    changes = row.changes.select_related("who")[:_MOST_TOLD]
    ships = shipped_machines().get(row.code)
    return {
        "place": "stations",
        "station": row,
        "table": table,
        "fields": fields_of(table),
        "bed": list(zip("xyz", table["bed_mm"], strict=True)),
        "operations": operations_of(table),
        "columns": OPERATION_FIELDS,
        "works": list(Work),
        "processes": now.processes.values(),
        "materials": now.materials.values(),
        "trouble": trouble,
        "why": why,
        "shortest": SHORTEST_WHY,
        "longest": LONGEST_WHY,
        "changes": [(change, change_told(change, now)) for change in changes],
        "ships": ships is not None and row.simulated,
    }


@require_POST
def keep(request: HttpRequest, code: str) -> HttpResponse:
    """Keep what was typed, or say what is wrong with it and keep it in the form."""
    why = request.POST.get("why", "")[:LONGEST_WHY]
    with transaction.atomic():
        row = get_object_or_404(Station.objects.select_for_update(), code=code)
        if request.POST.get("edition") != str(row.edition):
            trouble = "Somebody set this station while you had it open. It is shown as it stands now."
            return render(request, "stations/station.html", _context(row, row.table, trouble=trouble))
        try:
            now = Standard.objects.now()
            table = table_from(request.POST, row.table, now)
            machine = machine_from_table(row.code, table, standards=now)
            is_changed = set_station(
                row, table_of(machine), retired="retired" in request.POST, why=why, user=request.user
            )  # type: ignore[arg-type]
        except (RunError, ValueError) as error:
            context = _context(row, _typed(request.POST, row.table), trouble=str(error), why=why)
            return render(request, "stations/station.html", context, status=422)
    if is_changed:
        messages.success(request, f"{row.name} is kept. Runs that are laid out already stay as they were.")
    else:
        messages.success(request, f"{row.name} is as it was.")
    return redirect("stations:station", code=row.code)


def _typed(post: QueryDict, before: dict[str, Any]) -> dict[str, Any]:
    """What was typed, as far as it can be shown again."""
    table = dict(before)
    for field, _ in fields_of(before):
        table[field.key] = post.get(field.key, before.get(field.key))
    table["bed_mm"] = [post.get(f"bed_{axis}", "") for axis in "xyz"]
    table["name"] = post.get("name", before["name"])
    table["processes"], table["materials"] = post.getlist("processes"), post.getlist("materials")
    return table


@require_POST
def add(request: HttpRequest) -> HttpResponse:
    """Add a station of a kind, set as the one of that kind that ships."""
    code = request.POST.get("code", "").strip().upper()
    kind = request.POST.get("kind", "")
    like = next((m for m in shipped_machines().values() if m.kind.value == kind), None)
    if like is None or not re.fullmatch(r"[A-Z0-9][A-Z0-9-]{0,39}", code):
        messages.error(request, "Give it a code of capitals, digits and dashes, like LASER-2, and a kind.")
        return redirect("stations:stations")
    table = {**table_of(like), "name": request.POST.get("name", "").strip()[:80] or code}
    try:
        with transaction.atomic():
            last = Station.objects.aggregate(last=Max(F("place")))["last"] or 0
            Station.objects.create(code=code, place=last + 1, table=table, simulated=False)
    except IntegrityError:
        messages.error(request, f"There is a station {code} already. Give the new one another code.")
        return redirect("stations:stations")
    return redirect("stations:station", code=code)

"""The Runs' pages: what is proposed, what is being laid out, what is on its way."""

from __future__ import annotations

import zipfile
from collections.abc import Iterator
from typing import Any

from django.contrib import messages
from django.core.files.storage import default_storage
from django.db.models import Count, Q, QuerySet
from django.http import FileResponse, Http404, HttpRequest, HttpResponse, QueryDict, StreamingHttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.utils import timezone
from django.views.decorators.http import require_GET, require_POST

from kizami.runs.looking import look_at
from workshop.orders.models import Piece
from workshop.orders.stages import Stage
from workshop.runs.drawn import drawn_run
from workshop.runs.gathering import LONGEST_SEARCH_S, ask_for_runs
from workshop.runs.models import Gathering, Placement, Run, Standing, reasons
from workshop.runs.rows import core_run
from workshop.standards.models import Standard
from workshop.stations.models import Station

_SHOWN = 60
_WAITING_SHOWN = 30
#: Offered times for a search, s.
_SEARCHES = ((0, "at once"), (20, "20 s"), (60, "1 min"), (300, "5 min"))
_GROUPS = (
    (Standing.OPEN, "Being laid out"),
    (Standing.PROPOSED, "Proposed"),
    (Standing.LOCKED, "Locked"),
    (Standing.MADE, "Made lately"),
)


@require_GET
def runs(request: HttpRequest) -> HttpResponse:
    """All runs, and what waits for one. While something is at work the list asks for itself."""
    part = request.headers.get("HX-Request") == "true"
    return render(request, "runs/_runs.html" if part else "runs/runs.html", _runs_context())


def _runs_context() -> dict[str, Any]:
    gathering = Gathering.objects.select_related("asked_by").first()
    shown = [
        # Proposals as they were proposed, the most urgent first; of others the newest.
        list(_listed().filter(standing=s).order_by("pk" if s == Standing.PROPOSED else "-pk")[:_SHOWN])
        for s, _ in _GROUPS
    ]
    rows = [row for part in shown for row in part]
    counts = dict.fromkeys(Standing.values, 0) | dict(
        Run.objects.order_by().values_list("standing").annotate(Count("pk"))
    )
    groups = []
    for standing, title in _GROUPS:
        chosen = [row for row in rows if row.standing == standing]
        if chosen:
            groups.append((standing, title, chosen, counts[standing] - len(chosen)))
    ready = Piece.objects.filter(stage=Stage.READY).exclude(pk__in=Placement.objects.live().values("piece"))
    return {
        "place": "runs",
        "gathering": gathering,
        "reasons": reasons(gathering.waits) if gathering is not None else [],
        "groups": groups,
        "counts": counts,
        "free": ready.count(),
        "searches": _SEARCHES,
        "stations": Station.objects.in_use().count(),
        "asks_again": (gathering is not None and gathering.is_going_on) or any(r.is_writing for r in rows),
    }


def _listed() -> QuerySet[Run]:
    return (
        Run.objects.select_related("station", "made_by")
        .annotate(pieces=Count("placements", filter=Q(placements__live=True)))
        .defer("contents")
    )


@require_POST
def propose(request: HttpRequest) -> HttpResponse:
    """Ask for proposals."""
    text = request.POST.get("seconds", "0")
    seconds = min(int(text), LONGEST_SEARCH_S) if text.isascii() and text.isdigit() else 0
    ask_for_runs(user=request.user, seconds=seconds)  # type: ignore[arg-type]
    return redirect("runs:runs")


@require_POST
def stop(request: HttpRequest) -> HttpResponse:
    """Stop proposing; the proposals of before stand."""
    if Gathering.objects.filter(state__in=("waiting", "working")).update(state=Gathering.State.STOPPED):
        messages.success(request, "Stopped. The proposals of before stand as they were.")
    return redirect("runs:runs")


@require_GET
def run(request: HttpRequest, code: str) -> HttpResponse:
    """One run, drawn to scale."""
    row = get_object_or_404(Run.objects.select_related("station", "made_by", "file", "remnant"), code=code)
    part = request.headers.get("HX-Request") == "true"
    return render(
        request, "runs/_run.html" if part else "runs/run.html", run_context(row, looks=looks_in(request.GET))
    )


def looks_in(sent: QueryDict) -> bool:
    """Whether whoever asks looks at the run in space as well."""
    return sent.get("look") == "1"


def run_context(row: Run, *, trouble: str = "", said: str = "", looks: bool = False) -> dict[str, Any]:
    """All that the page of a run shows.

    Parameters
    ----------
    looks : whether it is shown in space before its files are there
    """
    placements = row.placements.with_pieces()
    if row.can_be_changed or row.standing == Standing.LOCKED:
        live = list(placements.live())
        left = list(placements.filter(outcome=Placement.Outcome.LEFT)[:20])
    else:
        live, left = list(placements.exclude(outcome=Placement.Outcome.LEFT)), []
    others = (
        Run.objects.changeable()
        .filter(station=row.station_id, material=row.material, thickness_mm=row.thickness_mm)
        .exclude(pk=row.pk)
        .order_by("code")[:20]
    )
    glb = next((file["name"] for file in row.contents if str(file["name"]).endswith(".glb")), "")
    turning = reverse("runs:fetch-one", args=[row.code, glb.removesuffix(".glb") + ".stl"]) if glb else ""
    can_look = not glb and row.kind != "sheet" and bool(live)
    if can_look and looks:
        turning = reverse("runs:look", args=[row.code, row.edition])
    made_of = Standard.objects.now().materials.get(row.material)
    return {
        "place": "runs",
        "run": row,
        "drawn": drawn_run(row, live),
        "left": left,
        "steps": list(row.steps.select_related("who")[:1]) if row.can_be_changed else [],
        "waiting": _waiting(row) if row.can_be_changed else [],
        "others": list(others) if row.can_be_changed else [],
        "colour": made_of.colour if made_of is not None else "",
        "turning": turning,
        "can_look": can_look,
        "looks": looks,
        "late": [r for r in live if r.piece.line.is_late],
        "trouble": trouble,
        "said": said,
        "asks_again": row.is_writing,
        "today": timezone.localdate(),
    }


def _waiting(row: Run) -> list[Piece]:
    """Ready pieces in no run that go to this station, of this run's material, the most urgent first."""
    machine = row.to_machine()
    free = (
        Piece.objects.filter(
            stage=Stage.READY,
            revision__facts__process__in=list(machine.processes),
            revision__facts__material=row.material,
        )
        .exclude(pk__in=Placement.objects.live().values("piece"))
        .select_related("line__product", "revision")
        .defer("line__folded", "revision__strip", "revision__facts")
        .order_by("-line__rush", "line__due", "pk")
    )
    return list(free[:_WAITING_SHOWN])


@require_GET
def look(request: HttpRequest, code: str, edition: int) -> StreamingHttpResponse:
    """A run as it lies in this edition, for the turning view; sent while it is put together."""
    row = get_object_or_404(Run.objects.select_related("station", "remnant"), code=code, edition=edition)
    if row.kind == "sheet":
        raise Http404("A sheet lies flat.")
    placements = list(row.placements.live().with_pieces().select_related("revision"))
    answer = StreamingHttpResponse(look_at(core_run(row, placements)), content_type="model/stl")
    answer["Cache-Control"] = "private, max-age=600"
    return answer


@require_GET
def fetch(request: HttpRequest, code: str) -> HttpResponse:
    """All files of a released run as one zip."""
    row = _released(code)
    return FileResponse(
        default_storage.open(row.file.path),  # type: ignore[union-attr]
        as_attachment=True,
        filename=f"{row.code}.zip",
        content_type="application/zip",
    )


_TYPES = {
    "3mf": "model/3mf", "stl": "model/stl", "glb": "model/gltf-binary", "svg": "image/svg+xml",
    "dxf": "image/vnd.dxf", "pdf": "application/pdf", "csv": "text/csv", "json": "application/json",
    "xlsx": "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
}  # fmt: skip


@require_GET
def fetch_one(request: HttpRequest, code: str, name: str) -> StreamingHttpResponse:
    """One file of a released run."""
    row = _released(code)
    if name not in {str(file["name"]) for file in row.contents}:
        raise Http404("The run has no such file.")
    kind = _TYPES.get(name.rpartition(".")[2], "application/octet-stream")
    # Always to be saved: what a file says inside is never run in the shop's own pages.
    answer = StreamingHttpResponse(_inside(row.file.path, name), content_type=kind)  # type: ignore[union-attr]
    answer["Content-Disposition"] = f'attachment; filename="{name}"'
    answer["Content-Length"] = str(next(f["size"] for f in row.contents if f["name"] == name))
    return answer


def _inside(path: str, name: str) -> Iterator[bytes]:
    """A file of a zip, some of it at a time."""
    with default_storage.open(path) as file, zipfile.ZipFile(file) as package, package.open(name) as inside:
        while chunk := inside.read(1 << 18):
            yield chunk


def _released(code: str) -> Run:
    row = get_object_or_404(Run.objects.select_related("file"), code=code)
    if row.files_state != Run.Files.RELEASED or row.file is None:
        raise Http404("Its files are not released.")
    return row

"""The Bench: one piece, its wording, its drawing, its solid and its gauges."""

from __future__ import annotations

from typing import Any

from django.contrib.auth.decorators import permission_required
from django.http import Http404, HttpRequest, HttpResponse, HttpResponseNotModified
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from kizami.checks.every_check import solid_checks as solid_check_codes
from kizami.drawing.unrolled import unrolled_drawing
from kizami.formats.stl import stl_bytes
from kizami.make import Inputs, LaidOut, finding_table, fingerprint, lay_out
from kizami.processes import shipped_materials
from kizami.surfaces.cylinder import Cylinder
from kizami.wording.order_list import LARGEST_CELL_CHARACTERS
from workshop.bench.trials import trial
from workshop.orders.made_files import file_of
from workshop.orders.models import OrderLine, Stage
from workshop.orders.services import change_wording

#: What the unrolled view has on a screen of 1280 x 800, to choose a readable size of figures.
_VIEW_WIDTH_PX, _VIEW_HEIGHT_PX, _FIGURE_PX = 960.0, 300.0, 13.0


def _line(pk: int) -> OrderLine:
    lines = OrderLine.objects.select_related("product", "revision", "order_list")
    return get_object_or_404(lines.defer("order_list__original"), pk=pk)


def _wording(request: HttpRequest, line: OrderLine) -> str:
    """The wording that a request is about: the kept one, or one on trial as the product settles it."""
    text = request.GET.get("wording")
    if text is None:
        return line.wording
    return line.to_inputs(text[:LARGEST_CELL_CHARACTERS]).wording


def _inputs(line: OrderLine, wording: str) -> Inputs:
    return line.to_inputs(None if wording == line.wording else wording)


def _result_context(line: OrderLine, wording: str) -> dict[str, Any]:
    """Everything that is redrawn when the wording changes."""
    unsaved = wording != line.wording
    laid_out = lay_out(_inputs(line, wording))
    treatment, surface = laid_out.inputs.product.treatment, laid_out.area.surface
    saved = line.revision
    # A kept piece has its solid's findings too; a trial asks for them once the page shows the rest.
    if saved is not None and not unsaved:
        findings = saved.facts["findings"]
    else:
        findings = [finding_table(f) for f in laid_out.findings]
    held = any(f["level"] == "fails" for f in findings)
    return {
        "line": line,
        "wording": wording,
        "unsaved": unsaved,
        "stage": Stage.HELD if held else Stage.READY,
        "drawing": _drawing(laid_out),
        "findings": findings,
        "failing": [f for f in findings if f["level"] == "fails"],
        "layout": laid_out.layout,
        "material": shipped_materials()[laid_out.inputs.product.material],
        "facts": saved.facts if saved and not unsaved else None,
        "area_name": laid_out.area.name,
        "size": laid_out.inputs.size,
        "view": "band" if surface.period_mm is not None else "plate",
        "place": "bench",
        # For the turning view, which blackens engraved floors as a workshop does: how deep they
        # lie below the lettered surface, and where that surface is.
        "engraved": treatment.depth_mm if treatment.kind == "engraved" else 0,
        "level": surface.radius_mm if isinstance(surface, Cylinder) else surface.z_mm,
        "has_solid": not laid_out.layout.is_empty,
        "change": _change_in_words(line, wording, laid_out) if unsaved else "",
    }


def _drawing(laid_out: LaidOut) -> Any:
    low_u, low_v, high_u, high_v = laid_out.area.outline.bounds
    scale = min(_VIEW_WIDTH_PX / (high_u - low_u), _VIEW_HEIGHT_PX / (high_v - low_v + 6.0))
    return unrolled_drawing(laid_out.area, laid_out.layout, laid_out.findings, text_mm=_FIGURE_PX / scale)


def _change_in_words(line: OrderLine, wording: str, laid_out: LaidOut) -> str:
    said = f"“{line.wording}” would become “{wording}”"
    if line.revision is not None and line.revision.height_mm and laid_out.layout.height_mm:
        before, now = line.revision.height_mm, laid_out.layout.height_mm
        if abs(now - before) > 0.001:
            said += f", {abs(now - before):.2f} mm {'higher' if now > before else 'lower'}"
        else:
            said += ", at the same height"
    return said + ". Not kept yet."


@require_GET
def first(request: HttpRequest) -> HttpResponse:
    """The worst held piece, or a page that says there is none."""
    worst = OrderLine.objects.worst_held().first()
    if worst is None:
        return render(request, "bench/nothing_held.html", {"place": "bench"})
    return redirect(worst)


@require_GET
def piece(request: HttpRequest, pk: int) -> HttpResponse:
    """One line's piece."""
    line = _line(pk)
    context = _result_context(line, line.wording)
    held = list(OrderLine.objects.worst_held().values_list("pk", flat=True)[:2000])
    place = held.index(pk) if pk in held else -1
    context |= {
        "next_held": held[(place + 1) % len(held)] if held and held != [pk] else None,
        "held_place": place + 1,
        "held_count": len(held),
        "revisions": line.revisions.select_related("made_by").defer("facts", "strip")[:8],
        "longest": LARGEST_CELL_CHARACTERS,
    }
    return render(request, "bench/piece.html", context)


@require_GET
def look(request: HttpRequest, pk: int) -> HttpResponse:
    """The redrawn result for a wording on trial; nothing is stored."""
    line = _line(pk)
    return render(request, "bench/_result.html", _result_context(line, _wording(request, line)))


@require_GET
def solid_checks(request: HttpRequest, pk: int) -> HttpResponse:
    """The findings on the solid of a wording on trial, and with them the verdict on the whole."""
    line = _line(pk)
    made = trial(_inputs(line, _wording(request, line)))
    findings = [finding_table(f) for f in made.findings]
    codes = (*solid_check_codes(), "built")
    context = {
        "solid_findings": [f for f in findings if f["code"] in codes],
        "failing": [f for f in findings if f["level"] == "fails"],
        "unsaved": True,
    }
    return render(request, "bench/_solid_checks.html", context)


@permission_required("orders.change_wording", raise_exception=True)
@require_POST
def keep(request: HttpRequest, pk: int) -> HttpResponse:
    """Keep a wording: the piece is made again and recorded as a revision."""
    get_object_or_404(OrderLine, pk=pk)
    change_wording(pk, request.POST.get("wording", "")[:LARGEST_CELL_CHARACTERS], user=request.user)  # type: ignore[arg-type]
    return redirect("bench:piece", pk=pk)


@require_GET
def solid(request: HttpRequest, pk: int) -> HttpResponse:
    """The solid for the turning view, of the kept wording or of one on trial."""
    line = _line(pk)
    wording = _wording(request, line)
    inputs = _inputs(line, wording)
    mark = f'"{fingerprint(inputs)}"'
    if request.headers.get("If-None-Match") == mark:
        return HttpResponseNotModified()
    content: bytes | None
    if line.revision is not None and line.revision.fingerprint == mark.strip('"'):
        content = file_of(inputs, line.revision.fingerprint, "stl", line.revision.facts["files"])
    else:
        made = trial(inputs)
        content = stl_bytes(made.solid, title=wording) if made.solid is not None else None
    if content is None:
        raise Http404("There is no solid for this wording.")
    response = HttpResponse(content, content_type="model/stl")
    response["ETag"] = mark
    response["Cache-Control"] = "private, no-cache"
    return response

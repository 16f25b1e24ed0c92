"""Held together: held lines by cause, with the best cure of each."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from workshop.curing.asked import MOST_LINES, asked_lines
from workshop.curing.models import Taken, Taking, cures_to_look_for_longer, lines_to_look_at
from workshop.curing.services import take_back, take_for
from workshop.curing.tasks import defer_looking
from workshop.curing.together import MOST_SHOWN, gathered_by_cause
from workshop.orders.models import OrderLine

__all__ = ["back", "look", "take", "together"]


def _context() -> dict[str, Any]:
    held = OrderLine.objects.worst_held().select_related("revision", "product", "cure")
    lines = list(held.defer("revision__facts")[:MOST_LINES])
    taking = Taking.objects.select_related("who").first()
    counts: dict[str, int] = {}
    left: list[Taken] = []
    if taking is not None:
        states = list(taking.lines.values_list("state", flat=True))
        counts = {state: states.count(state) for state in set(states)}
        left = list(taking.lines.filter(state=Taken.State.LEFT).select_related("line")[:5])
    waiting = counts.get("waiting", 0) + counts.get("going back", 0)
    to_look_at = lines_to_look_at().count()
    to_look_longer = cures_to_look_for_longer().count()
    return {
        "place": "bench",
        "causes": gathered_by_cause(lines),
        "count": len(lines),
        "most_shown": MOST_SHOWN,
        "to_look_at": to_look_at,
        "looked_at": max(0, len(lines) - to_look_at),
        "taking": taking,
        "taken": counts.get("taken", 0),
        "gone_back": counts.get("back", 0),
        "waiting": waiting,
        "total": sum(counts.values()),
        "left": left,
        "to_look_longer": to_look_longer,
        "busy": bool(to_look_at or to_look_longer or waiting),
    }


@require_GET
def together(request: HttpRequest) -> HttpResponse:
    """The page, or only what changes on it while work goes on."""
    template = "curing/_causes.html" if request.headers.get("HX-Request") else "curing/together.html"
    return render(request, template, _context())


@require_POST
def look(request: HttpRequest) -> HttpResponse:
    """Look for what would cure every held line."""
    defer_looking()
    return redirect("curing:together")


@require_POST
def take(request: HttpRequest) -> HttpResponse:
    """Take the cures of the lines that are ticked."""
    asked = list(asked_lines(request.POST.getlist("line")))
    title = request.POST.get("title", "")[:80]
    taking = take_for(asked, user=request.user, said=f"{title}: cures taken") if asked else None  # type: ignore[arg-type]
    if taking is None:
        messages.error(request, "Nothing was taken: tick a line whose cure is shown.")
    return redirect("curing:together")


@require_POST
def back(request: HttpRequest, pk: int) -> HttpResponse:
    """Take a whole taking back."""
    take_back(get_object_or_404(Taking, pk=pk, taken_back_at=None))
    return redirect("curing:together")

"""Limits and materials: what the shop holds to, and one of them with what it says."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from kizami.checks.limits_told import limit_told, value_told
from kizami.errors import CatalogueError
from kizami.processes import LIMITS_KNOWN, Process
from kizami.standards import Standards, shipped_standards
from workshop.catalogue.services import products_held_to
from workshop.catalogue.standards_form import limit_parts, parts_of
from workshop.standards.models import LONGEST_WHY, SHORTEST_WHY, Standard, standard_from
from workshop.standards.services import keep_edition, table_now
from workshop.standards.telling import edition_told

__all__ = ["shown_standard"]

#: Editions that a page tells, the newest first.
_MOST_TOLD = 20


@require_GET
def standards(request: HttpRequest) -> HttpResponse:
    """Every process with its limits side by side, and every material."""
    now, gone = Standard.objects.now_and_out_of_use()
    own = {row.code: row for row in Standard.objects.current().select_related("who")}
    context = {
        "place": "catalogue",
        "processes": [(process, own.get(code), code in gone) for code, process in now.processes.items()],
        "limits": _limits_side_by_side(now),
        "materials": [(one, own.get(code), code in gone) for code, one in now.materials.items()],
        "kinds": list(Standard.Kind),
        "shortest": SHORTEST_WHY,
        "longest": LONGEST_WHY,
    }
    return render(request, "catalogue/standards.html", context)


def _limits_side_by_side(now: Standards) -> list[dict[str, Any]]:
    """A row for each limit, with what each process holds and, where that is otherwise, common practice."""
    ships = shipped_standards().processes
    rows = []
    for code in LIMITS_KNOWN:
        cells = []
        for process in now.processes.values():
            value = process.limits.get_of(code)
            usual = ships[process.code].limits.get_of(code) if process.code in ships else value
            cells.append(
                {
                    "value": "–" if value is None else f"{value:g}",
                    "usual": "" if usual == value else "–" if usual is None else value_told(code, usual),
                    "is_said": process.limits.get(code) is not None,
                }
            )
        rows.append({"told": limit_told(code), "cells": cells})
    return rows


@require_GET
def standard(request: HttpRequest, kind: str, code: str) -> HttpResponse:
    """One of them."""
    return shown_standard(request, kind, code)


def shown_standard(
    request: HttpRequest,
    kind: str,
    code: str,
    *,
    table: dict[str, Any] | None = None,
    trouble: str = "",
    why: str = "",
) -> HttpResponse:
    """The page of a process or a material.

    Parameters
    ----------
    table : as it was typed, where it could not be kept
    trouble, why : why it could not, and the reason that was typed

    Raises
    ------
    django.http.Http404 : there is none of this code
    """
    now = table_now(kind, code)
    if now is None:
        raise Http404
    rows = list(Standard.objects.filter(kind=kind, code=code).select_related("who")[: _MOST_TOLD + 1])
    ships = shipped_standards()
    shipped = ships.processes.get(code) if kind == Standard.Kind.PROCESS else ships.materials.get(code)
    spec = standard_from(kind, code, table or now[0])
    told = edition_told(rows, shipped)[:_MOST_TOLD]
    products = products_held_to(kind, code)
    context = {
        "place": "catalogue",
        "kind": kind,
        "code": code,
        "spec": spec,
        "table": table or now[0],
        "edition": now[1],
        "retired": bool(rows) and rows[0].retired,
        "ships": shipped,
        "told": told,
        "products": products,
        "trouble": trouble,
        "why": why,
        "shortest": SHORTEST_WHY,
        "longest": LONGEST_WHY,
    }
    if isinstance(spec, Process):
        sides = zip("xyz", spec.limits.size_mm, strict=True)
        context |= {"parts": limit_parts(spec), "size": list(sides)}
    else:
        context |= {"metals": parts_of(table or now[0])}
    return render(request, "catalogue/standard.html", context, status=422 if trouble else 200)


@require_POST
def add(request: HttpRequest) -> HttpResponse:
    """Begin a process or a material of the shop's own, as another one is."""
    kind, _, like = request.POST.get("like", "").partition(" ")
    code, name = request.POST.get("code", "").strip().lower(), request.POST.get("name", "")
    before = table_now(kind, like) if kind in Standard.Kind.values else None
    if before is None:
        messages.error(request, "Choose what it begins as.")
        return redirect("catalogue:standards")
    try:
        if table_now(kind, code) is not None:
            raise CatalogueError(f"There is a {kind} {code} already. Give the new one another code.")
        why = f"new, begun as {before[0]['name']}"
        keep_edition(kind, code, {**before[0], "name": name.strip() or code}, why=why, user=request.user)  # type: ignore[arg-type]
    except CatalogueError as error:
        messages.error(request, f"{error} Nothing was added.")
        return redirect("catalogue:standards")
    return redirect("catalogue:standard", kind, code)

"""The Order book's pages."""

from __future__ import annotations

import re
from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from kizami.wording.order_list import LARGEST_LIST_ROWS
from workshop.book.book import GROUPS, BookView, Ledger, Progress
from workshop.book.export import export_csv, export_xlsx
from workshop.book.first_hour import first_steps
from workshop.book.list_choices import list_choices
from workshop.book.rows import drawn_rows
from workshop.book.ticked import ticked_lines
from workshop.making.keeping import KeepingError
from workshop.making.many import act_on_many, stop_list
from workshop.orders.models import OrderLine, OrderList
from workshop.orders.stages import Stage


def _may_tick(request: HttpRequest) -> bool:
    """Whether somebody may do anything to lines that they choose."""
    return any(request.user.has_perm(f"orders.{right}") for right in ("change_wording", "download_pieces"))  # type: ignore[union-attr]


def _lines_context(request: HttpRequest, view: BookView) -> dict[str, Any]:
    page = view.page(request.GET.get("page"), may_tick=_may_tick(request))
    more = view.query(page=page.next_page_number()) if page.has_next() else ""
    offered = [(words, view.query(q=words)) for words in view.search.offered]
    return {"view": view, "page": page, "more": more, "totals": view.totals, "offered": offered}


def _rail_context(view: BookView) -> dict[str, Any]:
    # What runs is asked first: should the last line be made right after, the page asks once more.
    # The other way round it could show an old count and never ask again.
    running = Progress.running()
    ledger = Ledger.of(view)
    # Stages that nothing has reached yet would only be noise on the rail.
    usual = (Stage.NEW, Stage.HELD, Stage.READY)
    stages = [
        (stage, ledger.counts[stage], view.query(stage=stage, check=None))
        for stage in Stage.values
        if stage in usual or ledger.counts[stage]
    ]
    mark = ".".join(f"{p.order_list.pk}:{p.done}:{p.held}" for p in running)
    failing = view.failing() if view.stage == Stage.HELD else []
    return {
        "view": view,
        "ledger": ledger,
        "stages": stages,
        "running": running,
        "asks_again": any(p.order_list.stopped_at is None for p in running),
        "mark": mark,
        "failing": failing,
    }


@require_GET
def book(request: HttpRequest) -> HttpResponse:
    """The list of lines; an htmx request gets just the rows."""
    view = BookView.of(request.GET)
    if request.htmx and not request.htmx.boosted:  # type: ignore[attr-defined]
        return render(request, "book/_lines.html", _lines_context(request, view))
    rail_context = _rail_context(view)
    return render(
        request,
        "book/book.html",
        {
            **rail_context,
            **_lines_context(request, view),
            "lists": list_choices(),
            "chosen_list": str(view.chosen),
            "groups": list(GROUPS),
            "place": "book",
            "first_steps": first_steps(request.user),  # type: ignore[arg-type]
        },
    )


@require_GET
def export(request: HttpRequest, kind: str) -> HttpResponse:
    """The lines of the view as a file."""
    lines = BookView.of(request.GET).lines()[:LARGEST_LIST_ROWS]
    write, content_type = _EXPORTS[kind]
    response = HttpResponse(write(lines), content_type=content_type)
    response["Content-Disposition"] = f'attachment; filename="order-book.{kind}"'
    return response


_EXPORTS = {
    "csv": (export_csv, "text/csv; charset=utf-8"),
    "xlsx": (export_xlsx, "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"),
}


@require_POST
def act(request: HttpRequest) -> HttpResponse:
    """Do one thing to many lines."""
    chosen = ticked_lines(request.POST.getlist("line"))
    try:
        said = act_on_many(chosen, do=request.POST.get("do", ""), user=request.user)  # type: ignore[arg-type]
    except KeepingError as error:
        messages.error(request, str(error))
    else:
        messages.success(request, said)
    view = BookView.of(request.POST)
    return redirect(f"{reverse('book:book')}?{view.query()}")


_MARKED = re.compile(r"(\d{1,18})\.([\w.-]{1,60})", re.ASCII)
_MOST_ROWS = 1200


@require_POST
def rows(request: HttpRequest) -> HttpResponse:
    """Of the rows that somebody has on the screen, those that stand otherwise by now."""
    marks: dict[int, str] = {}
    for shown in request.POST.getlist("row")[:_MOST_ROWS]:
        if match := _MARKED.fullmatch(shown):
            marks[int(match[1])] = match[2]
    lines = OrderLine.objects.for_book().in_bulk(list(marks))
    changed = [line for pk, line in lines.items() if line.mark != marks[pk]]
    drawn = drawn_rows(changed, may_tick=_may_tick(request), in_place=True)
    return HttpResponse("".join(row.content for row in drawn))


@require_GET
def rail(request: HttpRequest) -> HttpResponse:
    """The ledger rail, asked for again and again while a list is being made."""
    context = _rail_context(BookView.of(request.GET))
    response = render(request, "book/_rail.html", context)
    if request.GET.get("mark", "") != context["mark"]:
        response["HX-Trigger"] = "lines-changed"
    return response


@require_POST
def making(request: HttpRequest, pk: int) -> HttpResponse:
    """Stop making a list, or go on."""
    order_list = get_object_or_404(OrderList, pk=pk)
    stop_list(order_list, user=request.user, stop=request.POST.get("do") == "stop")  # type: ignore[arg-type]
    return redirect(f"{reverse('book:book')}?list={pk}")

"""The Order book's pages."""

from __future__ import annotations

import re
import tempfile
import zipfile
from typing import Any

from django.contrib import messages
from django.http import FileResponse, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_GET, require_POST

from kizami.formats.tables import csv_bytes
from kizami.formats.three_mf import ZIP_DATE
from kizami.pieces.lines import piece_name
from kizami.wording.order_list import LARGEST_LIST_ROWS
from workshop.book.book import GROUPS, BookView, Ledger, Progress
from workshop.book.export import export_csv, export_xlsx
from workshop.book.list_choices import list_choices
from workshop.making.made_files import file_of
from workshop.making.many import act_on_many, stop_list
from workshop.orders.models import OrderLine, OrderList
from workshop.orders.stages import Stage

#: A zip is made while the browser waits; this many lines take some seconds.
LARGEST_ZIP_LINES = 2000


def _lines_context(request: HttpRequest, view: BookView) -> dict[str, Any]:
    page = view.page(request.GET.get("page"))
    more = view.query(page=page.next_page_number()) if page.has_next() else ""
    offered = [(words, view.query(q=words)) for words in view.search.offered]
    return {"view": view, "page": page, "more": more, "totals": view.totals, "offered": offered}


def _rail_context(view: BookView) -> dict[str, Any]:
    # What runs is asked first: should the last line be made right after, the page asks once more.
    # The other way round it could show an old count and never ask again.
    running = Progress.running()
    ledger = Ledger.of(view.chosen)
    # Stages that nothing has reached yet would only be noise on the rail.
    usual = (Stage.NEW, Stage.HELD, Stage.READY)
    stages = [
        (stage, ledger.counts[stage], view.query(stage=stage, check=None))
        for stage in Stage.values
        if stage in usual or ledger.counts[stage]
    ]
    mark = ".".join(f"{p.order_list.pk}:{p.done}" for p in running)
    failing = view.failing() if view.stage == Stage.HELD else []
    return {
        "view": view,
        "ledger": ledger,
        "stages": stages,
        "running": running,
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


_TICKED = re.compile(r"(\d{1,18})\.(\d{1,9})", re.ASCII)


@require_POST
def act(request: HttpRequest) -> HttpResponse:
    """Do one thing to many lines."""
    chosen: dict[int, int | None] = {}
    for ticked in request.POST.getlist("line")[:LARGEST_LIST_ROWS]:
        # A line's key and the edition that was looked at: “12.3”.
        if match := _TICKED.fullmatch(ticked):
            chosen[int(match[1])] = int(match[2])
    said = act_on_many(chosen, do=request.POST.get("do", ""), user=request.user)  # type: ignore[arg-type]
    messages.success(request, said)
    view = BookView.of(request.POST)
    return redirect(f"{reverse('book:book')}?{view.query()}")


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


@require_GET
def pieces_zip(request: HttpRequest) -> HttpResponse:
    """The ready pieces of the view as one zip, with a table of what is in it and what is held."""
    view = BookView.of(request.GET)
    lines = view.lines().defer(None).order_by("order_list_id", "row", "pk")
    if lines.count() > LARGEST_ZIP_LINES:
        messages.error(
            request,
            f"At most {LARGEST_ZIP_LINES} lines go into one zip; choose a list or type a filter first.",
        )
        return redirect(f"{reverse('book:book')}?{view.query()}")
    bundle = tempfile.TemporaryFile()  # noqa: SIM115 - handed to the response, which closes it
    with zipfile.ZipFile(bundle, "w") as pack:
        table = []
        for line in lines.iterator(chunk_size=200):
            names = _pack_line(pack, line)
            table.append(_table_row(line, names))
        header = ("order", "line", "product", "size", "wording", "quantity", "stage", "height mm", "weight g",
                  "files", "worst finding")  # fmt: skip
        _pack(pack, "pieces.csv", csv_bytes(header, table))
    bundle.seek(0)
    return FileResponse(
        bundle, as_attachment=True, filename="kizami-pieces.zip", content_type="application/zip"
    )


def _table_row(line: OrderLine, names: list[str]) -> list[object]:
    row: list[object] = [line.order, line.line, line.product.code, line.size, line.wording]
    row += [line.quantity, line.stage]
    if line.revision is None:
        return row
    worst = (line.revision.worst or {}).get("message", "")
    return [
        *row,
        f"{line.revision.height_mm:.2f}",
        line.revision.facts.get("weight_g"),
        " ".join(names),
        worst,
    ]


def _pack_line(pack: zipfile.ZipFile, line: OrderLine) -> list[str]:
    if line.stage != Stage.READY or line.revision is None:
        return []
    names = []
    # Two shops may use the same order numbers; the later one's pieces then go into a folder of its own.
    folder = "pieces"
    if f"pieces/{piece_name(line.order, line.line, 1)}.stl" in pack.NameToInfo:
        folder = f"pieces/source-{line.source_id}"
    for extension in line.revision.facts["files"]:
        content = file_of(line.revision.to_inputs(), extension, line.revision.facts["files"])
        for number in range(1, line.quantity + 1):
            name = f"{folder}/{piece_name(line.order, line.line, number)}.{extension}"
            if content is not None:
                _pack(pack, name, content)
                names.append(name)
    return names


def _pack(pack: zipfile.ZipFile, name: str, content: bytes) -> None:
    entry = zipfile.ZipInfo(name, date_time=ZIP_DATE)
    entry.external_attr = 0o644 << 16
    # Said at the entry, as an entry that is handed in does not heed the pack's own level.
    pack.writestr(entry, content, zipfile.ZIP_DEFLATED, 1)

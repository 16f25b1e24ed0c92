"""What another edition of a process or a material would do to lines in the book, and keeping it."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.db import transaction
from django.db.models import F, QuerySet
from django.http import Http404, HttpRequest, HttpResponse, QueryDict
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from kizami.counting import so_many
from kizami.errors import CatalogueError
from kizami.processes import Material, Process
from kizami.standards import Standards
from workshop.catalogue.models import Product, named_of
from workshop.catalogue.portions import counted, next_portion
from workshop.catalogue.services import keep_standard, products_held_to
from workshop.catalogue.standards_form import material_from, process_from
from workshop.catalogue.standards_views import shown_standard
from workshop.curing.asked import asked_lines
from workshop.curing.services import take_versions_for
from workshop.curing.version_views import COUNTED, Compared, compared
from workshop.orders.models import OrderLine
from workshop.standards.models import Standard, standard_from
from workshop.standards.services import table_now

#: So many lines are made with it; the others keep what they have until their version is looked at.
_MOST_LINES = 300


def _asked(kind: str, code: str, values: QueryDict) -> dict[str, Any]:
    """The table that a form says.

    Raises
    ------
    django.http.Http404 : there is none of this code
    kizami.errors.CatalogueError : a value can't be
    """
    now = table_now(kind, code)
    if now is None:
        raise Http404
    return (process_from if kind == Standard.Kind.PROCESS else material_from)(values, now[0])


def _with(spec: Process | Material) -> Standards:
    now = Standard.objects.now()
    return now.changed(processes=[spec]) if isinstance(spec, Process) else now.changed(materials=[spec])


def _lines_of(products: list[Product]) -> QuerySet[OrderLine]:
    """Lines that have these versions and could still be made otherwise."""
    return OrderLine.objects.filter(product__in=products, under_way__lt=F("quantity")).order_by("pk")


@require_GET
def lines(request: HttpRequest, kind: str, code: str) -> HttpResponse:
    """A portion of the lines, each made with the values on trial; nothing is kept."""
    context: dict[str, Any] = {"kind": kind, "code": code}
    try:
        standards = _with(standard_from(kind, code, _asked(kind, code, request.GET)))
    except CatalogueError as error:
        return render(request, "curing/_standard_lines.html", context | {"trouble": str(error)})
    products = products_held_to(kind, code)
    trial = {row.pk: _on_trial(row, standards) for row in products}
    rows = list(_lines_of(products).values_list("pk", flat=True)[: _MOST_LINES + 1])
    if all(row.standards == trial[row.pk].standards for row in products):
        return render(request, "curing/_standard_lines.html", context | {"is_as_it_was": True})

    def made(pk: int) -> Compared | None:
        line = OrderLine.objects.select_related("product", "revision").filter(pk=pk).first()
        return (
            None if line is None or line.product_id not in trial else compared(line, trial[line.product_id])
        )

    portion = next_portion(rows[:_MOST_LINES], made, start=counted(request, "start"))
    counts = {name: counted(request, name) for name in COUNTED}
    for one in portion.results:
        if one is not None:
            counts[one.becomes.replace(" ", "_")] += 1
    values = request.GET.copy()
    for name in ("start", "csrfmiddlewaretoken", "line", "why", *COUNTED):
        values.pop(name, None)
    context |= {
        "portion": portion,
        "counts": counts,
        "values": values.urlencode(),
        "is_first": not counted(request, "start"),
        "more": len(rows) > _MOST_LINES,
        "most": _MOST_LINES,
    }
    return render(request, "curing/_standard_lines.html", context)


def _on_trial(row: Product, standards: Standards) -> Product:
    """A product as its next version would be; never stored."""
    return Product(
        code=row.code,
        version=row.version + 1,
        name=row.name,
        table=row.table,
        standards=named_of(row.table, standards),
    )


@require_POST
def keep(request: HttpRequest, kind: str, code: str) -> HttpResponse:
    """Keep it with its reason, and let the lines that are ticked have the new versions."""
    table: dict[str, Any] | None = None
    why, edition = request.POST.get("why", ""), request.POST.get("edition", "")
    asked = list(asked_lines(request.POST.getlist("line")))
    taking = None
    try:
        table = _asked(kind, code, request.POST)
        with transaction.atomic():
            kept = keep_standard(
                kind, code, table, why=why, user=request.user, retired="retired" in request.POST,  # type: ignore[arg-type]
                edition=int(edition) if edition.isdecimal() and len(edition) < 10 else 0,
            )  # fmt: skip
            if kept and asked:
                said = f"{table['name']}: {' '.join(why.split())}"
                taking = take_versions_for(asked, kept, user=request.user, said=said)  # type: ignore[arg-type]
    except CatalogueError as error:
        typed = _shown_again(kind, code, table)
        return shown_standard(request, kind, code, table=typed, trouble=str(error), why=why)
    if kept is None:
        messages.info(request, "Nothing was otherwise than it stands, so nothing was kept.")
    elif taking is None:
        messages.success(request, f"{table['name']} is kept. Pieces in the book stay as they are.")
    else:
        count = taking.lines.count()
        lines = so_many(count, "line is", "lines are")
        messages.success(request, f"{table['name']} is kept. {lines} made with it, one after the other.")
        return redirect("curing:together")
    return redirect("catalogue:standard", kind, code)


def _shown_again(kind: str, code: str, table: dict[str, Any] | None) -> dict[str, Any] | None:
    """What was typed, where it can be shown at all."""
    try:
        return table if table is not None and standard_from(kind, code, table) else None
    except CatalogueError:
        return None

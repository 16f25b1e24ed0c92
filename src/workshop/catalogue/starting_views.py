"""A product from nothing: from a usual one of its kind, on a supplied shape, or as a copy of another."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from kizami.artwork.outline_files import LARGEST_OUTLINE_BYTES, OUTLINE_SUFFIXES
from kizami.errors import CatalogueError, KizamiError
from kizami.products.product_file import product_from_table
from kizami.products.starting import starting_on, starting_products
from workshop.catalogue.drawn_views import fault_of, outline_sent
from workshop.catalogue.models import Product, SuppliedFile, stored_body
from workshop.catalogue.product_fields import fields_of
from workshop.catalogue.samples import sample_laid_out, shown_of, strip_of
from workshop.catalogue.telling import UNNAMED

#: As long as the columns that hold them.
_LONGEST_CODE, _LONGEST_NAME = 40, 200


@require_GET
def new(request: HttpRequest) -> HttpResponse:
    """The wall of kinds to begin with."""
    chosen = request.GET.get("kind", "")
    return render(request, "catalogue/new.html", _wall(chosen, code="", name=""))


def _wall(
    chosen: str, *, code: str, name: str, length: str = "", fault: dict[str, Any] | None = None
) -> dict[str, Any]:
    starts = starting_products()
    return {
        "fault": fault,
        "place": "catalogue",
        "rows": [_row(key) for key in starts],
        "chosen": chosen if chosen in starts or chosen == DRAWN else next(iter(starts)),
        "length": length,
        "suffixes": ",".join(OUTLINE_SUFFIXES),
        "most_mb": LARGEST_OUTLINE_BYTES // 1024 // 1024,
        "code": code,
        "name": name,
        "longest_code": _LONGEST_CODE,
        "longest_name": _LONGEST_NAME,
    }


def _row(kind: str) -> dict[str, Any]:
    table = starting_products()[kind]
    # In the words of its page.
    measures = [f"{f.label} {f.value:g}" for f in fields_of(table, UNNAMED) if f.name in _SHOWN and f.value]
    return {
        "kind": kind,
        "name": table["name"],
        "measures": f"{', '.join(measures)} mm",
        "made": f"{table['treatment']['kind']}, {table['process']}",
    }


#: Measures that tell how large a piece is.
_SHOWN = (
    "blank.diameter_mm", "blank.length_mm", "blank.width_mm", "blank.height_mm", "blank.head_length_mm",
    "blank.head_width_mm", "blank.low_mm", "blank.high_mm", "blank.wall_mm", "blank.thickness_mm",
)  # fmt: skip


@require_GET
def start_sample(request: HttpRequest, kind: str) -> HttpResponse:
    """One kind with a name on it, drawn."""
    if kind not in starting_products():
        raise Http404("There is no such kind.")
    return render(request, "catalogue/_start_sample.html", {"drawn": _drawn(kind)})


@cache
def _drawn(kind: str) -> Mapping[str, Any]:
    """What ships never changes, so that each is drawn once."""
    spec = product_from_table(starting_products()[kind])
    return strip_of(sample_laid_out(spec, shown_of(spec)))


@require_POST
def start(request: HttpRequest) -> HttpResponse:
    """Begin a product of a kind, or of an outline drawn elsewhere, under the shop's own code and name."""
    kind = request.POST.get("kind", "")
    notes: tuple[str, ...] = ()
    try:
        if kind == DRAWN:
            table, notes = outline_sent(request)
        else:
            table = starting_products().get(kind)
        if table is None:
            raise Http404("There is no such kind.")
    except KizamiError as error:
        messages.error(request, f"{error} Nothing was begun.")
        return _again(request, kind, fault=fault_of(error))
    made = _begun(request, table)
    if made is None:
        return _again(request, kind)
    messages.success(request, f"{made.name} is here with usual measures. Change what yours has otherwise.")
    if notes:
        messages.info(request, f"Of its outline: {'; '.join(notes)}.")
    return redirect("catalogue:product", code=made.code)


def _again(request: HttpRequest, kind: str, *, fault: dict[str, Any] | None = None) -> HttpResponse:
    """The wall once more, with what was typed, and the drawing that could not be used."""
    given = {name: request.POST.get(name, "") for name in ("code", "name", "length")}
    return render(request, "catalogue/new.html", _wall(kind, fault=fault, **given), status=422)


#: The kind that is drawn elsewhere, among those that ship.
DRAWN = "drawn"


@require_POST
def copy(request: HttpRequest, code: str) -> HttpResponse:
    """Begin a product as another one is now."""
    row = get_object_or_404(Product.objects.current(), code=code)
    made = _begun(request, row.table)
    if made is None:
        return redirect("catalogue:product", code=code)
    messages.success(request, f"{made.name} is a copy of {row.name}. Change what it has otherwise.")
    return redirect("catalogue:product", code=made.code)


@require_POST
def on_shape(request: HttpRequest, pk: int) -> HttpResponse:
    """Begin a product on a shape that a customer sent, lettered on its broadest side."""
    row = get_object_or_404(SuppliedFile, pk=pk)
    made = _begun(request, starting_on(stored_body(row.name, row.unit), file=row.name, unit=row.unit))
    if made is None:
        return redirect("catalogue:shapes")
    messages.success(
        request, f"{made.name} is here. Double-click the turning piece to letter another place of it."
    )
    return redirect("catalogue:product", code=made.code)


def _begun(request: HttpRequest, table: Mapping[str, Any]) -> Product | None:
    """A new product from a table; None, with a word why, where there can be none."""
    code = " ".join(request.POST.get("code", "").split())
    name = " ".join(request.POST.get("name", "").split())
    try:
        if not code or not name:
            raise CatalogueError("A product needs a code, as order lists name it, and a name for people.")
        if len(code) > _LONGEST_CODE or len(name) > _LONGEST_NAME:
            raise CatalogueError(
                f"A code may have {_LONGEST_CODE} characters and a name {_LONGEST_NAME}; make it shorter."
            )
        return Product.objects.begin({**table, "code": code, "name": name})
    except KizamiError as error:
        messages.error(request, f"{error} Nothing was begun.")
        return None

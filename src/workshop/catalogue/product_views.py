"""The Catalogue's products: listed, shown with what may be changed of them, and kept as new versions."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.db import transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.http import require_GET, require_POST

from kizami.artwork.outline_files import LARGEST_OUTLINE_BYTES, OUTLINE_SUFFIXES
from kizami.errors import CatalogueError, KizamiError
from kizami.products.product_file import product_tables, write_products
from workshop.catalogue.models import Product, ProductSample, current_product, typeface_named
from workshop.catalogue.product_fields import known_for
from workshop.catalogue.product_form import changed_table, given_of
from workshop.catalogue.samples import kept_sample
from workshop.catalogue.telling import refusal_words
from workshop.catalogue.trial_views import fields_shown, trial_shown
from workshop.catalogue.versions import lines_behind, versions_of

_MOST_LISTED = 200


@require_GET
def products(request: HttpRequest) -> HttpResponse:
    """Every product with a name on it; those that were never drawn are asked for as they come into sight."""
    found = list(Product.objects.current().order_by("code")[:_MOST_LISTED])
    drawn = ProductSample.objects.drawn_now().filter(product__in=found).in_bulk()
    rows = [_row(product, drawn.get(product.pk)) for product in found]
    return render(request, "catalogue/products.html", {"place": "catalogue", "rows": rows})


@require_GET
def sample(request: HttpRequest, code: str) -> HttpResponse:
    """One row of the list, drawn."""
    row = current_product(code)
    return render(request, "catalogue/_product_row.html", {"row": _row(row, kept_sample(row))})


def _row(product: Product, drawn: ProductSample | None) -> dict[str, Any]:
    """From what is written of it alone: reading a supplied body, say, takes a while."""
    table = product.table
    return {
        "product": product,
        "blank": table["blank"]["kind"],
        "treatment": table["treatment"]["kind"],
        "typeface": typeface_named(table["typeface"]).name,
        "sample": drawn,
    }


@require_GET
def product(request: HttpRequest, code: str) -> HttpResponse:
    """One product: its values beside its drawings and the wall."""
    return render(request, "catalogue/product.html", product_context(current_product(code)))


def product_context(row: Product, *, fault: dict[str, Any] | None = None) -> dict[str, Any]:
    """What the page of a product shows.

    Parameters
    ----------
    fault : a drawing that could not be used as its outline
    """
    return {
        "place": "catalogue",
        "fault": fault,
        "product": row,
        "outline_suffixes": ",".join(OUTLINE_SUFFIXES),
        "most_outline_mb": LARGEST_OUTLINE_BYTES // 1024 // 1024,
        "versions": versions_of(row),
        "lines_behind": lines_behind(row),
        **fields_shown(row.table, known_for(row.table)),
        **trial_shown(row.to_spec()),
        "query": "",
    }


@require_POST
def keep(request: HttpRequest, code: str) -> HttpResponse:
    """Keep the values as a new version; lines stay with the one that they were made with."""
    row = current_product(code)
    try:
        kept = Product.objects.put(changed_table(row.table, given_of(request.POST)))
    except KizamiError as error:
        messages.error(request, f"{refusal_words(error)} Nothing was kept.")
    else:
        said = "is as it was" if kept.pk == row.pk else f"is now version {kept.version}; lines keep theirs"
        messages.success(request, f"{kept.name} {said}.")
    return redirect("catalogue:product", code=code)


@require_GET
def file(request: HttpRequest, code: str) -> HttpResponse:
    """A product as a products file, to be read, changed, or copied under another code."""
    row = current_product(code)
    context = {"place": "catalogue", "product": row, "text": write_products([row.table])}
    return render(request, "catalogue/file.html", context)


@require_GET
def all_files(request: HttpRequest) -> HttpResponse:
    """The whole catalogue as one products file."""
    tables = Product.objects.current().order_by("code").values_list("table", flat=True)
    response = HttpResponse(write_products(tables), content_type="application/toml; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="products.toml"'
    return response


_LONGEST_FILE = 200_000


@require_POST
def keep_file(request: HttpRequest) -> HttpResponse:
    """Take products in from the text of a products file: all of them, or none."""
    text, came_from = request.POST.get("text", ""), request.POST.get("code", "")
    try:
        if len(text) > _LONGEST_FILE:
            raise CatalogueError(f"A products file may have {_LONGEST_FILE:,} characters here.")
        with transaction.atomic():
            before = set(Product.objects.values_list("pk", flat=True))
            kept = [Product.objects.put(table) for table in product_tables(text)]
    except KizamiError as error:
        messages.error(request, f"{error} Nothing was kept.")
        row = Product.objects.current().filter(code=came_from).first()
        context = {"place": "catalogue", "product": row, "text": text[:_LONGEST_FILE]}
        return render(request, "catalogue/file.html", context, status=422)
    new = [f"{product.code} v{product.version}" for product in kept if product.pk not in before]
    said = f"Kept {', '.join(new[:8])}." if new else "Nothing differs from what is kept."
    messages.success(request, said)
    return redirect("catalogue:product", code=kept[0].code)

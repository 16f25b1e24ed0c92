"""Values on trial: a product's table with what a request says of it, and why that can't be."""

from __future__ import annotations

import json
import zlib
from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

from kizami.errors import KizamiError
from kizami.products.product import Product as ProductSpec
from kizami.products.product_file import product_from_table
from workshop.catalogue.models import Product, ShopTypeface, stored_body
from workshop.catalogue.product_fields import Known
from workshop.catalogue.product_form import changed_table, given_of
from workshop.catalogue.samples import shown_of
from workshop.catalogue.telling import refusal_words, refused_at
from workshop.standards.models import Standard

__all__ = [
    "LONGEST_SAID",
    "SAID",
    "SHARE_OF",
    "refused_for",
    "said_in",
    "spec_of",
    "table_mark",
    "trial_table",
    "without",
]

#: Words that are tried beside the values of a product, as requests name them.
SAID, LONGEST_SAID = "said", 60
#: The values whose share of names stands on a page, as requests name them.
SHARE_OF = "share_of"


def spec_of(table: Mapping[str, Any], *, known: Known | None = None) -> ProductSpec:
    """A product of its table, the shop's own typefaces and shapes known.

    Parameters
    ----------
    known : of the product, where that was asked for already

    Raises
    ------
    kizami.errors.CatalogueError : it can't be
    """
    own = known.typefaces if known else ShopTypeface.objects.values_list("code", flat=True)
    standards = known.standards if known else Standard.objects.now()
    return product_from_table(table, typefaces=tuple(own), bodies=stored_body, standards=standards)


def trial_table(
    request: HttpRequest, row: Product, *apart: str, known: Known | None = None
) -> dict[str, Any]:
    """A product's table with the values on trial."""
    given = {name: several for name, several in given_of(request.GET).items() if name not in apart}
    return changed_table(row.table, given, known=known)


def table_mark(table: Mapping[str, Any]) -> str:
    """Short words for the values of a table, by which a page knows whether they are others now."""
    return f"{zlib.crc32(json.dumps(table, sort_keys=True, default=str).encode()):08x}"


def said_in(request: HttpRequest, spec: ProductSpec) -> str:
    """The words that a product is shown with: those that were typed, or the usual ones."""
    return request.GET.get(SAID, "").strip()[:LONGEST_SAID] or shown_of(spec)


def refused_for(request: HttpRequest, error: KizamiError, table: Mapping[str, Any]) -> HttpResponse:
    """Why values can't be, and at which field; what was drawn stays as it is."""
    context = {"refused": refusal_words(error), "at": refused_at(error, table)}
    response = render(request, "catalogue/_refused.html", context)
    response["HX-Retarget"], response["HX-Reswap"] = "#refused", "innerHTML"
    return response


def without(request: HttpRequest, *names: str) -> str:
    """The values on trial alone."""
    values = request.GET.copy()
    for name in names:
        values.pop(name, None)
    return values.urlencode()

"""Two versions of a product beside each other: what differs in words, and the same wordings on both."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from kizami.errors import KizamiError
from workshop.catalogue.models import Product, current_product
from workshop.catalogue.portions import counted, next_portion
from workshop.catalogue.samples import sample_laid_out, samples_of, strip_of
from workshop.catalogue.versions import told_since

#: Versions that can be chosen, the newest first.
_MOST_VERSIONS = 50


@dataclass(frozen=True, kw_only=True, slots=True)
class Pair:
    """One wording on both.

    Attributes
    ----------
    sides : its strip on the older and on the newer, or why there is none
    """

    words: str
    sides: tuple[dict[str, Any], dict[str, Any]]

    @property
    def is_same(self) -> bool:
        """Both are drawn alike."""
        before, after = self.sides
        return before.get("content") is not None and before.get("content") == after.get("content")


@require_GET
def beside(request: HttpRequest, code: str) -> HttpResponse:
    """The page."""
    older, newer, rows = _two(request, code)
    context = {
        "place": "catalogue",
        "product": newer,
        "older": older,
        "versions": rows,
        "said": told_since(older, newer) if older.pk != newer.pk else [],
    }
    return render(request, "catalogue/beside.html", context)


@require_GET
def pairs(request: HttpRequest, code: str) -> HttpResponse:
    """A portion of the wordings."""
    older, newer, _ = _two(request, code)
    words = samples_of(newer.to_spec())

    def pair(one: str) -> Pair:
        return Pair(words=one, sides=(_side(older, one), _side(newer, one)))

    portion = next_portion(words, pair, start=counted(request, "start"))
    fitting = [
        counted(request, name) + sum(not pair.sides[n].get("worst") for pair in portion.results)
        for n, name in enumerate(("older", "newer"))
    ]
    context = {"product": newer, "older": older, "portion": portion, "fitting": fitting}
    return render(request, "catalogue/_beside_pairs.html", context)


def _side(row: Product, words: str) -> dict[str, Any]:
    try:
        return strip_of(sample_laid_out(row.to_spec(), words))
    except KizamiError as error:
        return {"content": None, "worst": {"message": str(error)}}


def _two(request: HttpRequest, code: str) -> tuple[Product, Product, list[Product]]:
    """The versions that are asked for; the one before the newest, and the newest, where none is."""
    newest = current_product(code)
    rows = list(Product.objects.filter(code=newest.code).order_by("-version")[:_MOST_VERSIONS])
    by_number = {str(row.version): row for row in rows}
    newer = by_number.get(request.GET.get("to", ""), newest)
    before = next((row for row in rows if row.version < newer.version), newer)
    return by_number.get(request.GET.get("from", ""), before), newer, rows

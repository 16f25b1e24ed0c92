"""Every choice of a field, drawn on the product, so that nobody has to know its word."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_GET

from kizami.errors import KizamiError
from workshop.catalogue.models import current_product
from workshop.catalogue.portions import counted, next_portion
from workshop.catalogue.product_fields import fields_of
from workshop.catalogue.product_form import changed_table, given_of
from workshop.catalogue.samples import sample_laid_out, strip_of
from workshop.catalogue.telling import refusal_words
from workshop.catalogue.trial import refused_for, said_in, spec_of, trial_table, without
from workshop.catalogue.trial_views import cut_drawing

#: Room for a piece cut through.
_CUT_PX = (300.0, 60.0)


@require_GET
def choices(request: HttpRequest, code: str) -> HttpResponse:
    """Every choice of one field, drawn on the product as it is on trial: a portion."""
    row = current_product(code)
    name = request.GET.get("of", "")
    table: Mapping[str, Any] = row.table
    try:
        table = trial_table(request, row, "start", "of")
    except KizamiError as error:
        return refused_for(request, error, table)
    field = next((f for f in fields_of(table) if f.name == name and f.choices and not f.is_several), None)
    if field is None or field.is_ordered:
        raise Http404("There is no such choice.")
    given = given_of(request.GET)

    def drawn(choice: tuple[str, str]) -> dict[str, Any]:
        value, label = choice
        said = {"value": value, "label": label, "is_chosen": value == field.value}
        try:
            spec = spec_of(changed_table(row.table, {**given, name: [value]}))
            laid_out = sample_laid_out(spec, said_in(request, spec))
            # What is scored or pierced is seen from above, a floor or an edge where it is cut through.
            cut = cut_drawing(laid_out, px=_CUT_PX) if field.is_cut else None
            return said | {"strip": strip_of(laid_out), "cut": cut}
        except KizamiError as error:
            return said | {"refused": refusal_words(error)}

    portion = next_portion(field.choices, drawn, start=counted(request, "start"))
    context = {
        "product": row,
        "field": field,
        "portion": portion,
        "is_first": not counted(request, "start"),
        "query": without(request, "start", "of"),
    }
    return render(request, "catalogue/_choices.html", context)

"""The page where a list is handed in."""

from __future__ import annotations

from typing import Any

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect, render
from django.views.decorators.csrf import csrf_exempt, csrf_protect
from django.views.decorators.http import require_http_methods

from kizami.errors import OrderListError
from kizami.wording.columns import FIELDS
from kizami.wording.order_list import LARGEST_CELL_CHARACTERS, LARGEST_LIST_ROWS, LARGEST_QUANTITY
from workshop.catalogue.models import Product
from workshop.intake.forms import LARGEST_REQUEST_BYTES, TakeListForm, too_large
from workshop.intake.models import Intake
from workshop.intake.parcels import send_logos
from workshop.intake.taking import DEFAULT_SOURCE, open_intake
from workshop.sources.models import Source

LIMITS = {
    "rows": LARGEST_LIST_ROWS,
    "characters": LARGEST_CELL_CHARACTERS,
    "quantity": LARGEST_QUANTITY,
    "columns": ", ".join(field.code for field in FIELDS),
}


# Django would read the whole body for its token first; the size is looked at before that.
@csrf_exempt
@require_http_methods(["GET", "POST"])
def take(request: HttpRequest) -> HttpResponse:
    """Take in an order list by file or paste."""
    declared = request.META.get("CONTENT_LENGTH") or "0"
    if request.method == "POST" and declared.isdigit() and int(declared) > LARGEST_REQUEST_BYTES:
        _drain(request)
        context = {"form": TakeListForm(), "refused": too_large(int(declared)), **_take_context()}
        return render(request, "intake/take.html", context, status=413)
    return _take(request)


def _drain(request: HttpRequest) -> None:
    """Read what is being sent and drop it: a browser shows the answer only once it has sent all.

    Bounded, as nobody's patience or network is to be abused; beyond it the connection is cut.
    """
    left = 256 * 1024 * 1024
    while left > 0 and (chunk := request.read(1024 * 1024)):
        left -= len(chunk)


def _take_context() -> dict[str, Any]:
    codes = Product.objects.current().order_by("code").values_list("code", flat=True)[:60]
    sources = Source.objects.values_list("name", flat=True)[:200]
    waiting = Intake.objects.select_related("source")[:20]
    return {"limits": LIMITS, "codes": codes, "sources": sources, "waiting": waiting, "usual": DEFAULT_SOURCE}


@csrf_protect
def _take(request: HttpRequest) -> HttpResponse:
    if request.method != "POST":
        return render(request, "intake/take.html", {"form": TakeListForm(), **_take_context()})
    form = TakeListForm(request.POST, request.FILES)
    refused = ""
    if form.is_valid():
        data, name = form.content()
        try:
            source = form.cleaned_data["source"]
            intake = open_intake(data, name=name, source=source, user=request.user)  # type: ignore[arg-type]
        except OrderListError as error:
            refused = f"{error} Nothing was taken in."
        else:
            files = form.logo_files()
            if files:
                send_logos(intake.source, files, user=request.user)  # type: ignore[arg-type]
                messages.success(request, "The logos are being looked at; you can go on meanwhile.")
            return redirect(intake)
    return render(
        request, "intake/take.html", {"form": form, "refused": refused, **_take_context()}, status=422
    )

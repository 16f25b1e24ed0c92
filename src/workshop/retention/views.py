"""Forgetting a customer, looked at before it is done."""

from __future__ import annotations

from django.contrib import messages
from django.http import Http404, HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from workshop.retention.services import ForgettingError, customers_like, forget, would_forget
from workshop.sources.models import Source

_LONGEST_NUMBER = 10


@require_GET
def look(request: HttpRequest) -> HttpResponse:
    """Find a customer, and see what forgetting them would take."""
    words = request.GET.get("q", "")[:100]
    customer = request.GET.get("customer", "")
    source = request.GET.get("source", "")
    context: dict[str, object] = {"words": words, "found": customers_like(words), "place": ""}
    if customer and source.isascii() and source.isdecimal() and len(source) < _LONGEST_NUMBER:
        row = get_object_or_404(Source, pk=int(source))
        try:
            context |= {"customer": customer, "source": row, "would": would_forget(row, customer)}
        except ForgettingError as error:
            context["refused"] = str(error)
    return render(request, "retention/forget.html", context)


@require_POST
def do(request: HttpRequest) -> HttpResponse:
    """Forget a customer. The name is typed once more, as this can't be taken back."""
    customer = request.POST.get("customer", "")
    typed, source_pk = request.POST.get("typed", ""), request.POST.get("source", "")
    if not (source_pk.isascii() and source_pk.isdecimal() and len(source_pk) < _LONGEST_NUMBER):
        raise Http404("There is no such sender.")
    source = get_object_or_404(Source, pk=int(source_pk))
    if typed.strip() != customer.strip():
        messages.error(request, "Nothing was forgotten: the name that you typed is another one.")
        return redirect("retention:look")
    try:
        found = forget(source, customer, user=request.user)  # type: ignore[arg-type]
    except ForgettingError as error:
        messages.error(request, f"Nothing was forgotten. {error}")
    else:
        messages.success(request, f"The customer is forgotten: {found.said}.")
    return redirect("retention:look")

"""Forgetting a customer, looked at before it is done."""

from __future__ import annotations

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.http import require_GET, require_POST

from workshop.retention.services import ForgettingError, customers_like, forget, would_forget
from workshop.sources.models import Source


@require_GET
def look(request: HttpRequest) -> HttpResponse:
    """Find a customer, and see what forgetting them would take."""
    words = request.GET.get("q", "").replace("\x00", "")[:100]
    customer, source = request.GET.get("customer", ""), request.GET.get("source", "")
    context: dict[str, object] = {"words": words, "found": customers_like(words), "place": ""}
    if customer and source.isdecimal():
        row = get_object_or_404(Source, pk=int(source[:9]))
        try:
            context |= {"customer": customer, "source": row, "would": would_forget(row, customer)}
        except ForgettingError as error:
            context["refused"] = str(error)
    return render(request, "retention/forget.html", context)


@require_POST
def do(request: HttpRequest) -> HttpResponse:
    """Forget a customer. The name is typed once more, as this can't be taken back."""
    customer, typed = request.POST.get("customer", ""), request.POST.get("typed", "")
    source = get_object_or_404(Source, pk=int(f"0{request.POST.get('source', '')}"[:9]) or 0)
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

"""The shop's own pages for what went wrong, each with a way on."""

from __future__ import annotations

from django.contrib.auth.decorators import login_not_required
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.template.loader import render_to_string

__all__ = ["bad_request", "broken", "forbidden", "not_found", "refused_form"]

_TEMPLATE = "error.html"


def _page(request: HttpRequest, status: int, title: str, said: str) -> HttpResponse:
    context = {"title": title, "said": said, "status": status}
    return render(request, _TEMPLATE, context, status=status)


@login_not_required
def bad_request(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """400."""
    said = "The address or the form was cut or changed on its way. Nothing was kept."
    return _page(request, 400, "This request can't be read", said)


@login_not_required
def forbidden(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """403."""
    said = "Your place in the shop does not include this. Ask the owner if it should. Nothing was kept."
    return _page(request, 403, "Not for this sign-in", said)


@login_not_required
def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """404."""
    said = "The line, list or product is gone, or the address is not right. Nothing was changed."
    return _page(request, 404, "There is nothing here", said)


@login_not_required
def refused_form(request: HttpRequest, reason: str = "") -> HttpResponse:
    """403 for a form that was not drawn for this browser, or long ago."""
    said = (
        "It was drawn before you signed in or out, or for another browser. Nothing was kept: go back, "
        "load the page again and send it once more."
    )
    return _page(request, 403, "This form is too old", said)


@login_not_required
def broken(request: HttpRequest) -> HttpResponse:
    """500: without a look at the database or at who is signed in, as these may be what broke."""
    said = (
        "The fault is on record. What was kept before stands; what you just sent may not have been kept: "
        "look before you send it again."
    )
    context = {"title": "Something went wrong here", "said": said, "status": 500}
    return HttpResponse(render_to_string(_TEMPLATE, context), status=500)

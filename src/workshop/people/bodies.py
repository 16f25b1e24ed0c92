"""How much may be sent to an address: looked at before anything of it is read."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import Resolver404, resolve

__all__ = ["BodyLimitMiddleware"]

_MB = 1024 * 1024
#: Forms of words; whatever takes files says its own bound.
_USUAL_MB = 6
_MB_OF = {
    # It answers itself, with the form beside the sentence.
    "intake:take": 1024,
    "intake:logos": 65,
    "catalogue:add-typeface": 25,
    "catalogue:add-shape": 65,
}
#: So much is read and dropped, as a browser shows an answer only once it has sent all; beyond it is cut off.
_DROPPED_MB = 256


class BodyLimitMiddleware:
    """Refuses what is larger than an address takes, on the shop's own page."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer a request."""
        declared = request.META.get("CONTENT_LENGTH") or "0"
        size = int(declared) if declared.isdecimal() and len(declared) < 16 else 0
        if size <= _USUAL_MB * _MB:
            return self.get_response(request)
        try:
            most_mb = _MB_OF.get(resolve(request.path_info).view_name, _USUAL_MB)
        except Resolver404:
            most_mb = _USUAL_MB
        if size <= most_mb * _MB:
            return self.get_response(request)
        left = min(size, _DROPPED_MB * _MB)
        while left > 0 and (chunk := request.read(min(left, _MB))):
            left -= len(chunk)
        said = f"That is {size / _MB:.0f} MB; at most {most_mb} MB can be sent here. Nothing was kept."
        context = {"title": "That is too much", "said": said, "status": 413}
        return render(request, "error.html", context, status=413)

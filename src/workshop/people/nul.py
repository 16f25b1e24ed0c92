"""The sign NUL, which no database takes in a text and nobody types, goes at the door."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.core.exceptions import BadRequest
from django.http import HttpRequest, HttpResponse, QueryDict

__all__ = ["NoNulMiddleware"]

_NUL = "\x00"


class NoNulMiddleware:
    """Takes NUL out of every field of forms and addresses; stands after the forms' token was looked for."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer a request."""
        return self.get_response(request)

    def process_view(
        self, request: HttpRequest, view: Callable[..., HttpResponse], args: Any, kwargs: Any
    ) -> HttpResponse | None:
        """Clean what was sent.

        Raises
        ------
        BadRequest : the address itself has one
        """
        if _NUL in request.path_info:
            raise BadRequest("NUL in the address")
        request.GET = _without(request.GET)  # type: ignore[assignment]
        # Read only where a form was sent: asking for it reads the body.
        if request.method == "POST":
            request.POST = _without(request.POST)  # type: ignore[assignment]
        return None


def _without(sent: QueryDict) -> QueryDict:
    if not any(_NUL in value for _, values in sent.lists() for value in values):
        return sent
    clean = QueryDict(mutable=True, encoding=sent.encoding)
    for name, values in sent.lists():
        clean.setlist(name.replace(_NUL, ""), [value.replace(_NUL, "") for value in values])
    clean._mutable = False
    return clean

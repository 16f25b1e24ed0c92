"""Pages of somebody who is signed in are kept by no cache, unless they say themselves how long."""

from __future__ import annotations

from collections.abc import Callable

from django.http import HttpRequest, HttpResponse

__all__ = ["NoStoreMiddleware"]


class NoStoreMiddleware:
    """Marks them."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer a request."""
        response = self.get_response(request)
        user = getattr(request, "user", None)
        if user is not None and user.is_authenticated and "Cache-Control" not in response:
            response["Cache-Control"] = "no-store"
        return response

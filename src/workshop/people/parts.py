"""Parts of a page, asked for on their own: no answer that is none of theirs may stand in their place."""

from __future__ import annotations

from collections.abc import Callable
from urllib.parse import urlsplit

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import resolve_url
from django.utils.cache import patch_vary_headers
from django.utils.http import urlencode

__all__ = ["PartsMiddleware"]


class PartsMiddleware:
    """Sends the whole page to sign-in when a part is asked for after the session ended.

    Without it the sign-in page would be put where the part belongs. A page that comes out of the browser's
    history is asked for whole, whatever a view thinks of it.
    """

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer a request."""
        if "HTTP_HX_HISTORY_RESTORE_REQUEST" in request.META:
            # As plain a request as any: views then answer with the whole page.
            request.META.pop("HTTP_HX_REQUEST", None)
            request.__dict__.pop("headers", None)
        response = self.get_response(request)
        patch_vary_headers(response, ("HX-Request",))
        if request.headers.get("HX-Request") != "true" or response.status_code != _FOUND:
            return response
        sign_in = resolve_url(settings.LOGIN_URL)
        if urlsplit(response["Location"]).path != sign_in:
            return response
        stands_at = urlsplit(request.headers.get("HX-Current-URL", ""))
        back = f"{stands_at.path}?{stands_at.query}" if stands_at.query else stands_at.path
        answer = HttpResponse(status=_NOTHING_HERE)
        answer["HX-Redirect"] = f"{sign_in}?{urlencode({'next': back or '/'})}"
        return answer


_FOUND, _NOTHING_HERE = 302, 204

"""What is said when a name was tried too often."""

from __future__ import annotations

from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render

__all__ = ["wait_a_while"]


def wait_a_while(
    request: HttpRequest, response: HttpResponse | None = None, credentials: Any = None
) -> HttpResponse:
    """The sign-in page with how long to wait."""
    minutes = round(settings.AXES_COOLOFF_TIME.total_seconds() / 60)
    said = {"locked_minutes": minutes, "failures": settings.AXES_FAILURE_LIMIT}
    return render(request, "people/sign_in.html", said, status=429)

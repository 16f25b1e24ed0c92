"""Guessing passwords is slowed: of one name from one address, of one name, and from one address."""

from __future__ import annotations

from typing import Any

from axes.models import AccessAttempt
from django.conf import settings
from django.contrib.auth.views import LoginView
from django.db.models import Q, Sum
from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.utils import timezone

__all__ = ["SignIn", "wait_a_while"]


def wait_a_while(
    request: HttpRequest, response: HttpResponse | None = None, credentials: Any = None
) -> HttpResponse:
    """The sign-in page with how long to wait, for a name that was tried too often from this address."""
    return _wait(request, "This name was tried too often with a wrong password. Nobody else is kept out.")


def _wait(request: HttpRequest, said: str) -> HttpResponse:
    minutes = round(settings.AXES_COOLOFF_TIME.total_seconds() / 60)
    return render(request, "people/sign_in.html", {"locked_minutes": minutes, "why": said}, status=429)


class SignIn(LoginView):
    """Sign-in that also counts what the single name at the single address does not show.

    One name may be tried from many addresses, and one address may try many names; each has its bound,
    well above what people mistype.
    """

    template_name = "people/sign_in.html"
    redirect_authenticated_user = True

    def post(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponse:
        """Sign in, unless there was too much guessing."""
        since = timezone.now() - settings.AXES_COOLOFF_TIME
        lately = AccessAttempt.objects.filter(attempt_time__gte=since)
        for asked, most, said in (
            (
                Q(ip_address=request.META.get("REMOTE_ADDR")),
                settings.KIZAMI_TRIES_OF_AN_ADDRESS,
                "Too many names were tried from your address with wrong passwords.",
            ),
            (
                Q(username=request.POST.get("username", "")[:255]),
                settings.KIZAMI_TRIES_OF_A_NAME,
                "This name was tried too often with a wrong password, from several addresses.",
            ),
        ):
            tries = lately.filter(asked).aggregate(n=Sum("failures_since_start"))["n"] or 0
            if tries >= most:
                return _wait(request, said)
        return super().post(request, *args, **kwargs)

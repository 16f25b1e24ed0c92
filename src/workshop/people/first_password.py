"""Whoever signs in with a password that somebody else gave them chooses another one first."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.contrib.auth.signals import user_logged_in
from django.dispatch import receiver
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect

from workshop.people.models import FirstPassword

__all__ = ["FirstPasswordMiddleware", "must_change"]

_KEY = "first-password"
_FREE = ("people:password", "people:sign-out", "people:sign-in", "alive")


@receiver(user_logged_in)
def _look(sender: Any, request: HttpRequest, user: Any, **_: Any) -> None:
    """Looked up once at sign-in: not every page of the day asks the database for it."""
    request.session[_KEY] = FirstPassword.objects.filter(user=user).exists()


def must_change(request: HttpRequest) -> bool:
    """Whether this person has to choose a password first."""
    if not request.session.get(_KEY):
        return False
    # It may have been changed in another browser.
    still = FirstPassword.objects.filter(user=request.user.pk).exists()
    request.session[_KEY] = still
    return still


class FirstPasswordMiddleware:
    """Leads to the choice of a password until one is chosen."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponse]) -> None:
        self.get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer a request."""
        return self.get_response(request)

    def process_view(
        self, request: HttpRequest, view: Callable[..., HttpResponse], args: Any, kwargs: Any
    ) -> HttpResponse | None:
        """The way to the choice, or None."""
        match = request.resolver_match
        if match is None or match.view_name in _FREE or not request.user.is_authenticated:
            return None
        return redirect("people:password") if must_change(request) else None

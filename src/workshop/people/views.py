"""People of the shop, and one's own password."""

from __future__ import annotations

from django.contrib import messages
from django.contrib.auth import update_session_auth_hash
from django.contrib.auth.forms import PasswordChangeForm
from django.contrib.auth.models import User
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.views.decorators.debug import sensitive_post_parameters
from django.views.decorators.http import require_GET, require_http_methods, require_POST

from workshop.people.first_password import must_change
from workshop.people.models import FirstPassword, PeopleEvent
from workshop.people.places import RIGHTS
from workshop.people.services import (
    LONGEST_NAME,
    PeopleError,
    add_person,
    bar,
    give_password,
    move,
    people,
    rename,
)

_EVENTS_SHOWN = 20


@sensitive_post_parameters()
@require_http_methods(["GET", "POST"])
def password(request: HttpRequest) -> HttpResponse:
    """Choose another password; whoever was given theirs by somebody else has to."""
    form = PasswordChangeForm(request.user, request.POST or None)  # type: ignore[arg-type]
    if request.method == "POST" and form.is_valid():
        user = form.save()
        FirstPassword.objects.filter(user=user).delete()
        # Other browsers that are signed in under this name have to sign in again.
        update_session_auth_hash(request, user)
        messages.success(request, "Your password is changed. Other browsers have to sign in again.")
        return redirect("home")
    context = {"form": form, "must": must_change(request), "place": ""}
    return render(request, "people/password.html", context, status=422 if form.errors else 200)


@require_GET
def everybody(request: HttpRequest) -> HttpResponse:
    """Who is in the shop."""
    return _everybody(request)


def _everybody(request: HttpRequest, *, status: int = 200, **more: object) -> HttpResponse:
    context = {
        "people": people(),
        "places": list(RIGHTS),
        "events": PeopleEvent.objects.select_related("who")[:_EVENTS_SHOWN],
        "longest": LONGEST_NAME,
        "place": "",
        **more,
    }
    response = render(request, "people/people.html", context, status=status)
    response["Cache-Control"] = "no-store"
    return response


@require_POST
def add(request: HttpRequest) -> HttpResponse:
    """Add somebody. The first password is shown on this very page and nowhere else."""
    name, place = request.POST.get("name", ""), request.POST.get("place", "")
    try:
        user, first = add_person(name, place, by=request.user)  # type: ignore[arg-type]
    except PeopleError as error:
        return _everybody(request, status=422, refused=str(error), typed={"name": name, "place": place})
    return _everybody(request, given=user, first=first)


@require_POST
def change(request: HttpRequest, pk: int) -> HttpResponse:
    """Rename, move, bar or let in somebody, or give them another first password."""
    user = get_object_or_404(User.objects.filter(groups__name__in=RIGHTS), pk=pk)
    by: User = request.user  # type: ignore[assignment]
    do = request.POST.get("do", "")
    try:
        if do == "name":
            rename(user, request.POST.get("name", ""), by=by)
        elif do == "place":
            move(user, request.POST.get("place", ""), by=by)
        elif do in ("bar", "let in"):
            bar(user, barred=do == "bar", by=by)
        elif do == "password":
            return _everybody(request, given=user, first=give_password(user, by=by))
        else:
            raise PeopleError("Choose what to do. Nothing was changed.")
    except PeopleError as error:
        return _everybody(request, status=422, refused=str(error))
    return redirect("people:people")

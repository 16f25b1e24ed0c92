"""What the owner does with people, and everybody with their own password. Each is one transaction."""

from __future__ import annotations

from django.contrib.auth.models import Group, User
from django.db import transaction

from launch.state import spoken_password
from workshop.people.models import FirstPassword, PeopleEvent
from workshop.people.places import RIGHTS

__all__ = ["PeopleError", "add_person", "bar", "give_password", "move", "rename"]

LONGEST_NAME = 60


class PeopleError(Exception):
    """Nothing was done; the message says why and what to do."""


def add_person(name: str, place: str, *, by: User | None, password: str = "") -> tuple[User, str]:
    """Add somebody at a place of the shop.

    Parameters
    ----------
    password : the first one; made up when left out

    Returns
    -------
    the person and the first password, which must be changed at the first sign-in and is shown but once
    """
    name = _fit(name)
    group = _place(place)
    password = password or spoken_password()
    with transaction.atomic():
        user = User.objects.create_user(name, password=password)
        user.groups.set([group])
        FirstPassword.objects.create(user=user)
        PeopleEvent.objects.create(who=by, what=f"Added {name} at {place}")
    return user, password


def rename(user: User, name: str, *, by: User) -> None:
    """Give somebody another name to sign in with."""
    name = _fit(name, besides=user)
    with transaction.atomic():
        before = user.get_username()
        user.username = name
        user.save(update_fields=["username"])
        PeopleEvent.objects.create(who=by, what=f"Renamed {before} to {name}")


def move(user: User, place: str, *, by: User) -> None:
    """Give somebody another place, with its rights."""
    group = _place(place)
    with transaction.atomic():
        _keep_an_owner(user, still=place == "Owner")
        user.groups.set([group])
        PeopleEvent.objects.create(who=by, what=f"{user.get_username()} is at {place} now")


def bar(user: User, *, barred: bool, by: User) -> None:
    """Keep somebody out from now on, signed in or not; or let them in again. What they did stays theirs."""
    if barred and user == by:
        raise PeopleError("You can't bar yourself; another owner can.")
    with transaction.atomic():
        _keep_an_owner(user, still=not barred)
        user.is_active = not barred
        user.save(update_fields=["is_active"])
        PeopleEvent.objects.create(
            who=by, what=f"{'Barred' if barred else 'Let in again'}: {user.get_username()}"
        )


def give_password(user: User, *, by: User) -> str:
    """Another first password for somebody who has forgotten theirs; it is shown but once."""
    password = spoken_password()
    with transaction.atomic():
        user.set_password(password)
        user.save(update_fields=["password"])
        FirstPassword.objects.update_or_create(user=user)
        PeopleEvent.objects.create(who=by, what=f"Gave {user.get_username()} a new first password")
    return password


def people() -> list[User]:
    """Everybody who can or could sign in, with their places; programs of the shop's own are none of them."""
    rows = User.objects.filter(groups__name__in=RIGHTS).prefetch_related("groups")
    return list(rows.select_related("first_password").order_by("-is_active", "username"))


def _fit(name: str, *, besides: User | None = None) -> str:
    name = " ".join(name.split())
    if not name or len(name) > LONGEST_NAME or not name.isprintable():
        raise PeopleError(f"A name has 1 to {LONGEST_NAME} characters that can be printed.")
    others = User.objects.filter(username__iexact=name)
    if besides is not None:
        others = others.exclude(pk=besides.pk)
    if others.exists():
        raise PeopleError(f"There is somebody called {name} already. Choose another name.")
    return name


def _place(place: str) -> Group:
    group = Group.objects.filter(name=place).first() if place in RIGHTS else None
    if group is None:
        raise PeopleError(f"Choose a place: {', '.join(RIGHTS)}.")
    return group


def _keep_an_owner(user: User, *, still: bool) -> None:
    """Locked, so that two owners do not bar each other at the same moment."""
    owners = User.objects.select_for_update(no_key=True).filter(groups__name="Owner", is_active=True)
    left = {owner.pk for owner in owners.order_by("pk")} - ({user.pk} if not still else set())
    if not left:
        raise PeopleError("A shop needs an owner. Make somebody else an owner first.")

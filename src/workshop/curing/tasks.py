"""Cures in the background. A job may be killed at any moment and run again: lines are its unit."""

from __future__ import annotations

import contextlib

from django.db import transaction
from procrastinate import exceptions
from procrastinate.contrib.django import app

__all__ = ["defer_looking", "defer_taking"]

#: So many jobs look or take at once; a line is only ever worked on by one of them.
_SLOTS = 4


def defer_looking() -> None:
    """Ask for a look at every held line of which it is not known what would cure it."""
    for slot in range(_SLOTS):
        with contextlib.suppress(exceptions.AlreadyEnqueued), transaction.atomic():
            app.configure_task("look_for_cures", queueing_lock=f"cures-{slot}", queue="making").defer()


def defer_taking(taking_pk: int) -> None:
    """Ask for what waits of a taking to be taken, or taken back."""
    for slot in range(_SLOTS):
        with contextlib.suppress(exceptions.AlreadyEnqueued), transaction.atomic():
            lock = f"taking-{taking_pk}-{slot}"
            app.configure_task("take_cures", queueing_lock=lock, queue="making").defer(taking_pk=taking_pk)


@app.task(name="look_for_cures", queue="making")
def look_for_cures() -> int:
    """Look at held lines until none is left; returns at how many."""
    from workshop.curing.services import look_at_next

    looked, code = 0, ""
    while code := look_at_next(code):
        looked += 1
    return looked


@app.task(name="take_cures", queue="making")
def take_cures(taking_pk: int) -> int:
    """Take, or take back, what waits; returns how many lines."""
    from workshop.curing.services import take_next

    taken = 0
    while take_next(taking_pk):
        taken += 1
    return taken

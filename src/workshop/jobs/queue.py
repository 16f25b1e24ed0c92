"""Asking for background work. Kept apart from the tasks, so that services need not import them."""

from __future__ import annotations

import contextlib

from django.db import transaction
from procrastinate import exceptions
from procrastinate.contrib.django import app

__all__ = ["SLOTS", "defer_making", "defer_parcel", "defer_typeface"]

#: How many jobs may work on one list at once; a line is only ever made by one of them.
SLOTS = 4
#: So long one list is worked on before whatever else waits has its turn: another list, a bundle, logos.
_TURN_S = 10.0


def defer_making(order_list_pk: int) -> None:
    """Ask for a list to be made, by as many workers as are free. Asking twice does no harm."""
    for slot in range(SLOTS):
        # A queueing lock that is taken raises inside the database: only this step is undone then.
        with contextlib.suppress(exceptions.AlreadyEnqueued), transaction.atomic():
            app.configure_task(
                "make_list", queueing_lock=f"make-list-{order_list_pk}-{slot}", queue="making"
            ).defer(order_list_pk=order_list_pk, turn_s=_TURN_S)


def defer_parcel(parcel_pk: int) -> None:
    """Ask for a look at a parcel of logos. Asking twice does no harm."""
    with contextlib.suppress(exceptions.AlreadyEnqueued), transaction.atomic():
        app.configure_task("look_at_parcel", queueing_lock=f"parcel-{parcel_pk}", queue="making").defer(
            parcel_pk=parcel_pk
        )


def defer_typeface(sent_pk: int) -> None:
    """Ask for a look at a typeface that was sent. Asking twice does no harm."""
    with contextlib.suppress(exceptions.AlreadyEnqueued), transaction.atomic():
        app.configure_task("look_at_typeface", queueing_lock=f"typeface-{sent_pk}", queue="making").defer(
            sent_pk=sent_pk
        )

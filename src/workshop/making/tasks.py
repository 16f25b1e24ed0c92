"""Background work. A job may be killed at any moment and run again: it loses and repeats nothing.

Lines are the unit. A worker locks the next new line of the list, makes it and stores it in one
transaction; another worker skips locked lines. When a worker dies, the database frees its lock
and the line is simply still new.
"""

from __future__ import annotations

import time

from django.db import transaction
from django.db.models import F
from django.utils import timezone
from procrastinate import JobContext, exceptions
from procrastinate.contrib.django import app
from procrastinate.jobs import Status

from workshop.jobs.queue import defer_making
from workshop.making.recording import MOST_ATTEMPTS, give_up_on, make_line
from workshop.orders.models import OrderLine, OrderList
from workshop.orders.stages import Stage
from workshop.orders.standing import forget_old_changes

__all__ = ["clear_stalled", "make_list", "take_up_again"]

#: Several times the pause between two signs of life of a worker.
_SIGN_OF_LIFE_S = 20.0


@app.task(name="make_list", queue="making")
def make_list(order_list_pk: int, turn_s: float | None = None) -> int:
    """Make the new lines of a list until none is left or the list is stopped.

    Parameters
    ----------
    turn_s : after so long whatever else waits has its turn, and the list goes on behind it

    Returns
    -------
    how many lines this job made
    """
    OrderList.objects.filter(pk=order_list_pk, started_at=None).update(started_at=timezone.now())
    made, began = 0, time.monotonic()
    while _make_next(order_list_pk):
        made += 1
        if turn_s is not None and time.monotonic() - began >= turn_s:
            defer_making(order_list_pk)
            break
    return made


def _make_next(order_list_pk: int) -> bool:
    if OrderList.objects.filter(pk=order_list_pk, stopped_at__isnull=False).exists():
        return False
    with transaction.atomic():
        line = _next_line(order_list_pk)
        if line is None:
            return False
        # Counted before the attempt and stored at once: an attempt that kills the worker counts.
        OrderLine.objects.filter(pk=line.pk).update(attempts=F("attempts") + 1)
    with transaction.atomic():
        locked = OrderLine.objects.lock_with_fellows(line.pk)
        if locked is None or locked.stage != Stage.NEW:
            return True  # another worker was quicker
        if locked.attempts > MOST_ATTEMPTS:
            give_up_on(locked)
        else:
            make_line(locked, why="made from the list")
    return True


def _next_line(order_list_pk: int) -> OrderLine | None:
    return (
        OrderLine.objects.select_for_update(skip_locked=True, no_key=True)
        .filter(order_list_id=order_list_pk, stage=Stage.NEW)
        # Lines of one product and size after each other, as what one needs the next needs too.
        .order_by("attempts", "product_id", "size", "pk")
        .first()
    )


@app.periodic(cron="* * * * * */10")
@app.task(name="take_up_again", queueing_lock="take-up-again", pass_context=False)
def take_up_again(timestamp: int) -> int:
    """Ask again for every list that still has new lines and is not stopped.

    Covers killed workers, a database restored from a copy, and jobs lost for any other reason.
    """
    unfinished = (
        OrderList.objects.filter(stopped_at=None, lines__stage=Stage.NEW)
        .values_list("pk", flat=True)
        .distinct()
    )
    for pk in unfinished:
        defer_making(pk)
    forget_old_changes()
    return len(unfinished)


@app.periodic(cron="* * * * * */20")
@app.task(name="clear_stalled", queueing_lock="clear-stalled", pass_context=True)
async def clear_stalled(context: JobContext, timestamp: int) -> int:
    """Put jobs whose worker gives no sign of life back into the queue. Every job may run twice.

    Returns
    -------
    how many there were
    """
    jobs = context.app.job_manager
    stalled = list(await jobs.get_stalled_jobs(seconds_since_heartbeat=_SIGN_OF_LIFE_S))
    for job in stalled:
        # The same work may be waiting already; then the stalled job has nothing left to do.
        try:
            await jobs.retry_job(job)
        except exceptions.UniqueViolation:
            await jobs.finish_job(job, status=Status.FAILED, delete_job=True)
    return len(stalled)

"""Listening in the background."""

from __future__ import annotations

from procrastinate.contrib.django import app

from workshop.feeds.models import Feed
from workshop.feeds.services import listen, report_back

__all__ = ["hear_feeds"]


@app.periodic(cron="* * * * * */15")
@app.task(name="hear_feeds", queueing_lock="hear-feeds", pass_context=False)
def hear_feeds(timestamp: int) -> int:
    """Ask every feed that is listened to, one after the other, and tell it how its orders stand.

    Returns
    -------
    how many orders were new or changed
    """
    taken = 0
    for pk in Feed.objects.filter(is_on=True).values_list("pk", flat=True):
        taken += listen(pk)
        report_back(pk)
    return taken

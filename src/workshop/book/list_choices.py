"""The lists that a view of the Order book can be of, as they are offered."""

from __future__ import annotations

from django.db.models import Max, Q
from django.db.models.functions import TruncDate

from workshop.feeds.models import Feed
from workshop.orders.list_choice import ListChoice
from workshop.orders.models import OrderList

__all__ = ["list_choices"]

#: Choices on offer, the newest first; older lists are found by what is in them.
_MOST_CHOICES = 50


def list_choices() -> list[tuple[str, str]]:
    """Addresses and names of the choices, the newest first, in two queries; a feed's day is one of them."""
    of_feeds = Q(source__in=Feed.objects.values("source"))
    days = (
        OrderList.objects.filter(of_feeds)
        .annotate(day=TruncDate("received_at"))
        .values("source", "source__name", "day")
        .annotate(newest=Max("received_at"))
        .order_by("-newest")[:_MOST_CHOICES]
    )
    found = [
        (
            row["newest"],
            ListChoice(source=row["source"], day=row["day"]),
            f"{row['source__name']} · {row['day']:%Y-%m-%d}",
        )
        for row in days
    ]
    for row in OrderList.objects.exclude(of_feeds).only("pk", "name", "received_at")[:_MOST_CHOICES]:
        name = f"{row.name} · {row.received_at:%Y-%m-%d %H:%M}"
        found.append((row.received_at, ListChoice(order_list=row.pk), name))
    found.sort(key=lambda row: row[0], reverse=True)
    return [(str(choice), name) for _, choice, name in found[:_MOST_CHOICES]]

"""Which lists a view of the Order book is of: all, one, or all that a shop's feed brought on a day."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from django.db.models import Max, Q
from django.db.models.functions import TruncDate

from workshop.feeds.models import Feed
from workshop.orders.models import OrderList

__all__ = ["ALL_LISTS", "ListChoice", "list_choices"]

#: Choices on offer, the newest first; older lists are found by what is in them.
_MOST_CHOICES = 50


@dataclass(frozen=True, kw_only=True, slots=True)
class ListChoice:
    """One entry of the choice of lists.

    Attributes
    ----------
    order_list : the list, or None
    source, day : a sender and the day, for lists that are gathered
    """

    order_list: int | None = None
    source: int | None = None
    day: dt.date | None = None

    @classmethod
    def of(cls, text: str) -> ListChoice:
        """Read it from an address: “12”, or “3:2027-03-31”; what makes no sense is all lists."""
        before, colon, after = text.partition(":")
        if not (before.isascii() and before.isdigit() and len(before) < 10):
            return ALL_LISTS
        if not colon:
            return cls(order_list=int(before))
        try:
            return cls(source=int(before), day=dt.date.fromisoformat(after))
        except ValueError:
            return ALL_LISTS

    def __str__(self) -> str:
        if self.day is not None:
            return f"{self.source}:{self.day.isoformat()}"
        return str(self.order_list or "")

    def __bool__(self) -> bool:
        return bool(str(self))

    @property
    def condition(self) -> Q:
        """For anything that belongs to an `order_list`."""
        if self.day is not None:
            return Q(order_list__source=self.source, order_list__received_at__date=self.day)
        return Q(order_list=self.order_list) if self.order_list is not None else Q()


ALL_LISTS = ListChoice()


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

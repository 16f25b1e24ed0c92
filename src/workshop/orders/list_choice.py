"""Which lists a view of the Order book is of: all, one, or all that a shop's feed brought on a day."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass

from django.db.models import Q

__all__ = ["ALL_LISTS", "ListChoice"]


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

"""What the order book shows: the lines of a view, the ledger counts and how far making has come."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from functools import cached_property
from typing import Any
from urllib.parse import urlencode

from django.core.paginator import Page, Paginator
from django.db.models import Case, Count, Exists, F, Min, OuterRef, Q, QuerySet, Sum, When
from django.db.models.expressions import OrderBy
from django.http import QueryDict
from django.utils import timezone

from workshop.book.search import Search
from workshop.feeds.models import Feed
from workshop.intake.models import Question, SetAsideRow
from workshop.making.models import Finding, Revision
from workshop.orders.list_choice import ALL_LISTS, ListChoice
from workshop.orders.models import OrderLine, OrderList
from workshop.orders.stages import Stage

__all__ = ["GROUPS", "PAGE_LINES", "BookView", "Ledger", "Progress"]

PAGE_LINES = 60
#: What lines can be grouped by, with the order that brings each group together.
GROUPS: dict[str, tuple[str | Case | OrderBy, ...]] = {
    "product": ("product__code",),
    # Lines without a set come after the sets.
    "set": (Case(When(set_name="", then=1), default=0), "set_name", "order"),
    "due": (F("due").asc(nulls_last=True),),
}
#: The pace of making is that of this many last seconds.
_PACE_S = 15.0


class _Counted(Paginator):
    """Pages of something whose length is known."""

    def __init__(self, found: QuerySet[Any], count: int) -> None:
        super().__init__(found, PAGE_LINES)
        self.count = count


@dataclass(frozen=True, kw_only=True)
class BookView:
    """A view of the order book as it stands in the address."""

    words: str
    stage: str
    chosen: ListChoice = ALL_LISTS
    group: str = ""
    check: str = ""
    by_date: bool = False

    @classmethod
    def of(cls, query: QueryDict) -> BookView:
        """Read the address; what makes no sense in it is left out."""
        stage = query.get("stage", "")
        return cls(
            words=query.get("q", "")[:100],
            stage=stage if stage in Stage.values else "",
            group=query.get("group", "") if query.get("group", "") in GROUPS else "",
            check=query.get("check", "")[:40],
            by_date=query.get("sort", "") == "due",
            chosen=ListChoice.of(query.get("list", "")),
        )

    @cached_property
    def search(self) -> Search:
        """What the typed words ask for, read once."""
        return Search.of(self.words)

    def lines(self) -> QuerySet[OrderLine]:
        """The lines of the view in book order."""
        lines = OrderLine.objects.for_book().filter(self.search.asked)
        if self.stage:
            lines = lines.filter(stage=self.stage)
        if self.chosen:
            lines = lines.filter(self.chosen.condition)
        if self.check:
            # Of several areas more than one may fail the same check: the line is still one.
            failing = Finding.objects.filter(revision=OuterRef("revision"), code=self.check, level="fails")
            lines = lines.filter(Exists(failing))
        return lines.in_book_order(*GROUPS.get(self.group, ()), by_date=self.by_date)

    @property
    def query_all(self) -> str:
        """The address of this view without its stage."""
        return self.query(stage=None, check=None)

    def failing(self) -> list[dict[str, Any]]:
        """How many held lines each check holds, the most first; a line may fail several."""
        held = OrderLine.objects.filter(self.chosen.condition, stage=Stage.HELD)
        fails = Finding.objects.filter(level="fails", revision__in=held.values("revision"))
        counts = (
            fails.values("code", "title")
            .annotate(lines=Count("revision", distinct=True))
            .order_by("-lines", "title")
        )
        return [{**row, "query": self.query(check=row["code"], stage=Stage.HELD)} for row in counts]

    @cached_property
    def totals(self) -> dict[str, int]:
        """Lines and pieces in the view."""
        found = self.lines().order_by().aggregate(lines=Count("pk"), pieces=Sum("quantity"))
        return {"lines": found["lines"], "pieces": found["pieces"] or 0}

    def page(self, number: str | None) -> Page[OrderLine]:
        """A page of lines. They are put in order by their keys alone: only what is shown is fetched."""
        page = _Counted(self.lines().values_list("pk", flat=True), self.totals["lines"]).get_page(number)
        lines = OrderLine.objects.for_book().in_bulk(list(page.object_list))
        page.object_list = [lines[pk] for pk in page.object_list if pk in lines]
        return page

    def query(self, **changes: str | int | None) -> str:
        """The address of this view with changes, as a query string."""
        values = {
            "q": self.words,
            "stage": self.stage,
            "list": str(self.chosen),
            "group": self.group,
            "check": self.check,
            "sort": "due" if self.by_date else "",
            **changes,
        }
        return urlencode({key: value for key, value in values.items() if value})


@dataclass(frozen=True, kw_only=True, slots=True)
class Ledger:
    """Counts of pieces by stage, with the next date and the worst held line."""

    counts: dict[str, int]
    pieces: int
    next_due: dt.date | None
    set_aside: int
    questions: int
    feeds: list[Feed]
    worst: OrderLine | None
    late: int

    @classmethod
    def of(cls, chosen: ListChoice = ALL_LISTS) -> Ledger:
        """Count over the lists that are chosen, in six queries."""
        lines = OrderLine.objects.filter(chosen.condition)
        aside = SetAsideRow.objects.filter(chosen.condition)
        rows = lines.values("stage").annotate(pieces=Sum("quantity"), due=Min("due"))
        counts = dict.fromkeys(Stage.values, 0)
        dates = []
        for row in rows.order_by():
            counts[row["stage"]] = row["pieces"]
            dates += [row["due"]] if row["due"] else []
        return cls(
            counts=counts,
            pieces=sum(counts.values()),
            next_due=min(dates, default=None),
            set_aside=aside.count(),
            feeds=list(Feed.objects.select_related("source")[:3]),
            questions=Question.objects.filter(decided_at=None).count(),
            worst=lines.worst_held().first(),
            late=lines.exclude(stage=Stage.SENT).filter(due__lt=timezone.localdate()).count(),
        )


@dataclass(frozen=True, kw_only=True, slots=True)
class Progress:
    """How far the making of a list has come."""

    order_list: OrderList
    total: int
    done: int
    held: int
    lately: int

    @classmethod
    def running(cls) -> list[Progress]:
        """Every list that still has new lines, in two queries."""
        since = timezone.now() - dt.timedelta(seconds=_PACE_S)
        recent = Revision.objects.filter(made_at__gte=since).values("line__order_list")
        lately = dict(recent.annotate(made=Count("pk")).order_by().values_list("line__order_list", "made"))
        lists = (
            OrderList.objects.annotate(
                total=Count("lines"),
                new=Count("lines", filter=Q(lines__stage=Stage.NEW)),
                held=Count("lines", filter=Q(lines__stage=Stage.HELD)),
            )
            .filter(new__gt=0)
            .order_by("pk")
        )
        return [
            cls(
                order_list=row,
                total=row.total,
                done=row.total - row.new,
                held=row.held,
                lately=lately.get(row.pk, 0),
            )
            for row in lists
        ]

    @property
    def left(self) -> int:
        """Lines that are still to be made."""
        return self.total - self.done

    @property
    def percent(self) -> int:
        """Share done, 0 to 100."""
        return 100 * self.done // self.total if self.total else 100

    @property
    def seconds_left(self) -> int | None:
        """Guessed from the pace of the last seconds, so that a pause does not spoil it; None without."""
        started = self.order_list.started_at
        if started is None or self.lately == 0 or self.order_list.stopped_at is not None:
            return None
        spent = min(_PACE_S, max(1.0, (timezone.now() - started).total_seconds()))
        return max(1, round(spent / self.lately * (self.total - self.done)))

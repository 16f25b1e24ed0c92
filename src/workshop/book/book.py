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

from workshop.book.rows import Row, rows_standing
from workshop.book.search import Search
from workshop.feeds.models import Feed
from workshop.intake.models import Question, SetAsideRow
from workshop.making.models import Finding, Revision
from workshop.memory.made_once import MadeOnce
from workshop.orders.list_choice import ALL_LISTS, ListChoice
from workshop.orders.models import LineQuerySet, OrderLine, OrderList, mark_of
from workshop.orders.stages import Stage
from workshop.orders.standing import lines_stamp

__all__ = ["GROUPS", "PAGE_LINES", "BookView", "Ledger", "Progress"]

PAGE_LINES = 60
#: What lines can be grouped by, with the order that brings each group together.
GROUPS: dict[str, tuple[str | Case | OrderBy, ...]] = {
    "product": ("product__code",),
    # Lines without a set come after the sets.
    "set": (Case(When(set_name="", then=1), default=0), "set_name", "order"),
    "due": (F("due").asc(nulls_last=True),),
}
#: So many lines are put in order by their keys; more are read from the book in its own order.
_FEW = 1000
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

    @property
    def search(self) -> Search:
        """What the typed words ask for, or what may have been meant by them."""
        return self._searched[0]

    @cached_property
    def _searched(self) -> tuple[Search, dict[int, int] | None]:
        """The search, with the lines that it finds where they are few.

        One look through the book then answers what there is, how much of it, and in what order.
        """
        search = Search.of(self.words)
        few = self._few(search)
        if few is not None and not few:
            meant = search.forgiving()
            if meant is not search:
                search, few = meant, self._few(meant)
        return search, few

    def _few(self, search: Search) -> dict[int, int] | None:
        """Pieces of the lines that are found, by key; None where nothing narrows the view, or of many."""
        if not search.asked and not self.check:
            return None
        lines = self._found_by(search).values_list("pk", "quantity")[: _FEW + 1]
        found = dict(lines)
        return found if len(found) <= _FEW else None

    def lines(self) -> QuerySet[OrderLine]:
        """The lines of the view in book order."""
        search, few = self._searched
        found = self._found_by(search) if few is None else OrderLine.objects.filter(pk__in=few)
        return found.for_book().in_book_order(*GROUPS.get(self.group, ()), by_date=self.by_date)

    def _found_by(self, search: Search) -> LineQuerySet:
        lines = OrderLine.objects.filter(search.asked)
        if self.stage:
            lines = lines.filter(stage=self.stage)
        if self.chosen:
            lines = lines.filter(self.chosen.condition)
        if self.check:
            # Of several areas more than one may fail the same check: the line is still one.
            failing = Finding.objects.filter(revision=OuterRef("revision"), code=self.check, level="fails")
            lines = lines.filter(Exists(failing))
        return lines

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
    def tally(self) -> list[dict[str, Any]]:
        """Of the chosen lists by stage: lines, pieces, first day and what is late; counted once a change."""
        today = timezone.localdate()
        return _tallies.get((lines_stamp(), str(self.chosen), today))

    @cached_property
    def totals(self) -> dict[str, int]:
        """Lines and pieces in the view."""
        if not self.search.asked and not self.check:
            rows = [row for row in self.tally if not self.stage or row["stage"] == self.stage]
            return {name: sum(row[name] for row in rows) for name in ("lines", "pieces")}
        search, few = self._searched
        if few is not None:
            return {"lines": len(few), "pieces": sum(few.values())}
        found = self._found_by(search).aggregate(lines=Count("pk"), pieces=Sum("quantity"))
        return {"lines": found["lines"], "pieces": found["pieces"] or 0}

    def page(self, number: str | None, *, may_tick: bool) -> Page[Row]:
        """A page of rows. Lines are put in order by what stands in indexes; only what is new is fetched."""
        marked = self.lines().values_list("pk", "edition", "revision_id", "stage", "under_way")
        page = _Counted(marked, self.totals["lines"]).get_page(number)
        standing = [(pk, mark_of(*how)) for pk, *how in page.object_list]
        page.object_list = rows_standing(standing, may_tick=may_tick, with_lines=bool(self.group))
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


def _tally(asked: tuple[str, str, dt.date]) -> list[dict[str, Any]]:
    """From an index alone."""
    _, chosen, today = asked
    lines = OrderLine.objects.filter(ListChoice.of(chosen).condition).values("stage")
    late = Count("stage", filter=Q(due__lt=today))
    counts = {"lines": Count("stage"), "pieces": Sum("quantity"), "first": Min("due"), "late": late}
    return list(lines.annotate(**counts).order_by())


_tallies = MadeOnce(_tally, size_of=lambda rows: 500 * (1 + len(rows)), most_bytes=256 * 1024)


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
    def of(cls, view: BookView) -> Ledger:
        """Count over the lists that are chosen, in a fixed number of queries."""
        counts = dict.fromkeys(Stage.values, 0) | {row["stage"]: row["pieces"] for row in view.tally}
        unsent = [row for row in view.tally if row["stage"] != Stage.SENT]
        return cls(
            counts=counts,
            pieces=sum(counts.values()),
            next_due=min((row["first"] for row in unsent if row["first"]), default=None),
            set_aside=SetAsideRow.objects.filter(view.chosen.condition).count(),
            feeds=list(Feed.objects.select_related("source")[:3]),
            questions=Question.objects.filter(decided_at=None).count(),
            worst=OrderLine.objects.filter(view.chosen.condition).worst_held().first(),
            late=sum(row["late"] for row in unsent),
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
        """Every list that still has new lines, in three queries at most."""
        since = timezone.now() - dt.timedelta(seconds=_PACE_S)
        waiting = OrderLine.objects.filter(stage=Stage.NEW).values_list("order_list", flat=True)
        lists = OrderList.objects.in_bulk(list(waiting.distinct().order_by()))
        if not lists:
            return []
        recent = Revision.objects.filter(made_at__gte=since, line__order_list__in=lists)
        recent = recent.values("line__order_list")
        lately = dict(recent.annotate(made=Count("pk")).order_by().values_list("line__order_list", "made"))
        counts = OrderLine.objects.filter(order_list__in=lists).values("order_list").order_by("order_list")
        counts = counts.annotate(
            total=Count("stage"),
            new=Count("stage", filter=Q(stage=Stage.NEW)),
            held=Count("stage", filter=Q(stage=Stage.HELD)),
        )
        return [
            cls(
                order_list=lists[row["order_list"]],
                total=row["total"],
                done=row["total"] - row["new"],
                held=row["held"],
                lately=lately.get(row["order_list"], 0),
            )
            for row in counts
            if row["new"]
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

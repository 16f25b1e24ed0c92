"""Listening to a feed: its new orders come in as lists do, and it is told how they stand."""

from __future__ import annotations

import csv
import io
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from workshop.feeds.client import FeedError, Page, ask, tell
from workshop.feeds.models import Feed, FeedOrder
from workshop.intake.models import SetAsideRow
from workshop.intake.taking import open_intake, take, trial_of
from workshop.orders.models import OrderLine, OrderList
from workshop.orders.stages import Stage

__all__ = ["listen", "report_back"]

_MOST_PAGES = 20
_COLUMNS = (
    *("order", "line", "product", "size", "wording", "second"),
    *("quantity", "due", "customer", "priority", "note", "set"),
)


def listen(feed_pk: int) -> int:
    """Ask a feed for what is new and take it in. Never raises for what the feed does.

    Returns
    -------
    how many orders were new or changed
    """
    taken = 0
    for _ in range(_MOST_PAGES):
        feed = Feed.objects.select_related("source").get(pk=feed_pk)
        if not feed.is_on:
            break
        try:
            page = ask(feed.address, feed.cursor)
        except FeedError as error:
            Feed.objects.filter(pk=feed_pk).update(asked_at=timezone.now(), trouble=str(error)[:300])
            break
        taken += _take_page(feed, page)
        if not page.orders and not page.refused:
            break
        if page.next_cursor == feed.cursor:
            break
    return taken


def _take_page(feed: Feed, page: Page) -> int:
    """Take a page in and move the cursor on, both or neither."""
    with transaction.atomic():
        # A second listener of the same feed waits here, and then finds the cursor moved on.
        locked = Feed.objects.select_for_update(no_key=True).get(pk=feed.pk)
        if locked.cursor != feed.cursor:
            return 0
        fresh = _newer(feed, page)
        refused = _unseen(feed, page)
        if fresh or refused:
            _take_orders(feed, fresh, refused)
        now = timezone.now()
        trouble = (
            f"{len(page.refused)} of its orders were not as agreed and set aside" if page.refused else ""
        )
        Feed.objects.filter(pk=feed.pk).update(
            cursor=page.next_cursor, asked_at=now, heard_at=now, trouble=trouble
        )
    return len(fresh)


def _newer(feed: Feed, page: Page) -> list[dict[str, Any]]:
    """The newest version of each order of the page that is newer than what is known.

    An order that comes twice, or an old version that comes late, changes nothing.
    """
    newest: dict[str, dict[str, Any]] = {}
    for order in page.orders:
        known = newest.get(order["id"])
        if known is None or order["version"] > known["version"]:
            newest[order["id"]] = order
    versions = dict(feed.orders.filter(order__in=newest).values_list("order", "version"))
    fresh = [order for order in newest.values() if order["version"] > versions.get(order["id"], 0)]
    FeedOrder.objects.bulk_create(
        [FeedOrder(feed=feed, order=order["id"], version=order["version"]) for order in fresh],
        update_conflicts=True,
        update_fields=["version"],
        unique_fields=["feed", "order"],
    )
    return fresh


def _unseen(feed: Feed, page: Page) -> list[tuple[str, str]]:
    """Refused orders that are not set aside already: a shop may send the same rubbish at every asking."""
    cells = [[text] for text, _ in page.refused]
    seen = SetAsideRow.objects.filter(order_list__source=feed.source_id, cells__in=cells)
    known = {tuple(row) for row in seen.values_list("cells", flat=True)}
    return [(text, why) for text, why in dict(page.refused).items() if (text,) not in known]


def _take_orders(feed: Feed, orders: list[dict[str, Any]], refused: list[tuple[str, str]]) -> None:
    name = f"{feed.source.name} {timezone.now():%Y-%m-%d %H:%M}"
    user = _feed_user()
    order_list: OrderList | None = None
    if orders:
        intake = open_intake(_as_list(orders), name=name, source=feed.source.name, user=user)
        found = trial_of(intake)
        comparison = found.comparison
        if comparison is not None and (comparison.new or comparison.changed or found.set_aside):
            order_list = take(intake, user=user)
        else:
            intake.delete()
    if refused:
        if order_list is None:
            order_list = OrderList.objects.create(
                source=feed.source, name=name, header=["as it came"], received_by=user
            )
        first = 1_000_000  # beyond the rows of any list
        SetAsideRow.objects.bulk_create(
            [
                SetAsideRow(
                    order_list=order_list, row=first + place, cells=[text], reason=f"The feed sent {why}."
                )
                for place, (text, why) in enumerate(refused)
            ]
        )


def _as_list(orders: list[dict[str, Any]]) -> bytes:
    """Orders as an order list, so that they are read and compared exactly as lists are."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(_COLUMNS)
    for order in orders:
        for line in order["lines"]:
            cells = {
                **line,
                "order": order["id"],
                "due": order.get("due", ""),
                "customer": order.get("customer", ""),
            }
            writer.writerow([str(cells.get(column, "")).replace("\x00", "") for column in _COLUMNS])
    return out.getvalue().encode("utf-8", "replace")


def report_back(feed_pk: int) -> int:
    """Tell a feed how its orders stand, those that stand otherwise than it was last told.

    Returns
    -------
    how many it was told of
    """
    feed = Feed.objects.select_related("source").get(pk=feed_pk)
    if not feed.is_on:
        return 0
    stages: dict[str, set[str]] = {}
    waiting = dict(feed.orders.values_list("order", "told"))
    lines = OrderLine.objects.filter(source=feed.source, order__in=waiting).values_list("order", "stage")
    for order, stage in lines:
        stages.setdefault(order, set()).add(stage)
    told = 0
    for order, found in stages.items():
        status = _status(found)
        if status == waiting[order]:
            continue
        try:
            tell(feed.address, order, status)
        except FeedError as error:
            Feed.objects.filter(pk=feed_pk).update(trouble=str(error)[:300])
            break
        feed.orders.filter(order=order).update(told=status)
        told += 1
    return told


def _status(stages: set[str]) -> str:
    """The least advanced stage of an order's lines: an order is ready when all of it is."""
    return next(stage for stage in Stage.values if stage in stages)


def _feed_user() -> User:
    """Who takes a feed's orders in: nobody who could sign in."""
    user, made = User.objects.get_or_create(username="shop feed", defaults={"is_active": False})
    if made:
        user.set_unusable_password()
        user.save(update_fields=["password"])
    return user

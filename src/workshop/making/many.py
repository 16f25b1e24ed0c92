"""What is done to many lines at once, and to a list as a whole."""

from __future__ import annotations

from collections.abc import Collection, Mapping

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from kizami.counting import so_many
from kizami.wording.settling import settle
from workshop.jobs.queue import defer_making
from workshop.making.keeping import KeepingError
from workshop.orders.models import Event, OrderLine, OrderList, Piece

__all__ = ["act_on_many", "make_again", "stop_list"]


def stop_list(order_list: OrderList, *, user: User, stop: bool) -> None:
    """Stop making a list, or go on with it."""
    with transaction.atomic():
        order_list.stopped_at = timezone.now() if stop else None
        order_list.save(update_fields=["stopped_at"])
        Event.objects.create(
            who=user,
            what="Stopped making the list" if stop else "Went on making the list",
            order_list=order_list,
        )
        if not stop:
            defer_making(order_list.pk)


def act_on_many(chosen: Mapping[int, int | None], *, do: str, user: User) -> str:
    """Do one thing to many lines, all or none.

    Lines that are on their way already are left alone, and those that somebody changed meanwhile.

    Parameters
    ----------
    chosen : key of each line -> the edition that was looked at, None for whatever stands now

    Returns
    -------
    what was done, in words

    Raises
    ------
    KeepingError : that can't be done; nothing was
    """
    if not chosen:
        raise KeepingError("Nothing was done: choose lines first.")
    with transaction.atomic():
        rows = OrderLine.objects.select_for_update(of=("self",), no_key=True).select_related("product")
        found = rows.filter(pk__in=chosen).order_by("pk")
        free = [line for line in found if line.changeable]
        lines = [line for line in free if chosen[line.pk] in (None, line.edition)]
        left, changed = len(chosen) - len(free), len(free) - len(lines)
        if do in ("rush", "no rush"):
            for line in lines:
                line.rush = do == "rush"
                line.edition += 1
            OrderLine.objects.bulk_update(lines, ["rush", "edition"], batch_size=1000)
            said = (
                f"{so_many(len(lines), 'line is', 'lines are')} {'' if do == 'rush' else 'no longer '}"
                "to be made before others"
            )
        elif do == "take proposals":
            proposed = [line for line in lines if line.proposal]
            for line in proposed:
                _take_proposal(line)
            said = so_many(len(proposed), "proposal was taken", "proposals were taken")
            _make_again(proposed, ["wording", "proposal", "changes", "open_question", "candidates"])
        elif do == "make again":
            said = so_many(len(lines), "line is made again", "lines are made again")
            _make_again(list(lines), [])
        else:
            raise KeepingError("Nothing was done: choose what to do.")
        if left:
            why = so_many(left, "was left alone, as it is", "were left alone, as they are")
            said += f"; {why} on the way or gone"
        if changed:
            why = so_many(
                changed, "was left alone, as somebody changed it", "were left alone, as somebody changed them"
            )
            said += f"; {why} meanwhile"
        Event.objects.create(who=user, what=said[:300])
    return f"{said}."


def _take_proposal(line: OrderLine) -> None:
    """With the proposal the question about its capitals is answered; any other question stays."""
    asked = settle(line.wording_received, line.product.to_spec().wording)
    if list(asked.candidates) == [line.proposal]:
        line.open_question = line.open_question.removeprefix(asked.open_question).strip()
        line.candidates = []
    line.wording, line.proposal = line.proposal, ""
    line.changes = [*line.changes, "Took the proposed capitals"]


def _make_again(lines: list[OrderLine], changed: list[str]) -> None:
    for line in lines:
        line.attempts, line.badness = 0, 0.0
        line.edition += 1
    OrderLine.objects.bulk_update(lines, [*changed, "attempts", "badness", "edition"], batch_size=1000)
    make_again([line.pk for line in lines])


def make_again(line_pks: Collection[int]) -> None:
    """Let lines that are locked already be made again, with all of their pieces that are on paper."""
    Piece.objects.filter(line__in=line_pks).to_be_made()
    lists = OrderLine.objects.filter(pk__in=line_pks).order_by().values_list("order_list", flat=True)
    for order_list in lists.distinct():
        defer_making(order_list)

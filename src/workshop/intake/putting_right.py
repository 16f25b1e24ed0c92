"""Putting right what a list left open: questions decided, rows tried again, words given their meaning."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import replace

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone

from kizami.errors import RowError
from kizami.pieces.comparing import compare, unspoken
from kizami.pieces.lines import Line, resolve_row
from kizami.products.product import Catalogue, Word, fold_code
from kizami.wording.columns import ColumnMap
from kizami.wording.order_list import read_row
from kizami.wording.tables import TableRow
from workshop.catalogue.models import Product
from workshop.intake.models import Question, SetAsideRow
from workshop.intake.reading import rule_of
from workshop.intake.taking import add_lines, change_lines, known_lines
from workshop.jobs.queue import defer_making
from workshop.orders.models import Event, OrderLine, OrderList
from workshop.sources.models import Source
from workshop.words.models import Alias

__all__ = ["decide", "retry_row", "set_alias"]

#: Rows that are tried again at once when a word is given its meaning.
_MOST_CURED = 2000


def _one_at_a_time(sources: Iterable[int]) -> None:
    """Whoever changes what lists of a source brought waits here for the others, as taking a list does.

    Sources are locked before anything of theirs, in the order of their keys: nobody waits in a ring.
    """
    list(
        Source.objects.select_for_update(no_key=True)
        .filter(pk__in=set(sources))
        .order_by("pk")
        .values_list("pk")
    )


def decide(question: Question, *, take_it: bool, user: User) -> None:
    """Answer a question: take what the list says, or leave the line as it is.

    Raises
    ------
    kizami.errors.RowError : the row can no longer be read, say because its product is gone
    """
    with transaction.atomic():
        _one_at_a_time([question.order_list.source_id])
        question = (
            Question.objects.select_for_update(of=("self",), no_key=True)
            .select_related("order_list__source", "line")
            .filter(pk=question.pk)
            .first()
        )
        if question is None:
            raise RowError("A newer list has replaced this question.")
        if question.decided_at is not None:
            raise RowError("This question was decided already.")
        if take_it:
            catalogue, _ = Product.objects.catalogue()
            line = _read_again(question.order_list, question.row, question.cells, catalogue)
            known = known_lines(question.order_list.source, [(line.row.order, line.row.line)], lock=True)
            silent = unspoken(
                question.order_list.columns.keys(), taken_apart=question.order_list.rule is not None
            )
            comparison = compare(
                {key: row.to_received() for key, row in known.items()}, [line], silent=silent
            )
            change_lines(question.order_list, comparison.changed, user)
            defer_making(question.order_list_id)
        question.decided_at, question.decided_by, question.taken = timezone.now(), user, take_it
        question.save(update_fields=["decided_at", "decided_by", "taken"])
        said = "Took" if take_it else "Left"
        Event.objects.create(
            who=user, what=f"{said} what the list says: {'; '.join(question.said)}"[:300], line=question.line,
            order_list=question.order_list,
        )  # fmt: skip


def _read_again(order_list: OrderList, number: int, cells: Iterable[str], catalogue: Catalogue) -> Line:
    """Read a single row the way its list was read."""
    header = order_list.header
    places = {code: header.index(name) for code, name in order_list.columns.items() if name in header}
    record = TableRow(number=number, cells=tuple(cells))
    row = read_row(record, ColumnMap(places=places), width=len(header), rule=rule_of(order_list.rule))
    return resolve_row(row, catalogue, logos=None)


def _has_line_number(order_list: OrderList, cells: list[str]) -> bool:
    name = order_list.columns.get("line")
    place = order_list.header.index(name) if name in order_list.header else len(cells)
    return place < len(cells) and bool(cells[place].strip())


def _next_number(numbers: Iterable[str]) -> str:
    """The number of one more line of an order whose list numbers none."""
    return str(1 + max((int(number) for number in numbers if number.isdecimal()), default=0))


def retry_row(row: SetAsideRow, cells: list[str], *, user: User) -> OrderLine | None:
    """Try a set-aside row again with corrected cells.

    Returns
    -------
    the new line, or None when the row is still set aside, with the reason of now

    Raises
    ------
    SetAsideRow.DoesNotExist : somebody else has put it right already
    """
    with transaction.atomic():
        _one_at_a_time([row.order_list.source_id])
        waiting = SetAsideRow.objects.select_for_update(of=("self",), no_key=True)
        row = waiting.select_related("order_list__source").get(pk=row.pk)
        row.cells = cells
        return OrderLine.objects.filter(pk__in=_cured([row], user=user)).first()


def _cured(rows: Sequence[SetAsideRow], *, user: User) -> list[int]:
    """Keys of lines made of rows whose cells are put right; of the others the reason of now is kept.

    Call inside a transaction that has locked the rows' sources. The questions to the database do not grow
    with the rows of a list.
    """
    catalogue, products = Product.objects.catalogue()
    aside: dict[SetAsideRow, RowError] = {}
    read: dict[OrderList, dict[SetAsideRow, Line]] = {}
    for row in rows:
        try:
            line = _read_again(row.order_list, row.row, row.cells, catalogue)
        except RowError as error:
            aside[row] = error
        else:
            read.setdefault(row.order_list, {})[row] = line
    made: list[int] = []
    cured: list[SetAsideRow] = []
    for order_list, group in read.items():
        lines = _numbered(order_list, group, aside)
        new = add_lines(order_list, lines.values(), products=products)
        Event.objects.bulk_create(
            Event(who=user, what=f"Row {row.row} was put right", line_id=line, order_list=order_list)
            for row, line in zip(lines, new, strict=True)
        )
        made += new
        cured += lines
        if new:
            defer_making(order_list.pk)
    SetAsideRow.objects.filter(pk__in=[row.pk for row in cured]).delete()
    for row, error in aside.items():
        row.reason, row.columns = str(error), list(error.columns)
    SetAsideRow.objects.bulk_update(aside, ["cells", "reason", "columns"], batch_size=500)
    return made


def _numbered(
    order_list: OrderList, read: Mapping[SetAsideRow, Line], aside: dict[SetAsideRow, RowError]
) -> dict[SetAsideRow, Line]:
    """Lines with a number of their own each; rows whose number is taken go to `aside`."""
    orders = {line.row.order for line in read.values()}
    taken: dict[str, set[str]] = {order: set() for order in orders}
    known = OrderLine.objects.filter(source=order_list.source_id, order__in=orders)
    for order, number in known.values_list("order", "line"):
        taken[order].add(number)
    found: dict[SetAsideRow, Line] = {}
    for row, line in read.items():
        numbers = taken[line.row.order]
        if not _has_line_number(order_list, row.cells):
            line = replace(line, row=replace(line.row, line=_next_number(numbers)))  # noqa: PLW2901
        if line.row.line in numbers:
            aside[row] = RowError(
                f"Order {line.row.order} line {line.row.line} is in the order book already; "
                "give this row a line number of its own."
            )
            continue
        numbers.add(line.row.line)
        found[row] = line
    return found


def set_alias(word: str, stands_for: Word, code: str, *, user: User) -> int:
    """Let a word stand for one of the shop's own from now on, and try every row set aside for it.

    Returns
    -------
    how many rows it cured
    """
    folded = fold_code(word)
    with transaction.atomic():
        Alias.objects.update_or_create(kind=stands_for.value, word=folded, defaults={"target": code})
        Event.objects.create(who=user, what=f"“{word[:80]}” now stands for {stands_for.value} {code}")
        waiting = SetAsideRow.objects.filter(columns__contains=[stands_for.value])
        _one_at_a_time(waiting.order_by().values_list("order_list__source", flat=True).distinct())
        rows = waiting.select_for_update(of=("self",), no_key=True).select_related("order_list__source")
        asked = [row for row in rows[:_MOST_CURED] if fold_code(row.word(stands_for.value)) == folded]
        return len(_cured(asked, user=user))

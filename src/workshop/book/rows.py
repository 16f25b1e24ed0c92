"""The rows of the Order book as they stand on the page: each is drawn once for as long as its line stands."""

from __future__ import annotations

import datetime as dt
import threading
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from cachetools import TTLCache
from django.template.loader import render_to_string
from django.utils import timezone
from django.utils.safestring import SafeString, mark_safe

from workshop.orders.models import OrderLine

__all__ = ["Row", "drawn_rows", "rows_standing"]

_MOST_BYTES = 48 * 1024 * 1024
#: What nobody looks at is not remembered for longer.
_REMEMBERED_S = 900.0


@dataclass(frozen=True, kw_only=True, slots=True)
class Row:
    """A row of the page.

    Attributes
    ----------
    pk : of its line
    content : drawn
    line : the line, where it was asked for
    """

    pk: int
    content: SafeString
    line: OrderLine | None = None


#: All that a row shows follows from these: the line and how it stands, the day, and what one may do.
_Key = tuple[int, str, dt.date, bool]
_drawn: TTLCache[_Key, str] = TTLCache(_MOST_BYTES, _REMEMBERED_S, getsizeof=len)
_lock = threading.Lock()


def rows_standing(standing: Sequence[tuple[int, str]], *, may_tick: bool, with_lines: bool) -> list[Row]:
    """Rows for lines and their marks, in order; those that are not remembered are fetched and drawn.

    Parameters
    ----------
    standing : key and mark of each line
    may_tick : whether whoever looks may choose lines to do something to them
    with_lines : the lines themselves are needed too
    """
    today = timezone.localdate()
    with _lock:
        known = {pk: _drawn.get((pk, mark, today, may_tick)) for pk, mark in standing}
    wanted = [pk for pk, content in known.items() if content is None or with_lines]
    lines = OrderLine.objects.for_book().in_bulk(wanted) if wanted else {}
    missing = [lines[pk] for pk, content in known.items() if content is None and pk in lines]
    fresh = {row.pk: row.content for row in drawn_rows(missing, may_tick=may_tick)}
    # A line may have gone between the two questions.
    return [
        Row(pk=pk, content=mark_safe(known[pk]) if known[pk] else fresh[pk], line=lines.get(pk))  # noqa: S308
        for pk, _ in standing
        if known[pk] or pk in fresh
    ]


def drawn_rows(lines: Iterable[OrderLine], *, may_tick: bool, in_place: bool = False) -> list[Row]:
    """Rows of lines as they are now.

    Parameters
    ----------
    in_place : each takes the place of the row that the page has of its line
    """
    today = timezone.localdate()
    rows = []
    for line in lines:
        context = {"line": line, "may_tick": may_tick, "in_place": in_place}
        content = render_to_string("book/_line.html", context)
        rows.append(Row(pk=line.pk, content=content, line=line))
        if not in_place:
            with _lock:
                _drawn[(line.pk, line.mark, today, may_tick)] = content
    return rows

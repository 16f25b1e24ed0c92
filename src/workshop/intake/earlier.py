"""“Same as last time”: what a customer had before is found in the book and offered, never taken."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from kizami.pieces.lines import Line
from kizami.wording.no_words import Pointing, points_elsewhere
from workshop.orders.models import OrderLine
from workshop.sources.models import Source

__all__ = ["with_earlier_words"]

#: Earlier lines that are looked through, the newest first.
_MOST_EARLIER = 5000
_MOST_OFFERED = 3


def with_earlier_words(lines: Sequence[Line], source: Source) -> list[Line]:
    """Lines that point to an earlier order with the words that their customer had, in one query at most."""
    asking = {id(line) for line in lines if points_elsewhere(line.row.wording) is Pointing.BEFORE}
    customers = {line.row.customer for line in lines if id(line) in asking and line.row.customer}
    if not customers:
        return list(lines)
    rows = OrderLine.objects.filter(source=source, customer__in=customers).exclude(wording="")
    rows = rows.filter(open_question="").order_by("-pk")
    found: dict[str, list[tuple[str, str, str]]] = {}
    for customer, order, number, words in rows.values_list("customer", "order", "line", "wording")[
        :_MOST_EARLIER
    ]:
        found.setdefault(customer, []).append((order, number, words))
    return [
        _offered(line, found.get(line.row.customer, [])) if id(line) in asking else line for line in lines
    ]


def _offered(line: Line, earlier: list[tuple[str, str, str]]) -> Line:
    others = [(order, number, words) for order, number, words in earlier if order != line.row.order]
    if not others:
        return line
    order, number, words = others[0]
    texts = tuple(dict.fromkeys(words for _, _, words in others))[:_MOST_OFFERED]
    question = (
        f"“{line.settled.wording.text[:40]}” points to an earlier order. "
        f"{line.row.customer[:40]} had “{words[:40]}” in {order}-{number}. Is that meant?"
    )
    return replace(line, settled=replace(line.settled, open_question=question, candidates=texts))

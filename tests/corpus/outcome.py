"""How the rows of a made-up list come out, against what was written down for them."""

from __future__ import annotations

from collections import Counter

from kizami.pieces.batch import resolve_rows
from kizami.products.product import Catalogue
from kizami.wording.order_list import read_order_list
from tests.corpus.read_rows import List

__all__ = ["outcome"]


def outcome(one: List, catalogue: Catalogue) -> tuple[Counter[str], list[str]]:
    """How many rows came out how, and what is wrong in words."""
    read = read_order_list(one.data, is_product=catalogue.knows)
    read.confirm()
    lines, aside = resolve_rows(read, catalogue)
    by_order = {line.row.order: line for line in lines}
    set_aside = {row.cells[0] for row in aside}
    counts: Counter[str] = Counter()
    wrong = []
    for number, case in enumerate(one.cases):
        order = f"{one.language.upper()}-{1000 + number}"
        line = by_order.get(order)
        assert (line is None) == (order in set_aside), case
        is_ready = line is not None and bool(line.wording.text) and not line.settled.open_question
        if case.wanted is None:
            counts["to ask"] += 1
            counts["asked"] += not is_ready
            if is_ready:
                wrong.append(f"{case.why}: {case.cells} taken as {line.wording.text!r}")
            continue
        counts["clear"] += 1
        counts["taken"] += is_ready
        if not is_ready:
            said = (
                line.settled.open_question
                if line is not None
                else next(r.reason for r in aside if r.cells[0] == order)
            )
            wrong.append(f"{case.why}: {case.cells} is asked about: {said}")
            continue
        found = (line.wording.text, str(line.inputs.size), line.row.quantity, line.row.due)
        wanted = (
            case.wanted, case.size or found[1], case.quantity or found[2], case.due or found[3],
        )  # fmt: skip
        if found != wanted:
            counts["wrong"] += 1
            wrong.append(f"WRONG {case.why}: {case.cells} read as {found}")
    return counts, wrong

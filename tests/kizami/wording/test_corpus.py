"""Lists in twelve languages against the reading that was written down for each row."""

from __future__ import annotations

from collections import Counter

import pytest

from kizami.cli import catalogue_at
from kizami.pieces.batch import resolve_rows
from kizami.wording.order_list import read_order_list
from launch.state import REPOSITORY
from tests.corpus.read_rows import LANGUAGES, List, lists

CATALOGUE = catalogue_at(REPOSITORY / "demo" / "products.toml")
LISTS = {one.language: one for one in lists()}


def outcome(one: List) -> tuple[Counter[str], list[str]]:
    """How many rows came out how, and what is wrong in words."""
    read = read_order_list(one.data, is_product=CATALOGUE.knows)
    read.confirm()
    lines, aside = resolve_rows(read, CATALOGUE)
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


@pytest.mark.parametrize("language", LANGUAGES)
def test_rows_are_read_as_a_careful_person_would(language: str) -> None:
    counts, wrong = outcome(LISTS[language])
    told = "\n".join(wrong[:20])
    assert counts["wrong"] == 0, told
    assert counts["taken"] >= 0.97 * counts["clear"], told
    assert counts["asked"] >= 0.99 * counts["to ask"], told

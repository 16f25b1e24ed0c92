"""What would raise the share: every proposal is a product, and what it promises is what it does."""

from __future__ import annotations

import pytest

from kizami.pieces.forecast import misfit_of, shipped_names
from kizami.pieces.raising import changes_of, raised_share, with_change
from kizami.products.product_file import product_from_table
from kizami.products.starting import starting_products

KINDS = starting_products()


@pytest.mark.parametrize("kind", KINDS)
def test_every_change_but_a_typeface_leaves_a_product_that_can_be(kind: str) -> None:
    table = KINDS[kind]
    changes = changes_of(table)
    assert len({(change.name, str(change.new)) for change in changes}) == len(changes)
    for change in changes:
        changed = with_change(table, change)
        assert changed != table
        # A larger blank may ask for more: a heart must stay half as high as it is wide.
        if not change.name.startswith("blank."):
            product_from_table(changed)


@pytest.mark.parametrize("kind", ["TAG", "BAND", "ROUND-TAG"])
def test_a_lower_bound_or_a_smaller_margin_never_loses_a_name(kind: str) -> None:
    table = KINDS[kind]
    names = shipped_names()[::50]
    fits = {name for name in names if misfit_of(product_from_table(table), name) is None}
    for change in changes_of(table):
        if change.name == "fit.lowest_height_mm":
            product = product_from_table(with_change(table, change))
            now = {name for name in names if misfit_of(product, name) is None}
            # What is lowered further still ends where the process can hold no stroke: no name that fits is lost.
            assert fits <= now


def test_the_share_that_is_promised_is_the_share_that_comes() -> None:
    table = {**KINDS["TAG"], "blank": {**KINDS["TAG"]["blank"], "length_mm": 36.0}}
    names = shipped_names()[::25]

    def share_of(one: dict) -> tuple[float, list[str]]:
        product = product_from_table(one)
        missed = [name for name in names if misfit_of(product, name) is not None]
        return 1.0 - len(missed) / len(names), missed

    before, missed = share_of(table)
    assert before < 0.9
    for change in changes_of(table)[:6]:
        changed = with_change(table, change)
        after, still = share_of(changed)
        spoilt = len(set(still) - set(missed))
        told = raised_share(
            count=len(names), misfits=len(missed), cured=len(set(missed) - set(still)),
            spoilt=spoilt, tried_fitting=len(names) - len(missed),
        )  # fmt: skip
        assert told == pytest.approx(after)


def test_what_is_changed_along_with_it_is_changed_and_the_table_itself_is_not() -> None:
    table = KINDS["BAND"]
    break_ = next(c for c in changes_of(table) if c.with_it and "break" in c.new)
    changed = with_change(table, break_)
    assert changed["fit"]["most_lines"] == 2 and "break" in changed["fit"]["steps"]
    assert "most_lines" not in table["fit"] and "steps" not in table["fit"]

"""What a list received again would change, in the core's own terms."""

from __future__ import annotations

from kizami.pieces.batch import resolve_list
from kizami.pieces.comparing import compare, received, says_the_same, unspoken
from kizami.products.product import Catalogue, Word
from tests.kizami.samples import RING, TAG

CATALOGUE = Catalogue(products={"ring": RING, "tag": TAG}, aliases={(Word.PRODUCT, "the old tag"): "TAG"})
HEADER = "order,line,product,size,wording,quantity,priority\n"


def lines(rows: str):
    return resolve_list((HEADER + rows).encode(), CATALOGUE)[0]


def known(rows: str):
    return {(x.row.order, x.row.line): received(x) for x in lines(rows)}


def test_sorting_into_new_changed_and_unchanged() -> None:
    before = known("A,1,RING,54,Ana,1,\nA,2,TAG,,Ivy,1,\n")
    now = lines("A,1,RING,54,Ana,1,\nA,2,TAG,,Ivo,2,rush\nA,3,TAG,,Kit,1,\n")
    result = compare(before, now)
    assert [x.row.line for x in result.unchanged] == ["1"]
    assert [x.row.line for x in result.new] == ["3"]
    (change,) = result.changed
    assert change.said == ("wording: “Ivy” → “Ivo”", "quantity: 1 → 2", "rush: no → yes")
    assert change.remade


def test_what_does_not_shape_the_piece_does_not_remake_it() -> None:
    (change,) = compare(known("A,1,TAG,,Ivy,1,\n"), lines("A,1,TAG,,Ivy,1,rush\n")).changed
    assert not change.remade


def test_an_alias_is_the_same_product() -> None:
    result = compare(known("A,1,TAG,,Ivy,1,\n"), lines("A,1,The  Old TAG,,Ivy,1,\n"))
    assert len(result.unchanged) == 1


def test_missing_columns_are_silent_unless_free_text_may_speak() -> None:
    assert unspoken({"order", "product", "wording", "quantity"}, taken_apart=False) >= {"due", "size", "rush"}
    assert "quantity" not in unspoken({"quantity"}, taken_apart=False)
    assert unspoken(set(), taken_apart=True) == frozenset()


def test_nothing_against_nothing() -> None:
    result = compare({}, [])
    assert (result.new, result.changed, result.unchanged) == ((), (), ())


def test_a_row_that_says_the_same_is_one_that_comparing_leaves_unchanged() -> None:
    """With another value in each field, by an alias, and where the list is silent."""
    before = known("A,1,TAG,,Ivy,1,\n")
    silent = frozenset({"size"})
    for row, same in (
        ("A,1,TAG,,Ivy,1,\n", True), ("A,1,The old TAG,,Ivy,1,\n", True), ("A,1,TAG,,Ivo,1,\n", False),
        ("A,1,TAG,,Ivy,2,\n", False), ("A,1,TAG,,Ivy,1,rush\n", False), ("A,1,RING,54,Ivy,1,\n", False),
    ):  # fmt: skip
        (line,) = lines(row)
        told = says_the_same(line.row, before[("A", "1")], catalogue=CATALOGUE, silent=silent)
        assert told is same
        assert bool(compare(before, [line], silent=silent).unchanged) is same

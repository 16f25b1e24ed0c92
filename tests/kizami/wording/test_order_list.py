"""Reading order lists: what is read, what is set aside, what is refused, and that nothing is lost."""

from __future__ import annotations

import csv
import datetime as dt
import io

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kizami.errors import OrderListError
from kizami.wording.order_list import (
    LARGEST_CELL_CHARACTERS,
    LARGEST_LIST_BYTES,
    LARGEST_LIST_ROWS,
    LARGEST_QUANTITY,
    read_order_list,
)

HEADER = "order,line,product,size,wording,quantity,due,customer\n"


def read(rows: str, header: str = HEADER):
    return read_order_list((header + rows).encode())


def test_a_row_with_everything() -> None:
    (row,) = read('A1,2,R6,54,"Ana, Ivy",3,2027-01-31,Tansy\n').rows
    assert (row.order, row.line, row.product, row.size) == ("A1", "2", "R6", "54")
    assert (row.wording, row.quantity, row.customer) == ("Ana, Ivy", 3, "Tansy")
    assert row.due == dt.date(2027, 1, 31)
    assert row.row == 2


@pytest.mark.parametrize("delimiter", [",", ";", "\t"], ids=["comma", "semicolon", "tab"])
def test_delimiters(delimiter: str) -> None:
    text = f"order{delimiter}product{delimiter}wording\nA1{delimiter}R6{delimiter}Ana\n"
    (row,) = read_order_list(text.encode()).rows
    assert (row.order, row.product, row.wording) == ("A1", "R6", "Ana")


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig"])
def test_utf8_with_and_without_bom(encoding: str) -> None:
    (row,) = read_order_list((HEADER + "A1,,R6,,Žofie,,,\n").encode(encoding)).rows
    assert row.wording == "Žofie"


def test_columns_may_stand_in_any_order_under_other_headings() -> None:
    (row,) = read_order_list(b"Qty;Engraving;SKU;Order No\n2;Ana;R6;A1\n").rows
    assert (row.order, row.product, row.wording, row.quantity) == ("A1", "R6", "Ana", 2)


def test_missing_line_numbers_are_counted_within_the_order() -> None:
    lines = [(r.order, r.line) for r in read("A1,,R6,,x,,,\nA2,,R6,,x,,,\nA1,,R6,,y,,,\n").rows]
    assert lines == [("A1", "1"), ("A2", "1"), ("A1", "2")]


def test_a_quoted_line_end_stays_in_its_cell_and_rows_are_counted_as_records() -> None:
    first, second = read('A1,1,R6,,"Ana\nIvy",,,\nA1,2,R6,,Kit,,,\n').rows
    assert first.wording == "Ana\nIvy"
    assert second.row == 3


def test_blank_rows_are_passed_over() -> None:
    assert len(read("\n,,,,,,,\nA1,1,R6,,Ana,,,\n\n").rows) == 1


@pytest.mark.parametrize(
    ("row", "says"),
    [
        pytest.param(",1,R6,,Ana,,,", "order number", id="no order"),
        pytest.param("A1,1,,,Ana,,,", "product", id="no product"),
        pytest.param("A1,1,R6,,Ana,0,,", "quantity", id="quantity 0"),
        pytest.param("A1,1,R6,,Ana,-1,,", "quantity", id="quantity -1"),
        pytest.param("A1,1,R6,,Ana,1e9,,", "quantity", id="quantity 1e9"),
        pytest.param("A1,1,R6,,Ana,1.5,,", "quantity", id="half a piece"),
        pytest.param("A1,1,R6,,Ana,two,,", "quantity", id="quantity in words"),
        pytest.param("A1,1,R6,,Ana,nan,,", "quantity", id="quantity nan"),
        pytest.param("A1,1,R6,,Ana,1,03/04/2026,", "due date", id="ambiguous date"),
        pytest.param("A1,1,R6,,Ana,1,2026-02-30,", "due date", id="no such day"),
        pytest.param("A1,1,R6,,Ana,1,,,surplus", "cells", id="more cells than columns"),
        pytest.param(f"A1,1,R6,,{'x' * 100_000},1,,", "100000 characters", id="100,000-character cell"),
        pytest.param(
            f"A1,1,R6,,{'x' * 200_000},1,,", "200000 characters", id="above the csv module's own limit"
        ),
    ],
)
def test_a_row_that_cannot_be_read_is_set_aside_and_the_others_go_on(row: str, says: str) -> None:
    result = read(f"B1,1,R6,,Before,,,\n{row}\nB2,1,R6,,After,,,\n")
    assert [r.wording for r in result.rows] == ["Before", "After"]
    (aside,) = result.set_aside
    assert aside.row == 3
    assert says in aside.reason
    assert ",".join(aside.cells) == row


def test_the_same_line_twice_is_set_aside_with_the_row_of_the_first() -> None:
    result = read("A1,1,R6,,Ana,,,\nA1,1,R6,,Ivy,,,\n")
    assert [r.wording for r in result.rows] == ["Ana"]
    assert "row 2" in result.set_aside[0].reason


@pytest.mark.parametrize(
    ("data", "says"),
    [
        pytest.param(b"", "empty", id="empty file"),
        pytest.param(b" \n \n", "empty", id="only white space"),
        pytest.param(b"\xef\xbb\xbf\n", "empty", id="only a BOM"),
        pytest.param(b"A1,1,R6,,Ana,,,\n", "name the columns", id="no header"),
        pytest.param(HEADER.encode(), "no rows", id="header alone"),
        pytest.param(HEADER.encode() + b"A1,1,R6,,A\x00na,,,\n", "NUL", id="NUL byte"),
        pytest.param(b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR", "NUL", id="a picture"),
        pytest.param(b"PK\x03\x04\x00\x00", "damaged", id="a broken zip"),
        pytest.param(b"x" * (LARGEST_LIST_BYTES + 1), "at most 5 MB", id="too large"),
        pytest.param(
            (HEADER + "A,,R6,,x,,,\n" * (LARGEST_LIST_ROWS + 1)).encode(), "10000 rows", id="too many rows"
        ),
    ],
)
def test_a_list_that_cannot_be_used_is_refused_as_a_whole(data: bytes, says: str) -> None:
    with pytest.raises(OrderListError, match=says):
        read_order_list(data)


def test_the_largest_quantity_and_the_longest_cell_are_allowed() -> None:
    result = read(f"A1,1,R6,,{'x' * LARGEST_CELL_CHARACTERS},{LARGEST_QUANTITY},,\n")
    assert result.set_aside == ()
    assert result.rows[0].quantity == LARGEST_QUANTITY


cells = st.text(st.characters(blacklist_categories=("Cs",), blacklist_characters="\x00"), max_size=20)


@given(st.lists(st.tuples(cells, cells, cells), min_size=1, max_size=12))
def test_every_row_comes_out_as_a_row_or_set_aside(rows: list[tuple[str, str, str]]) -> None:
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow(["order", "product", "wording"])
    writer.writerows(rows)
    filled = [row for row in rows if any(cell.strip() for cell in row)]
    if not filled:
        return
    result = read_order_list(out.getvalue().encode())
    assert len(result.rows) + len(result.set_aside) == len(filled)
    kept = [r.cells for r in result.rows] + [a.cells for a in result.set_aside]
    # csv reads every kind of line end inside quotes as it stands.
    assert sorted(kept) == sorted(tuple(row) for row in filled)

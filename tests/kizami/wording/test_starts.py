"""Where orders begin in a file, and rows as careful people number and complete them."""

from __future__ import annotations

import datetime as dt

import pytest
from babel.dates import format_date

from kizami.errors import RowError
from kizami.wording.dates import read_date
from kizami.wording.order_list import OrderList, read_order_list
from kizami.wording.quantities import read_quantity


def known(cell: str) -> bool:
    return cell.startswith("R-")


def read(text: str) -> OrderList:
    return read_order_list(text.encode(), is_product=known)


@pytest.mark.parametrize(
    ("text", "row", "told"),
    [
        pytest.param("order,product,wording\nA1,R-1,Ana\n", 2, (), id="headings first"),
        pytest.param("\n\norder,product,wording\n\nA1,R-1,Ana\n", 5, (), id="blank rows"),
        pytest.param("Orders of June\norder,product,wording\nA1,R-1,Ana\n", 3, ("Orders of June",), id="a title"),
        pytest.param(
            "Wedding list,,\nDue 4 May,,\n,,\norder,product,wording\nA1,R-1,Ana\n", 5,
            ("Wedding list", "Due 4 May"), id="two titles",
        ),
        pytest.param("sep=;\norder;product;wording\nA1;R-1;Ana\n", 3, (), id="a line that names the separator"),
        pytest.param('"sep=;"\r\norder;product;wording\r\nA1;R-1;Ana\r\n', 3, (), id="the same in quotes"),
        pytest.param("Order,,Ring,Engraving\nNo.,,Code,Text\nA1,,R-1,Ana\n", 3, (), id="headings in two rows"),
        pytest.param(
            "order,product,wording\nA1,R-1,Ana\norder,product,wording\n", 2, ("again in row 3",), id="headings again",
        ),
        pytest.param("order,product,wording\nA1,R-1,Ana\nGesamt,,1\n", 2, ("adds up",), id="a sum in German"),
        pytest.param("order,product,wording\nA1,R-1,Ana\n合計,,\n", 2, ("adds up",), id="a sum in Japanese"),
    ],
)  # fmt: skip
def test_orders_begin_below_titles_and_are_numbered_as_in_the_sheet(
    text: str, row: int, told: tuple[str, ...]
) -> None:
    result = read(text)
    assert [(r.row, r.order, r.product, r.wording) for r in result.rows] == [(row, "A1", "R-1", "Ana")]
    assert not result.set_aside
    for words in told:
        assert any(words in note for note in result.told), result.told


def test_without_headings_no_order_is_taken_for_them() -> None:
    result = read_order_list(
        b"A1,R-1,Ana\nA2,R-2,Ivy\n",
        remembered={"order": "column 1", "product": "column 2", "wording": "column 3"},
        is_product=known,
    )
    assert [(r.row, r.wording) for r in result.rows] == [(1, "Ana"), (2, "Ivy")]
    assert any("no headings" in note for note in result.told)


def test_a_row_below_a_merged_cell_belongs_to_the_order_above() -> None:
    result = read("order,customer,product,wording\nA1,Tansy,R-1,Ana\n,,R-1,Ivy\n,,R-1,Kit\nA2,Bryn,R-1,Ng\n")
    assert [(r.order, r.line, r.customer, r.wording) for r in result.rows] == [
        ("A1", "1", "Tansy", "Ana"), ("A1", "2", "Tansy", "Ivy"), ("A1", "3", "Tansy", "Kit"), ("A2", "1", "Bryn", "Ng"),
    ]  # fmt: skip
    assert result.rows[1].cells == ("", "", "R-1", "Ivy")
    assert any("row 3, 4" in note for note in result.told)


def test_the_first_row_has_no_order_to_belong_to() -> None:
    result = read("order,product,wording\n,R-1,Ana\n")
    assert not result.rows and "order number" in result.set_aside[0].reason


@pytest.mark.parametrize(
    ("text", "count"),
    [
        ("", 1), ("2", 2), ("2x", 2), ("x2", 2), ("2 ×", 2), ("2 pcs", 2), ("2 pcs.", 2), ("2 Stück", 2), ("2 STK", 2),
        ("2個", 2), ("２", 2), ("3,0", 3), ("3.00", 3), ("2 szt.", 2), ("2 kusy", 2), ("2 adet", 2), ("2 pezzi", 2),
        ("2 pièces", 2), ("2 uds", 2), ("qty", None), ("1.000", None), ("1,000", None), ("1_0", None), ("1e2", None),
        ("2-3", None), ("0x", None), ("201", None), ("1.5", None),
    ],
)  # fmt: skip
def test_quantities(text: str, count: int | None) -> None:
    if count is None:
        with pytest.raises(RowError) as caught:
            read_quantity(text)
        assert caught.value.column == "quantity"
    else:
        assert read_quantity(text) == count


@pytest.mark.parametrize("locale", ["en", "de", "fr", "it", "es", "pt", "nl", "pl", "cs", "sv", "tr", "ja"])
@pytest.mark.parametrize("month", range(1, 13))
def test_dates_as_twelve_languages_write_them(locale: str, month: int) -> None:
    # Written by Babel from the Unicode CLDR.
    date = dt.date(2027, month, 23)
    assert read_date(format_date(date, "long", locale=locale)).certain == date


@pytest.mark.parametrize(
    ("text", "date"),
    [
        ("31.03.2027", dt.date(2027, 3, 31)), ("20/02/2027", dt.date(2027, 2, 20)), ("02/20/2027", dt.date(2027, 2, 20)),
        ("2027-03-31 14:30", dt.date(2027, 3, 31)), ("2027-03-31T14:30:00Z", dt.date(2027, 3, 31)),
        ("31.03.2027 00:00:00", dt.date(2027, 3, 31)), ("令和9年3月31日", dt.date(2027, 3, 31)),
        ("R9.3.31", dt.date(2027, 3, 31)), ("平成元年1月8日", dt.date(1989, 1, 8)), ("31/03/2570", dt.date(2027, 3, 31)),
    ],
)  # fmt: skip
def test_dates_in_digits(text: str, date: dt.date) -> None:
    assert read_date(text).certain == date


@pytest.mark.parametrize(
    ("dates", "read_as"),
    [
        pytest.param(["03/04/2027", "20/02/2027"], ["2027-04-03", "2027-02-20"], id="day first"),
        pytest.param(["03/04/2027", "02/20/2027"], ["2027-03-04", "2027-02-20"], id="month first"),
        pytest.param(["03/04/2027", "05/06/2027"], [], id="open"),
        pytest.param(
            ["03/04/2027", "20/02/2027", "02/20/2027"], ["2027-02-20", "2027-02-20"], id="both manners"
        ),
    ],
)
def test_the_whole_column_says_which_comes_first(dates: list[str], read_as: list[str]) -> None:
    rows = "".join(f"A{n},R-1,Ana,{date}\n" for n, date in enumerate(dates))
    result = read(f"order,product,wording,due\n{rows}")
    assert [r.due.isoformat() for r in result.rows] == read_as
    assert len(result.rows) + len(result.set_aside) == len(dates)

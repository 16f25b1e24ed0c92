"""Cells of workbooks as a spreadsheet shows them, and the sheet that holds the orders."""

from __future__ import annotations

import datetime as dt
import io
from collections.abc import Sequence

import openpyxl
import pytest

from kizami.wording.number_formats import shown_in_format
from kizami.wording.order_list import OrderList, read_order_list

HEADER = ("order", "product", "wording", "due")


def read(*sheets: tuple[str, Sequence[Sequence[object]]], formats: dict[str, str] | None = None) -> OrderList:
    book = openpyxl.Workbook()
    book.remove(book.active)
    for name, rows in sheets:
        sheet = book.create_sheet(name)
        for row in rows:
            sheet.append(list(row))
        for place, code in (formats or {}).items():
            sheet[place].number_format = code
    out = io.BytesIO()
    book.save(out)
    return read_order_list(out.getvalue(), is_product=lambda cell: cell.startswith("R-"))


@pytest.mark.parametrize(
    ("value", "code", "shown"),
    [
        # As ECMA-376, part 1, 18.8.31 describes the codes (from memory), and common practice.
        (7, "000", "007"), (7, "General", "7"), (7.0, "General", "7"), (0.5, "0%", "50%"), (1, "0%", "100%"),
        (0.125, "0.0%", "12.5%"), (1234.5, "#,##0.00", "1,234.50"), (1234567, "#,##0", "1,234,567"), (2.5, "0", "3"),
        (3.14159, "0.00", "3.14"), (3.1, "0.0##", "3.1"), (12, '0" mm"', "12 mm"), (-5, "0", "-5"), (-5, "0;(0)", "(5)"),
        (5, "[Red]0", "5"), (5, '"No. "0', "No. 5"), (0, '0;-0;"none"', "none"), (True, "General", "TRUE"),
        (12.0, "@", "12"), (1e15, "General", "1e+15"),
        (dt.time(12, 30), "h:mm", "12:30"), (dt.time(7, 5), "hh:mm", "07:05"), (dt.time(7, 5), "h:mm", "7:05"),
        (dt.time(7, 5, 9), "h:mm:ss", "7:05:09"), (dt.timedelta(hours=26, minutes=5), "[h]:mm", "26:05"),
        (dt.datetime(2027, 5, 4), "dd.mm.yyyy", "04.05.2027"), (dt.datetime(2027, 5, 4), "d/m/yy", "4/5/27"),
        (dt.datetime(2027, 5, 4), "mm-dd-yyyy", "05-04-2027"), (dt.datetime(2027, 5, 4), "yyyy-mm-dd", "2027-05-04"),
        (dt.datetime(2027, 5, 4), "mmmm yyyy", "2027-05-04"), (dt.datetime(2027, 5, 4, 9, 30), "h:mm", "9:30"),
    ],
)  # fmt: skip
def test_values_are_shown_in_their_format(value: object, code: str, shown: str) -> None:
    assert shown_in_format(value, code) == shown


def test_wording_is_what_the_sheet_shows() -> None:
    rows = [HEADER, ("A1", "R-1", 7, None), ("A2", "R-1", dt.time(12, 30), None), ("A3", "R-1", 1, None)]
    result = read(("Orders", rows), formats={"C2": "000", "C3": "h:mm", "C4": "0%"})
    assert [row.wording for row in result.rows] == ["007", "12:30", "100%"]


@pytest.mark.parametrize("code", ["dd/mm/yyyy", "mm/dd/yyyy", "d.m.yyyy", "yyyy-mm-dd", "d mmm yyyy"])
def test_a_date_that_the_workbook_knows_is_certain_however_it_is_shown(code: str) -> None:
    rows = [HEADER, ("A1", "R-1", "Ana", dt.datetime(2027, 5, 4))]
    result = read(("Orders", rows), formats={"D2": code})
    assert [row.due for row in result.rows] == [dt.date(2027, 5, 4)]


def test_a_cover_sheet_is_passed_over_and_named() -> None:
    cover = [("Wedding of the year",), ("Contact", "Tansy")]
    result = read(("Cover", cover), ("Orders", [HEADER, ("A1", "R-1", "Ana", None)]))
    assert [row.wording for row in result.rows] == ["Ana"]
    assert any("“Cover” with 2 rows" in note for note in result.told)


def test_a_second_sheet_of_orders_is_not_passed_over_in_silence() -> None:
    one, two = [HEADER, ("A1", "R-1", "Ana", None)], [HEADER, ("A2", "R-1", "Ivy", None)]
    result = read(("May", one), ("June", two))
    assert [row.wording for row in result.rows] == ["Ana"]
    assert any("“June”" in note and "looks like orders too" in note for note in result.told)

"""From a table of text to order rows: every row is understood, or set aside with its reason.

A row that can't be read never stops the others. It is kept as it came, with its row number
and the reason.
"""

from __future__ import annotations

import datetime as dt
import math
from collections.abc import Mapping
from dataclasses import dataclass

from kizami.errors import OrderListError, RowError
from kizami.wording.columns import ColumnMap, guess_columns
from kizami.wording.field_rules import FieldRule, take_apart
from kizami.wording.tables import (
    LARGEST_CELL_CHARACTERS,
    LARGEST_LIST_BYTES,
    LARGEST_LIST_ROWS,
    Table,
    TableRow,
    read_table,
)

__all__ = [
    "LARGEST_CELL_CHARACTERS",
    "LARGEST_LIST_BYTES",
    "LARGEST_LIST_ROWS",
    "LARGEST_QUANTITY",
    "OrderList",
    "OrderRow",
    "SetAside",
    "read_order_list",
    "read_row",
    "read_rows",
]

LARGEST_QUANTITY = 200


@dataclass(frozen=True, kw_only=True, slots=True)
class OrderRow:
    """One readable row.

    Attributes
    ----------
    row : row number in the file, the header being row 1
    order, line : together the line's name; unique in a list
    product : product code, as written
    size : ring size as written, or ""
    wording : the words as written, uncleaned
    second : an optional second wording, such as a date
    quantity : pieces to make, 1 to 200
    due : wanted by, or None
    customer : who ordered, or ""
    rush : to be made before others
    note : gift note or remark, never put on a piece
    set_name : lines of one order with the same set name share one lettering height
    typeface, material, finish : as the shop calls them, or "" for the product's own
    logo : file name of a logo, or ""
    cells : the row as received
    """

    row: int
    order: str
    line: str
    product: str
    size: str
    wording: str
    second: str
    quantity: int
    due: dt.date | None
    customer: str
    rush: bool
    note: str
    set_name: str
    typeface: str
    material: str
    finish: str
    logo: str
    cells: tuple[str, ...]


@dataclass(frozen=True, kw_only=True, slots=True)
class SetAside:
    """A row that could not be read, kept as it came.

    Attributes
    ----------
    row : row number in the file, the header being row 1
    reason : what was wrong and what to do
    cells : the row as received
    column : the field at fault, or "" when it is the row as a whole
    """

    row: int
    reason: str
    cells: tuple[str, ...]
    column: str = ""


@dataclass(frozen=True, kw_only=True, slots=True)
class OrderList:
    """A list as read: every row of the table is in `rows` or in `set_aside`."""

    table: Table
    columns: ColumnMap
    rows: tuple[OrderRow, ...]
    set_aside: tuple[SetAside, ...]


def read_order_list(
    data: bytes,
    *,
    encoding: str = "",
    remembered: Mapping[str, str] | None = None,
    rule: FieldRule | None = None,
) -> OrderList:
    """Read a list from its bytes.

    Parameters
    ----------
    encoding : to overrule detection, see `kizami.wording.tables.ENCODINGS`
    remembered : columns as the desk set them, see `guess_columns`
    rule : how the wording column is taken apart, or None when it holds plain wording

    Raises
    ------
    OrderListError : the file as a whole can't be used; the text says why and what to do.
    """
    table = read_table(data, encoding=encoding)
    columns = guess_columns(table.header, remembered=remembered)
    columns.require(table.header)
    return read_rows(table, columns, rule=rule)


def read_rows(table: Table, columns: ColumnMap, *, rule: FieldRule | None = None) -> OrderList:
    """Understand the rows of a table.

    Raises
    ------
    OrderListError : the table has no rows
    """
    rows: list[OrderRow] = []
    aside: list[SetAside] = []
    seen: dict[tuple[str, str], int] = {}
    next_line: dict[str, int] = {}
    for record in table.rows:
        try:
            row = read_row(record, columns, width=len(table.header), rule=rule, next_line=next_line)
            name = (row.order, row.line)
            if name in seen:
                raise RowError(
                    f"Order {row.order} line {row.line} stands in row {seen[name]} already; "
                    "give this row a line number of its own."
                )
            seen[name] = row.row
            rows.append(row)
        except RowError as error:
            aside.append(
                SetAside(row=record.number, reason=str(error), cells=record.cells, column=error.column)
            )
    if not rows and not aside:
        raise OrderListError("The list has a header but no rows. Add a row for each line of an order.")
    return OrderList(table=table, columns=columns, rows=tuple(rows), set_aside=tuple(aside))


def read_row(
    record: TableRow,
    columns: ColumnMap,
    *,
    width: int,
    rule: FieldRule | None = None,
    next_line: dict[str, int] | None = None,
) -> OrderRow:
    """Understand one row.

    Parameters
    ----------
    width : number of columns that the header names
    next_line : line numbers given so far by order, counted on here; None to begin at 1

    Raises
    ------
    RowError : the row can't be read; names the column at fault
    """
    cells = record.cells
    counts = {} if next_line is None else next_line
    for number, content in enumerate(cells, start=1):
        if len(content) > LARGEST_CELL_CHARACTERS:
            raise RowError(
                f"Cell {number} holds {len(content)} characters; at most {LARGEST_CELL_CHARACTERS} "
                "can be read. Shorten it."
            )
    if len(cells) > width and any(extra.strip() for extra in cells[width:]):
        raise RowError(
            f"The row has {len(cells)} cells but the header names {width}. "
            "Put cells that contain the separator in double quotes."
        )
    wording = columns.cell(cells, "wording")
    apart = take_apart(wording, rule) if rule is not None else {"wording": wording}

    def field(code: str) -> str:
        # A column of its own says more than a key in free text.
        return columns.cell(cells, code).strip() or apart.get(code, "").strip()

    order = field("order")
    if not order:
        raise RowError("The order number is empty; every row needs one.", column="order")
    product = field("product")
    if not product:
        raise RowError("The product is empty; write its code.", column="product")
    line = field("line")
    if not line:
        counts[order] = counts.get(order, 0) + 1
        line = str(counts[order])
    notes = [field("note"), apart.get("", "")]
    return OrderRow(
        row=record.number,
        order=order,
        line=line,
        product=product,
        size=field("size"),
        wording=apart.get("wording", ""),
        second=field("second"),
        quantity=_quantity(field("quantity")),
        due=_due(field("due")),
        customer=field("customer"),
        rush=_rush(field("priority")),
        note=" / ".join(note for note in notes if note),
        set_name=field("set"),
        typeface=field("typeface"),
        material=field("material"),
        finish=field("finish"),
        logo=field("logo"),
        cells=cells,
    )


def _quantity(text: str) -> int:
    if not text:
        return 1
    try:
        value = float(text.replace(" ", ""))
    except ValueError:
        value = math.nan
    if not 1 <= value <= LARGEST_QUANTITY or value != int(value):
        raise RowError(
            f"The quantity “{text[:20]}” must be a whole number from 1 to {LARGEST_QUANTITY}.",
            column="quantity",
        )
    return int(value)


def _due(text: str) -> dt.date | None:
    if not text:
        return None
    try:
        return dt.date.fromisoformat(text[:10] if text[10:].strip(" 0:T") == "" else text)
    except ValueError:
        raise RowError(
            f"The due date “{text[:20]}” can't be read without doubt; write it as 2027-03-31.", column="due"
        ) from None


_RUSH = {"rush", "urgent", "express", "high", "yes", "y", "x", "1", "true", "eilig"}
_NO_RUSH = {"", "no", "n", "0", "false", "normal", "standard", "low", "-"}


def _rush(text: str) -> bool:
    folded = text.strip().casefold()
    if folded in _RUSH:
        return True
    if folded in _NO_RUSH:
        return False
    raise RowError(
        f"The priority “{text[:20]}” is not known; write “rush” or leave it empty.", column="priority"
    )

"""Reading an order list: bytes of delimited text in, lines and set-aside rows out.

A row that can't be read never stops the others. It is kept as it came, with its row number
and the reason.
"""

from __future__ import annotations

import csv
import datetime as dt
import io
import re
from dataclasses import dataclass

from kizami.errors import OrderListError, RowError

__all__ = [
    "COLUMNS",
    "LARGEST_CELL_CHARACTERS",
    "LARGEST_LIST_BYTES",
    "LARGEST_LIST_ROWS",
    "LARGEST_QUANTITY",
    "OrderList",
    "OrderRow",
    "SetAside",
    "read_order_list",
]

#: Stated on the upload form and in the guide, so that nobody runs into them unawares.
LARGEST_LIST_BYTES = 5 * 1024 * 1024
LARGEST_LIST_ROWS = 10_000
LARGEST_CELL_CHARACTERS = 500
LARGEST_QUANTITY = 200

#: The columns of an order list and the headings they may have. The first is the one we write.
COLUMNS: dict[str, tuple[str, ...]] = {
    "order": ("order", "order no", "order number", "order id"),
    "line": ("line", "line no", "item", "position"),
    "product": ("product", "product code", "sku", "code"),
    "size": ("size", "ring size"),
    "wording": ("wording", "name", "text", "engraving", "words"),
    "quantity": ("quantity", "qty", "count", "number"),
    "due": ("due", "due date", "wanted by"),
    "customer": ("customer", "buyer", "for"),
}
_REQUIRED = ("order", "product", "wording")


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
    quantity : pieces to make, 1 to 200
    due : wanted by, or None
    customer : who ordered, or ""
    cells : the row as received
    """

    row: int
    order: str
    line: str
    product: str
    size: str
    wording: str
    quantity: int
    due: dt.date | None
    customer: str
    cells: tuple[str, ...]


@dataclass(frozen=True, kw_only=True, slots=True)
class SetAside:
    """A row that could not be read, kept as it came.

    Attributes
    ----------
    row : row number in the file, the header being row 1
    reason : what was wrong and what to do
    cells : the row as received
    """

    row: int
    reason: str
    cells: tuple[str, ...]


@dataclass(frozen=True, kw_only=True, slots=True)
class OrderList:
    """A list as read: every row of the file is in `rows` or in `set_aside`."""

    header: tuple[str, ...]
    rows: tuple[OrderRow, ...]
    set_aside: tuple[SetAside, ...]


def read_order_list(data: bytes) -> OrderList:
    """Read a comma-, semicolon- or tab-separated list in UTF-8 (with or without BOM).

    Raises
    ------
    OrderListError : the file as a whole can't be used; the text says why and what to do.
    """
    text = _decode(data)
    header, records = _records(text)
    places = _match_columns(header)
    rows: list[OrderRow] = []
    aside: list[SetAside] = []
    seen: dict[tuple[str, str], int] = {}
    next_line: dict[str, int] = {}
    for number, cells in records:
        if not any(cell.strip() for cell in cells):
            continue
        try:
            row = _read_row(number, cells, places, len(header), next_line)
            name = (row.order, row.line)
            if name in seen:
                raise RowError(
                    f"Order {row.order} line {row.line} stands in row {seen[name]} already; "
                    "give this row a line number of its own."
                )
            seen[name] = number
            rows.append(row)
        except RowError as error:
            aside.append(SetAside(row=number, reason=str(error), cells=tuple(cells)))
    if not rows and not aside:
        raise OrderListError("The list has a header but no rows. Add a row for each line of an order.")
    return OrderList(header=tuple(header), rows=tuple(rows), set_aside=tuple(aside))


def _decode(data: bytes) -> str:
    if len(data) > LARGEST_LIST_BYTES:
        raise OrderListError(
            f"The list is {len(data) / 1024 / 1024:.1f} MB; at most "
            f"{LARGEST_LIST_BYTES // 1024 // 1024} MB can be read. Split it into several lists."
        )
    if not data.strip():
        raise OrderListError("The list is empty. Choose a file with a header row and at least one order.")
    if b"\x00" in data:
        raise OrderListError(
            "This is not plain text: it holds NUL bytes. Save the list as “CSV UTF-8” and send it again."
        )
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = data.count(b"\n", 0, error.start) + 1
        raise OrderListError(
            f"The list is not in UTF-8: byte {data[error.start]:#04x} in row {line} means nothing there. "
            "Save it as “CSV UTF-8” and send it again."
        ) from error


def _records(text: str) -> tuple[list[str], list[tuple[int, list[str]]]]:
    first = text.lstrip("\r\n").split("\n", 1)[0]
    delimiter = max((",", ";", "\t"), key=first.count)
    # The whole file is bounded, so one cell may be as long as the file without harm.
    csv.field_size_limit(LARGEST_LIST_BYTES)
    reader = csv.reader(io.StringIO(text, newline=""), delimiter=delimiter)
    header: list[str] | None = None
    records: list[tuple[int, list[str]]] = []
    number = 0
    try:
        for cells in reader:
            if header is None:
                if not any(cell.strip() for cell in cells):
                    continue
                header = [cell.strip() for cell in cells]
                number = 1
                continue
            number += 1
            if number > LARGEST_LIST_ROWS + 1:
                raise OrderListError(
                    f"The list has more than {LARGEST_LIST_ROWS} rows. Split it into several lists."
                )
            records.append((number, cells))
    except csv.Error as error:
        raise OrderListError(f"Row {number + 1} can't be taken apart: {error}.") from error
    if header is None:
        raise OrderListError("The list is empty. Choose a file with a header row and at least one order.")
    return header, records


def _match_columns(header: list[str]) -> dict[str, int]:
    places: dict[str, int] = {}
    names = [re.sub(r"[\s_.]+", " ", cell).strip().lower() for cell in header]
    for column, headings in COLUMNS.items():
        for heading in headings:
            if heading in names:
                places[column] = names.index(heading)
                break
    missing = [column for column in _REQUIRED if column not in places]
    if missing:
        found = ", ".join(f"“{cell[:30]}”" for cell in header[:8]) or "nothing"
        raise OrderListError(
            f"The first row must name the columns; missing: {', '.join(missing)}. Found: {found}. "
            f"Known columns: {', '.join(COLUMNS)}."
        )
    return places


def _read_row(
    number: int, cells: list[str], places: dict[str, int], columns: int, next_line: dict[str, int]
) -> OrderRow:
    for number_of_cell, content in enumerate(cells, start=1):
        if len(content) > LARGEST_CELL_CHARACTERS:
            raise RowError(
                f"Cell {number_of_cell} holds {len(content)} characters; at most {LARGEST_CELL_CHARACTERS} "
                "can be read. Shorten it."
            )
    if len(cells) > columns and any(extra.strip() for extra in cells[columns:]):
        raise RowError(
            f"The row has {len(cells)} cells but the header names {columns}. "
            "Put cells that contain the separator in double quotes."
        )

    def cell(column: str) -> str:
        place = places.get(column)
        return cells[place].strip() if place is not None and place < len(cells) else ""

    order = cell("order")
    if not order:
        raise RowError("The order number is empty; every row needs one.", column="order")
    product = cell("product")
    if not product:
        raise RowError("The product is empty; write its code.", column="product")
    line = cell("line")
    if not line:
        next_line[order] = next_line.get(order, 0) + 1
        line = str(next_line[order])
    place = places["wording"]
    return OrderRow(
        row=number,
        order=order,
        line=line,
        product=product,
        size=cell("size"),
        wording=cells[place] if place < len(cells) else "",
        quantity=_quantity(cell("quantity")),
        due=_due(cell("due")),
        customer=cell("customer"),
        cells=tuple(cells),
    )


def _quantity(text: str) -> int:
    if not text:
        return 1
    try:
        value = float(text)
    except ValueError:
        value = float("nan")
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
        return dt.date.fromisoformat(text)
    except ValueError:
        raise RowError(
            f"The due date “{text[:20]}” can't be read without doubt; write it as 2027-03-31.", column="due"
        ) from None

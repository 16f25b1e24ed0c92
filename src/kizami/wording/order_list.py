"""From a table of text to order rows: every row is understood, or set aside with its reason.

A row that can't be read never stops the others. It is kept as it came, with its row number
and the reason.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from functools import partial
from typing import Any, TypeVar

from kizami.errors import OrderListError, RowError
from kizami.wording.columns import ColumnMap, guess_columns
from kizami.wording.dates import day_first_in, read_date
from kizami.wording.field_rules import FieldRule, take_apart
from kizami.wording.languages import language_of
from kizami.wording.quantities import LARGEST_QUANTITY, read_quantity
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
    "NO_MANNER",
    "Manner",
    "OrderList",
    "OrderRow",
    "SetAside",
    "columns_of",
    "read_order_list",
    "read_row",
    "read_rows",
]


_Read = TypeVar("_Read")


@dataclass(frozen=True, kw_only=True, slots=True)
class OrderRow:
    """One readable row.

    Attributes
    ----------
    row : row number in the file, as a spreadsheet shows it
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
    colour : as written, or ""
    day_first, second_day_first : how the list writes 03/04/2027 in its wording and second wording, or None
    language : that of the list's headings, two letters, or ""
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
    colour: str
    day_first: bool | None
    second_day_first: bool | None
    language: str
    cells: tuple[str, ...]


@dataclass(frozen=True, kw_only=True, slots=True)
class SetAside:
    """A row that could not be read, kept as it came.

    Attributes
    ----------
    row : row number in the file, as a spreadsheet shows it
    reason : what was wrong and what to do
    cells : the row as received
    columns : the fields at fault, none when it is the row as a whole
    rest : what could be read of it, for more to be found at fault
    """

    row: int
    reason: str
    cells: tuple[str, ...]
    columns: tuple[str, ...] = ()
    rest: OrderRow | None = None

    @property
    def column(self) -> str:
        """The first field at fault, or ""."""
        return self.columns[0] if self.columns else ""


@dataclass(frozen=True, kw_only=True, slots=True)
class OrderList:
    """A list as read: every row of the table is in `rows` or in `set_aside`; `notes` tell what was assumed."""

    table: Table
    columns: ColumnMap
    rows: tuple[OrderRow, ...]
    set_aside: tuple[SetAside, ...]
    notes: tuple[str, ...] = ()

    def confirm(self) -> None:
        """Refuse a reading that a person must confirm: of its letters or of its columns.

        Raises
        ------
        OrderListError : says what is in doubt
        """
        if self.table.doubt:
            raise OrderListError(self.table.doubt)
        self.columns.confirm(self.table.header)

    @property
    def told(self) -> tuple[str, ...]:
        """All that was decided, changed or left out in reading it, in sentences."""
        return (*self.table.notes, *self.columns.told(self.table.header), *self.notes)


def read_order_list(
    data: bytes,
    *,
    encoding: str = "",
    remembered: Mapping[str, str] | None = None,
    rule: FieldRule | None = None,
    is_product: Callable[[str], bool] | None = None,
) -> OrderList:
    """Read a list from its bytes.

    Parameters
    ----------
    encoding : to overrule detection, see `kizami.wording.tables.ENCODINGS`
    remembered : columns as the desk set them, see `guess_columns`
    rule : how the wording column is taken apart, or None when it holds plain wording
    is_product : whether a cell is the code or another name of a product

    Raises
    ------
    OrderListError : the file as a whole can't be used; the text says why and what to do.
    """
    table = read_table(data, encoding=encoding, is_product=is_product or _no_product)
    columns = columns_of(table, remembered=remembered, is_product=is_product)
    columns.require(table.header)
    return read_rows(table, columns, rule=rule)


def columns_of(
    table: Table,
    *,
    remembered: Mapping[str, str] | None = None,
    is_product: Callable[[str], bool] | None = None,
) -> ColumnMap:
    """The columns of a table, see `guess_columns`."""
    rows = [row.cells for row in table.rows]
    return guess_columns(table.header, rows, remembered=remembered, is_product=is_product or _no_product)


def _no_product(cell: str) -> bool:
    return False


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
    manner = _manner(table, columns)
    above: TableRow | None = None
    carried: list[str] = []
    for received in table.rows:
        record = above = _carried_down(received, above, columns)
        if record is not received:
            carried.append(str(received.number))
        try:
            row = read_row(
                record, columns, width=len(table.header), rule=rule, next_line=next_line, manner=manner
            )
            name = (row.order, row.line)
            if name in seen:
                raise RowError(
                    f"Order {row.order} line {row.line} stands in row {seen[name]} already; "
                    "give this row a line number of its own.",
                    column="line",
                )
            seen[name] = row.row
            rows.append(row if record is received else replace(row, cells=received.cells))
        except RowError as error:
            rest = error.rest if isinstance(error, FaultyRow) else None
            aside.append(
                SetAside(
                    row=received.number,
                    reason=str(error),
                    cells=received.cells,
                    columns=error.columns,
                    rest=rest,
                )
            )
    if not rows and not aside:
        raise OrderListError("The list has a header but no rows. Add a row for each line of an order.")
    notes = []
    if carried:
        named = f"{', '.join(carried[:12])}{' and more' if len(carried) > 12 else ''}"
        notes.append(f"Taken for the order above, as the order number is blank: row {named}.")
    return OrderList(
        table=table, columns=columns, rows=tuple(rows), set_aside=tuple(aside), notes=tuple(notes)
    )


@dataclass(frozen=True, kw_only=True, slots=True)
class Manner:
    """How a list as a whole is written.

    Attributes
    ----------
    due, wording, second : the day stands first, by what stands in the whole column; None where that is open
    language : of its headings, two letters, or ""
    """

    due: bool | None = None
    wording: bool | None = None
    second: bool | None = None
    language: str = ""


NO_MANNER = Manner()


def _manner(table: Table, columns: ColumnMap) -> Manner:
    found = {
        code: day_first_in(columns.cell(row.cells, code) for row in table.rows)
        for code in ("due", "wording", "second")
    }
    return Manner(**found, language=language_of(table.header))


def _of_row(manner: Manner, record: TableRow, columns: ColumnMap) -> Manner:
    """A cell that is known for a date tells itself which of its numbers is the day."""
    if not record.dates:
        return manner
    known: dict[str, Any] = {}
    for code in ("due", "wording", "second"):
        date = record.dates.get(columns.places.get(code, -1))
        if date is not None:
            known[code] = read_date(columns.cell(record.cells, code), day_first=True).certain == date
    return replace(manner, **known)


def _carried_down(record: TableRow, above: TableRow | None, columns: ColumnMap) -> TableRow:
    """A row below a merged cell belongs to the order of the row above: its number and whose it is."""
    if (
        above is None
        or columns.cell(record.cells, "order").strip()
        or columns.cell(record.cells, "line").strip()
    ):
        return record
    if not (columns.cell(record.cells, "product").strip() and columns.cell(record.cells, "wording").strip()):
        return record
    cells = list(record.cells) + [""] * max(0, len(above.cells) - len(record.cells))
    for code in ("order", "customer", "due"):
        place = columns.places.get(code)
        if place is not None and place < len(cells) and not cells[place].strip():
            cells[place] = columns.cell(above.cells, code)
    due = columns.places.get("due")
    known = {due: above.dates[due]} if due is not None and due in above.dates else {}
    return TableRow(number=record.number, cells=tuple(cells), dates={**known, **record.dates})


def read_row(
    record: TableRow,
    columns: ColumnMap,
    *,
    width: int,
    rule: FieldRule | None = None,
    next_line: dict[str, int] | None = None,
    manner: Manner = NO_MANNER,
) -> OrderRow:
    """Understand one row.

    Parameters
    ----------
    width : number of columns that the header names
    next_line : line numbers given so far by order, counted on here; None to begin at 1
    manner : how the list as a whole writes dates

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

    manner = _of_row(manner, record, columns)
    faults: list[RowError] = []

    def read(what: Callable[[str], _Read], code: str, instead: _Read) -> _Read:
        try:
            return what(field(code))
        except RowError as fault:
            faults.append(fault)
            return instead

    order = read(partial(_filled, "The order number is empty; every row needs one.", "order"), "order", "")
    product = read(partial(_filled, "The product is empty; write its code.", "product"), "product", "")
    quantity = read(read_quantity, "quantity", 1)
    due = read(partial(_due, day_first=manner.due), "due", None)
    rush = read(_rush, "priority", False)
    line = field("line")
    if not line and not faults:
        counts[order] = counts.get(order, 0) + 1
        line = str(counts[order])
    notes = [field("note"), apart.get("", "")]
    row = OrderRow(
        row=record.number,
        order=order,
        line=line,
        product=product,
        size=field("size"),
        wording=apart.get("wording", ""),
        second=field("second"),
        quantity=quantity,
        due=due,
        customer=field("customer"),
        rush=rush,
        note=" / ".join(note for note in notes if note),
        set_name=field("set"),
        typeface=field("typeface"),
        material=field("material"),
        finish=field("finish"),
        logo=field("logo"),
        colour=field("colour"),
        day_first=manner.wording,
        second_day_first=manner.second,
        language=manner.language,
        cells=cells,
    )
    if faults:
        raise FaultyRow(faults, row)
    return row


class FaultyRow(RowError):
    """A row of which some could not be read; all that is wrong is said at once.

    Attributes
    ----------
    rest : the row with something usual in place of what could not be read
    """

    def __init__(self, faults: Sequence[RowError], rest: OrderRow) -> None:
        together = RowError.together(faults)
        super().__init__(str(together), columns=together.columns)
        self.rest = rest


def _filled(said: str, column: str, text: str) -> str:
    if not text:
        raise RowError(said, column=column)
    return text


def _due(text: str, *, day_first: bool | None) -> dt.date | None:
    if not text:
        return None
    reading = read_date(text, day_first=day_first)
    if reading.certain is not None:
        return reading.certain
    readings = " or ".join(date.isoformat() for date in reading.dates)
    raise RowError(
        f"The due date “{text[:20]}” can't be read without doubt"
        + (f"; it may be {readings}." if readings else "; write it as 2027-03-31."),
        column="due",
    )


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

"""Reading XLSX workbooks defensively: shown values only, nothing run, nothing fetched, sizes bounded."""

from __future__ import annotations

import datetime as dt
import io
import re
import warnings
import zipfile
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from defusedxml.common import DefusedXmlException
from openpyxl import load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from kizami.errors import OrderListError
from kizami.wording.number_formats import shown_in_format
from kizami.wording.starts import headings_known

__all__ = ["Workbook", "is_workbook", "read_workbook"]

_ZIP, _OLE = b"PK\x03\x04", b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
#: Unpacked size that a list of the allowed rows can't reach; more is a trap or a mistake.
_LARGEST_UNPACKED_BYTES = 80 * 1024 * 1024
_MOST_PARTS = 500
_MOST_COLUMNS = 200


def is_workbook(data: bytes) -> bool:
    """Whether the bytes are a workbook (or a zip, or an older or locked workbook) rather than text."""
    return data.startswith((_ZIP, _OLE))


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Workbook:
    """What was read of a workbook.

    Attributes
    ----------
    rows : of the sheet with the orders, as the text that is shown
    dates : cells that the workbook knows for dates, by row and column from 0
    notes : on formulas, links and further sheets
    """

    rows: list[list[str]]
    dates: Mapping[tuple[int, int], dt.date]
    notes: tuple[str, ...]


def read_workbook(data: bytes, *, most_rows: int) -> Workbook:
    """Read the sheet with the orders.

    Raises
    ------
    OrderListError : locked, older format, damaged, no workbook, or larger than can be
    """
    if data.startswith(_OLE):
        raise OrderListError(
            "The workbook is locked with a password or in the older XLS format. "
            "Take the password off, save it as XLSX or CSV, and send it again."
        )
    formulas, links = _look_inside(data)
    try:
        with warnings.catch_warnings():
            # openpyxl warns of decoration that it leaves out; only the values are wanted.
            warnings.simplefilter("ignore")
            book = load_workbook(io.BytesIO(data), read_only=True, data_only=True, keep_links=False)
            try:
                sheet, others = _best_sheet(book, most_rows)
            finally:
                book.close()
    except DefusedXmlException as error:
        raise OrderListError(
            "The workbook carries XML entities, which no spreadsheet writes. It was not opened."
        ) from error
    except (
        InvalidFileException,
        zipfile.BadZipFile,
        LookupError,
        ValueError,
        TypeError,
        OSError,
        SyntaxError,
    ) as error:
        raise OrderListError(
            "The workbook is damaged or is not one. Open it in a spreadsheet, save it as XLSX or CSV, "
            "and send it again."
        ) from error
    notes = []
    if formulas:
        notes.append("The workbook has formulas; the values they showed when it was last saved were taken.")
    if links:
        notes.append("The workbook refers to other workbooks; those were not opened.")
    return Workbook(rows=sheet.rows, dates=sheet.dates, notes=(*notes, *others))


def _look_inside(data: bytes) -> tuple[bool, bool]:
    """Whether there are formulas and links; refuses what no honest workbook holds."""
    try:
        pack = zipfile.ZipFile(io.BytesIO(data))
    except zipfile.BadZipFile as error:
        raise OrderListError("The file begins like a workbook but is damaged. Send it again.") from error
    with pack:
        parts = pack.infolist()
        names = [part.filename for part in parts]
        if "[Content_Types].xml" not in names or not any(n.startswith("xl/") for n in names):
            raise OrderListError("This is a zip, not a workbook. Unpack it and send the list that is in it.")
        if len(parts) > _MOST_PARTS or sum(part.file_size for part in parts) > _LARGEST_UNPACKED_BYTES:
            raise OrderListError(
                f"The workbook unpacks to more than {_LARGEST_UNPACKED_BYTES // 1024 // 1024} MB. "
                "Save only the sheet with the orders and send it again."
            )
        if any(name.startswith("/") or ".." in name.split("/") for name in names):
            raise OrderListError("The workbook has parts with forged names. It was not opened.")
        formulas = False
        for part in parts:
            if not part.filename.endswith((".xml", ".rels")):
                continue
            content = _bounded(pack, part)
            if re.search(rb"<!(DOCTYPE|ENTITY)", content[:4096], re.I):
                raise OrderListError(
                    "The workbook carries XML entities, which no spreadsheet writes. It was not opened."
                )
            if part.filename.startswith("xl/worksheets/") and re.search(rb"<f[ >/]", content):
                formulas = True
        return formulas, any(name.startswith("xl/externalLinks/") for name in names)


def _bounded(pack: zipfile.ZipFile, part: zipfile.ZipInfo) -> bytes:
    """A part's bytes, no more than it declares: a forged declaration must not unpack without end."""
    try:
        with pack.open(part) as stream:
            return stream.read(min(part.file_size, _LARGEST_UNPACKED_BYTES))
    except (zipfile.BadZipFile, RuntimeError, NotImplementedError, OSError, EOFError) as error:
        raise OrderListError(
            "The workbook is damaged or locked. Save it as XLSX or CSV without a password and send it again."
        ) from error


@dataclass(frozen=True, kw_only=True, slots=True)
class _Sheet:
    name: str
    rows: list[list[str]]
    dates: dict[tuple[int, int], dt.date]

    @property
    def looks_like_orders(self) -> int:
        """How many headings of lists stand in one of its first rows."""
        return max((headings_known(cells) for cells in self.rows[:30]), default=0)


def _best_sheet(book: Any, most_rows: int) -> tuple[_Sheet, list[str]]:
    """The sheet with the orders, and what to say of the others: a cover sheet has no headings."""
    sheets = []
    for name in book.sheetnames:
        sheet = book[name]
        if hasattr(sheet, "iter_rows"):
            rows, dates = _rows_of(sheet, most_rows)
            if any(rows):
                sheets.append(_Sheet(name=name, rows=rows, dates=dates))
    if not sheets:
        raise OrderListError("The workbook has no filled sheet. Put the orders into one and send it again.")
    best = max(sheets, key=lambda sheet: min(sheet.looks_like_orders, 3))
    said = []
    for other in sheets:
        if other is best:
            continue
        filled = sum(1 for cells in other.rows if cells)
        looks = ", which looks like orders too: send it by itself" if other.looks_like_orders >= 3 else ""
        said.append(f"Sheet “{best.name}” was read; not read: “{other.name}” with {filled} rows{looks}.")
    return best, said[:6]


def _rows_of(sheet: Any, most_rows: int) -> tuple[list[list[str]], dict[tuple[int, int], dt.date]]:
    """Cells as shown; and by row and column, from 0, which of them are dates."""
    rows: list[list[str]] = []
    dates: dict[tuple[int, int], dt.date] = {}
    blanks = 0
    for values in sheet.iter_rows(max_col=_MOST_COLUMNS):
        cells = [_shown(cell) for cell in values]
        for place, cell in enumerate(values):
            if isinstance(cell.value, dt.datetime):
                dates[len(rows), place] = cell.value.date()
        while cells and not cells[-1]:
            cells.pop()
        # Sheets often claim a million empty rows; a long stretch of them is the end.
        blanks = 0 if cells else blanks + 1
        if blanks > 1000:
            break
        rows.append(cells)
        if len(rows) > most_rows + 1000:
            break
    return rows, dates


def _shown(cell: Any) -> str:
    """A cell as the spreadsheet shows it."""
    value = cell.value
    if value is None or isinstance(value, str):
        return value or ""
    return shown_in_format(value, getattr(cell, "number_format", None) or "General")

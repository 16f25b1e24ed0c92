"""Reading XLSX workbooks defensively: shown values only, nothing run, nothing fetched, sizes bounded."""

from __future__ import annotations

import datetime as dt
import io
import re
import warnings
import zipfile
from typing import Any

from defusedxml.common import DefusedXmlException
from openpyxl import load_workbook
from openpyxl.utils.exceptions import InvalidFileException

from kizami.errors import OrderListError

__all__ = ["is_workbook", "read_workbook"]

_ZIP, _OLE = b"PK\x03\x04", b"\xd0\xcf\x11\xe0\xa1\xb1\x1a\xe1"
#: Unpacked size that a list of the allowed rows can't reach; more is a trap or a mistake.
_LARGEST_UNPACKED_BYTES = 80 * 1024 * 1024
_MOST_PARTS = 500
_MOST_COLUMNS = 200


def is_workbook(data: bytes) -> bool:
    """Whether the bytes are a workbook (or a zip, or an older or locked workbook) rather than text."""
    return data.startswith((_ZIP, _OLE))


def read_workbook(data: bytes, *, most_rows: int) -> tuple[list[list[str]], list[str]]:
    """Rows of the first sheet that has any, as the text that is shown.

    Returns
    -------
    rows, and notes on formulas, links and further sheets

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
                rows, sheet, others = _first_filled(book, most_rows)
            finally:
                book.close()
    except DefusedXmlException as error:
        raise OrderListError(
            "The workbook carries XML entities, which no spreadsheet writes. It was not opened."
        ) from error
    except (
        InvalidFileException,
        zipfile.BadZipFile,
        KeyError,
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
    if others:
        notes.append(f"Sheet “{sheet}” was read; not read: {', '.join(f'“{o}”' for o in others[:5])}.")
    return rows, notes


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


def _first_filled(book: Any, most_rows: int) -> tuple[list[list[str]], str, list[str]]:
    names: list[str] = list(book.sheetnames)
    for name in names:
        rows: list[list[str]] = []
        sheet = book[name]
        if not hasattr(sheet, "iter_rows"):
            continue
        blanks = 0
        for values in sheet.iter_rows(values_only=True, max_col=_MOST_COLUMNS):
            cells = [_text(value) for value in values]
            while cells and not cells[-1]:
                cells.pop()
            # Sheets often claim a million empty rows; a long stretch of them is the end.
            blanks = 0 if cells else blanks + 1
            if blanks > 1000:
                break
            rows.append(cells)
            if len(rows) > most_rows + 1000:
                break
        if any(rows):
            return rows, name, [other for other in names if other != name]
    raise OrderListError("The workbook has no filled sheet. Put the orders into one and send it again.")


def _text(value: object) -> str:
    """A value as a spreadsheet would show it without decoration."""
    if value is None:
        return ""
    if isinstance(value, bool):
        return "TRUE" if value else "FALSE"
    if isinstance(value, dt.datetime):
        return value.date().isoformat() if value.time() == dt.time() else value.isoformat(sep=" ")
    if isinstance(value, dt.date | dt.time):
        return value.isoformat()
    if isinstance(value, float):
        return f"{value:.15g}"
    return str(value)

"""Tables as CSV and XLSX that a spreadsheet can open without running anything in it."""

from __future__ import annotations

import csv
import datetime as dt
import io
import re
import zipfile
from collections.abc import Iterable, Sequence

from openpyxl import Workbook
from openpyxl.cell import WriteOnlyCell

from kizami.formats.three_mf import LEVEL, ZIP_DATE

__all__ = ["csv_bytes", "harmless", "xlsx_bytes"]

_TRIGGERS = ("=", "+", "-", "@", "\t", "\r")


def harmless(cell: str) -> str:
    """Text that no spreadsheet takes for a formula: a leading apostrophe, as OWASP advises.

    Numbers stay numbers.

    >>> harmless("=1+1"), harmless("-3.5"), harmless("Ana"), harmless("")
    ("'=1+1", '-3.5', 'Ana', '')
    """
    if cell.startswith(_TRIGGERS):
        try:
            float(cell)
        except ValueError:
            return "'" + cell
    return cell


def csv_bytes(header: Sequence[str], rows: Iterable[Sequence[object]]) -> bytes:
    """A table as UTF-8 CSV with BOM, so that spreadsheets read its accents."""
    out = io.StringIO(newline="")
    writer = csv.writer(out, lineterminator="\r\n")
    writer.writerow(header)
    for row in rows:
        writer.writerow(["" if cell is None else harmless(str(cell)) for cell in row])
    return b"\xef\xbb\xbf" + out.getvalue().encode()


def xlsx_bytes(name: str, header: Sequence[str], rows: Iterable[Sequence[object]]) -> bytes:
    """A workbook of one sheet in which every text is stored as text, whatever it begins with. Holds no time.

    Parameters
    ----------
    name : of the sheet
    """
    book = Workbook(write_only=True)
    book.properties.creator = "Kizami"
    book.properties.created = book.properties.modified = dt.datetime(*ZIP_DATE)
    sheet = book.create_sheet(name)
    sheet.append(list(header))
    for row in rows:
        cells = []
        for value in row:
            cell = WriteOnlyCell(sheet, value=_printable(value) if isinstance(value, str) else value)
            if isinstance(value, str):
                # Left to itself, the library takes a leading “=” for a formula.
                cell.data_type = "s"
            cells.append(cell)
        sheet.append(cells)
    written = io.BytesIO()
    book.save(written)
    return _timeless(written)


_DATED = re.compile(rb"\d{4}-\d\d-\d\dT[0-9:.]+Z")


def _timeless(package: io.BytesIO) -> bytes:
    """The same package with a fixed date on everything in it, and within its properties."""
    out = io.BytesIO()
    with zipfile.ZipFile(package) as read, zipfile.ZipFile(out, "w") as write:
        for name in read.namelist():
            data = read.read(name)
            if name == "docProps/core.xml":
                # The library puts the moment of saving there, whatever it was told.
                data = _DATED.sub(dt.datetime(*ZIP_DATE).strftime("%Y-%m-%dT%H:%M:%SZ").encode(), data)
            write.writestr(zipfile.ZipInfo(name, ZIP_DATE), data, zipfile.ZIP_DEFLATED, LEVEL)
    return out.getvalue()


def _printable(text: str) -> str:
    """Control characters can't stand in a workbook's XML; in received wording they may occur."""
    return "".join(char if char.isprintable() or char in "\n\t" else "\ufffd" for char in text)

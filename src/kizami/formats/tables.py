"""Writing CSV that a spreadsheet can open without running anything in it."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Sequence

__all__ = ["csv_bytes", "harmless"]

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

"""The visible rows of the order book as a table, CSV or XLSX, harmless to whatever opens it."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

from kizami.formats.tables import csv_bytes, xlsx_bytes
from workshop.orders.models import OrderLine

__all__ = ["export_csv", "export_xlsx"]

_COLUMNS: dict[str, Callable[[OrderLine], object]] = {
    "order": lambda line: line.order,
    "line": lambda line: line.line,
    "product": lambda line: line.product.code,
    "size": lambda line: line.size_now,
    "wording": lambda line: line.wording,
    "second wording": lambda line: line.second,
    "quantity": lambda line: line.quantity,
    "due": lambda line: line.due.isoformat() if line.due else "",
    "customer": lambda line: line.customer,
    "priority": lambda line: "rush" if line.rush else "",
    "gift note": lambda line: line.note,
    "set": lambda line: line.set_name,
    "stage": lambda line: line.stage,
    "height mm": lambda line: round(line.revision.height_mm, 2) if line.revision else "",
    "worst finding": lambda line: (line.revision.worst or {}).get("message", "") if line.revision else "",
    "wording as received": lambda line: line.wording_received,
}


def _rows(lines: Iterable[OrderLine]) -> Iterator[list[object]]:
    for line in lines:
        yield [cell(line) for cell in _COLUMNS.values()]


def export_csv(lines: Iterable[OrderLine]) -> bytes:
    """UTF-8 CSV that reads back as an order list."""
    return csv_bytes(list(_COLUMNS), _rows(lines))


def export_xlsx(lines: Iterable[OrderLine]) -> bytes:
    """A workbook in which every text is stored as text, whatever it begins with."""
    return xlsx_bytes("Orders", list(_COLUMNS), _rows(lines))

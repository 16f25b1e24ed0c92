"""Where the orders of a file begin: below titles, blank rows and headings in one row or two.

Nothing is left out without a word: what stands above the headings is told.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from kizami.wording.headings import HEADINGS, KEPT, fold_heading

__all__ = ["Start", "find_start", "headings_known"]

#: Headings stand within so many rows.
_WITHIN = 30
_SHOWN = 60


@dataclass(frozen=True, kw_only=True, slots=True)
class Start:
    """Where orders begin.

    Attributes
    ----------
    header : cells of the headings, those of two rows joined
    row : number of the first row below them, from 0
    notes : what was left out above, in sentences
    """

    header: tuple[str, ...]
    row: int
    notes: tuple[str, ...]


def headings_known(cells: Sequence[str]) -> int:
    """How many different headings of lists stand in a row.

    >>> headings_known(["Order", "Artikel-Nr.", "Ana"])
    2
    """
    return len({_meaning(cell) for cell in cells} - {""})


def find_start(records: Sequence[Sequence[str]], is_product: Callable[[str], bool]) -> Start | None:
    """Find the headings; None when all rows are blank.

    Without known headings the first row with two cells is taken for them, unless a product of the shop stands
    in it: then it is an order, and the columns are called by their places.
    """
    filled = [n for n, cells in enumerate(records) if any(cell.strip() for cell in cells)][:_WITHIN]
    if not filled:
        return None
    counts = {n: headings_known(records[n]) for n in filled}
    best = max(counts.values())
    # One fewer, as of two rows of headings the upper one may be the poorer.
    begin = next(n for n in filled if counts[n] >= max(2, best - 1)) if best >= 2 else None
    if begin is None:
        begin = next((n for n in filled if sum(1 for c in records[n] if c.strip()) >= 2), filled[0])
        if any(is_product(cell) for cell in records[begin] if cell.strip()) and not best:
            width = max(len(records[n]) for n in filled)
            names = tuple(f"column {place}" for place in range(1, width + 1))
            said = "The list has no headings; its columns are called by their places."
            return Start(header=names, row=begin, notes=(said, *_above(records, begin)))
    header, rows = tuple(records[begin]), 1
    if begin + 1 < len(records):
        joined = _joined(records[begin], records[begin + 1], is_product)
        if joined is not None:
            header, rows = joined, 2
    return Start(header=header, row=begin + rows, notes=tuple(_above(records, begin)))


def _above(records: Sequence[Sequence[str]], begin: int) -> list[str]:
    said = []
    for number, cells in enumerate(records[:begin], start=1):
        words = " · ".join(cell.strip() for cell in cells if cell.strip())
        if words:
            said.append(f"Row {number} (“{words[:_SHOWN]}”) stands above the headings and is no order.")
    return said


def _joined(
    above: Sequence[str], below: Sequence[str], is_product: Callable[[str], bool]
) -> tuple[str, ...] | None:
    """Headings in two rows as one, the upper ones reaching over the blank cells to their right; else None."""
    filled = [cell for cell in below if cell.strip()]
    if len(filled) < 2 or any(is_product(cell) or any(c.isdigit() for c in cell) for cell in filled):
        return None
    is_full = all(cell.strip() for cell in above[: len(below)]) and len(filled) == len(below)
    # Of two full rows the lower one is no second half unless nearly all of it are headings.
    if is_full and headings_known(below) < max(2, len(filled) - 1):
        return None
    joined, over = [], ""
    for place in range(max(len(above), len(below))):
        top = above[place].strip() if place < len(above) else ""
        bottom = below[place].strip() if place < len(below) else ""
        over = top or (over if bottom else "")
        joined.append(
            f"{over} {bottom}".strip() if _meaning(bottom) == "" or not over else _shorter(over, bottom)
        )
    meant = sum(1 for cell in filled if _meaning(cell)) + sum(
        1
        for cell, whole in zip(below, joined, strict=False)
        if cell.strip() and not _meaning(cell) and _meaning(whole)
    )
    return tuple(joined) if meant >= max(2, (len(filled) + 1) // 2) else None


def _shorter(over: str, bottom: str) -> str:
    """“Order” over “Number” is “Order Number”; “Ring” over “Size” is a size as well."""
    return f"{over} {bottom}" if _meaning(f"{over} {bottom}") else bottom


def _meaning(cell: str) -> str:
    folded = fold_heading(cell)
    if folded in HEADINGS:
        return HEADINGS[folded][0]
    return f"kept {folded}" if folded in KEPT else ""

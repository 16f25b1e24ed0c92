"""Lines that somebody ticked, as forms send them: key and edition that was looked at, “12.3”."""

from __future__ import annotations

import re
from collections.abc import Iterable

from kizami.wording.order_list import LARGEST_LIST_ROWS

__all__ = ["ticked_lines"]

_TICKED = re.compile(r"(\d{1,18})\.(\d{1,9})", re.ASCII)


def ticked_lines(sent: Iterable[str]) -> dict[int, int | None]:
    """Keys and editions; what makes no sense is left out.

    >>> ticked_lines(["12.3", "x", "7"])
    {12: 3}
    """
    found: dict[int, int | None] = {}
    for text in list(sent)[:LARGEST_LIST_ROWS]:
        if match := _TICKED.fullmatch(text):
            found[int(match[1])] = int(match[2])
    return found

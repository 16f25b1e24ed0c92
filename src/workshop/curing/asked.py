"""Lines that a page names with the editions that were looked at."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

__all__ = ["MOST_LINES", "asked_lines"]

#: More lines than this are worked on in several goes.
MOST_LINES = 2000
_LONGEST_NUMBER = 10


def asked_lines(names: Sequence[str]) -> Iterator[tuple[int, int]]:
    """Lines with their editions, from names such as “17.2”; what is no such name is passed over.

    >>> list(asked_lines(["17.2", "x.1", "9", "1.2.3"]))
    [(17, 2)]
    """
    for name in names[:MOST_LINES]:
        line, _, edition = name.partition(".")
        if all(
            part.isascii() and part.isdecimal() and len(part) < _LONGEST_NUMBER for part in (line, edition)
        ):
            yield int(line), int(edition)

"""Numbers of things in words."""

from __future__ import annotations

__all__ = ["so_many"]


def so_many(count: float, one: str, several: str = "") -> str:
    """A whole number with what it counts.

    Parameters
    ----------
    one, several : what stands behind the number of one, and of any other; an s more where it is not given

    >>> so_many(1, "letter"), so_many(3, "letter"), so_many(0, "closed middle")
    ('1 letter', '3 letters', '0 closed middles')
    >>> so_many(1, "part is", "parts are"), so_many(2.0, "part is", "parts are")
    ('1 part is', '2 parts are')
    """
    return f"{count:.0f} {one if round(count) == 1 else several or f'{one}s'}"

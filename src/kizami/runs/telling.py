"""How far work on runs is, told to whoever wants to know."""

from __future__ import annotations

from collections.abc import Callable

__all__ = ["Told", "tell_nobody"]

#: Done, of how many, and what is being done.
Told = Callable[[int, int, str], None]


def tell_nobody(done: int, total: int, said: str) -> None:
    """For a caller who does not want to know."""

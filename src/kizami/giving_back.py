"""Memory that was let go of, given back to the machine.

Making a piece takes and lets go of arrays of all sizes. The C library keeps what lies between those that are
still held, and a process that makes pieces grows to twice what it needs, each of several for itself.
"""

from __future__ import annotations

import ctypes
import ctypes.util
from collections.abc import Callable
from functools import cache

__all__ = ["give_back"]


def give_back() -> bool:
    """Give free memory back to the machine, where its C library can: after some pieces, not after each.

    Returns
    -------
    whether there was any
    """
    return bool(_trim()(0))


@cache
def _trim() -> Callable[[int], int]:
    """GNU's `malloc_trim` (malloc.h); where there is none, nothing is given back."""
    try:
        found: Callable[[int], int] = ctypes.CDLL(ctypes.util.find_library("c")).malloc_trim
    except (AttributeError, OSError, TypeError):
        return lambda _: 0
    return found

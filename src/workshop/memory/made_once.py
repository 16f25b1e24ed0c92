"""A memory of things that take long to make: bounded in bytes, and each thing made by one at a time."""

from __future__ import annotations

import threading
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

from cachetools import LRUCache

__all__ = ["MadeOnce"]

_Key = TypeVar("_Key", bound=Hashable)
_Thing = TypeVar("_Thing")


class MadeOnce(Generic[_Key, _Thing]):
    """Things by key; the one that was not asked for longest goes when there is no more room.

    Several who ask for the same thing at the same time wait for the first of them.

    Parameters
    ----------
    make : the thing of a key
    size_of : its bytes, about
    most_bytes : of all things together; a larger one is made every time
    """

    def __init__(
        self, make: Callable[[_Key], _Thing], *, size_of: Callable[[_Thing], int], most_bytes: int
    ) -> None:
        self._make = make
        self._kept: LRUCache[_Key, _Thing] = LRUCache(most_bytes, getsizeof=size_of)
        self._lock = threading.Lock()
        self._making: dict[_Key, threading.Lock] = {}

    def get(self, key: _Key) -> _Thing:
        """The thing of a key. What making it raises is raised to each who asks, and nothing is kept."""
        with self._lock:
            found = self._kept.get(key)
            if found is not None:
                return found
            turn = self._making.setdefault(key, threading.Lock())
        with turn:
            with self._lock:
                found = self._kept.get(key)
            if found is None:
                try:
                    found = self._make(key)
                    with self._lock:
                        if self._kept.getsizeof(found) <= self._kept.maxsize:
                            self._kept[key] = found
                finally:
                    # Only now: whoever asks from here on finds what is kept, or begins anew.
                    with self._lock:
                        self._making.pop(key, None)
            return found

    @property
    def bytes_kept(self) -> int:
        """Of all things that are remembered."""
        with self._lock:
            return int(self._kept.currsize)

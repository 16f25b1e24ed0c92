"""How far work on runs is, and the best so far, told to whoever wants to know."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import shapely

__all__ = ["Seen", "Told", "tell_nobody"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Seen:
    """A bed as it stands while better ones are looked for.

    Attributes
    ----------
    width_mm, depth_mm : of the bed
    outlines : what lies on it, where it lies
    said : what it is, in words
    """

    width_mm: float
    depth_mm: float
    outlines: Sequence[shapely.Geometry]
    said: str


class Told(Protocol):
    """Is told how many are done, of how many, what is being done, and now and then the best so far."""

    def __call__(self, done: int, total: int, said: str, seen: Seen | None = None, /) -> None: ...


def tell_nobody(done: int, total: int, said: str, seen: Seen | None = None, /) -> None:
    """For a caller who does not want to know."""

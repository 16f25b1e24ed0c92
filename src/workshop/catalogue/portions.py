"""Long rows of trials, a portion in each request: the page shows what is done and asks for the next."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Generic, Self, TypeVar

from django.http import HttpRequest

__all__ = ["Portion", "counted", "next_portion"]

_Thing = TypeVar("_Thing")
_Result = TypeVar("_Result")

#: No request works longer on trials than this and the one trial that it is at.
_MOST_S = 0.4


@dataclass(frozen=True, kw_only=True, slots=True)
class Portion(Generic[_Result]):
    """What was done now.

    Attributes
    ----------
    results : of the trials of this portion
    done, total : trials up to here, and all
    """

    results: Sequence[_Result]
    done: int
    total: int

    @classmethod
    def none(cls, done: int, total: int) -> Self:
        """Nothing of a row that stands where it stood."""
        return cls(results=(), done=min(done, total), total=total)

    @property
    def goes_on(self) -> bool:
        """Whether another portion is to be asked for."""
        return self.done < self.total


def next_portion(
    things: Sequence[_Thing],
    work: Callable[[_Thing], _Result],
    *,
    start: int,
) -> Portion[_Result]:
    """Work on things from `start` on, one at least, for as long as a request may take."""
    until = time.monotonic() + _MOST_S
    results: list[_Result] = []
    for thing in things[start:]:
        results.append(work(thing))
        if time.monotonic() >= until:
            break
    return Portion(results=results, done=min(start, len(things)) + len(results), total=len(things))


def counted(request: HttpRequest, name: str) -> int:
    """A count that a page carries from portion to portion; 0 where it is none."""
    text = request.GET.get(name, "")
    return int(text) if text.isdecimal() and len(text) < 10 else 0

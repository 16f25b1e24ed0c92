"""Sharing the lines of a list among processes: what one product needs is made ready in one of them.

Each process has a lane of its own and works down it product by product and size by size, so that blanks,
letters and faces that were made for one piece are at hand for the next and need not be kept for long. Whoever
has come to the end of his lane takes from the end of the longest.
"""

from __future__ import annotations

import gc
import multiprocessing
from collections import defaultdict, deque
from collections.abc import Callable, Iterator, Sequence
from multiprocessing.connection import Connection, wait
from typing import Any, TypeVar

from kizami.errors import StoppedError
from kizami.pieces.lines import Line
from kizami.remembering import hold_at_most

__all__ = ["in_good_order", "work_shared"]

_Result = TypeVar("_Result")
#: Lines that are handed out at once.
_CHUNK = 8
#: What each process remembers: the next product needs little of what the last one did.
_HELD_BYTES = 32 * 1024 * 1024


def in_good_order(lines: Sequence[Line]) -> list[int]:
    """Numbers of the lines, those of one product and size one after the other.

    >>> in_good_order([])
    []
    """
    first: dict[tuple[str, str], int] = {}
    for number, line in enumerate(lines):
        first.setdefault((line.product.code, line.row.size), number)
    by_product = {code: number for (code, _), number in reversed(first.items())}
    return sorted(
        range(len(lines)),
        key=lambda n: (by_product[lines[n].product.code], first[lines[n].product.code, lines[n].row.size], n),
    )


def work_shared(
    lines: Sequence[Line], work: Callable[[Line], _Result], *, jobs: int
) -> Iterator[tuple[int, _Result]]:
    """Do some work on every line in several processes.

    Returns
    -------
    the number of each line and what came of it, in the order in which they were done

    Raises
    ------
    StoppedError : a process was killed; what the work itself raises is raised here as well
    """
    lanes = _lanes(lines, min(jobs, len(lines)))
    workers = []
    busy: dict[Any, int] = {}
    try:
        for own in range(len(lanes)):
            chunk = _next_of(lanes, own)
            if not chunk:
                break
            # One after the other, so that none holds the end of another and a killed one is noticed.
            ours, theirs = multiprocessing.Pipe()
            workers.append(multiprocessing.Process(target=_serve, args=(theirs, lines, work), daemon=True))
            workers[-1].start()
            theirs.close()
            ours.send(chunk)
            busy[ours] = own
        while busy:
            ready: Any
            for ready in wait(list(busy)):
                done = _received(ready)
                chunk = _next_of(lanes, busy[ready])
                ready.send(chunk)
                if not chunk:
                    del busy[ready]
                yield from done
    finally:
        for worker in workers:
            worker.terminate()
            worker.join()


def _lanes(lines: Sequence[Line], count: int) -> list[deque[int]]:
    """Lines of one product go into one lane, the most numerous first into the lane that has the fewest."""
    products: dict[str, list[int]] = defaultdict(list)
    for number in in_good_order(lines):
        products[lines[number].product.code].append(number)
    lanes: list[deque[int]] = [deque() for _ in range(count)]
    for numbers in sorted(products.values(), key=len, reverse=True):
        min(lanes, key=len).extend(numbers)
    return lanes


def _next_of(lanes: Sequence[deque[int]], own: int) -> list[int]:
    """Numbers to be done next; none when there are none left anywhere."""
    if lanes[own]:
        return [lanes[own].popleft() for _ in range(min(_CHUNK, len(lanes[own])))]
    longest = max(lanes, key=len)
    # Half of what is left, so that all come to their end together.
    return [longest.pop() for _ in range(min(_CHUNK, (len(longest) + 1) // 2))][::-1]


def _received(end: Any) -> list[tuple[int, Any]]:
    try:
        done = end.recv()
    except EOFError as error:
        raise StoppedError(
            "A process that makes pieces was stopped from outside, most likely for want of memory. "
            "No report was written; make the list again on fewer cores."
        ) from error
    if isinstance(done, BaseException):
        raise done
    found: list[tuple[int, Any]] = done
    return found


def _serve(end: Connection, lines: Sequence[Line], work: Callable[[Line], Any]) -> None:
    # What was there before belongs to all processes together: looking through it for garbage would give
    # each its own copy.
    gc.freeze()
    hold_at_most(_HELD_BYTES)
    parent = multiprocessing.parent_process()
    assert parent is not None
    while True:
        # Whoever asked may have been killed.
        if end not in wait([end, parent.sentinel]):
            return
        numbers = end.recv()
        if not numbers:
            return
        try:
            end.send([(number, work(lines[number])) for number in numbers])
        except Exception as error:  # noqa: BLE001 - raised again where the work was asked for
            end.send(error)
            return

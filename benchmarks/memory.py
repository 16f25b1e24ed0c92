"""Memory of a process and its children, pages that they share counted once."""

from __future__ import annotations

import os
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

__all__ = ["Peak", "peak_memory"]

_EVERY_S = 0.2


class Peak:
    """The largest that was seen, MB."""

    mb = 0.0


@contextmanager
def peak_memory() -> Iterator[Peak]:
    """Watch this process and its children while something runs.

    Summed are proportional set sizes: of a page that several processes share each counts its part, so that
    the sum is what they take together.
    """
    peak, over = Peak(), threading.Event()

    def watch() -> None:
        while not over.wait(_EVERY_S):
            peak.mb = max(peak.mb, sum(_proportional_mb(pid) for pid in _family(os.getpid())))

    thread = threading.Thread(target=watch, daemon=True)
    thread.start()
    try:
        yield peak
    finally:
        over.set()
        thread.join()


def _family(pid: int) -> Iterator[int]:
    yield pid
    for task in Path(f"/proc/{pid}/task").glob("*/children"):
        try:
            children = [int(child) for child in task.read_text().split()]
        except OSError:
            continue
        for child in children:
            yield from _family(child)


def _proportional_mb(pid: int) -> float:
    try:
        lines = Path(f"/proc/{pid}/smaps_rollup").read_text().splitlines()
    except OSError:
        # It has ended meanwhile.
        return 0.0
    return next((int(line.split()[1]) / 1024 for line in lines if line.startswith("Pss:")), 0.0)

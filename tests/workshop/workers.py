"""Workers as programs of their own, as they run in a shop."""

from __future__ import annotations

import contextlib
import subprocess
import sys
import time
from collections.abc import Callable, Iterator, Mapping

__all__ = ["started_worker", "wait_until", "worker"]


def started_worker(environment: Mapping[str, str]) -> subprocess.Popen[bytes]:
    """A worker on the test database."""
    return subprocess.Popen(
        [sys.executable, "-m", "django", "procrastinate", "worker", "--concurrency", "1"],
        env=dict(environment), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL,
    )  # fmt: skip


@contextlib.contextmanager
def worker(environment: Mapping[str, str]) -> Iterator[subprocess.Popen[bytes]]:
    """A worker that is asked to end when it is no longer needed."""
    running = started_worker(environment)
    try:
        yield running
    finally:
        running.terminate()
        running.wait()


def wait_until(condition: Callable[[], bool], seconds: float = 60.0) -> None:
    """Wait for something that another program does."""
    deadline = time.monotonic() + seconds
    while not condition():
        assert time.monotonic() < deadline, "it took too long"
        time.sleep(0.05)

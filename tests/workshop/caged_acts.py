"""What a child in the cage may be made to do; found by its name in there, so in a module of its own."""

from __future__ import annotations

import os
import signal
import time
from pathlib import Path

from kizami.errors import OrderListError


def hoard() -> int:
    """Take memory without end."""
    return len([bytes(1 << 20) for _ in range(10_000)])


def spin() -> None:
    """Compute without end."""
    while True:
        pass


def sleep() -> None:
    """Do nothing without end."""
    time.sleep(3600)


def talk() -> bytes:
    """Answer too much."""
    return os.urandom(3 << 20)


def crash() -> None:
    """End as a broken library does."""
    os.kill(os.getpid(), signal.SIGSEGV)


def write(path: str) -> None:
    """Leave something behind."""
    Path(path).write_bytes(b"x" * 10_000)


def refuse() -> None:
    """Say why not."""
    raise OrderListError("No orders here.")


def divide() -> float:
    """Break in a way that nobody thought of."""
    return 1 / 0

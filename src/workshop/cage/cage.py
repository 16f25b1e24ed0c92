"""Calling a function on data from outside in a child process with limits.

Whatever a file does to its reader (unfolds without end, runs for ever, breaks a library written in C) ends
with that child. The caller gets the result, or a sentence.

Children are forked from a process that has read the libraries already and has no threads, so that one
starts in some hundredths of a second and takes no lock of the caller's with it.
"""

from __future__ import annotations

import contextlib
import logging
import multiprocessing
import os
import pickle
import resource
import signal
import threading
import traceback
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import cache
from multiprocessing.connection import Connection
from multiprocessing.context import ForkServerContext
from pathlib import Path
from typing import Any, TypeVar

from kizami.errors import KizamiError

__all__ = ["LIMITS", "CageLimits", "call_in_cage"]

_Result = TypeVar("_Result")
_log = logging.getLogger(__name__)


@dataclass(frozen=True, kw_only=True, slots=True)
class CageLimits:
    """What reading one file may take.

    Attributes
    ----------
    memory_mb : beyond what the libraries themselves hold
    processor_s, wall_s : time of computing, and by the clock
    output_mb : of what is handed back
    """

    memory_mb: int = 512
    processor_s: int = 20
    wall_s: float = 40.0
    output_mb: int = 160


LIMITS = CageLimits()
#: Files that one process lets be read at the same time; others wait for their turn.
_AT_ONCE = threading.BoundedSemaphore(2)
_LONGEST_WAIT_S = 60.0


def call_in_cage(
    function: Callable[..., _Result],
    *arguments: Any,
    refusal: type[Exception],
    limits: CageLimits = LIMITS,
    **options: Any,
) -> _Result:
    """Call a function in a child process.

    Parameters
    ----------
    function : of a module, so that the child finds it by its name; its arguments and result can be pickled
    refusal : raised, with a sentence, when the child needed more than it may have, or broke

    Raises
    ------
    kizami.errors.KizamiError : what the function raised
    Exception : `refusal`
    """
    with _turn(refusal):
        parent, child = _context().Pipe(duplex=False)
        with contextlib.closing(parent):
            process = _context().Process(
                target=_run, args=(child, function, arguments, options, limits), daemon=True
            )
            with contextlib.closing(child):
                process.start()
            try:
                answer = _answer_of(parent, limits)
            finally:
                process.kill()
                process.join()
    if isinstance(answer, _Broken):
        _log.warning("a file broke its reading: %s", answer.where)
        answer = "broken"
    if isinstance(answer, str):
        raise refusal(_SAID[answer].format(limits=limits))
    good, value = answer
    if not good:
        raise value
    result: _Result = value
    return result


_SAID = {
    "memory": "The file takes more than {limits.memory_mb} MB to read, which no such file needs. "
    "Nothing was stored.",
    "time": "The file takes more than {limits.processor_s} seconds to read, which no such file needs. "
    "Nothing was stored.",
    "output": "The file unfolds to more than {limits.output_mb} MB. Nothing was stored.",
    "broken": "The file broke off its own reading: it is damaged, or made to do harm. Nothing was stored.",
}


@contextlib.contextmanager
def _turn(refusal: type[Exception]) -> Iterator[None]:
    if not _AT_ONCE.acquire(timeout=_LONGEST_WAIT_S):
        raise refusal("Too many files are being read at the moment. Nothing was stored: send it again.")
    try:
        yield
    finally:
        _AT_ONCE.release()


def _answer_of(parent: Connection, limits: CageLimits) -> tuple[bool, Any] | _Broken | str:
    """What the child says, or what became of it."""
    try:
        if not parent.poll(limits.wall_s):
            return "time"
        said = parent.recv_bytes(limits.output_mb * 1024 * 1024)
    except EOFError:
        return "broken"
    except OSError:
        return "output"
    # The child is this very program; what it hands back it has written itself.
    answer: tuple[bool, Any] | _Broken | str = pickle.loads(said)  # noqa: S301
    return answer


@cache
def _context() -> ForkServerContext:
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(["workshop.cage.readers"])
    return context


def _run(
    answer: Connection,
    function: Callable[..., object],
    arguments: tuple[Any, ...],
    options: dict[str, Any],
    limits: CageLimits,
) -> None:
    """In the child: take the limits on, call, say what came of it."""
    _limit(limits)
    signal.signal(signal.SIGXCPU, lambda *_: _end(answer, "time"))
    try:
        said = pickle.dumps((True, function(*arguments, **options)))
    except MemoryError:
        _end(answer, "memory")
    except KizamiError as error:
        said = pickle.dumps((False, error))
    except Exception as error:  # noqa: BLE001 - whatever a file breaks is the file's fault until looked at
        said = pickle.dumps(_Broken(where=_where(error)))
    try:
        answer.send_bytes(said)
    except (OSError, ValueError):
        _end(answer, "output")
    # No clearing up: what a file may have broken is not to be touched once more.
    os._exit(0)


@dataclass(frozen=True, kw_only=True, slots=True)
class _Broken:
    where: str


def _where(error: Exception) -> str:
    """What broke and where, without what the file says: logs hold nobody's words."""
    frames = traceback.extract_tb(error.__traceback__)[-4:]
    at = " < ".join(f"{Path(frame.filename).name}:{frame.lineno}" for frame in reversed(frames))
    return f"{type(error).__name__} at {at}"


def _end(answer: Connection, said: str) -> None:
    with contextlib.suppress(OSError):
        answer.send_bytes(pickle.dumps(said))
    os._exit(1)


def _limit(limits: CageLimits) -> None:
    memory = _data_bytes() + limits.memory_mb * 1024 * 1024
    for what, most in (
        (resource.RLIMIT_DATA, memory),
        (resource.RLIMIT_FSIZE, 0),
        (resource.RLIMIT_CORE, 0),
        (resource.RLIMIT_NOFILE, 64),
    ):
        resource.setrlimit(what, (most, most))
    resource.setrlimit(resource.RLIMIT_CPU, (limits.processor_s, limits.processor_s + 2))


def _data_bytes() -> int:
    """What this process holds already: the libraries, and the file itself."""
    for line in Path("/proc/self/status").read_text("ascii").splitlines():
        if line.startswith("VmData:"):
            return int(line.split()[1]) * 1024
    return 0

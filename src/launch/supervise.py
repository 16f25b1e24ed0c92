"""Running the web server and the workers, and stopping everything that was started."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from launch.service import ServiceUser, as_user

__all__ = ["Supervisor"]

_PATIENCE_S = 15.0
#: A child that ends sooner than this after its start is not started again at once.
_SOON_S = 30.0
_LONGEST_PAUSE_S = 60.0
_LARGEST_LOG_BYTES = 5 * 1024 * 1024


@dataclass(kw_only=True, slots=True)
class Supervisor:
    """Child processes by name. One that ends by itself is started again, but not in a tight loop."""

    logs: Path
    environment: dict[str, str]
    user: ServiceUser | None = None
    _commands: dict[str, list[str]] = field(default_factory=dict)
    _children: dict[str, subprocess.Popen[bytes]] = field(default_factory=dict)
    _started: dict[str, float] = field(default_factory=dict)
    _pauses: dict[str, float] = field(default_factory=dict)
    _again_at: dict[str, float] = field(default_factory=dict)
    _stopping: threading.Event = field(default_factory=threading.Event)

    def add(self, name: str, command: list[str]) -> None:
        """Start a child; its output goes to `logs/<name>.log`."""
        self._commands[name] = command
        self._started[name] = time.monotonic()
        descriptor = os.open(self.logs / f"{name}.log", os.O_WRONLY | os.O_CREAT | os.O_APPEND, 0o600)
        with os.fdopen(descriptor, "ab") as log:
            self._children[name] = subprocess.Popen(
                command, env=self.environment, stdin=subprocess.DEVNULL, stdout=log, stderr=log,
                start_new_session=True, umask=0o077, **as_user(self.user),
            )  # fmt: skip

    def watch(self, *, revive: Callable[[], bool] = lambda: False) -> None:
        """Wait until a stop is asked for, replacing children that die.

        Parameters
        ----------
        revive : brings back what the children need, should it be gone; says whether it was
        """
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, lambda *_: self._stopping.set())
        while not self._stopping.wait(0.5):
            revive()
            self._turn_logs()
            for name, child in list(self._children.items()):
                if child.poll() is not None and time.monotonic() >= self._again_at.get(name, 0.0):
                    self._replace(name, child.returncode)

    def _turn_logs(self) -> None:
        """Put a log that has grown aside and begin it anew; of each the last one is kept."""
        for name in self._commands:
            log = self.logs / f"{name}.log"
            if log.stat().st_size > _LARGEST_LOG_BYTES:
                shutil.copy(log, log.with_suffix(".log.1"))
                log.with_suffix(".log.1").chmod(0o600)
                # The child writes at the end of the file, wherever that is: it goes on in the emptied one.
                os.truncate(log, 0)

    def _replace(self, name: str, code: int) -> None:
        """Start a child again: at once, unless it ended soon after its last start; then after a while."""
        if name not in self._again_at and time.monotonic() - self._started[name] < _SOON_S:
            pause = min(2 * self._pauses.get(name, 0.5), _LONGEST_PAUSE_S)
            self._pauses[name] = pause
            self._again_at[name] = time.monotonic() + pause
            print(f"{name} ended with code {code}; starting it again in {pause:.0f} s.", file=sys.stderr)
            return
        if self._again_at.pop(name, None) is None:
            self._pauses.pop(name, None)
            print(f"{name} ended with code {code}; starting it again.", file=sys.stderr)
        self.add(name, self._commands[name])

    def ended(self, name: str) -> int | None:
        """The code with which a child ended, or None while it runs."""
        return self._children[name].poll()

    def stop(self) -> None:
        """End all children: first asked, then made to."""
        for child in self._children.values():
            _signal(child, signal.SIGTERM)
        deadline = time.monotonic() + _PATIENCE_S
        for child in self._children.values():
            try:
                child.wait(max(0.1, deadline - time.monotonic()))
            except subprocess.TimeoutExpired:
                _signal(child, signal.SIGKILL)
                child.wait()


def _signal(child: subprocess.Popen[bytes], number: int) -> None:
    try:
        os.killpg(child.pid, number)
    except ProcessLookupError:
        pass

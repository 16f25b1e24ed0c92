"""Running the web server and the workers, and stopping everything that was started."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time
from dataclasses import dataclass, field
from pathlib import Path

__all__ = ["Supervisor"]

_PATIENCE_S = 15.0


@dataclass(kw_only=True, slots=True)
class Supervisor:
    """Child processes by name. One that ends by itself is started again, but not in a tight loop."""

    logs: Path
    environment: dict[str, str]
    _commands: dict[str, list[str]] = field(default_factory=dict)
    _children: dict[str, subprocess.Popen[bytes]] = field(default_factory=dict)
    _stopping: threading.Event = field(default_factory=threading.Event)

    def add(self, name: str, command: list[str]) -> None:
        """Start a child; its output goes to `logs/<name>.log`."""
        self._commands[name] = command
        with (self.logs / f"{name}.log").open("ab") as log:
            self._children[name] = subprocess.Popen(
                command, env=self.environment, stdin=subprocess.DEVNULL, stdout=log, stderr=log,
                start_new_session=True,
            )  # fmt: skip

    def watch(self) -> None:
        """Wait until a stop is asked for, replacing children that die."""
        for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
            signal.signal(number, lambda *_: self._stopping.set())
        while not self._stopping.wait(0.5):
            for name, child in list(self._children.items()):
                if child.poll() is not None:
                    print(f"{name} ended with code {child.returncode}; starting it again.", file=sys.stderr)
                    time.sleep(1.0)
                    if not self._stopping.is_set():
                        self.add(name, self._commands[name])

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

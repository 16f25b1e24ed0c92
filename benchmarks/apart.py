"""A group that is measured in a process of its own: Django is set up once, and its memory is its own."""

from __future__ import annotations

import json
import subprocess
import sys
from collections.abc import Iterable, Iterator
from typing import Any

from benchmarks.figure import Figure

__all__ = ["figures_apart", "row", "tell"]


def row(
    name: str, value: float, unit: str, target: float | None = None, *, at_most: bool = True
) -> dict[str, Any]:
    """A figure of a group, as it is handed over."""
    return {"name": name, "value": value, "unit": unit, "target": target, "at_most": at_most}


def tell(rows: Iterable[dict[str, Any]]) -> None:
    """Hand figures over as they are measured: of a group that ends early, the first are known."""
    for one in rows:
        print(json.dumps(one), flush=True)


def figures_apart(module: str, *, group: str) -> Iterator[Figure]:
    """The figures that a module tells when it is run.

    Raises
    ------
    subprocess.CalledProcessError : it ended before its last figure
    """
    command = [sys.executable, "-m", module]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout is not None
        for line in process.stdout:
            if line.startswith("{"):
                yield Figure(group=group, **json.loads(line))
    if process.returncode:
        raise subprocess.CalledProcessError(process.returncode, command)

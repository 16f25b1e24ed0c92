"""Laying by true outlines with a kept library, in a process of its own: it may overrun its time or break off,
and what it returns is checked by other code."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from kizami.runs.laying import Ground, Item, Place

__all__ = ["Strip", "lay_on_strip"]

#: Beyond its time the library is given so long to say what it has.
_GRACE_S = 6.0


@dataclass(frozen=True, kw_only=True, slots=True)
class Strip:
    """Pieces on a strip as deep as the bed's room.

    Attributes
    ----------
    places : from the bed's corner; those too far right do not lie on the bed
    length_mm : of the strip that they take
    """

    places: tuple[Place, ...]
    length_mm: float


def lay_on_strip(
    items: Sequence[Item],
    ground: Ground,
    *,
    seconds: float,
    seed: int,
    better: Callable[[Strip], None] = lambda _: None,
) -> Strip | None:
    """The shortest strip that is found in a time; None when the library found none or broke off.

    Parameters
    ----------
    better : is shown each strip that is shorter than all before it, while the search goes on
    """
    if not items or seconds < 1.0:
        return None
    _, low_y, _, high_y = ground.room
    gap = ground.gap_mm
    asked = {
        # The library keeps its gap to the strip's edges too; there the margin is enough.
        "height": high_y - low_y + 2.0 * gap + _EXTRA_MM,
        "gap": gap + _EXTRA_MM,
        "seconds": max(1, round(seconds)),
        "seed": seed,
        "turns": list(ground.turns_deg),
        "items": [list(item.shape.rough.exterior.coords)[:-1] for item in items],
        "round": [item.shape.is_round for item in items],
    }
    found: Strip | None = None
    for answer in _answers(asked, seconds + _GRACE_S):
        strip = _strip(answer, items, ground)
        if found is None or strip.length_mm < found.length_mm:
            found = strip
            better(strip)
    return found


#: The library counts in single precision.
_EXTRA_MM = 2e-3


def _strip(answer: dict[str, object], items: Sequence[Item], ground: Ground) -> Strip:
    low_x, low_y, _, _ = ground.room
    rows: list[list[float]] = answer["places"]  # type: ignore[assignment]
    places = tuple(
        Place(
            key=items[int(number)].key,
            x_mm=low_x - ground.gap_mm + x,
            y_mm=low_y - ground.gap_mm + y,
            turn_deg=turn,
        )
        for number, x, y, turn in rows
    )
    return Strip(places=places, length_mm=float(answer["length"]) - 2.0 * ground.gap_mm)  # type: ignore[arg-type]


def _answers(asked: dict[str, object], most_s: float) -> Iterator[dict[str, object]]:
    """What the process says, a line for each better strip, until it ends or its time is over."""
    command = [sys.executable, "-m", "kizami.runs.strip_worker"]
    # The process finds the same modules as this one, however this one was told of them.
    where = {**os.environ, "PYTHONPATH": os.pathsep.join(filter(None, sys.path))}
    with subprocess.Popen(
        command,
        stdin=subprocess.PIPE,
        stdout=subprocess.PIPE,
        stderr=subprocess.DEVNULL,
        text=True,
        env=where,
    ) as worker:
        if worker.stdin is None or worker.stdout is None:
            return
        # Also where it says nothing at all any more.
        ends = threading.Timer(most_s, worker.kill)
        ends.start()
        try:
            worker.stdin.write(json.dumps(asked))
            worker.stdin.close()
            for line in worker.stdout:
                yield json.loads(line)
        except (OSError, ValueError):
            return
        finally:
            ends.cancel()
            worker.kill()

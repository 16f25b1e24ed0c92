"""The process in which the library lays pieces on a strip: a question as JSON in, better and better answers
out."""

from __future__ import annotations

import json
import os
import sys
import threading
from typing import Any

import spyrrow

__all__ = ["main"]

_LOOK_EVERY_S = 0.25


def main() -> int:
    """Answer the question on standard input."""
    asked: dict[str, Any] = json.load(sys.stdin)
    turns = asked["turns"]
    items = [
        spyrrow.Item(str(number), [tuple(p) for p in outline], 1, [turns[0]] if is_round else turns)
        for number, (outline, is_round) in enumerate(zip(asked["items"], asked["round"], strict=True))
    ]
    instance = spyrrow.StripPackingInstance("bed", asked["height"], items)
    config = spyrrow.StripPackingConfig(
        early_termination=True,
        min_items_separation=asked["gap"] or None,
        total_computation_time=asked["seconds"],
        num_workers=os.cpu_count() or 1,
        seed=asked["seed"],
    )
    news = spyrrow.ProgressQueue()
    done = threading.Event()
    last: list[Any] = []

    def solve() -> None:
        try:
            last.append(instance.solve(config, news))
        finally:
            done.set()

    threading.Thread(target=solve, daemon=True).start()
    shortest = float("inf")
    while not done.wait(_LOOK_EVERY_S):
        for kind, solution in news.drain():
            if kind in (spyrrow.ReportType.ExplFeas, spyrrow.ReportType.CmprFeas):
                shortest = _say(solution, shortest)
    for solution in last:
        _say(solution, shortest)
    return 0


def _say(solution: Any, shortest: float) -> float:
    if solution.width >= shortest:
        return shortest
    places = [[int(p.id), *p.translation, p.rotation] for p in solution.placed_items]
    sys.stdout.write(json.dumps({"length": solution.width, "places": places}) + "\n")
    sys.stdout.flush()
    return float(solution.width)


if __name__ == "__main__":
    sys.exit(main())

"""Group `orders`: reading, trial and the Order book with ten thousand lines."""

from __future__ import annotations

import resource
import time
from collections import Counter
from collections.abc import Callable, Iterator
from typing import Any

from benchmarks.apart import figures_apart, row, tell
from benchmarks.database import shop_database
from benchmarks.figure import Figure, percentile
from benchmarks.sample import catalogue, order_list
from benchmarks.standing import stand_as_made
from tests.corpus.encoded_lists import encoded_lists, read_back
from tests.corpus.outcome import outcome
from tests.corpus.read_rows import lists

__all__ = ["figures"]

_LINES = 10_000
_FILES = 2_000


def figures() -> Iterator[Figure]:
    """Every figure, in a process of its own."""
    return figures_apart("benchmarks.orders", group="orders")


def _timed(work: Callable[[], Any]) -> tuple[float, Any]:
    start = time.perf_counter()
    result = work()
    return time.perf_counter() - start, result


def _read_right() -> Iterator[dict[str, Any]]:
    """Rows and letters against what was written down for them."""
    counts: Counter[str] = Counter()
    for one in lists():
        found, _ = outcome(one, catalogue())
        counts += found
    yield row("rows ready with other words than wanted", counts["wrong"], "", 0.0)
    yield _share("clear rows that are ready", counts["taken"] / counts["clear"], 97.0)
    yield _share("doubtful rows that are asked about", counts["asked"] / counts["to ask"], 99.0)
    files = [read_back(one) for one in encoded_lists(_FILES)]
    yield row("files taken with wrong letters", files.count("wrong"), "", 0.0)
    yield row("files whose letters are asked about", 100 * files.count("asked") / len(files), "%", 5.0)


def _share(name: str, share: float, target: float) -> dict[str, Any]:
    return row(name, 100 * share, "%", target, at_most=False)


def _measure() -> Iterator[dict[str, Any]]:
    from django.contrib.auth.models import User
    from django.test import Client

    from kizami.wording.order_list import read_order_list
    from workshop.intake.taking import open_intake, take, trial_of
    from workshop.orders.models import OrderLine

    yield from _read_right()
    data = order_list(_LINES, seed=7)
    smaller = order_list(_LINES // 2, seed=7)
    # In turn and three times, so that a busy moment of the machine falls on both.
    runs = [[_timed(lambda d=d: read_order_list(d)) for d in (data, smaller)] for _ in range(3)]
    (spent, read), (half, _) = (
        sorted(column, key=lambda run: run[0])[1] for column in zip(*runs, strict=True)
    )
    yield row("reading 10,000 rows", spent, "s", 2.0)
    yield row("rows read a second", len(read.rows) / spent, "1/s")
    yield row("time for twice the rows", spent / half, "ratio", 3.0)
    owner = User.objects.get(username="maren")
    intake = open_intake(data, name="bench", source="bench", user=owner)
    spent, _ = _timed(lambda: trial_of(intake))
    yield row("trial of 10,000 new rows", spent, "s")
    spent, _ = _timed(lambda: take(intake, user=owner))
    yield row("taking 10,000 rows in", spent, "s")
    intake = open_intake(data, name="bench", source="bench", user=owner)
    spent, again = _timed(lambda: trial_of(intake))
    assert again.unchanged == _LINES
    yield row("trial of the same 10,000 rows again", spent, "s")
    # The lines stand as if made: the page shows strips and findings of the first sixty.
    lines = list(OrderLine.objects.select_related("product"))
    stand_as_made(lines)
    client = Client(SERVER_NAME="localhost")
    client.force_login(owner)
    # A beginning of one letter, words that stand there, one with a slip, one that stands nowhere.
    typed = ("a", "an", "ann", "crew", "crew ann", lines[0].order, lines[50].wording[:3] + "qx", "zqxjkvb")
    for name, words, limit in (("first paint", ("",), 400.0), ("filter by typing", typed, 250.0)):
        times = []
        for word in words:
            for _ in range(5 if len(words) > 1 else 24):
                spent, answer = _timed(lambda word=word: client.get("/orders/", {"q": word} if word else {}))
                assert answer.status_code == 200
                times.append(1000 * spent)
        yield row(
            f"{name} of the Order book with 10,000 lines, p95", percentile(times[2:], 0.95), "ms", limit
        )
    yield row("peak memory", resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024, "MB")


if __name__ == "__main__":
    with shop_database():
        tell(_measure())

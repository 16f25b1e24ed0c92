"""Group `web`: a shop with 100,000 lines, and fifty people on its pages at once."""

from __future__ import annotations

import asyncio
import csv
import io
import os
import random
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from benchmarks.apart import figures_apart, row, tell
from benchmarks.database import shop_database
from benchmarks.figure import Figure, percentile
from benchmarks.sample import mixed_list, order_list
from benchmarks.serving import web_server
from benchmarks.standing import copies_of, stand_as_made

__all__ = ["figures"]

_COPIES, _LINES = 9, 10_000
#: Lines that are truly made, for whoever looks at the bench.
_MADE = 74
_PEOPLE, _SECONDS = 50, 60.0
#: Before that they look at the same pages already: a web server that was just started is told apart.
_WARM_S = 30.0
#: What somebody needs to look at a page before the next one.
_LOOKS_S = (2.0, 6.0)
_PAGES = (
    "/orders/",
    "/orders/?stage=held",
    "/orders/?q=ann",
    "/bench/{line}/",
    "/bench/{line}/",
    "/bench/{line}/look/?wording=Ann{seed}",
    "/orders/rail/",
    "/catalogue/",
    "/orders/set-aside/",
)


def figures() -> Iterator[Figure]:
    """In a process of its own, on another database than other groups have."""
    return figures_apart("benchmarks.web", group="web")


def _timed(act: Callable[[], Any]) -> tuple[float, Any]:
    start = time.perf_counter()
    result = act()
    return time.perf_counter() - start, result


def _measure() -> Iterator[dict[str, Any]]:
    from django.contrib.auth.models import User
    from django.db import connection
    from django.test import Client

    from workshop.intake.taking import open_intake, take, take_list
    from workshop.making.tasks import make_list
    from workshop.memory.garbage import look_seldom
    from workshop.orders.models import OrderLine

    # As a process of the web server is set up.
    look_seldom()
    owner = User.objects.get(username="maren")
    data = order_list(_LINES, seed=7)
    first = take(open_intake(data, name="bench", source="bench", user=owner), user=owner)
    stand_as_made(list(OrderLine.objects.select_related("product")))
    for number in range(_COPIES):
        copies_of(first, number=number)
    shown = take_list(mixed_list(_MADE, seed=3), name="made", source="made", user=owner)
    make_list(shown.pk)
    with connection.cursor() as cursor:
        # As the database does by itself, in its own time.
        cursor.execute("VACUUM ANALYZE")
    assert OrderLine.objects.count() == (_COPIES + 1) * _LINES + _MADE
    client = Client(SERVER_NAME="localhost")
    client.force_login(owner)
    some = list(OrderLine.objects.order_by("pk").values_list("order", "wording")[:60])
    typed = ("a", "an", "ann", "crew", "crew ann", some[0][0], some[50][1][:3] + "qx", "zqxjkvb")
    # What is typed asks for the lines alone, as the page does.
    part = {"HX-Request": "true"}
    for name, words, times_each, headers, target in (
        ("first paint", ("",), 24, {}, 300.0),
        ("filter by typing", typed, 5, part, 200.0),
    ):
        times = []
        for word in words:
            for _ in range(times_each):
                spent, answer = _timed(
                    lambda word=word, headers=headers: client.get(
                        "/orders/", {"q": word} if word else {}, headers=headers
                    )
                )
                assert answer.status_code == 200, answer.status_code
                times.append(1000 * spent)
        yield row(f"{name} with 100,000 lines, p95", percentile(times[2:], 0.95), "ms", target)
    more = order_list(_LINES, seed=8)
    intake = open_intake(more, name="more", source="another", user=owner)
    spent, _ = _timed(lambda: take(intake, user=owner))
    yield row("taking 10,000 rows in beside 100,000", spent, "s", 5.0)
    intake = open_intake(_corrected(more), name="more", source="another", user=owner)
    spent, _ = _timed(lambda: take(intake, user=owner))
    yield row("a corrected list of 10,000 rows with 100 changes", spent, "s", 3.0)
    with connection.cursor() as cursor:
        # Nothing is made while people look at pages.
        cursor.execute("DELETE FROM procrastinate_jobs")
    lines = list(shown.lines.values_list("pk", flat=True))
    yield from _people(client.cookies["sessionid"].value, lines)


def _corrected(data: bytes) -> bytes:
    """The list with another wording in every hundredth row."""
    rows = list(csv.reader(io.StringIO(data.decode())))
    place = rows[0].index("wording")
    for cells in rows[1::100]:
        cells[place] += "a"
    out = io.StringIO(newline="")
    csv.writer(out).writerows(rows)
    return out.getvalue().encode()


def _people(session: str, lines: list[int]) -> Iterator[dict[str, Any]]:
    """Fifty people on mixed pages of a web server as `./start` runs it."""
    with web_server() as (address, server):
        cold, times, wrong, peak = asyncio.run(_walk(address, session, lines, server))
    yield row("50 people on mixed pages for 60 s, pages", len(times), "pages")
    yield row("50 people on mixed pages for 60 s, errors", wrong, "pages", 0.0)
    yield row("50 people on mixed pages for 60 s, p95", percentile(times, 0.95), "ms", 800.0)
    yield row("the same in the first 30 s after a start, p95", percentile(cold, 0.95), "ms")
    yield row("50 people on mixed pages for 60 s, median", percentile(times, 0.5), "ms")
    yield row("largest memory of a web process", peak, "MB", 700.0)


async def _walk(
    address: str, session: str, lines: list[int], server: int
) -> tuple[list[float], list[float], int, float]:
    """Times while it is cold and after, pages that were no answer, the largest memory."""
    import httpx

    # A browser asks again where the server had just closed a connection that lay still; this client does not,
    # so it lets go of one sooner than the server does.
    cold: list[float] = []
    times: list[float] = []
    wrong, peak = 0, 0.0
    warm_at = time.monotonic() + _WARM_S
    ends_at = warm_at + _SECONDS

    async def person(seed: int) -> None:
        nonlocal wrong
        rnd = random.Random(seed)
        async with httpx.AsyncClient(
            base_url=address,
            cookies={"sessionid": session},
            timeout=60,
            limits=httpx.Limits(keepalive_expiry=1.0),
        ) as client:
            await asyncio.sleep(rnd.uniform(0, _LOOKS_S[1]))
            while time.monotonic() < ends_at:
                line = rnd.choice(lines)
                page = rnd.choice(_PAGES).format(line=line, seed=seed)
                start = time.perf_counter()
                try:
                    wrong += (await client.get(page)).status_code != 200
                except httpx.HTTPError:
                    wrong += 1
                (times if time.monotonic() >= warm_at else cold).append(1000 * (time.perf_counter() - start))
                await asyncio.sleep(rnd.uniform(*_LOOKS_S))

    async def watch() -> None:
        nonlocal peak
        while time.monotonic() < ends_at:
            for pid in (server, *_children(server)):
                peak = max(peak, _memory_mb(pid))
            await asyncio.sleep(1.0)

    await asyncio.gather(watch(), *(person(seed) for seed in range(_PEOPLE)))
    return cold, times, wrong, peak


def _children(pid: int) -> list[int]:
    try:
        return [int(text) for text in Path(f"/proc/{pid}/task/{pid}/children").read_text().split()]
    except OSError:
        return []


def _memory_mb(pid: int) -> float:
    try:
        return int(Path(f"/proc/{pid}/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE") / 1e6
    except (OSError, IndexError):
        return 0.0


def _taken_by_others() -> tuple[int, int]:
    """Processor time that another machine on the same host took from this one, and all time, in ticks."""
    ticks = [int(text) for text in Path("/proc/stat").read_text().splitlines()[0].split()[1:]]
    return ticks[7], sum(ticks)


def _told_with_noise() -> Iterator[dict[str, Any]]:
    before = _taken_by_others()
    yield from _measure()
    stolen, all_time = (now - then for now, then in zip(_taken_by_others(), before, strict=True))
    yield row("processor time that others took meanwhile", 100 * stolen / all_time, "%")


if __name__ == "__main__":
    with shop_database():
        tell(_told_with_noise())

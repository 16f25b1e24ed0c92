"""Group `slice`, the web: server time of a redraw on the bench, on a database of its own."""

from __future__ import annotations

import time
from collections.abc import Iterator
from urllib.parse import quote

from benchmarks.database import shop_database
from benchmarks.figure import Figure, percentile
from benchmarks.sample import order_list

__all__ = ["figures"]

_GROUP = "slice"


def figures() -> Iterator[Figure]:
    """Redraws of the unrolled view and new solids, each with wording never seen before."""
    with shop_database():
        yield from _redraws()


def _redraws() -> Iterator[Figure]:
    from django.contrib.auth.models import User
    from django.test import Client

    from workshop.intake.taking import take_list
    from workshop.orders.models import OrderLine

    owner = User.objects.get(username="maren")
    take_list(order_list(8, seed=5), name="bench", user=owner)
    client = Client(SERVER_NAME="localhost")
    client.force_login(owner)
    lines = list(OrderLine.objects.all())
    names = [row.split(",")[4] for row in order_list(240, seed=6).decode().splitlines()[1:]]
    looks, solids = [], []
    for number, name in enumerate(names):
        line = lines[number % len(lines)]
        for path, times in ((f"/bench/{line.pk}/look/", looks), (f"/bench/{line.pk}/solid.stl", solids)):
            start = time.perf_counter()
            answer = client.get(f"{path}?wording={quote(name)}")
            # The first forty bring the alphabet in; a running server has long done that.
            if number >= 40:
                times.append(1000 * (time.perf_counter() - start))
            assert answer.status_code == 200, answer.status_code
    for name, times, target in (
        ("redraw of the unrolled view with flat checks", looks, 100.0),
        ("new solid for the turning view", solids, 400.0),
    ):
        yield Figure(
            group=_GROUP, name=f"{name}, p95", value=percentile(times, 0.95), unit="ms", target=target
        )
        yield Figure(group=_GROUP, name=f"{name}, median", value=percentile(times, 0.5), unit="ms")

"""Group `slice`, the web: server time of a redraw on the bench, on a database of its own."""

from __future__ import annotations

import os
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import quote

from benchmarks.figure import Figure, percentile
from benchmarks.sample import order_list
from launch.cluster import Cluster
from launch.state import REPOSITORY, open_state

__all__ = ["figures"]

_GROUP = "slice"


def figures() -> Iterator[Figure]:
    """Redraws of the unrolled view and new solids, each with wording never seen before."""
    # Under /tmp the server's own user reaches it, wherever the repository lies.
    with tempfile.TemporaryDirectory() as folder:
        Path(folder).chmod(0o755)
        state = open_state(Path(folder) / "state")
        cluster = Cluster.of(state, durable=False)
        cluster.start()
        try:
            os.environ.update(cluster.environment(), KIZAMI_STATE_DIR=str(state.folder))
            os.environ["DJANGO_SETTINGS_MODULE"] = "workshop.settings"
            yield from _redraws()
        finally:
            cluster.stop()


def _redraws() -> Iterator[Figure]:
    import django

    django.setup()
    from django.contrib.auth.models import User
    from django.core.management import call_command
    from django.test import Client

    from workshop.orders.intake import take_list
    from workshop.orders.models import OrderLine

    call_command("open_shop", "--empty", "--products", str(REPOSITORY / "demo" / "products.toml"))
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

"""Five thousand ready pieces to runs and released files: no request waits, memory is bounded."""

from __future__ import annotations

import multiprocessing
import resource
import time
from collections.abc import Callable, Iterator
from typing import TYPE_CHECKING

from benchmarks.database import shop_database
from benchmarks.figure import Figure, percentile

if TYPE_CHECKING:
    from django.test import Client

__all__ = ["figures"]

_GROUP = "many runs"
_NAMES = (
    "Ada", "Bruno", "Clara", "Dorian", "Elena", "Franz", "Greta", "Hugo", "Ines", "Jonas", "Karla", "Leo",
    "Marta", "Nils", "Olga", "Paul", "Rita", "Sven", "Tilda", "Vera",
)  # fmt: skip
#: Product, size and how many of each name: five thousand in all, for a printer, a laser and a flask.
_ORDERED = (("BUOY-FRAME", "", 60), ("SORREL-LEAF", "", 140), ("CHOIR-RING", "54", 50))
_PIECES = len(_NAMES) * sum(count for _, _, count in _ORDERED)


def figures() -> Iterator[Figure]:
    """Every figure of the group."""
    with shop_database():
        yield from _measured()


def _measured() -> Iterator[Figure]:
    from django.contrib.auth.models import User
    from django.test import Client
    from django.urls import reverse

    from workshop.intake.taking import take_list
    from workshop.making.tasks import make_list
    from workshop.orders.models import Piece
    from workshop.runs.models import Gathering, Run
    from workshop.stations.models import Station

    Station.objects.add_shipped()
    user = User.objects.get(username="maren")
    rows = [
        f"{product[:3]}{n},1,{product},{size},{name.upper() if product == 'BUOY-FRAME' else name},{count},"
        for product, size, count in _ORDERED
        for n, name in enumerate(_NAMES)
    ]
    text = "order,line,product,size,wording,quantity,due\n" + "\n".join(rows) + "\n"
    make_list(take_list(text.encode(), name="many.csv", user=user).pk)
    ready = Piece.objects.filter(stage="ready").count()
    client = Client(HTTP_HOST="127.0.0.1")
    client.force_login(user)
    waits = _Requests(client)
    waits.post(reverse("runs:propose"), {"seconds": "0"})
    gathering, most = _in_a_process(_gather, Gathering.objects.get().pk)
    yield _figure(f"{ready} ready pieces proposed as {Run.objects.count()} runs, time", gathering, "s")
    yield _figure("proposing, memory", most, "MB", 1000.0)
    waits.get(reverse("runs:runs"))
    released = []
    for run in Run.objects.order_by("pk"):
        address = reverse("runs:run", args=[run.code])
        waits.get(address)
        for act in ("take", "lock"):
            run.refresh_from_db()
            waits.post(reverse("runs:change", args=[run.code]), {"do": act, "edition": run.edition})
        released.append(_in_a_process(_release, run.pk))
        waits.get(address)
    waits.get(reverse("runs:runs"))
    yield _figure("pieces in released runs", _released(), "pieces", float(ready), at_most=False)
    yield _figure("writing and proving all of them on one core", sum(s for s, _ in released), "s")
    yield _figure("writing the largest run, memory", max(mb for _, mb in released), "MB", 1000.0)
    yield _figure("longest request", max(waits.seconds) * 1000, "ms", 1000.0)
    yield _figure("requests, p95", percentile(waits.seconds, 0.95) * 1000, "ms")


def _released() -> int:
    from workshop.runs.models import Placement

    return Placement.objects.filter(live=True, run__files_state="released").count()


class _Requests:
    """Asks as a browser does, and keeps how long each answer took."""

    def __init__(self, client: Client) -> None:
        self._client = client
        self.seconds: list[float] = []

    def get(self, address: str) -> None:
        self._asked(lambda: self._client.get(address).status_code)

    def post(self, address: str, sent: dict[str, object]) -> None:
        self._asked(lambda: self._client.post(address, sent).status_code)

    def _asked(self, ask: Callable[[], int]) -> None:
        start = time.monotonic()
        status = ask()
        self.seconds.append(time.monotonic() - start)
        assert status in (200, 302), status


def _gather(pk: int) -> None:
    from workshop.runs.gathering import gather_runs

    gather_runs(pk)


def _release(pk: int) -> None:
    from workshop.runs.releasing import release_run

    release_run(pk)


def _in_a_process(work: Callable[[int], None], pk: int) -> tuple[float, float]:
    """Seconds, and the most memory in MB, of a piece of work in a process of its own."""
    from django.db import connections

    connections.close_all()
    start = time.monotonic()
    with multiprocessing.get_context("fork").Pool(1) as pool:
        most = pool.apply(_watched, (work, pk))
    return time.monotonic() - start, most


def _watched(work: Callable[[int], None], pk: int) -> float:
    work(pk)
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024.0


def _figure(
    name: str, value: float, unit: str, target: float | None = None, *, at_most: bool = True
) -> Figure:
    return Figure(group=_GROUP, name=name, value=value, unit=unit, target=target, at_most=at_most)

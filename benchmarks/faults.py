"""Group `faults`: a hundred kills of the programs of a shop in which people work."""

from __future__ import annotations

import sys
from collections.abc import Iterator

from benchmarks.figure import Figure
from tests.faults.afterwards import wrong_afterwards
from tests.faults.under_fire import open_shop_in, rest_s, under_fire

__all__ = ["figures"]

_KILLS = 100
_SEED = 7


def figures() -> Iterator[Figure]:
    """What was killed, what was done meanwhile, and what was wrong when all had come to rest."""
    with open_shop_in(workers=2) as shop:
        told, fire = under_fire(shop, kills=_KILLS, pause_s=(1.5, 6.0), seed=_SEED)
        rest = rest_s(shop)
        wrong = wrong_afterwards(shop, told)
    for sentence in wrong:
        print(sentence, file=sys.stderr)
    for kind, count in fire.kills.items():
        yield _figure(f"kills of a {kind}", count, "")
    yield _figure("lists taken in between the kills", len(told.taken), "")
    yield _figure("lines kept between the kills", len(told.kept), "")
    yield _figure("bundles asked for between the kills", told.bundles, "")
    yield _figure("requests without an answer", told.unanswered, "")
    yield _figure("seconds until all had come to rest", rest, "s", 120.0)
    yield _figure("things lost, doubled or half done", len(wrong), "", 0.0)


def _figure(name: str, value: float, unit: str, target: float | None = None) -> Figure:
    return Figure(group="faults", name=name, value=value, unit=unit, target=target)

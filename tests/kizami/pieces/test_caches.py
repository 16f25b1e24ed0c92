"""Results never depend on what was made before: pieces in random order, caches cleared at random between."""

from __future__ import annotations

import importlib
import pkgutil
import random
from collections.abc import Callable
from functools import _lru_cache_wrapper

import pytest

import kizami
from kizami.cli import catalogue_at
from kizami.pieces.batch import piece_files
from kizami.pieces.forecast import tried
from kizami.pieces.make import make_piece
from kizami.pieces.reports import piece_record  # noqa: F401 - every module is loaded below
from kizami.remembering import Remembered
from launch.state import REPOSITORY

CATALOGUE = catalogue_at(REPOSITORY / "demo" / "products.toml")
#: A band, lines right round, a ball, a roof, a recess, a supplied shape, tied letters, a frame, two colours.
CODES = [
    "choir-ring", "tide-ring", "shore-bead", "moon-disc", "ledger-ticket", "pebble-fob", "berth-sign",
    "buoy-frame", "ferry-key", "pledge-ring",
]  # fmt: skip
NAMES = ["Otto", "Ivy"]
#: Read once from the package and the same for ever.
KEPT = ("kizami.lettering.shipped", "kizami.processes", "kizami.solids.rays")


def caches() -> list[Callable[[], None]]:
    """Every cache of the core, to be cleared."""
    found = {}
    for module in pkgutil.walk_packages(kizami.__path__, "kizami."):
        if module.name in KEPT or module.name.endswith("__main__"):
            continue
        for value in vars(importlib.import_module(module.name)).values():
            if isinstance(value, (_lru_cache_wrapper, Remembered)) and value.__module__ not in KEPT:
                found[id(value)] = value.cache_clear
    return list(found.values())


def files_of(code: str, name: str) -> dict[str, bytes]:
    return piece_files(make_piece(tried(CATALOGUE.products[code], name).inputs), title=f"{code} {name}")


@pytest.mark.parametrize("seed", [1, 2])
def test_the_same_bytes_whatever_was_made_before(seed: int) -> None:
    clear = caches()
    assert len(clear) >= 25
    first = {(code, name): files_of(code, name) for code in CODES for name in NAMES}
    chance = random.Random(seed)
    order = list(first)
    chance.shuffle(order)
    for code, name in order:
        for one in clear:
            if chance.random() < 0.4:
                one()
        again = files_of(code, name)
        different = [kind for kind, content in first[code, name].items() if again[kind] != content]
        assert (code, name, different) == (code, name, [])

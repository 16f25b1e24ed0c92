"""Remedies: of pieces that a setting can cure, how many are, and how long the search takes."""

from __future__ import annotations

import time
from collections.abc import Iterator

from benchmarks.figure import Figure, percentile
from benchmarks.names import names
from kizami.checks.finding import Level
from kizami.cli import catalogue_at
from kizami.errors import KizamiError
from kizami.pieces.forecast import usual_size
from kizami.pieces.inputs import Inputs
from kizami.pieces.lines import inputs_of
from kizami.pieces.make import Made, make_piece
from kizami.products.product import Product
from kizami.remedies.remedy import Patient
from kizami.remedies.search import search_remedies
from kizami.setting.setting import AS_THE_PRODUCT
from kizami.wording.settling import settle
from launch.state import REPOSITORY

__all__ = ["figures"]

_GROUP = "remedies"
#: Held pieces of each product that are looked at, and the names that are gone through for them.
_PATIENTS, _NAMES = 2, 60
#: What no setting can cure: it is for a person or the customer to say.
_NOT_BY_SETTING = frozenset({"wording-settled", "missing-character", "wording-present", "logo-as-sent"})
#: A search without haste, for what can be cured at all, s.
_LONG_S = 3.0


def figures() -> Iterator[Figure]:
    """Every figure of the group."""
    spent: list[float] = []
    patients = cured = proven = slowly = 0
    for product in catalogue_at(REPOSITORY / "demo" / "products.toml").products.values():
        for base, made in _held(product):
            patient = Patient(base=base, setting=AS_THE_PRODUCT)
            start = time.monotonic()
            found = search_remedies(patient, made, seconds=1.0)
            spent.append(time.monotonic() - start)
            patients += 1
            cured += bool(found.cures)
            proven += sum(make_piece(patient.inputs(one.setting)).stage == "ready" for one in found.cures[:1])
            slowly += bool(found.cures or search_remedies(patient, made, seconds=_LONG_S).cures)
    yield _figure("held pieces looked at", patients, "pieces")
    yield _figure("cured within a second of search", 100.0 * cured / patients, "%")
    yield _figure(f"cured within {_LONG_S:g} s of search", 100.0 * slowly / patients, "%", 95.0)
    yield _figure("first offers that truly cure", 100.0 * proven / max(cured, 1), "%", 100.0)
    yield _figure("ranked remedies, p95", percentile(spent, 0.95), "s", 1.2, at_most=True)
    yield _figure("ranked remedies, median", percentile(spent, 0.5), "s")


def _held(product: Product) -> Iterator[tuple[Inputs, Made]]:
    """Some pieces of a product that are held for what a setting may cure."""
    found = 0
    for name in names(_NAMES * 4)[:_NAMES]:
        try:
            base = inputs_of(
                product, settle(name, product.wording), second="", logo="", logos=None,
                size=product.read_size(usual_size(product)),
            )  # fmt: skip
        except KizamiError:
            continue
        made = make_piece(base)
        failing = {f.code for f in made.findings if f.level is Level.FAILS}
        if failing and not failing & _NOT_BY_SETTING:
            yield base, made
            found += 1
        if found == _PATIENTS:
            return


def _figure(
    name: str, value: float, unit: str, target: float | None = None, *, at_most: bool = False
) -> Figure:
    return Figure(group=_GROUP, name=name, value=value, unit=unit, target=target, at_most=at_most)

"""Group `lettering`: time to set, fit and check a name; a thousand names in every typeface and product."""

from __future__ import annotations

import os
import time
import unicodedata
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from multiprocessing import get_context

from benchmarks.figure import Figure, percentile
from benchmarks.names import names, names_in
from benchmarks.sample import catalogue
from kizami.checks.finding import Level
from kizami.lettering.layout import Layout
from kizami.lettering.shipped import shipped_facts, shipped_typeface_codes
from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import LaidOut, lay_out
from kizami.pieces.lines import inputs_of
from kizami.products.product import Product
from kizami.wording.plan import WordingKind
from kizami.wording.settling import settle

__all__ = ["figures"]

_GROUP = "lettering"
_TARGET_MS = 60.0
_TIMED = 400
#: Products that carry names: dates, places and codes are not set from a list of names.
_NAMED = (
    WordingKind.AS_WRITTEN,
    WordingKind.NAME,
    WordingKind.PHRASE,
    WordingKind.INITIALS,
    WordingKind.MONOGRAM,
)


def figures() -> Iterator[Figure]:
    """Every figure of the group."""
    with ProcessPoolExecutor(2, mp_context=get_context("spawn")) as pool:
        yield from _time(pool.submit(_timed).result())
        typefaces = list(pool.map(_in_typeface, shipped_typeface_codes()))
        yield Figure(
            group=_GROUP,
            name=f"unaccounted glyphs, {len(names())} names in {len(typefaces)} typefaces",
            value=float(sum(t.unaccounted for t in typefaces)),
            unit="",
            target=0.0,
        )
        for code, tally in zip(shipped_typeface_codes(), typefaces, strict=True):
            yield _share(f"share that fits a crew tag in {code}", tally)
        codes = [p.code for p in _products()]
        for code, tally in zip(codes, pool.map(_on_product, codes), strict=True):
            yield _share(f"share that fits {code}", tally)


def _share(name: str, tally: _Tally) -> Figure:
    return Figure(group=_GROUP, name=name, value=100.0 * tally.fitting / tally.count, unit="%")


def _time(by_product: dict[str, list[float]]) -> Iterator[Figure]:
    everything = [ms for times in by_product.values() for ms in times]
    yield Figure(
        group=_GROUP,
        name="set, fit and flat checks of a name, all products in turn, one core, p95",
        value=percentile(everything, 0.95),
        unit="ms",
        target=_TARGET_MS,
    )
    yield Figure(group=_GROUP, name="the same, median", value=percentile(everything, 0.5), unit="ms")
    for code, times in by_product.items():
        yield Figure(group=_GROUP, name=f"the same, {code}, p95", value=percentile(times, 0.95), unit="ms")


@dataclass(frozen=True, kw_only=True, slots=True)
class _Tally:
    """How many names were set, how many passed every flat check, and glyphs that nobody accounts for."""

    count: int
    fitting: int
    unaccounted: int


def _products() -> list[Product]:
    return [p for p in catalogue().products.values() if p.wording.kind in _NAMED and not p.takes_logo]


def _inputs(product: Product, name: str) -> Inputs:
    size = product.read_size("US 7") if product.size_system else None
    return inputs_of(product, settle(name, product.wording), second="", logo="", logos=None, size=size)


def _timed() -> dict[str, list[float]]:
    """Times of names never set before; the alphabet is warm, as for all but a list's first lines."""
    os.sched_setaffinity(0, {min(os.sched_getaffinity(0))})
    products = _products()
    every = names()
    for place, name in enumerate(every[:300]):
        lay_out(_inputs(products[place % len(products)], name))
    times: dict[str, list[float]] = {p.code: [] for p in products}
    for place, name in enumerate(every[300 : 300 + _TIMED]):
        product = products[place % len(products)]
        inputs = _inputs(product, name)
        start = time.perf_counter()
        lay_out(inputs)
        times[product.code].append(1000.0 * (time.perf_counter() - start))
    return times


def _in_typeface(code: str) -> _Tally:
    facts = shipped_facts()[code]
    product = catalogue().products["crew-tag"]
    product = replace(product, typeface=code, wording=replace(product.wording, kind=WordingKind.AS_WRITTEN))
    script = "Latn" if "Latn" in facts.scripts else next((s for s in facts.scripts if s != "Zyyy"), "Latn")
    return _tally(product, names_in(script))


def _on_product(code: str) -> _Tally:
    product = catalogue().find(code)
    assert product is not None
    return _tally(product, names())


def _tally(product: Product, tried: tuple[str, ...]) -> _Tally:
    fitting = unaccounted = 0
    for name in tried:
        laid_out = lay_out(_inputs(product, name))
        fitting += _passes(laid_out)
        unaccounted += _unaccounted(laid_out.layout)
    return _Tally(count=len(tried), fitting=fitting, unaccounted=unaccounted)


def _passes(laid_out: LaidOut) -> bool:
    return all(f.level is not Level.FAILS for f in laid_out.findings)


def _unaccounted(layout: Layout) -> int:
    """Characters that should be seen, but are neither drawn nor reported as missing."""
    if layout.is_empty:
        return 0
    drawn = {m.cluster for m, s in zip(layout.marks, layout.shapes, strict=True) if not s.is_empty}
    starts = sorted({m.cluster for m in layout.marks})
    lost = 0
    for place, start in enumerate(starts):
        end = starts[place + 1] if place + 1 < len(starts) else len(layout.text)
        visible = any(unicodedata.category(c)[0] in "LNPS" for c in layout.text[start:end])
        lost += visible and start not in drawn and start not in layout.missing
    return lost

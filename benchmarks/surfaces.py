"""Group `surfaces`: a piece of twenty letters on every blank, a free-form patch, and a forecast."""

from __future__ import annotations

import os
import random
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

import numpy as np
import trimesh

from benchmarks.figure import Figure, percentile
from benchmarks.sample import catalogue
from benchmarks.slice_core import bare_boolean_s, whole_to_bare
from kizami.forecast import forecast, shipped_names, tried, usual_size
from kizami.formats.stl import stl_bytes
from kizami.lines import inputs_of
from kizami.make import SAGITTA_MM, Inputs, lay_out, make_piece, make_solid
from kizami.products import Product
from kizami.solids.quality import finished_share
from kizami.surfaces.patch import unroll_patch
from kizami.wording.plan import WordingKind, WordingPlan, settle

__all__ = ["figures"]

_GROUP = "surfaces"
#: Those that are measured, then those that are only set before, so that the alphabet is warm.
_NAMES = tuple(random.Random(5).sample(list(shipped_names()), 200))
_MEASURED = 8
_TWENTY = ("Ottoline Bartholomew", "Wilhelmina Thackeray", "Gwendolen Halloran X", "Evangeline Rosenthal")


def figures() -> Iterator[Figure]:
    """Every figure of the group."""
    for row in whole_to_bare()[:3]:
        yield Figure(group=_GROUP, **row)
    with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
        times = pool.submit(_pieces).result()
        everything = [ms for found in times.values() for ms in found]
        yield _figure(
            "a piece of 20 letters on every blank, one core, p95", percentile(everything, 0.95), 400.0
        )
        for code, found in times.items():
            yield _figure(f"the same, {code}, slowest", max(found))
        shares = pool.submit(_shares).result()
        whole, bare = (sum(pair[k] for pair in shares.values()) for k in (0, 1))
        yield _ratio("whole piece to bare boolean, names on every blank", whole / bare, 1.6)
        for code, (spent, boolean) in shares.items():
            yield _ratio(f"the same, {code}", spent / boolean)
        for code, share in pool.submit(_facets).result().items():
            target = _MOST_FACETS if code in _SIMPLE_SURFACES else None
            yield Figure(
                group=_GROUP,
                name=f"facets of lettering a facet asked for, {code}",
                value=share,
                unit="ratio",
                target=target,
            )
        first, again = pool.submit(_patch).result()
        yield _figure("unrolling a free-form patch, first use", first)
        yield _figure("laying 5,000 points on it", again)
    product = catalogue().products["crew-tag"]
    start = time.perf_counter()
    forecast(product, shipped_names(), jobs=2)
    spent = time.perf_counter() - start
    yield Figure(group=_GROUP, name="forecast of 1,000 names, 2 cores", value=spent, unit="s", target=60.0)


def _figure(name: str, value: float, target: float | None = None) -> Figure:
    return Figure(group=_GROUP, name=name, value=value, unit="ms", target=target)


def _ratio(name: str, value: float, target: float | None = None) -> Figure:
    return Figure(group=_GROUP, name=name, value=value, unit="ratio", target=target)


def _inputs(product: Product, words: str) -> Inputs:
    size = product.read_size(usual_size(product)) if product.size_system else None
    return inputs_of(
        product,
        settle(words, WordingPlan(kind=WordingKind.AS_WRITTEN)),
        second="",
        logo="",
        logos=None,
        size=size,
    )


def _pieces() -> dict[str, list[float]]:
    """Every product with twenty letters, whatever it asks for; each wording is new to its product."""
    os.sched_setaffinity(0, {min(os.sched_getaffinity(0))})
    products = [p for p in catalogue().products.values() if not p.takes_logo]
    times: dict[str, list[float]] = {}
    for product in products:
        make_piece(_inputs(product, _TWENTY[0]))
        for words in _TWENTY[1:]:
            inputs = _inputs(product, words)
            start = time.perf_counter()
            make_piece(inputs)
            times.setdefault(product.code, []).append(1000.0 * (time.perf_counter() - start))
    return times


def _untried(product: Product, name: str) -> Inputs:
    """What a name asks of a product, nothing of it laid out yet."""
    size = product.read_size(usual_size(product)) if product.size_system else None
    return inputs_of(product, settle(name, product.wording), second="", logo="", logos=None, size=size)


def _shares() -> dict[str, tuple[float, float]]:
    """By product, the ms of pieces to STL bytes and of their bare booleans, on names that each takes.

    The alphabet is warm, as it is for all but the first lines of a list.
    """
    os.sched_setaffinity(0, {min(os.sched_getaffinity(0))})
    shares = {}
    for code, product in catalogue().products.items():
        if product.takes_logo or product.also or bare_boolean_s(tried(product, _NAMES[0])) is None:
            continue
        for name in _NAMES[_MEASURED:]:
            tried(product, name)
        for name in _NAMES[-3:]:
            make_piece(tried(product, name).inputs)
        whole = bare = 0.0
        for name in _NAMES[:_MEASURED]:
            inputs = _untried(product, name)
            start = time.perf_counter()
            made = make_piece(inputs)
            if made.solid is not None:
                stl_bytes(made.solid, title=name)
            whole += time.perf_counter() - start
            bare += bare_boolean_s(made.laid_out) or 0.0
        shares[code] = (1000.0 * whole, 1000.0 * bare)
    return shares


#: A cylinder, a ball and a cone.
_SIMPLE_SURFACES = ("choir-ring", "shore-bead", "tiller-grip")
_MOST_FACETS = 1.5


def _facets() -> dict[str, float]:
    """Facets of twenty letters in the finished piece beside what their outlines and the tolerance ask for."""
    shares = {}
    for code, product in catalogue().products.items():
        if product.takes_logo or product.also or product.treatment.kind == "scored":
            continue
        laid_out = lay_out(_inputs(product, _TWENTY[0]))
        solid = make_solid(laid_out)
        if solid is not None:
            shares[code] = finished_share(solid.is_lettering, laid_out.made, sagitta_mm=SAGITTA_MM)
    return shares


def _patch() -> tuple[float, float]:
    body = trimesh.creation.icosphere(subdivisions=5, radius=20.0)
    start = time.perf_counter()
    patch = unroll_patch(body, point=(0.0, -20.0, 0.0), radius_mm=9.0)
    unrolled = time.perf_counter()
    uv = np.random.default_rng(1).uniform(-6, 6, (5000, 2))
    patch.place(uv, np.zeros(5000))  # the index of facets is made on first use
    warm = time.perf_counter()
    patch.place(uv[::-1].copy(), np.zeros(5000))
    return 1000.0 * (unrolled - start), 1000.0 * (time.perf_counter() - warm)

"""Group `surfaces`: a piece of twenty letters on every blank, a free-form patch, and a forecast."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context

import numpy as np
import trimesh

from benchmarks.figure import Figure, percentile
from benchmarks.sample import catalogue
from kizami.pieces.building import bare_body, in_order, make_solid
from kizami.pieces.forecast import forecast, shipped_names, usual_size
from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import lay_out
from kizami.pieces.lines import inputs_of
from kizami.pieces.make import make_piece
from kizami.products.product import Product
from kizami.solids.quality import added_share
from kizami.surfaces.patch import unroll_patch
from kizami.tolerance import SAGITTA_MM
from kizami.wording.plan import WordingKind, WordingPlan
from kizami.wording.settling import settle

__all__ = ["figures"]

_GROUP = "surfaces"
_TWENTY = ("Ottoline Bartholomew", "Wilhelmina Thackeray", "Gwendolen Halloran X", "Evangeline Rosenthal")


def figures() -> Iterator[Figure]:
    """Every figure of the group."""
    with ProcessPoolExecutor(1, mp_context=get_context("spawn")) as pool:
        times = pool.submit(_pieces).result()
        everything = [ms for found in times.values() for ms in found]
        yield _figure(
            "a piece of 20 letters on every blank, one core, p95", percentile(everything, 0.95), 400.0
        )
        for code, found in times.items():
            yield _figure(f"the same, {code}, slowest", max(found))
        for code, share in pool.submit(_facets).result().items():
            yield Figure(
                group=_GROUP,
                name=f"facets that lettering adds, a facet asked for, {code}",
                value=share,
                unit="ratio",
                target=_MOST_FACETS if code in _SIMPLE_SURFACES else None,
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
    times: dict[str, list[float]] = {}
    for product in catalogue().products.values():
        make_piece(_inputs(product, _TWENTY[0]))
        for words in _TWENTY[1:]:
            inputs = _inputs(product, words)
            start = time.perf_counter()
            make_piece(inputs)
            times.setdefault(product.code, []).append(1000.0 * (time.perf_counter() - start))
    return times


#: A cylinder, a ball and a cone.
_SIMPLE_SURFACES = ("choir-ring", "shore-bead", "tiller-grip")
_MOST_FACETS = 1.5


def _facets() -> dict[str, float]:
    """Facets that twenty letters add to their blank beside what their outlines and the tolerance ask for."""
    shares = {}
    for code, product in catalogue().products.items():
        laid_out = lay_out(_inputs(product, _TWENTY[0]))
        solid, blank = make_solid(laid_out), bare_body(laid_out)
        if solid is not None:
            added = len(solid.triangles) - (0 if blank is None else blank.num_tri())
            shares[code] = added_share(
                added, [part.made for part in in_order(laid_out)], sagitta_mm=SAGITTA_MM
            )
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

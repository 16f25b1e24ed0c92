"""Remedies: of pieces that a setting can cure, how many are, and how soon; drawing under the hand."""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, replace
from functools import cache
from itertools import groupby
from multiprocessing import get_context
from operator import attrgetter

from benchmarks.figure import Figure, percentile
from benchmarks.names import names
from kizami.checks.finding import Level, finding_from_table, finding_table
from kizami.cli import catalogue_at
from kizami.errors import KizamiError
from kizami.lettering.layout import FitStep
from kizami.pieces.forecast import usual_size
from kizami.pieces.inputs import Inputs
from kizami.pieces.laying_out import drawn_layouts
from kizami.pieces.lines import inputs_of
from kizami.pieces.make import Made, make_piece, make_until_held
from kizami.products.product import Product
from kizami.remedies.as_found import found_before
from kizami.remedies.search import search_remedies
from kizami.setting.setting import Setting
from kizami.wording.settling import settle
from launch.state import REPOSITORY

__all__ = ["figures"]

_GROUP = "remedies"
#: Held pieces of each product on which the search is timed.
_PATIENTS = 3
#: Of a thousand names every one so much further is gone through, and for many lines at once more of them.
_EVERY, _EVERY_LINE = 25, 16
#: What no setting can cure: it is for a person or the customer to say.
_NOT_BY_SETTING = frozenset({"wording-settled", "missing-character", "wording-present", "logo-as-sent"})
#: The search as the page gives it at once, that which it goes on with by itself, and one without haste, for
#: what can be cured at all, s.
_SHORT_S, _FURTHER_S, _LONG_S = 0.8, 6.0, 10.0


def figures() -> Iterator[Figure]:
    """Every figure of the group."""
    products = catalogue_at(REPOSITORY / "demo" / "products.toml").products
    spent: list[float] = []
    first: list[float] = []
    redraws: list[float] = []
    for product in products.values():
        for base, made in _held(product, _PATIENTS):
            start = time.monotonic()
            found = search_remedies(base, made, seconds=_SHORT_S)
            spent.append(time.monotonic() - start)
            if found.cures:
                start = time.monotonic()
                search_remedies(base, made, seconds=_SHORT_S, most=1)
                first.append(time.monotonic() - start)
            redraws += _dragged(base)
    yield from _of_names(list(products))
    yield _figure("ranked remedies, p95", percentile(spent, 0.95), "s", 1.2, at_most=True)
    yield _figure("ranked remedies, median", percentile(spent, 0.5), "s")
    yield _figure("first remedy, median, known letters", percentile(first, 0.5), "s", 0.3, at_most=True)
    yield from _together()
    yield _figure("drawn under the hand, p95", 1000.0 * percentile(redraws, 0.95), "ms", 60.0, at_most=True)


@dataclass(frozen=True, kw_only=True, slots=True)
class _Cured:
    """What came of one held piece: when it was cured, and whether the first offer truly does."""

    at_first: bool
    at_last: bool
    ever: bool
    proven: bool


def _of_names(codes: Sequence[str]) -> Iterator[Figure]:
    """Of a thousand names on each product, those that are held for what a setting may cure."""
    with ProcessPoolExecutor(_CORES, mp_context=get_context("spawn")) as pool:
        patients = [one for some in pool.map(_patients_of, codes) for one in some]
    cured, curable = [p for p in patients if p.at_last], [p for p in patients if p.ever]
    offered = [p for p in curable if p.at_first]
    for name, some, of, target in (
        (f"of them cured within {_LONG_S:g} s of search", curable, patients, None),
        ("of those cured at the first look", offered, curable, 90.0),
        ("of those cured while the page stays open", cured, curable, 95.0),
        ("first offers that truly cure", [p for p in cured if p.proven], cured, 100.0),
    ):
        if some is curable:
            yield _figure("held pieces looked at", len(patients), "pieces")
        yield _figure(name, 100.0 * len(some) / max(len(of), 1), "%", target)


def _patients_of(code: str) -> list[_Cured]:
    return [_looked_at(base, made) for base, made in _held(_product(code), len(names()))]


def _looked_at(base: Inputs, made: Made) -> _Cured:
    """One held piece, as the page looks for what cures it: shortly, then longer, and without haste."""
    found = search_remedies(base, made, seconds=_SHORT_S)
    further = found if found.cures else search_remedies(base, made, seconds=_FURTHER_S)
    last = further if further.cures else search_remedies(base, made, seconds=_LONG_S)
    proven = further.cures and make_piece(replace(base, setting=further.cures[0].setting)).stage == "ready"
    return _Cured(
        at_first=bool(found.cures), at_last=bool(further.cures), ever=bool(last.cures), proven=bool(proven)
    )


#: Lines that are cured at once, the held pieces of each product that they are of, and processes.
_LINES, _OF_EACH, _CORES = 200, 12, 2
#: Each is looked at as long as workers do at first, s.
_TOGETHER_S = 0.5


def _together() -> Iterator[Figure]:
    """The first cure of many lines at once, as the workers look for it: from what is on record of each."""
    products = list(catalogue_at(REPOSITORY / "demo" / "products.toml").products.values())
    with ProcessPoolExecutor(_CORES, mp_context=get_context("spawn")) as pool:
        found = pool.map(_on_record, [product.code for product in products])
        lines = [line for of_product in found for line in of_product][:_LINES]
        # A worker looks at what is of the product that it looked at last, while there is any.
        of_each = [list(some) for _, some in groupby(lines, key=attrgetter("code"))]
        start = time.monotonic()
        cures = [cure for some in pool.map(_cures, of_each) for cure in some]
        looked = time.monotonic() - start
        curable = [
            (line.code, line.name, cure) for line, cure in zip(lines, cures, strict=True) if cure is not None
        ]
        start = time.monotonic()
        ready = sum(pool.map(_taken, curable, chunksize=4))
        taken = time.monotonic() - start
    yield _figure("lines looked at together", len(lines), "lines")
    yield _figure("of them cured at the short look", 100.0 * len(curable) / max(len(lines), 1), "%")
    yield _figure("of those ready once it is taken", 100.0 * ready / max(len(curable), 1), "%", 100.0)
    yield _figure("a remedy found for all of them, two cores", looked, "s", 60.0, at_most=True)
    yield _figure("a remedy taken for all of them, two cores", taken, "s", 60.0, at_most=True)


@dataclass(frozen=True, kw_only=True, slots=True)
class _Line:
    """A held line with what the workshop keeps of it."""

    code: str
    name: str
    findings: tuple[dict[str, object], ...]
    steps: tuple[FitStep, ...]
    height_mm: float


def _on_record(code: str) -> list[_Line]:
    return [
        _Line(
            code=code,
            name=base.wording,
            findings=tuple(finding_table(f) for f in made.findings),
            steps=made.laid_out.layout.steps,
            height_mm=made.laid_out.layout.height_mm,
        )
        for base, made in _held(_product(code), _OF_EACH, every=_EVERY_LINE)
    ]


def _cures(lines: Sequence[_Line]) -> list[Setting | None]:
    """What cures each of some lines at the short look that comes first."""
    found = []
    for line in lines:
        base = _base(_product(line.code), line.name)
        findings = [finding_from_table(table) for table in line.findings]
        before = found_before(base, findings, line.steps, height_mm=line.height_mm)
        offered = search_remedies(
            base, before or make_until_held(base), seconds=_TOGETHER_S, most=1, with_nearest=False
        )
        found.append(offered.cures[0].setting if offered.cures else None)
    return found


def _taken(line: tuple[str, str, Setting]) -> bool:
    """Whether a line is ready with what cures it."""
    code, name, setting = line
    return make_piece(replace(_base(_product(code), name), setting=setting)).stage == "ready"


@cache
def _product(code: str) -> Product:
    product = catalogue_at(REPOSITORY / "demo" / "products.toml").find(code)
    assert product is not None
    return product


def _base(product: Product, name: str) -> Inputs:
    return inputs_of(
        product, settle(name, product.wording), second="", logo="", logos=None,
        size=product.read_size(usual_size(product)),
    )  # fmt: skip


def _dragged(base: Inputs) -> list[float]:
    """How long it takes to draw lettering at some places on the way of a hand."""
    spent = []
    for step in range(1, 7):
        moved = replace(base, setting=Setting(along_mm=0.3 * step, across_mm=-0.1 * step))
        start = time.monotonic()
        next(drawn_layouts(moved), None)
        spent.append(time.monotonic() - start)
    # The first one draws letters for the first time, as the page has before.
    return spent[1:]


def _held(product: Product, most: int, every: int = _EVERY) -> Iterator[tuple[Inputs, Made]]:
    """Some pieces of a product that are held for what a setting may cure."""
    found = 0
    for name in names()[::every]:
        try:
            base = _base(product, name)
        except KizamiError:
            continue
        made = make_piece(base)
        failing = {f.code for f in made.findings if f.level is Level.FAILS}
        if failing and not failing & _NOT_BY_SETTING:
            yield base, made
            found += 1
        if found == most:
            return


def _figure(
    name: str, value: float, unit: str, target: float | None = None, *, at_most: bool = False
) -> Figure:
    return Figure(group=_GROUP, name=name, value=value, unit=unit, target=target, at_most=at_most)

"""Group `slice`, the core: every product of the demo, row to STL, beside the booleans that it would need.

A list is measured twice in one process: *cold* from the first piece on, with nothing set before, and *warm*,
another list of the same products and sizes with words that were never set. What is new in the middle of a
list (a product, a ring size, a letter) is told by itself.
"""

from __future__ import annotations

import gc
import json
import os
import subprocess
import sys
import tempfile
import time
from collections import defaultdict
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from benchmarks.bare import bare_boolean_s
from benchmarks.figure import Figure, percentile
from benchmarks.memory import peak_memory
from benchmarks.sample import catalogue, logos, mixed_list
from kizami.formats.stl import stl_bytes
from kizami.pieces.batch import make_list, resolve_list
from kizami.pieces.building import make_solid
from kizami.pieces.forecast import tried, usual_size
from kizami.pieces.laying_out import LaidOut, lay_out
from kizami.pieces.lines import Line, resolve_row
from kizami.pieces.make import make_piece
from kizami.pieces.measuring import check_solid
from kizami.pieces.reports import piece_record
from kizami.pieces.sharing import in_good_order

__all__ = ["figures", "whole_to_bare"]

_GROUP = "slice"
_JOBS = 2
_LINES = 1000


def figures() -> Iterator[Figure]:
    """Every figure of the core, each in a process of its own so that memory and cores are its own."""
    for rows in (whole_to_bare(), _child("stages"), _child("new"), _child("list")):
        for row in rows:
            yield Figure(group=_GROUP, **row)


def whole_to_bare(lines: int = _LINES) -> list[dict[str, Any]]:
    """Whole pieces beside bare booleans: the list cold and warm, and every product warm."""
    return _child("ratio", str(lines))


def _child(task: str, *more: str) -> list[dict[str, Any]]:
    done = subprocess.run(
        [sys.executable, "-m", "benchmarks.slice_core", task, *more],
        check=True,
        capture_output=True,
        text=True,
    )
    rows: list[dict[str, Any]] = json.loads(done.stdout.splitlines()[-1])
    return rows


def _timed(work: Callable[[], Any]) -> tuple[float, Any]:
    start = time.perf_counter()
    result = work()
    return time.perf_counter() - start, result


def _row(
    name: str, value: float, unit: str, target: float | None = None, *, at_most: bool = True
) -> dict[str, Any]:
    return {"name": name, "value": value, "unit": unit, "target": target, "at_most": at_most}


def _on_one_core() -> None:
    os.sched_setaffinity(0, {min(os.sched_getaffinity(0))})


def _ratio(count: str = str(_LINES)) -> list[dict[str, Any]]:
    _on_one_core()
    rows = []
    for state, seed, target in (("cold", 1, 2.5), ("warm", 2, 1.5)):
        lines, _ = resolve_list(mixed_list(int(count), seed=seed), catalogue(), logos=logos())
        # As lists are made: the lines of a product one after the other.
        lines = [lines[number] for number in in_good_order(lines)]
        gc.collect()
        whole: dict[str, float] = defaultdict(float)
        bare: dict[str, float] = defaultdict(float)
        for line in lines:
            spent, laid_out = _timed(lambda line=line: _row_to_stl(line))
            whole[line.product.code] += spent
            # Afterwards, so that the piece finds nothing done of its own wording.
            bare[line.product.code] += bare_boolean_s(laid_out)
        total, boolean = sum(whole.values()), sum(bare.values())
        rows.append(_row(f"whole pieces to bare booleans, {state}", total / boolean, "ratio", target))
        rows.append(_row(f"whole piece, {state}, mean", 1000 * total / len(lines), "ms"))
    rows.append(_row("bare booleans of a piece, mean", 1000 * boolean / len(lines), "ms"))
    for code in sorted(whole):
        each = whole[code] * 1000 * len(catalogue().products) / len(lines)
        if bare[code]:
            rows.append(_row(f"the same, {code}, warm", whole[code] / bare[code], "ratio", 3.0))
        rows.append(_row(f"whole piece, {code}, warm", each, "ms"))
    return rows


def _row_to_stl(line: Line) -> LaidOut:
    line = resolve_row(line.row, catalogue(), logos=logos())
    made = make_piece(line.inputs)
    piece_record(line, made)
    if made.solid is not None:
        stl_bytes(made.solid, title=line.inputs.wording)
    return made.laid_out


def _stages() -> list[dict[str, Any]]:
    """Where the time of a warm piece goes."""
    _on_one_core()
    warm, _ = resolve_list(mixed_list(300, seed=1), catalogue(), logos=logos())
    for line in warm:
        make_piece(line.inputs)
    lines, _ = resolve_list(mixed_list(400, seed=2), catalogue(), logos=logos())
    lines = [lines[number] for number in in_good_order(lines)]
    names = ("layout and flat checks", "solid", "solid checks", "stl")
    stages: dict[str, list[float]] = {name: [] for name in names}
    for line in lines:
        laid_s, laid_out = _timed(lambda line=line: lay_out(line.inputs))
        solid_s, solid = _timed(lambda laid_out=laid_out: make_solid(laid_out))
        if solid is None:
            continue
        checks_s, _ = _timed(lambda laid_out=laid_out, solid=solid: check_solid(laid_out, solid))
        stl_s, _ = _timed(lambda solid=solid: stl_bytes(solid, title="x"))
        for name, spent in zip(names, (laid_s, solid_s, checks_s, stl_s), strict=True):
            stages[name].append(1000 * spent)
    rows = [_row(f"stage: {name}", sum(found) / len(found), "ms") for name, found in stages.items()]
    checked = [a + b for a, b in zip(stages[names[0]], stages[names[2]], strict=True)]
    # Laying out is counted with the flat checks, which are made of every layout that is tried.
    rows.append(_row("all checks of a piece and its layout, p95", percentile(checked, 0.95), "ms", 120.0))
    return rows


def _new() -> list[dict[str, Any]]:
    """What costs more because it was never made before, against the same again with other words."""
    _on_one_core()
    products = [p for p in catalogue().products.values() if not p.takes_logo]
    make_piece(tried(products[0], "Wren").inputs)
    first, again, sizes, letters = [], [], [], []
    for product in products:
        first.append(_timed(lambda p=product: make_piece(tried(p, "Marlow Finch").inputs))[0])
        again.append(_timed(lambda p=product: make_piece(tried(p, "Fran Colmwich").inputs))[0])
        if product.size_system:
            size = f"{product.read_size(usual_size(product)).bore_mm + 0.77:.2f} mm"
            sizes.append(
                _timed(lambda p=product, s=size: make_piece(tried(p, "Carl Winch", size=s).inputs))[0]
            )
        letters.append(_timed(lambda p=product: make_piece(tried(p, "Đuro Škvýr").inputs))[0])
    named = (
        ("a new product", first), ("the same product again", again), ("a new ring size", sizes),
        ("new letters", letters),
    )  # fmt: skip
    return [_row(f"a piece with {name}, mean", 1000 * sum(found) / len(found), "ms") for name, found in named]


def _list() -> list[dict[str, Any]]:
    """A list of 1,000 lines over all products from bytes to files on two cores."""
    data = mixed_list(_LINES, seed=3)
    with tempfile.TemporaryDirectory() as folder, peak_memory() as peak:
        spent, summary = _timed(lambda: make_list(data, catalogue(), Path(folder), logos=logos(), jobs=_JOBS))
    pieces = summary.ready + summary.held
    return [
        _row(
            "pieces a second, 1,000 lines over all products, 2 cores",
            pieces / spent,
            "1/s",
            15.0,
            at_most=False,
        ),
        _row("share ready without hand work", 100 * summary.ready / pieces, "%"),
        _row("peak memory, parent and workers", peak.mb, "MB", 600.0),
    ]


if __name__ == "__main__":
    tasks: dict[str, Callable[..., list[dict[str, Any]]]] = {
        "ratio": _ratio, "stages": _stages, "new": _new, "list": _list,
    }  # fmt: skip
    print(json.dumps(tasks[sys.argv[1]](*sys.argv[2:])))

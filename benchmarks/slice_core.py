"""Group `slice`, the core: pieces a second, time by stage, memory, and cost against the bare boolean."""

from __future__ import annotations

import gc
import json
import os
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

from benchmarks.figure import Figure
from benchmarks.sample import catalogue, order_list
from kizami.as_made.treatment import Engraved, Pierced, Raised
from kizami.batch import make_list, resolve_list
from kizami.formats.stl import stl_bytes
from kizami.lines import Line, resolve_row
from kizami.make import SAGITTA_MM, LaidOut, bare_body, check_solid, lay_out, make_piece, make_solid
from kizami.reports import piece_record
from kizami.solids.lettering_solid import lay_on
from kizami.solids.treat import flat_lettering

__all__ = ["bare_boolean_s", "figures", "whole_to_bare"]

_GROUP = "slice"
_JOBS = 2


def figures() -> Iterator[Figure]:
    """Every figure of the core, each in a process of its own so that memory and cores are its own."""
    yield from _from(whole_to_bare())
    yield from _from(_child("list"))


def _from(rows: list[dict[str, Any]]) -> Iterator[Figure]:
    for row in rows:
        yield Figure(group=_GROUP, **row)


def whole_to_bare() -> list[dict[str, Any]]:
    """The cost of a whole piece beside the bare boolean, of all and by kind, and the stages."""
    return _child("ratio")


def _child(task: str) -> list[dict[str, Any]]:
    done = subprocess.run(
        [sys.executable, "-m", "benchmarks.slice_core", task], check=True, capture_output=True, text=True
    )
    rows: list[dict[str, Any]] = json.loads(done.stdout.splitlines()[-1])
    return rows


def _timed(work: Callable[[], Any]) -> tuple[float, Any]:
    start = time.perf_counter()
    result = work()
    return time.perf_counter() - start, result


def _ratio() -> list[dict[str, Any]]:
    """Whole piece on one core against the bare boolean of the same two solids.

    The two solids are the blank and the lettering as it is laid on, both built beforehand. Every
    piece is made once, with wording that was never set before; the alphabet is warm, as it is for
    all but the first lines of a list. The boolean is run three times and its median taken.
    """
    os.sched_setaffinity(0, {min(os.sched_getaffinity(0))})
    warm, _ = resolve_list(order_list(200, seed=1), catalogue())
    for line in warm:
        make_piece(line.inputs)
    lines, _ = resolve_list(order_list(260, seed=2), catalogue())
    known = {line.inputs.wording for line in warm}
    lines = [line for line in lines if line.inputs.wording not in known][:160]
    gc.collect()
    whole: dict[str, float] = {}
    bare: dict[str, float] = {}
    stages = dict.fromkeys(("layout and flat checks", "solid", "solid checks", "stl"), 0.0)
    # Half of the lines for the ratio, half for the stages: neither may find the other's work done.
    ratio_lines, stage_lines = lines[: len(lines) // 2], lines[len(lines) // 2 :]
    for line in ratio_lines:
        kind = type(line.inputs.product.blank).__name__
        spent, _ = _timed(lambda line=line: _row_to_stl(line))
        # Afterwards, so that the piece finds nothing done of its own wording.
        boolean = bare_boolean_s(lay_out(line.inputs))
        assert boolean is not None
        whole[kind] = whole.get(kind, 0.0) + spent
        bare[kind] = bare.get(kind, 0.0) + boolean
    for line in stage_lines:
        laid_s, laid_out = _timed(lambda line=line: lay_out(line.inputs))
        solid_s, solid = _timed(lambda laid_out=laid_out: make_solid(laid_out))
        checks_s, _ = _timed(lambda laid_out=laid_out, solid=solid: check_solid(laid_out, solid))
        stl_s, _ = _timed(lambda solid=solid: stl_bytes(solid, title="x"))
        for name, spent in zip(stages, (laid_s, solid_s, checks_s, stl_s), strict=True):
            stages[name] += spent
    total = sum(whole.values())
    rows: list[dict[str, Any]] = [
        _row("whole piece to bare boolean, one core", total / sum(bare.values()), "ratio", 1.6)
    ]
    for kind in sorted(whole):
        rows.append(_row(f"whole piece to bare boolean, {kind}", whole[kind] / bare[kind], "ratio"))
    rows.append(_row("whole piece, one core, mean", 1000 * total / len(ratio_lines), "ms"))
    rows.append(_row("bare boolean, mean", 1000 * sum(bare.values()) / len(ratio_lines), "ms"))
    for name, spent in stages.items():
        rows.append(_row(f"stage: {name}", 1000 * spent / len(stage_lines), "ms"))
    return rows


def _row(
    name: str, value: float, unit: str, target: float | None = None, *, at_most: bool = True
) -> dict[str, Any]:
    return {"name": name, "value": value, "unit": unit, "target": target, "at_most": at_most}


def _row_to_stl(line: Line) -> None:
    line = resolve_row(line.row, catalogue())
    made = make_piece(line.inputs)
    piece_record(line, made)
    if made.solid is not None:
        stl_bytes(made.solid, title=line.inputs.wording)


def bare_boolean_s(laid_out: LaidOut) -> float | None:
    """Seconds of cutting lettering out of its blank or adding it; None where neither is done."""
    treatment, area, body = laid_out.inputs.product.treatment, laid_out.area, bare_body(laid_out)
    if not isinstance(treatment, Engraved | Raised | Pierced) or body is None:
        return None
    flat = flat_lettering(laid_out.made)
    assert flat is not None
    letters = lay_on(flat, area.surface, sagitta_mm=SAGITTA_MM)
    letters.num_tri()
    times = []
    for _ in range(3):
        spent, _ = _timed(
            lambda: (body - letters).num_tri() if treatment.sinks else (body + letters).num_tri()
        )
        times.append(spent)
    return sorted(times)[1]


def _list() -> list[dict[str, Any]]:
    """A list of 500 mixed lines from bytes to files on two cores."""
    data = order_list(500, seed=3)
    with tempfile.TemporaryDirectory() as folder:
        spent, summary = _timed(lambda: make_list(data, catalogue(), Path(folder), jobs=_JOBS))
    own = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    # The largest of the children; all are alike.
    child = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
    pieces = summary.ready + summary.held
    return [
        _row("pieces a second, 500 mixed lines, 2 cores", pieces / spent, "1/s", 8.0, at_most=False),
        _row("share ready without hand work", 100 * summary.ready / pieces, "%"),
        _row("peak memory, parent and workers", own + _JOBS * child, "MB", 700.0),
    ]


if __name__ == "__main__":
    print(json.dumps({"ratio": _ratio, "list": _list}[sys.argv[1]]()))

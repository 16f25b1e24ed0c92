"""Moulds of sand: bodies whose parting, slope and undercut follow from their measures."""

from __future__ import annotations

import datetime as dt
import math
from dataclasses import replace

import manifold3d as m3
import numpy as np
import pytest

from kizami.runs.lay_down import Source, lay_down
from kizami.runs.machine import shipped_machines
from kizami.runs.mould import mould_of, said_of_moulds
from kizami.runs.ready import Ready, gather
from kizami.runs.taking_up import shape_of
from tests.kizami.runs.samples import body, files_of

SAND = shipped_machines()["SAND-1"]
RECORD = {"process": "sand", "volume_mm3": 1000.0, "weight_g": 50.0, "allowance_percent": 1.56}


def frustum(low: float, high: float, tall: float) -> m3.Manifold:
    return m3.Manifold.cylinder(tall, low, high, 96)


#: A regular 96-gon leans a little less than its cone: its facets touch the cone between its corners.
SHORT = math.cos(math.pi / 96)
GROOVED = m3.Manifold.cube((20, 20, 10)) - m3.Manifold.cube((30, 4, 3)).translate((-5, -0.001, 4))


@pytest.mark.parametrize(
    ("shape", "parting", "undercut", "slope"),
    [
        (m3.Manifold.cube((20, 10, 4)), 0.0, 0.0, 0.0),
        (frustum(10, 9, 8), 0.0, 0.0, math.degrees(math.atan(SHORT / 8))),
        (frustum(9, 10, 8), 8.0, 0.0, math.degrees(math.atan(SHORT / 8))),
        # What leans by more than 30 degrees is no wall.
        (frustum(6, 10, 4) + frustum(10, 4, 6).translate((0, 0, 4)), 4.0, 0.0, 90.0),
        # The lower face of the groove looks up and its upper one down, 20 by 4 mm each; one of them is held.
        (GROOVED, 0.0, 80.0, 0.0),
    ],
    ids=["box", "leans in", "leans out", "double cone", "groove at its side"],
)
def test_parting_slope_and_undercut_follow_from_the_measures(shape, parting, undercut, slope) -> None:
    mould = mould_of(body(shape), np.eye(3))
    assert mould.undercut_mm2 == pytest.approx(undercut, abs=0.05)
    assert mould.slope_deg == pytest.approx(slope, abs=0.02)
    assert mould.parting_mm == pytest.approx(parting, abs=0.01)
    assert mould.lets_go == (undercut == 0.0)


def test_a_ball_parts_at_its_middle() -> None:
    mould = mould_of(body(m3.Manifold.sphere(6.0, 96)), np.eye(3))
    assert mould.lets_go and mould.parting_mm == pytest.approx(6.0, abs=0.01)


def pockets() -> m3.Manifold:
    """A cube with a pocket of 4 by 4 by 2 mm in each of its sides: two of them are held, whichever way it lies,
    with the side of each that looks back."""
    cube = m3.Manifold.cube((20, 20, 20), True)
    for about in ((0, 0, 0), (90, 0, 0), (180, 0, 0), (270, 0, 0), (0, 90, 0), (0, 270, 0)):
        cube -= m3.Manifold.cube((4, 4, 4), True).translate((0, 0, 10)).rotate(about)
    return cube


def test_a_pattern_lies_as_the_mould_comes_off() -> None:
    _, laid, _ = shape_of("groove", files_of(GROOVED)["stl"], RECORD, SAND.kind)
    assert laid is not None
    assert mould_of(body(GROOVED), laid.turn).lets_go
    assert not mould_of(body(GROOVED), np.eye(3)).lets_go


def ready(key: str, shape: m3.Manifold) -> tuple[Ready, Source]:
    files = files_of(shape)
    covers, _, _ = shape_of(key, files["stl"], RECORD, SAND.kind)
    piece = Ready(
        key=key, order="A", wording=key, process="sand", material="bronze", shape=covers, thickness_mm=0.0
    )
    return piece, Source(read=files.__getitem__, record=RECORD)


def test_a_box_says_how_it_parts_and_what_it_melts() -> None:
    made = dict(
        zip("ab", (ready("a", frustum(10, 9, 8)), ready("b", m3.Manifold.cube((30, 12, 5)))), strict=True)
    )
    gathered = gather([piece for piece, _ in made.values()], [SAND], today=dt.date(2026, 1, 1))
    assert not gathered.waiting
    (down,), _ = lay_down(gathered.batches[0], {key: source for key, (_, source) in made.items()})
    said = "; ".join(down.said)
    assert "all patterns lie on the parting" in said and "1 pattern must be drawn with care" in said
    assert "patterns are 1.56 % larger" in said
    # 2 x 50 g, and 5 % of it and of the runners is lost.
    button = down.totals.melt_g / 1.05 - 100.0
    assert (
        button == pytest.approx(SAND.button_mm3 * 8.5e-3, rel=0.1) if SAND.button_mm3 else abs(button) < 0.1
    )


@pytest.mark.parametrize(
    ("shape", "machine", "why"),
    [
        (pockets(), SAND, "Sand would hold it: 32.0 mm²"),
        (frustum(10, 9, 24), SAND, "24.0 mm into one half"),
        (frustum(10, 9, 24), replace(SAND, bed_mm=(250.0, 200.0, 90.0)), ""),
    ],
    ids=["held", "too deep", "deep enough"],
)
def test_what_sand_can_not_mould_waits(shape: m3.Manifold, machine, why: str) -> None:
    piece, _ = ready("a", shape)
    waiting = gather([piece], [machine], today=dt.date(2026, 1, 1)).waiting
    assert [why in row.why for row in waiting] == ([True] if why else [])


def test_nothing_is_said_of_an_empty_box() -> None:
    assert said_of_moulds([], [], SAND) == ()

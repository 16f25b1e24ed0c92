"""Work on sheets: order, kerf, tabs, times; and its files beside ezdxf's audit and an SVG renderer."""

from __future__ import annotations

import io
import itertools
import math
import subprocess
from dataclasses import replace
from pathlib import Path

import ezdxf
import numpy as np
import pytest
import shapely
from PIL import Image

from kizami.errors import RunError
from kizami.formats.toolpaths import flat_work_svg
from kizami.runs.flat_piece import flat_piece, flat_shape
from kizami.runs.machine import Work, shipped_machines
from kizami.runs.sheet_back import differences_dxf, differences_sheet_svg
from kizami.runs.sheet_files import settings_rows, sheet_dxf, sheet_svg
from kizami.runs.sheet_work import SheetWork, placed_flat, sheet_work
from tests.kizami.runs.samples import flat, flat_laid

LASER = shipped_machines()["LASER-1"]
PLAIN = replace(LASER, tabs=0, kerf_mm=0.0)
SIZE = (600.0, 300.0)
NAMES = {Work.CUT: "cut", Work.ENGRAVE: "engrave", Work.SCORE: "score"}


def work(machine=LASER, pieces=(("A", 10.0, 10.0, 0.0),)) -> SheetWork:
    placed = []
    for key, x, y, turn in pieces:
        piece = flat_laid(key, x, y, turn)
        placed.append((key, placed_flat(flat_piece(piece.read("cut.svg")), piece.place)))
    return sheet_work(placed, machine, material="birch-plywood", thickness_mm=3.0)


def cuts(found: SheetWork):
    (step,) = (s for s in found.steps if s.operation.work is Work.CUT)
    return step.paths


def test_a_drawing_reads_back_as_what_it_was_made_of() -> None:
    made = flat()
    read = flat_piece(flat_work_svg(made, title="x"))
    for name in ("piece", "engraved", "scored"):
        assert getattr(read, name).symmetric_difference(getattr(made, name)).area < 1e-6
    assert flat_shape(flat_work_svg(made, title="x")).area == pytest.approx(600)


@pytest.mark.parametrize(
    "data", [b"", b"<svg", b"<svg width='3mm' height='3mm'/>"], ids=["none", "broken", "empty"]
)
def test_a_damaged_drawing_is_refused(data: bytes) -> None:
    with pytest.raises(RunError):
        flat_piece(data)


def test_work_is_done_in_order_inner_cuts_before_outer_ones() -> None:
    found = work(pieces=[("A", 10, 10, 0), ("B", 100, 50, 180), ("C", 60, 150, 0)])
    assert [step.operation.work for step in found.steps] == [Work.SCORE, Work.ENGRAVE, Work.CUT]
    inner = [path.inner for path in cuts(found)]
    assert inner == sorted(inner, reverse=True) and sum(inner) == 3


def test_lengths_and_times_are_those_of_plain_geometry() -> None:
    found = work(PLAIN)
    # Outside 2 (30 + 20), hole 4 x 6; one line of 16 scored; an engraved area of 14 by 3 in lines of 0.1.
    assert found.cut_mm == pytest.approx(100 + 24)
    by_work = {step.operation.work: step for step in found.steps}
    assert by_work[Work.ENGRAVE].area_mm2 == pytest.approx(42)
    assert by_work[Work.ENGRAVE].seconds == pytest.approx(
        420 / 250 + _way(by_work[Work.ENGRAVE], found), abs=0.5
    )
    assert by_work[Work.SCORE].seconds == pytest.approx(16 / 60, abs=0.2)
    twice = replace(PLAIN, operations=tuple(replace(o, passes=2) for o in PLAIN.operations))
    assert work(twice).steps[2].seconds == pytest.approx(2 * 124 / 14, abs=0.5)


def _way(step, found) -> float:
    return 0.0


@pytest.mark.parametrize("kerf", [0.1, 0.2, 0.4])
def test_the_cut_runs_half_a_kerf_outside_of_what_stays(kerf: float) -> None:
    paths = cuts(work(replace(PLAIN, kerf_mm=kerf)))
    (outer,) = (p for p in paths if not p.inner)
    (hole,) = (p for p in paths if p.inner)
    # A corner is rounded by the beam's own half width: the outside gains its full circle.
    assert outer.length_mm == pytest.approx(100 + math.pi * kerf, rel=1e-3)
    assert hole.length_mm == pytest.approx(4 * (6 - kerf), rel=1e-6)


@pytest.mark.parametrize("tabs", [1, 2, 3, 5])
def test_tabs_hold_the_piece(tabs: int) -> None:
    machine = replace(LASER, tabs=tabs, tab_mm=0.5, kerf_mm=0.2)
    outer = [path for path in cuts(work(machine)) if not path.inner]
    assert len(outer) == tabs and not any(path.closed for path in outer)
    whole = 100 + math.pi * 0.2
    # Of the sheet a tab leaves its length: the path stops half a kerf before it on either side.
    assert sum(path.length_mm for path in outer) == pytest.approx(whole - tabs * 0.7, rel=1e-3)
    ends = np.array([path.points[0] for path in outer])
    corners = np.array([(10, 10), (40, 10), (40, 30), (10, 30)])
    assert np.min(np.linalg.norm(ends[:, None] - corners[None], axis=2)) > 1.0


def test_a_piece_too_small_for_its_tabs_is_cut_through() -> None:
    machine = replace(LASER, tabs=8, tab_mm=5.0)
    assert all(path.closed for path in cuts(work(machine)))


def test_the_way_between_cuts_is_short() -> None:
    """Of a grid of 36 pieces no tour is shorter than step by step; ours may be a quarter longer."""
    grid = [
        (f"P{n}", 15.0 + 40 * (n % 6), 15.0 + 30 * (n // 6), 0.0)
        for n in np.random.default_rng(5).permutation(36)
    ]
    outer = [path.points[0] for path in cuts(work(PLAIN, grid)) if not path.inner]
    way = float(sum(np.hypot(*(b - a)) for a, b in itertools.pairwise(outer)))
    assert way <= 1.25 * (30 * 30 + 5 * 40)


def test_names_and_colours_are_the_station_s_own(tmp_path: Path) -> None:
    own = {
        Work.CUT: ("Schnitt 3", "#00ff00"),
        Work.ENGRAVE: ("Gravur", "#0000ff"),
        Work.SCORE: ("Anriss", "#123456"),
    }
    machine = replace(LASER, operations=tuple(
        replace(o, name=own[o.work][0], colour=own[o.work][1]) for o in LASER.operations
    ))  # fmt: skip
    found = work(machine)
    svg = sheet_svg(found, size_mm=SIZE, title="x").decode()
    for name, colour in own.values():
        assert f'<g id="{name}"' in svg and colour in svg
    document = ezdxf.read(io.StringIO(sheet_dxf(found, size_mm=SIZE).decode()))
    assert {"SCHNITT_3", "GRAVUR", "ANRISS"} <= {layer.dxf.name for layer in document.layers}
    assert document.layers.get("SCHNITT_3").rgb == (0, 255, 0)
    assert not document.audit().errors and document.header["$INSUNITS"] == 4


def test_equal_sheets_give_equal_bytes() -> None:
    assert sheet_dxf(work(), size_mm=SIZE) == sheet_dxf(work(), size_mm=SIZE)


def test_the_drawing_is_true_to_scale(tmp_path: Path) -> None:
    """By librsvg: the engraved bar of 14 by 3 mm is 140 by 30 pixels at 254 dpi, its corner where it lies."""
    (tmp_path / "s.svg").write_bytes(sheet_svg(work(PLAIN), size_mm=SIZE, title="x"))
    out = tmp_path / "s.png"
    subprocess.run(
        ["rsvg-convert", "-d", "254", "-p", "254", "-b", "white", "-o", out, tmp_path / "s.svg"], check=True
    )
    picture = np.asarray(Image.open(out).convert("RGB")).astype(int)
    assert picture.shape[:2] == (3000, 6000)
    wanted = np.array([0x6B, 0x7A, 0x72])
    rows, columns = np.nonzero(np.abs(picture - wanted).sum(axis=2) < 12)
    assert np.ptp(columns) + 1 == pytest.approx(140, abs=2) and np.ptp(rows) + 1 == pytest.approx(30, abs=2)
    assert columns.min() == pytest.approx((10 + 12) * 10, abs=2)
    assert rows.max() == pytest.approx(3000 - (10 + 4) * 10, abs=2)


def differences(data: bytes, tmp_path: Path, machine=LASER) -> list[str]:
    path = tmp_path / "s.svg"
    path.write_bytes(data)
    pieces = [flat_laid("A", 10, 10), flat_laid("B", 100, 50, 180.0)]
    return [d.message for d in differences_sheet_svg(path, pieces, machine, names=NAMES, size_mm=SIZE)]


PAIR = (("A", 10.0, 10.0, 0.0), ("B", 100.0, 50.0, 180.0))


def test_a_right_sheet_has_no_differences(tmp_path: Path) -> None:
    assert differences(sheet_svg(work(LASER, PAIR), size_mm=SIZE, title="x"), tmp_path) == []


@pytest.mark.parametrize(
    ("other", "said"),
    [
        (work(LASER, (("A", 10.05, 10.0, 0.0), PAIR[1])), "elsewhere"),
        (work(LASER, (("A", 40.0, 30.0, 180.0), PAIR[1])), "its cut"),
        (work(LASER, PAIR[:1]), "missing"),
        (work(LASER, (*PAIR, ("C", 300.0, 100.0, 0.0))), "does not belong"),
        (work(replace(LASER, kerf_mm=0.3), PAIR), "elsewhere"),
        (SheetWork(steps=work(LASER, PAIR).steps[1:]), "missing"),
    ],
    ids=["shifted", "turned", "missing", "too many", "kerf", "not scored"],
)
def test_a_sheet_that_differs_is_found(tmp_path: Path, other: SheetWork, said: str) -> None:
    found = differences(sheet_svg(other, size_mm=SIZE, title="x"), tmp_path)
    assert any(said in message for message in found), found


def test_a_cut_on_the_wrong_side_is_found(tmp_path: Path) -> None:
    inside = [(key, placed_flat(flat(), flat_laid(key, x, y, turn).place)) for key, x, y, turn in PAIR]
    shrunk = [
        (
            key,
            replace(w, piece=shapely.MultiPolygon([w.piece.buffer(-LASER.kerf_mm / 2, join_style="mitre")])),
        )
        for key, w in inside
    ]
    # As if the kerf were made good on the side of the piece.
    blind = replace(LASER, kerf_mm=0.0)
    wrong = sheet_work(shrunk, blind, material="birch-plywood", thickness_mm=3.0)
    assert any(
        "within the piece" in m for m in differences(sheet_svg(wrong, size_mm=SIZE, title="x"), tmp_path)
    )


def test_a_dxf_that_differs_is_found(tmp_path: Path) -> None:
    svg, dxf = tmp_path / "s.svg", tmp_path / "s.dxf"
    svg.write_bytes(sheet_svg(work(LASER, PAIR), size_mm=SIZE, title="x"))
    for made, said in ((work(LASER, PAIR), ""), (work(LASER, PAIR[:1]), "paths instead of"),
                       (work(LASER, (("A", 10.2, 10.0, 0.0), PAIR[1])), "differs from the drawing")):  # fmt: skip
        dxf.write_bytes(sheet_dxf(made, size_mm=SIZE))
        found = [d.message for d in differences_dxf(dxf, svg, names=NAMES, size_mm=SIZE)]
        assert any(said in message for message in found) if said else not found
    text = dxf.read_text("utf-8").replace("$INSUNITS\n 70\n4", "$INSUNITS\n 70\n1")
    dxf.write_text(text, "utf-8")
    assert any("not in mm" in d.message for d in differences_dxf(dxf, svg, names=NAMES, size_mm=SIZE))


def test_settings_are_told_in_the_order_of_work() -> None:
    rows = settings_rows(work(PLAIN))
    assert [row[1] for row in rows] == ["score", "engrave", "cut"]
    assert rows[2][3:6] == [70.0, 14.0, 1] and rows[2][9] == pytest.approx(124.0)

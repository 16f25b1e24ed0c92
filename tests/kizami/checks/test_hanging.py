"""Pieces that hang by one loop or by two, against the centre of mass that another library finds."""

from __future__ import annotations

import dataclasses
import math

import numpy as np
import pytest
import shapely
import trimesh

from kizami.checks.cases import FlatCase
from kizami.checks.finding import Level
from kizami.checks.hanging import hangs_below, tilt
from kizami.checks.loops import loop_hold, loop_place, loops_level
from kizami.lettering.shipped import shipped_typeface
from kizami.outlines.hanging import Loop
from kizami.pieces.make import Made, make_piece
from kizami.pieces.measuring import solid_case
from kizami.products.product_file import product_from_table
from tests.kizami.samples import TAG_TABLE, inputs

SIGN = {
    **TAG_TABLE, "blank": {"kind": "name piece", "length_mm": 80.0, "height_mm": 30.0},
    "treatment": {"kind": "cut-out", "thickness_mm": 3.0}, "process": "resin", "typeface": "pacifico",
    "fit": {"greatest_height_mm": 14.0, "lowest_height_mm": 6.0, "clearance_mm": 0.0},
    "soundness": {"one_piece": "base bar", "bridge_mm": 2.0, "overlap_mm": 0.6, "loop": "ends"},
}  # fmt: skip


def sign(words: str) -> Made:
    return make_piece(inputs(product_from_table(SIGN), words))


def one(piece: Made, code: str):
    (found,) = (f for f in piece.findings if f.code == code)
    return found


@pytest.mark.parametrize("words", ["Halma", "Lili", "Willow"])
def test_two_loops_and_the_middle_of_the_weight(words: str) -> None:
    piece = sign(words)
    mesh = trimesh.Trimesh(piece.solid.vertices, piece.solid.triangles, process=False)
    centre = mesh.center_mass[:2]
    tops = sorted((hole.centroid.x, hole.bounds[3]) for hole in piece.laid_out.layout.opened)
    assert len(tops) == 2
    left, right = np.array(tops)
    along = (right - left) / np.linalg.norm(right - left)
    across = np.array([-along[1], along[0]])
    below = float((left - centre) @ across)
    found = one(piece, "hangs-below")
    # The centre lies below the line between the loops by its distance from it, seen along the lettering's up.
    assert found.measured == pytest.approx(below * across[1], abs=0.02)
    # Two halves of a chain, 200 mm each, meet above the middle between the loops.
    half = np.linalg.norm(right - left) / 2
    meet = (left + right) / 2 + across * math.sqrt(200.0**2 - half**2)
    way = centre - meet
    tilt = math.degrees(math.atan2(abs(way[0]), -way[1]))
    assert one(piece, "tilt").measured == pytest.approx(tilt, abs=0.02)
    assert "two loops" in one(piece, "tilt").message


@pytest.mark.parametrize(("below_mm", "holds"), [(-3.0, False), (0.49, False), (0.56, True), (5.0, True)])
def test_a_weight_must_hang_half_a_millimetre_below_its_loops(below_mm: float, holds: bool) -> None:
    """The same sign hung by two places level with each other, so far above the middle of its weight."""
    piece = sign("Halma")
    case = solid_case(piece.laid_out, piece.solid)
    x, y, z = case.measured.centre_of_mass.tolist()
    hung = dataclasses.replace(case, hangs_at_mm=((x - 20.0, y + below_mm, z), (x + 20.0, y + below_mm, z)))
    (found,) = hangs_below(hung)
    assert found.measured == pytest.approx(below_mm, abs=1e-6)
    assert (found.level is not Level.FAILS) == holds
    (straight,) = tilt(hung)
    assert straight.measured == pytest.approx(0.0, abs=1e-6)


def test_loops_right_above_each_other_hang_by_the_upper_one() -> None:
    piece = sign("Halma")
    case = solid_case(piece.laid_out, piece.solid)
    x, y, z = case.measured.centre_of_mass.tolist()
    for places in (
        ((x + 3.0, y + 5.0, z), (x + 3.0, y + 25.0, z)),
        ((x + 3.0, y + 25.0, z), (x + 3.0, y + 5.0, z)),
    ):
        (found,) = tilt(dataclasses.replace(case, hangs_at_mm=places))
        assert found.measured == pytest.approx(math.degrees(math.atan2(3.0, 25.0)), abs=1e-3)


FAR = 40.0


def looped(*at: tuple[float, float], hold: float = 2.0) -> FlatCase:
    """A bar of 40 mm with loops at some places, each held by so much."""
    bar = shapely.MultiPolygon([shapely.box(0.0, 0.0, FAR, 6.0)])
    disc = shapely.Point(0, 0).buffer(1.0)
    loops = tuple(Loop(ring=disc, opening=disc, carrier=None, x=x, y=y, hold=hold) for x, y in at)
    product = product_from_table(SIGN)
    layout = dataclasses.replace(sign("Lili").laid_out.layout, outlines=bar, loops=loops)
    made = dataclasses.replace(sign("Lili").laid_out.made, layout=layout)
    return FlatCase(
        made=made, typeface=shipped_typeface("pacifico"), process=product.process, soundness=product.soundness
    )


@pytest.mark.parametrize(
    ("check", "case", "measured", "holds"),
    [
        (loops_level, looped((1, 5), (39, 5.09)), 0.09, True),
        (loops_level, looped((1, 5), (39, 5.12)), 0.12, False),
        (loop_place, looped((1, 5), (FAR * 0.81, 5)), 19.0, True),
        (loop_place, looped((FAR * 0.21, 5), (39, 5)), 21.0, False),
        (loop_hold, looped((1, 5), (39, 5), hold=1.21), 1.21, True),
        (loop_hold, looped((1, 5), (39, 5), hold=1.19), 1.19, False),
    ],
    ids=["level", "slanted", "at the ends", "too far in", "held", "held too little"],
)
def test_loops_on_both_sides_of_their_limits(check, case: FlatCase, measured: float, holds: bool) -> None:
    (found,) = check(case)
    assert found.measured == pytest.approx(measured, abs=0.011)
    assert (found.level is not Level.FAILS) == holds
    assert found.spot is not None and found.spot.u_mm is not None


def test_one_loop_or_none_is_asked_only_what_concerns_it() -> None:
    assert list(loops_level(looped((20, 7)))) == [] == list(loop_place(looped((20, 7))))
    assert list(loop_hold(looped())) == []


@pytest.mark.parametrize("words", ["Halma", "Mia"])
def test_a_key_chain_hangs_by_its_side_with_its_reading_direction_downward(words: str) -> None:
    table = {**SIGN, "soundness": {**SIGN["soundness"], "loop": "left"}}
    piece = make_piece(inputs(product_from_table(table), words))
    mesh = trimesh.Trimesh(piece.solid.vertices, piece.solid.triangles, process=False)
    (loop,) = piece.laid_out.layout.loops
    centre = mesh.center_mass
    lean = math.degrees(math.atan2(abs(centre[1] - loop.y), centre[0] - loop.opening.bounds[0]))
    assert one(piece, "tilt").measured == pytest.approx(lean, abs=0.02)
    assert one(piece, "tilt").level is not Level.FAILS

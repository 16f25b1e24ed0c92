"""Deliberate faults, some two hundred: each piece is built with one and proved against what was to be made.

Whatever is lost, moved, mirrored, turned, thinned, widened, too shallow, doubled, joined, filled or opened
must be caught by a named check, and the sound piece by none.
"""

from __future__ import annotations

import dataclasses
from collections.abc import Callable

import manifold3d as m3
import numpy as np
import pytest
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.treatment import CutOut, Engraved, Raised
from kizami.checks.finding import Level
from kizami.outlines.curves import bodies_of
from kizami.pieces.building import bare_body
from kizami.pieces.laying_out import LaidOut, lay_out
from kizami.pieces.measuring import check_solid
from kizami.products.product_file import product_from_table
from kizami.solids.lettered import lettered
from kizami.solids.solid import Solid, solid_of
from kizami.tolerance import SAGITTA_MM
from tests.kizami.samples import RING, RING_RAISED, RING_TABLE, TAG, TAG_RAISED, TAG_TABLE, inputs, product

BORE = product_from_table(
    {**RING_TABLE, "area": "inside", "treatment": {"kind": "engraved", "depth_mm": 0.4}}
)
BEAD = product_from_table(
    {
        **TAG_TABLE, "blank": {"kind": "bead", "diameter_mm": 24.0, "hole_mm": 6.0},
        "treatment": {"kind": "raised", "height_mm": 0.5, "root_mm": 0.4},
        "fit": {"greatest_height_mm": 6.0, "lowest_height_mm": 3.0, "clearance_mm": 1.0},
    }
)  # fmt: skip
PIERCED = product({**TAG_TABLE, "typeface": "allerta-stencil"}, treatment={"kind": "pierced"})
RECESS = product(
    TAG_TABLE, treatment={"kind": "in recess", "depth_mm": 0.8, "height_mm": 0.6, "margin_mm": 1.0}
)
WHICH = {
    "ring": RING, "ring raised": RING_RAISED, "tag": TAG, "tag raised": TAG_RAISED, "bore": BORE, "bead": BEAD,
    "pierced": PIERCED, "recess": RECESS,
}  # fmt: skip
WORDS = {"pierced": "Bible"}
Part = shapely.MultiPolygon


def _about(part: Part, change: Callable[[np.ndarray], np.ndarray]) -> Part:
    middle = np.array(part.centroid.coords[0])
    return bodies_of(shapely.transform(part, lambda xy: change(xy - middle) + middle))


#: What becomes of one part.
PARTS: dict[str, Callable[[Part], Part]] = {
    "lost": lambda part: Part(),
    "moved along": lambda part: shapely.transform(part, lambda xy: xy + np.array([0.15, 0.0])),
    "moved up": lambda part: shapely.transform(part, lambda xy: xy + np.array([0.0, 0.15])),
    "mirrored": lambda part: _about(part, lambda xy: xy * (-1.0, 1.0)),
    "turned": lambda part: _about(part, lambda xy: -xy),
    "thinned": lambda part: bodies_of(part.buffer(-0.08)),
    "widened": lambda part: bodies_of(part.buffer(0.08)),
    "filled": lambda part: Part([shapely.Polygon(body.exterior) for body in part.geoms]),
}  # fmt: skip
#: What looks the same afterwards: a fault that is none.
SAME = 0.02


def with_part(made: AsMade, index: int, part: Part) -> AsMade:
    parts = [p.outline for n, p in enumerate(made.parts) if n != index]
    return with_outlines(made, bodies_of(*parts, part))


def with_outlines(made: AsMade, outlines: Part) -> AsMade:
    return dataclasses.replace(made, layout=dataclasses.replace(made.layout, outlines=outlines))


def built(laid_out: LaidOut, made: AsMade) -> Solid:
    blank = bare_body(laid_out)
    return solid_of(lettered(blank, made, sagitta_mm=SAGITTA_MM), blank=blank)


def caught(laid_out: LaidOut, solid: Solid) -> set[str]:
    return {f.code for f in check_solid(laid_out, solid) if f.level is Level.FAILS}


LAID = {name: lay_out(inputs(which, WORDS.get(name, "jOb é"))) for name, which in WHICH.items()}


@pytest.mark.parametrize("name", list(WHICH))
def test_a_sound_piece_is_proved(name: str) -> None:
    assert caught(LAID[name], built(LAID[name], LAID[name].made)) == set()


CASES = [
    (name, fault, index)
    for name in WHICH
    for fault in PARTS
    for index in range(len(LAID[name].made.parts))
]  # fmt: skip


def _is_none(part: Part, changed: Part) -> bool:
    """Symmetrical letters turned or mirrored, letters without middles filled."""
    return part.symmetric_difference(changed).area < SAME * part.area


@pytest.mark.parametrize(("name", "fault", "index"), CASES)
def test_a_fault_in_one_part_is_caught(name: str, fault: str, index: int) -> None:
    laid_out = LAID[name]
    part = laid_out.made.parts[index].outline
    changed = PARTS[fault](part)
    if _is_none(part, changed):
        return
    solid = built(laid_out, with_part(laid_out.made, index, changed))
    assert caught(laid_out, solid) & {"letters-proven", "right-volume", "through-holes", "one-body"}


def test_there_are_some_two_hundred() -> None:
    real = [
        case for case in CASES
        if not _is_none(LAID[case[0]].made.parts[case[2]].outline, PARTS[case[1]](LAID[case[0]].made.parts[case[2]].outline))
    ]  # fmt: skip
    assert len(real) >= 200


@pytest.mark.parametrize("name", [n for n in WHICH if n not in ("pierced", "recess")])
@pytest.mark.parametrize("share", [0.95, 1.05, 0.5])
def test_another_depth_is_caught(name: str, share: float) -> None:
    laid_out = LAID[name]
    treatment = laid_out.made.treatment
    if isinstance(treatment, Engraved):
        other = dataclasses.replace(treatment, depth_mm=treatment.depth_mm * share)
    else:
        assert isinstance(treatment, Raised)
        other = dataclasses.replace(treatment, height_mm=treatment.height_mm * share)
    solid = built(laid_out, dataclasses.replace(laid_out.made, treatment=other))
    assert "letters-proven" in caught(laid_out, solid)


@pytest.mark.parametrize("name", list(WHICH))
def test_what_is_doubled_or_joined_is_caught(name: str) -> None:
    laid_out = LAID[name]
    made = laid_out.made
    first, second = made.parts[0].outline, made.parts[1].outline
    doubled = shapely.transform(
        second, lambda xy: xy * 0.5 + np.array(made.area.anchor) * 0.5 + np.array([0.0, 1.2])
    )
    joint = shapely.shortest_line(first, second).buffer(0.4)
    for outlines in (bodies_of(made.outlines, doubled), bodies_of(made.outlines, joint)):
        assert caught(laid_out, built(laid_out, with_outlines(made, outlines)))


@pytest.mark.parametrize("name", ["tag", "tag raised", "recess"])
def test_a_hole_through_a_letter_is_caught(name: str) -> None:
    laid_out = LAID[name]
    blank = bare_body(laid_out)
    assert blank is not None
    body = lettered(blank, laid_out.made, sagitta_mm=SAGITTA_MM)
    body = body if isinstance(body, m3.Manifold) else body.manifold()
    at = laid_out.made.parts[1].outline.representative_point()
    drilled = body - m3.Manifold.cylinder(20, 0.3).translate((at.x, at.y, -5.0))
    assert "through-holes" in caught(laid_out, solid_of(drilled, blank=blank))


def test_a_lost_dot_of_an_i_is_named_at_its_spot() -> None:
    laid_out = lay_out(inputs(TAG, "mini"))
    index = next(n for n, p in enumerate(laid_out.made.parts) if laid_out.layout.letter(p.cluster) == "i")
    letter = laid_out.made.parts[index].outline
    stem = max(letter.geoms, key=lambda body: body.area)
    solid = built(laid_out, with_part(laid_out.made, index, Part([stem])))
    found = next(f for f in check_solid(laid_out, solid) if f.code == "letters-proven")
    assert found.level is Level.FAILS and "“i” at place 2 is missing in part" in found.message
    dot = min(letter.geoms, key=lambda body: body.area)
    assert found.spot is not None and dot.contains(shapely.Point(found.spot.u_mm, found.spot.v_mm))


def test_a_lost_decimal_point_is_named() -> None:
    laid_out = lay_out(inputs(TAG, "12.5"))
    solid = built(laid_out, with_part(laid_out.made, 2, Part()))
    found = next(f for f in check_solid(laid_out, solid) if f.code == "letters-proven")
    assert "“.” at place 3 is missing" in found.message


def test_of_a_name_piece_a_lost_loop_or_letter_shows() -> None:
    table = {
        **TAG_TABLE, "blank": {"kind": "name piece", "length_mm": 80.0, "height_mm": 30.0},
        "treatment": {"kind": "cut-out", "thickness_mm": 2.0},
        "soundness": {"one_piece": "base bar", "bridge_mm": 2.0, "loop": "ends", "loop_hole_mm": 3.0},
    }  # fmt: skip
    laid_out = lay_out(inputs(product_from_table(table), "Oboe"))
    assert isinstance(laid_out.made.treatment, CutOut)
    assert caught(laid_out, built(laid_out, laid_out.made)) == set()
    for part in laid_out.made.parts:
        less = bodies_of(laid_out.made.outlines.difference(part.outline.buffer(1e-3)))
        assert caught(laid_out, built(laid_out, with_outlines(laid_out.made, less))), part.kind

"""Necks drawn as strong as the process holds: measured by whether a disc gets through, not by what found them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.fineness import fineness
from kizami.as_made.necks import with_necks
from kizami.as_made.treatment import CutOut
from kizami.lettering.layout import Added
from kizami.pieces.forecast import tried
from kizami.pieces.laying_out import lay_out
from kizami.products.product_file import product_from_table
from tests.kizami.samples import drawn

ASKED_MM = 0.35


def made_of(*bodies: shapely.Geometry) -> AsMade:
    """Each body a part of its own, as letters that meet are."""
    made = drawn(shapely.MultiPolygon([shapely.union_all(bodies)]), CutOut(thickness_mm=1.2))
    parts = tuple(Added(kind="bridge", outline=shapely.MultiPolygon([body])) for body in bodies)
    return replace(made, layout=replace(made.layout, added=parts))


def necks_below(made: AsMade, least_mm: float) -> list[float]:
    return [fine.width_mm for fine in fineness(made, reach_mm=least_mm).necks if fine.width_mm < least_mm]


def a_disc_gets_through(shape: shapely.Geometry, diameter_mm: float) -> bool:
    """Whether the middle of such a disc can go from any place of a shape that it fits in to any other."""
    room = shapely.get_parts(shape.buffer(-diameter_mm / 2.0, quad_segs=64))
    return len([part for part in room if part.area > 0.01 * diameter_mm**2]) == 1


def turned(shape: shapely.Geometry, angle: float) -> shapely.Geometry:
    cos, sin = np.cos(np.radians(angle)), np.sin(np.radians(angle))
    return shapely.transform(shape, lambda xy: xy @ np.array([[cos, sin], [-sin, cos]]))


#: Two strokes that go on from each other but for a step, a corner that only touches the flank of a stem, two
#: bowls that touch, the fine end of a stroke in a stem.
MEETING = {
    "a step aside": (shapely.box(0, 0, 3, 0.4), shapely.box(2.95, 0.3, 6, 0.7)),
    "a corner at a flank": (
        shapely.box(0, -2, 0.6, 2),
        shapely.Polygon([(0.58, 0), (1.0, 0.4), (3, 0.4), (3, -0.4), (1.0, -0.4)]),
    ),
    "two bowls": tuple(
        shapely.Point(x, 0).buffer(2.002, 64).difference(shapely.Point(x, 0).buffer(1.4)) for x in (-2, 2)
    ),
    "a fine end": (
        shapely.box(0, -2, 1, 2),
        shapely.Polygon([(0.9, -0.1), (1.4, -0.3), (3, -0.3), (3, 0.3), (1.4, 0.3), (0.9, 0.1)]),
    ),
}


@pytest.mark.parametrize("angle", [0.0, 23.0])
@pytest.mark.parametrize("case", MEETING)
def test_a_neck_is_as_strong_as_asked_and_nothing_far_from_it_changes(case: str, angle: float) -> None:
    bodies = [turned(body, angle) for body in MEETING[case]]
    made = made_of(*bodies)
    assert not a_disc_gets_through(made.outlines, 0.95 * ASKED_MM)
    found = fineness(made, reach_mm=1.2 * ASKED_MM)
    fine = [f for f in (*found.necks, *found.strokes) if f.width_mm < ASKED_MM]
    changed = with_necks(made, fine, ASKED_MM)
    assert a_disc_gets_through(changed.outlines, 0.99 * ASKED_MM)
    assert necks_below(changed, 0.999 * ASKED_MM) == []
    # Without the hairs that rounding leaves along edges which only all but coincide.
    fresh = changed.outlines.difference(made.outlines).buffer(-0.001)
    assert fresh.hausdorff_distance(shapely.Point(fine[0].u_mm, fine[0].v_mm)) < 4.0 * ASKED_MM
    assert made.outlines.difference(changed.outlines).area < 1e-6, "nothing is taken away"
    # No more than a stroke's own thickness beyond what was there.
    assert fresh.area < 3.0 * ASKED_MM**2
    assert changed.layout.steps[-1].name == "necks"


def test_what_was_cut_free_stays_so() -> None:
    """An opening right beside a neck, as the hole of a loop is."""
    step = MEETING["a step aside"]
    hole = shapely.Point(3.3, 0.05).buffer(0.2)
    made = made_of(*step)
    made = replace(made, layout=replace(made.layout, opened=(hole,)))
    fine = [f for f in fineness(made, reach_mm=1.2 * ASKED_MM).necks if f.width_mm < ASKED_MM]
    fresh = with_necks(made, fine, ASKED_MM).outlines.difference(made.outlines)
    assert fresh.intersection(hole).area < 1e-6


def test_nothing_to_be_mended_is_the_same_value() -> None:
    made = made_of(*MEETING["a step aside"])
    assert with_necks(made, [], ASKED_MM) is made


NAME = {
    "code": "NECK", "name": "A name on a chain", "process": "lost-wax", "material": "sterling-silver",
    "blank": {"kind": "name piece", "length_mm": 48.0, "height_mm": 30.0},
    "treatment": {"kind": "cut-out", "thickness_mm": 1.2}, "wording": {"kind": "name"},
    "fit": {"greatest_height_mm": 10.0, "lowest_height_mm": 4.0, "clearance_mm": 0.2},
    "soundness": {"thicken": "where needed", "most_departure_mm": 0.3, "one_piece": "bridges", "bridge_mm": 0.8},
}  # fmt: skip


@pytest.mark.parametrize(
    ("face", "name"),
    [
        ("dancing-script-bold", "Leroux"), ("dancing-script-bold", "Louise"), ("sacramento", "Brandt"),
        ("great-vibes", "Zirme"), ("great-vibes", "Hermighausen"),
    ],
)  # fmt: skip
def test_names_whose_letters_meet_by_less_than_a_stroke_hold(face: str, name: str) -> None:
    laid = lay_out(tried(product_from_table({**NAME, "typeface": face}), name).inputs)
    assert [f.code for f in laid.failing if f.code in ("neck-width", "stroke-width")] == []
    assert a_disc_gets_through(laid.layout.outlines, 0.98 * ASKED_MM)
    plain = product_from_table(
        {**NAME, "typeface": face, "soundness": {**NAME["soundness"], "thicken": "never"}}
    )
    assert all(step.name != "necks" for step in lay_out(tried(plain, name).inputs).layout.steps)


def test_a_hair_beside_what_is_drawn_is_no_opening() -> None:
    """What two edges that all but coincide leave between them would be the finest place of all."""
    bodies = MEETING["a step aside"]

    def strengthened(made: AsMade) -> AsMade:
        fine = [f for f in fineness(made, reach_mm=1.2 * ASKED_MM).necks if 0.1 < f.width_mm < ASKED_MM]
        return with_necks(made, fine, ASKED_MM)

    plain = made_of(*bodies)
    edge = shapely.union_all([one.outline for one in strengthened(plain).layout.added[2:]]).boundary
    inside = edge.intersection(plain.outlines.buffer(-0.05))
    hair = shapely.get_parts(inside)[0].interpolate(0.5, normalized=True).buffer(0.004, quad_segs=1)
    made = made_of(*(body.difference(hair) for body in bodies))
    assert sum(len(body.interiors) for body in made.outlines.geoms) == 1
    changed = strengthened(made)
    assert changed is not made
    assert sum(len(body.interiors) for body in changed.outlines.geoms) == 0

"""Slits opened: as wide as asked, from end to end, with nothing to be seen of where the work begins."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.fineness import fineness, finest, reach_unrolled
from kizami.as_made.narrow_gaps import with_gaps
from kizami.as_made.narrow_places import after_opening, narrow_places
from kizami.as_made.treatment import CutOut
from kizami.lettering.layout import Added
from kizami.outlines.curves import bodies_of
from tests.kizami.samples import TAG, drawn

ASKED_MM = 0.3


def made_of(*bodies: shapely.Geometry) -> AsMade:
    """As one part that stands, of bodies that are joined somewhere."""
    made = drawn(shapely.MultiPolygon([shapely.union_all(bodies)]), TAG.treatment)
    part = Added(kind="bridge", outline=made.outlines)
    return replace(made, layout=replace(made.layout, added=(part,)))


def sharpest_turn_deg(ring: shapely.LinearRing, near: shapely.Geometry) -> float:
    """The largest change of direction at a corner of a ring that lies near something."""
    points = shapely.get_coordinates(ring.simplify(0.003))[:-1]
    steps = np.roll(points, -1, axis=0) - points
    angles = np.arctan2(*steps.T[::-1])
    turns = np.abs(np.angle(np.exp(1j * (angles - np.roll(angles, 1)))))
    return math.degrees(turns[shapely.dwithin(shapely.points(points), near, 1e-9)].max())


def test_two_bowls_near_each_other_are_opened_without_a_step() -> None:
    """Rings of radius 5 whose skins are 0.2 apart: each gives half of what is missing, least at the ends."""
    places = [shapely.Point(x, 0.0) for x in (-5.1, 5.1)]
    bowls = [at.buffer(5.0, quad_segs=128).difference(at.buffer(4.2, quad_segs=128)) for at in places]
    made = made_of(*bowls, shapely.box(-6.0, -5.0, 6.0, -4.2))
    opened = with_gaps(made, "opened", ASKED_MM).made.outlines
    sides = shapely.get_parts(opened.intersection(shapely.box(-2.0, -2.5, 2.0, 2.5)))
    assert len(sides) == 2 and shapely.distance(*sides) == pytest.approx(ASKED_MM, rel=0.03)
    gone = made.outlines.difference(opened)
    # Analysis: the skins are 0.2 + y^2 / 5 apart, and as far as is made where that is 0.306.
    reach = math.sqrt(5.0 * (1.02 * ASKED_MM - 0.2))
    assert gone.bounds[3] == pytest.approx(reach, abs=0.06)
    assert gone.bounds[1] == pytest.approx(-reach, abs=0.06)
    near = shapely.box(-0.3, -1.5, 0.3, 1.5)
    assert max(sharpest_turn_deg(body.exterior, near) for body in opened.geoms) < 30.0


def test_what_joins_the_sides_at_the_bottom_of_a_slit_is_not_taken_from() -> None:
    made = made_of(shapely.box(0, 0, 6, 1), shapely.box(0, 1.2, 6, 2.2), shapely.box(0, 0, 1, 2.2))
    opened = with_gaps(made, "opened", ASKED_MM).made.outlines
    assert made.outlines.difference(opened).bounds[0] >= 1.0 - 0.005
    assert opened.intersection(shapely.box(2, 0.5, 5, 1.7)).area == pytest.approx(3 * (1.2 - 0.3), rel=0.02)


def test_the_end_of_a_stroke_is_shortened_and_the_stem_that_it_comes_to_is_not_dented() -> None:
    stem, stroke = shapely.box(0, 0, 1, 6), shapely.box(1.2, 3, 4, 3.8)
    made = made_of(stem, stroke, shapely.box(3, 0, 4, 3.5), shapely.box(0, 0, 4, 0.8))
    opened = with_gaps(made, "opened", ASKED_MM).made.outlines
    assert opened.intersection(shapely.box(0, 1, 1.1, 6)).area == pytest.approx(5.0, abs=1e-3)
    assert opened.intersection(shapely.box(1.1, 2.9, 2.9, 3.9)).bounds[0] == pytest.approx(1.306, abs=0.005)
    # Where that would be too far for the letter, both give.
    both = with_gaps(made, "opened", ASKED_MM, departure_mm=0.06).made.outlines
    assert both.intersection(shapely.box(0, 1, 1.1, 6)).area < 5.0 - 0.01


def test_where_one_side_can_spare_nothing_all_is_taken_from_the_other() -> None:
    thin, sturdy = shapely.box(0, 1.2, 6, 1.5), shapely.box(0, 0, 6, 1)
    made = made_of(thin, sturdy, shapely.box(0, 0, 1, 1.5))
    opened = with_gaps(made, "opened", ASKED_MM, stroke_mm=0.3).made.outlines
    assert opened.intersection(shapely.box(2, 1.15, 5, 2)).area == pytest.approx(3 * 0.3, rel=1e-3)
    assert opened.intersection(shapely.box(2, 0, 5, 1.1)).area == pytest.approx(3 * 0.894, rel=2e-3)


@pytest.mark.parametrize("asked_mm", [ASKED_MM, 0.1], ids=["opened", "as they were"])
def test_what_was_found_on_what_is_handed_on_need_not_be_found_again(asked_mm: float) -> None:
    made = made_of(shapely.box(0, 0, 6, 1), shapely.box(0, 1.2, 6, 2.2), shapely.box(0, 0, 1, 2.2))
    mended = with_gaps(made, "opened", asked_mm, reach_mm=0.4)
    again = fineness(mended.made, reach_mm=0.4)
    assert again.gaps
    assert [(g.width_mm, g.parts) for g in mended.fineness.gaps] == [
        (g.width_mm, g.parts) for g in again.gaps
    ]
    assert [s.width_mm for s in mended.fineness.strokes] == [s.width_mm for s in again.strokes]


#: Teeth of a comb, two pairs of which are too near each other, and the rail that they stand on.
COMB = [shapely.box(x, 0.0, x + 1.0, 8.0) for x in (0.0, 1.22, 6.0, 12.0, 13.24, 20.0)]
RAIL = shapely.box(0.0, -1.0, 21.0, 0.15)


@pytest.mark.parametrize("reach_mm", [0.35, 1.2])
def test_only_about_what_was_opened_is_it_measured_again(reach_mm: float) -> None:
    """Six teeth on a rail, two pairs of them too near: what is known afterwards is what a fresh look finds."""
    made = drawn(shapely.MultiPolygon([shapely.union_all([*COMB, RAIL])]), CutOut(thickness_mm=2.0))
    parts = tuple(Added(kind="bridge", outline=shapely.MultiPolygon([one])) for one in (*COMB, RAIL))
    made = replace(made, layout=replace(made.layout, added=parts))
    reach = reach_unrolled(made, reach_mm)
    before = narrow_places(made, reach)
    opening = shapely.box(0.9, 0.0, 1.3, 9.0)
    cut = bodies_of(made.outlines.difference(opening))
    after = replace(made, layout=replace(made.layout, outlines=cut, opened=(opening,)))
    known = after_opening(before, after, [opening], reach)
    told, afresh = (finest(after, one, reach_mm=reach_mm) for one in (known, narrow_places(after, reach)))
    for kind in ("strokes", "necks", "gaps", "middles"):
        ours, theirs = ({f.parts: f.width_mm for f in getattr(one, kind)} for one in (told, afresh))
        assert ours == pytest.approx(theirs, abs=0.003), kind
    # The pair that is as it was: 0.24 between them, above the rail.
    assert {g.parts: g.width_mm for g in told.gaps}[(3, 4)] == pytest.approx(0.24, abs=0.003)
    # The pair that was opened: 0.4, where its reach is so wide.
    assert ({g.parts: g.width_mm for g in told.gaps}.get((0, 1)) is None) == (reach_mm < 0.4)

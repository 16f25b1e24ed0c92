"""Lettering on a taper runs level on the finished piece, keeps its clearance and can be repeated."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely

from kizami.blanks.area import Area
from kizami.blanks.band_ring import BandRing
from kizami.blanks.round_things import Sleeve
from kizami.lettering.arrangement import Arrangement
from kizami.lettering.fit_plan import FitPlan
from kizami.lettering.fitting import Request, fit
from kizami.lettering.layout import Layout
from kizami.lettering.round_about import Repeated, Sector
from kizami.lettering.shipped import shipped_typeface

FACE = shipped_typeface("noto-sans-bold")
GRIPS = {
    "narrow on top": Sleeve(low_mm=40, high_mm=28, length_mm=60, bore_mm=16),
    "wide on top": Sleeve(low_mm=28, high_mm=40, length_mm=60, bore_mm=16),
}
each = pytest.mark.parametrize("name", list(GRIPS))


def area_of(name: str) -> Area:
    return GRIPS[name].areas[0]


def set_on(name: str, text: str = "HIHIHIH", height: float = 10.0, **how: Any) -> Layout:
    plan = FitPlan(greatest_height_mm=height, lowest_height_mm=2.0, clearance_mm=1.0, tracking=0.1)
    request = Request(text=text, typeface=FACE, arrangement=Arrangement(**how))
    return fit(request, area=area_of(name), plan=plan, sagitta_mm=0.005)


def in_space(name: str, layout: Layout) -> list[np.ndarray]:
    """The outline of each letter on the piece."""
    surface = area_of(name).surface
    out = []
    for shape in layout.shapes:
        if not shape.is_empty:
            uv = shapely.get_coordinates(shape)[:-1]
            out.append(surface.place(uv, np.zeros(len(uv))))
    return out


@each
def test_feet_and_heads_are_level_and_straight_lettering_droops(name: str) -> None:
    level = [(p[:, 2].min(), p[:, 2].max()) for p in in_space(name, set_on(name))]
    # Each letter turns as a whole: its foot is a chord of the level arc, lower or higher by c^2 / 8R.
    assert np.ptp([low for low, _ in level]) < 0.05
    assert np.ptp([high for _, high in level]) < 0.05
    straight = [(p[:, 2].min(), p[:, 2].max()) for p in in_space(name, set_on(name, level=False))]
    assert np.ptp([low for low, _ in straight]) > 0.5


@each
def test_it_is_centred_at_the_anchor_and_upright(name: str) -> None:
    layout, area = set_on(name), area_of(name)
    (anchor,) = area.surface.place(np.array([area.anchor]), np.zeros(1))
    points = in_space(name, layout)
    heights = np.concatenate([p[:, 2] for p in points])
    assert (heights.min() + heights.max()) / 2 == pytest.approx(anchor[2], abs=0.1)
    turns = [math.degrees(math.atan2(*p.mean(axis=0)[:2] * (1, -1))) for p in points]
    assert turns == sorted(turns)
    assert turns[0] == pytest.approx(-turns[-1], abs=0.2)
    for p in points[::2]:  # the stems of an H stand in planes through the axis
        low, high = (
            p[p[:, 2] < p[:, 2].min() + 0.1].mean(axis=0),
            p[p[:, 2] > p[:, 2].max() - 0.1].mean(axis=0),
        )
        assert math.atan2(low[0], -low[1]) == pytest.approx(math.atan2(high[0], -high[1]), abs=0.003)


@each
@pytest.mark.parametrize("times", [2, 3])
def test_repeats_stand_evenly_round_the_axis(name: str, times: int) -> None:
    """Two or three around, 180 or 120 degrees apart: common practice, no source."""
    layout = set_on(name, text="Ivy", height=8.0, turn=Repeated(times=times))
    points = in_space(name, layout)
    firsts = [p.mean(axis=0) for p in points[:: len(points) // times]]
    turns = sorted(math.degrees(math.atan2(f[0], -f[1])) % 360 for f in firsts)
    assert np.diff([*turns, turns[0] + 360]) == pytest.approx([360 / times] * times, abs=0.1)
    assert np.ptp([f[2] for f in firsts]) < 1e-6


@pytest.mark.parametrize("seam", [0.0, 6.0])
def test_a_sizing_seam_does_not_move_the_repeats_together(seam: float) -> None:
    """The seam takes from the area, not from the turn: three are 120 degrees apart with it and without."""
    ring = BandRing(bore_mm=20, width_mm=9, wall_mm=2.4, seam_mm=seam, outer="tapered", rise_mm=1.2)
    area = ring.areas[0]
    plan = FitPlan(greatest_height_mm=4.0, lowest_height_mm=1.0, clearance_mm=0.8)
    request = Request(text="I", typeface=FACE, arrangement=Arrangement(turn=Repeated(times=3)))
    layout = fit(request, area=area, plan=plan, sagitta_mm=0.005)
    middles = np.array([(s.centroid.x, s.centroid.y) for s in layout.shapes])
    points = area.surface.place(middles, np.zeros(3))
    turns = np.sort(np.degrees(np.arctan2(points[:, 0], -points[:, 1])))
    assert np.diff(turns) == pytest.approx([120.0, 120.0], abs=0.05)


@each
def test_too_long_for_its_sector_is_lowered(name: str) -> None:
    free = set_on(name, text="Bartholomew")
    third = set_on(name, text="Bartholomew", turn=Sector(angle_deg=120.0))
    aside = set_on(name, text="Bartholomew", turn=Sector(angle_deg=120.0, direction_deg=90.0))
    assert third.height_mm < free.height_mm
    assert aside.height_mm == pytest.approx(third.height_mm, abs=0.051)
    turns = [math.degrees(math.atan2(p[:, 0].mean(), -p[:, 1].mean())) for p in in_space(name, aside)]
    assert min(turns) > 30 and max(turns) < 150
    assert (min(turns) + max(turns)) / 2 == pytest.approx(90, abs=3)


@each
@pytest.mark.parametrize("text", ["gypsy", "Queen Bartholomew the Second of Ebbmouth", "W"])
def test_the_clearance_is_kept(name: str, text: str) -> None:
    layout = set_on(name, text=text, height=30.0)
    assert shapely.covers(area_of(name).clear_region(1.0).buffer(2e-3), layout.outlines)


@each
def test_marks_and_narrow_places_are_where_the_letters_are(name: str) -> None:
    layout = set_on(name, text="Ivy", height=8.0, turn=Repeated(times=3))
    for mark, shape, facts in zip(layout.marks, layout.shapes, layout.narrow, strict=True):
        assert mark.plain
        if facts.stroke is not None:
            assert shape.buffer(0.01).contains(shapely.Point(facts.stroke.x, facts.stroke.y))

"""Strips right round a body are turned bodies: Pappus gives their volume, and they have no seam."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely

from kizami.outlines.shrinking import Level
from kizami.solids.turned_ring import section, turned_ring
from kizami.surfaces.bore import Bore
from kizami.surfaces.cylinder import Cylinder
from kizami.surfaces.protocol import Surface
from kizami.surfaces.turned import ball_band

UPRIGHT = (Level(inward_mm=0.0, height_mm=0.2), Level(inward_mm=0.0, height_mm=-0.6))
DRAFTED = (Level(inward_mm=0.0, height_mm=0.0), Level(inward_mm=0.2, height_mm=-0.6))
POINTED = tuple(Level(inward_mm=0.25 * k, height_mm=-0.25 * k) for k in range(5))
RAISED = (Level(inward_mm=0.0, height_mm=-0.3), Level(inward_mm=0.0, height_mm=0.4), Level(inward_mm=0.1, height_mm=0.5))  # fmt: skip
LEVELS = {"upright": UPRIGHT, "drafted": DRAFTED, "pointed": POINTED, "raised, chamfered": RAISED}


@pytest.mark.parametrize("inside", [False, True], ids=["outside", "bore"])
@pytest.mark.parametrize("levels", list(LEVELS))
def test_its_volume_is_that_of_pappus(levels: str, inside: bool) -> None:
    radius = 9.0
    surface: Surface = Bore(radius_mm=radius) if inside else Cylinder(radius_mm=radius)
    ring = turned_ring(2.0, 3.2, LEVELS[levels], surface, columns_mm=np.empty(0), sagitta_mm=0.0005)
    cut = shapely.Polygon(section(2.0, 3.2, LEVELS[levels]))
    way = -1.0 if inside else 1.0
    pappus = 2 * math.pi * (radius + way * cut.centroid.y) * cut.area
    # Chords within 0.0005 mm of a circle of 9 mm: 4/3 of that in 9 mm at most.
    assert ring.volume() == pytest.approx(pappus, rel=2e-4)
    assert ring.genus() == 1 and len(ring.decompose()) == 1


def test_a_ridge_comes_where_the_sides_meet() -> None:
    corners = section(0.0, 1.2, POINTED)
    assert corners[:, 1].min() == pytest.approx(-0.6)
    assert shapely.Polygon(corners).area == pytest.approx(1.2 * 0.6 / 2)
    assert shapely.Polygon(corners).exterior.is_ccw


def test_it_has_its_corners_at_the_columns_that_are_asked_for() -> None:
    columns = np.sort(np.random.default_rng(3).uniform(0.0, 20 * math.pi, 400))
    ring = turned_ring(1.0, 2.0, UPRIGHT, Cylinder(radius_mm=10.0), columns_mm=columns, sagitta_mm=0.005)
    points = np.array(ring.to_mesh64().vert_properties)[:, :3]
    uv, h = Cylinder(radius_mm=10.0).unplace(points)
    found = np.unique(np.remainder(uv[:, 0] + 1e-7, 20 * math.pi))
    assert np.abs(found - columns[:, None]).min(axis=1).max() < 1e-6
    # Between columns that are too far apart there are more, no further apart than the tolerance allows.
    assert np.diff(np.append(found, found[0] + 20 * math.pi)).max() <= 2.0 * math.acos(1 - 0.005 / 10) * 10
    assert sorted(set(h.round(9).tolist())) == [-0.6, 0.2]


def test_a_wide_strip_follows_a_ball() -> None:
    """Its floor lies on the parallel surface: a zone of a smaller ball."""
    ball = ball_band(radius_mm=10.0)
    ring = turned_ring(-3.0, 3.0, (Level(inward_mm=0.0, height_mm=0.0), Level(inward_mm=0.0, height_mm=-1.0)), ball, columns_mm=np.empty(0), sagitta_mm=0.001)  # fmt: skip
    shell = 2 / 3 * math.pi * (10**3 - 9**3) * 2 * math.sin(0.3)
    assert ring.volume() == pytest.approx(shell, rel=1e-3)

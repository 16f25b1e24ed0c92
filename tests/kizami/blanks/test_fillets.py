"""Fillets: inside corners of blanks are filled by a round of the radius, and nothing else changes."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
import shapely

from kizami.blanks.band_ring import BandRing
from kizami.blanks.fillets import filleted_joint
from kizami.blanks.plate import Plate
from kizami.blanks.ring_frame import RingFrame
from kizami.errors import CatalogueError
from kizami.products.product_file import product_from_table
from tests.kizami.samples import RING_TABLE, TAG_TABLE

SAGITTA_MM = 0.001
PLATE = Plate(
    outline="rounded",
    length_mm=40,
    height_mm=20,
    thickness_mm=3,
    corner_mm=4,
    hang="ear top",
    hole_mm=3,
    web_mm=2,
)
TRAY = Plate(outline="oval", length_mm=30, height_mm=30, thickness_mm=4, tray_mm=1.5, rim_mm=2)


def joint_mm2(radius: float, height: float, fillet: float) -> float:
    """Area of one fillet between a straight edge and a disc whose middle is `height` above it.

    The fillet's middle is one radius above the edge and touches the disc from outside; from the figure
    edge, fillet's middle, disc's middle the sectors of both and the triangle over the disc's chord are
    taken off.
    """
    x = math.sqrt((radius + fillet) ** 2 - (height - fillet) ** 2)
    chord = math.sqrt(radius**2 - height**2)
    corners = np.array([(0, 0), (x, 0), (x, fillet), (0, height)])
    figure = shapely.Polygon(corners).area
    to_fillet, to_chord = math.atan2(fillet - height, x), math.atan2(-height, chord)
    at_fillet = math.atan2(x, fillet - height)  # between the way down to the edge and that to the disc
    return figure - radius**2 / 2 * (to_fillet - to_chord) - chord * height / 2 - fillet**2 / 2 * at_fillet


@pytest.mark.parametrize("fillet_mm", [0.4, 1.0, 2.0])
def test_an_ear_is_joined_by_two_fillets_of_the_closed_formula(fillet_mm: float) -> None:
    plain = PLATE.body(SAGITTA_MM).volume()
    grown = replace(PLATE, fillet_mm=fillet_mm).body(SAGITTA_MM).volume() - plain
    ear = PLATE.hole_mm / 2 + PLATE.web_mm
    height = PLATE.hole_mm / 2 + PLATE.web_mm / 2
    assert grown == pytest.approx(2 * joint_mm2(ear, height, fillet_mm) * PLATE.thickness_mm, rel=0.01)


def test_a_tray_s_foot_is_rounded_as_a_ring_of_the_same_section() -> None:
    """Pappus: what a quarter round leaves of its square, turned about the middle of a round tray."""
    fillet = 0.8
    filled = replace(TRAY, fillet_mm=fillet).body(SAGITTA_MM).volume() - TRAY.body(SAGITTA_MM).volume()
    inner = TRAY.length_mm / 2 - TRAY.rim_mm
    area = fillet**2 * (1 - math.pi / 4)
    # The centroid of the spandrel lies (10 - 3 pi) / (12 - 3 pi) r from its corner.
    centroid = inner - fillet * (10 - 3 * math.pi) / (12 - 3 * math.pi)
    assert filled == pytest.approx(2 * math.pi * centroid * area, rel=0.01)


def test_lettering_stays_on_the_level_floor_of_a_tray() -> None:
    plain, filleted = TRAY.areas[0], replace(TRAY, fillet_mm=0.8).areas[0]
    assert plain.outline.buffer(-0.8).symmetric_difference(filleted.outline).area < 0.1
    assert filleted.wall_mm == plain.wall_mm


def test_a_channel_s_feet_are_rounded() -> None:
    ring = BandRing(bore_mm=20, width_mm=9, wall_mm=2, seam_mm=0, outer="channel", rise_mm=1, rim_mm=1.5)
    rounded = replace(ring, fillet_mm=0.6)
    grown = rounded.body(SAGITTA_MM).volume() - ring.body(SAGITTA_MM).volume()
    area = 0.6**2 * (1 - math.pi / 4)
    radius = ring.outer_radius_mm + 0.6 * (10 - 3 * math.pi) / (12 - 3 * math.pi)
    assert grown == pytest.approx(2 * 2 * math.pi * radius * area, rel=0.01)
    (_, low, _, high), (_, below, _, above) = ring.areas[0].bounds, rounded.areas[0].bounds
    assert (below - low, high - above) == pytest.approx((0.6, 0.6))


def test_a_frame_s_loop_is_joined_by_fillets() -> None:
    frame = RingFrame(diameter_mm=30, frame_mm=3, thickness_mm=2, hole_mm=3, web_mm=2)
    joined = replace(frame, fillet_mm=1.0)
    added = joined.flat.difference(frame.flat.buffer(1e-6))
    assert len(shapely.get_parts(added)) == 2
    assert frame.flat.buffer(-1e-6).difference(joined.flat).area < 1e-3
    # A disc of the radius goes into every corner that is left.
    opened = shapely.Polygon(joined.flat.exterior)
    closed = opened.buffer(0.99, quad_segs=64).buffer(-0.99, quad_segs=64)
    assert closed.difference(opened.buffer(2e-3)).is_empty


def test_other_corners_that_point_inward_stay_as_drawn() -> None:
    notched = shapely.box(0, 0, 40, 10).difference(shapely.box(5, 7, 8, 10))
    ear = shapely.Point(30, 11.0).buffer(2.5)
    joined = filleted_joint(notched.union(ear), ear, 1.0, sagitta_mm=0.001)
    near_notch = shapely.box(0, 0, 15, 10)
    assert joined.intersection(near_notch).symmetric_difference(notched.intersection(near_notch)).area < 1e-9


PLATE_TABLE = {
    **TAG_TABLE,
    "blank": {
        "kind": "plate",
        "outline": "rounded",
        "length_mm": 60.0,
        "height_mm": 25.0,
        "thickness_mm": 3.0,
    },
}


@pytest.mark.parametrize(
    ("table", "changes", "says"),
    [
        pytest.param(RING_TABLE, {"fillet_mm": 0.4}, "channel", id="no channel"),
        pytest.param(
            RING_TABLE,
            {"outer": "channel", "rim_mm": 1.0, "rise_mm": 0.5, "fillet_mm": 0.6},
            "rims",
            id="above the rims",
        ),
        pytest.param(PLATE_TABLE, {"fillet_mm": 1.0}, "ear or a tray", id="nothing meets"),
        pytest.param(
            PLATE_TABLE,
            {"tray_mm": 1.0, "rim_mm": 2.0, "fillet_mm": 1.2},
            "depth of the tray",
            id="deeper than the tray",
        ),
        pytest.param(
            PLATE_TABLE,
            {"hang": "ear top", "hole_mm": 3.0, "web_mm": 2.0, "fillet_mm": 6.0},
            "ear",
            id="larger than the ear",
        ),
    ],
)
def test_a_fillet_that_can_not_be_is_refused(table: dict, changes: dict, says: str) -> None:
    with pytest.raises(CatalogueError, match=says):
        product_from_table({**table, "blank": {**table["blank"], **changes}})

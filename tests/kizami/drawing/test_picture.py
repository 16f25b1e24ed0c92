"""Pictures of finished pieces: where the piece is, which way it faces, and whether lettering stands out."""

from __future__ import annotations

import io

import manifold3d as m3
import numpy as np
import pytest
from PIL import Image

from kizami.drawing.looking import FROM_ABOVE, Look
from kizami.drawing.picture import Ground, picture, picture_png, seen_size_mm
from kizami.solids.solid import Solid, solid_of

STRAIGHT_DOWN = Look(towards_eye=(0.0, 0.0, 1.0), lamp=(-1.0, 1.0, 1.0), up=(0.0, 1.0, 0.0))
PLATE = m3.Manifold.cube([40.0, 20.0, 2.0])
BAR = m3.Manifold.cube([16.0, 4.0, 0.5]).translate([12.0, 8.0, 2.0])
SILVER = "#c9c9c4"


def drawn(
    solid: Solid, look: Look = STRAIGHT_DOWN, *, ground: Ground = Ground.NONE, colour: str = SILVER
) -> np.ndarray:
    return picture(solid, look=look, colour=colour, size_px=(400, 300), ground=ground, margin_px=20)


def test_a_plate_seen_from_above_is_its_rectangle() -> None:
    cover = drawn(solid_of(PLATE))[:, :, 3] > 127
    rows, columns = np.flatnonzero(cover.any(axis=1)), np.flatnonzero(cover.any(axis=0))
    # 40 mm take what the margins leave of 400 points, 20 mm half of it; both to a point.
    assert np.ptp(columns) + 1 == pytest.approx(360, abs=1)
    assert np.ptp(rows) + 1 == pytest.approx(180, abs=1)
    assert cover.sum() == pytest.approx(360 * 180, rel=0.01)
    assert cover[150, 200] and not cover[10, 10]


def test_a_hole_is_seen_through() -> None:
    pierced = PLATE - m3.Manifold.cylinder(5.0, 3.0, circular_segments=64).translate([20.0, 10.0, -1.0])
    cover = drawn(solid_of(pierced))[:, :, 3] > 127
    assert not cover[150, 200]
    assert (360 * 180 - cover.sum()) == pytest.approx(np.pi * (3 * 9.0) ** 2, rel=0.02)


def test_what_stands_nearest_is_seen() -> None:
    """A ball before a plate: the middle of the picture is as round and as bright as a ball, not as the plate."""
    ball = m3.Manifold.sphere(6.0, circular_segments=128).translate([20.0, 10.0, 10.0])
    light = drawn(solid_of(PLATE + ball))[:, :, 0].astype(int)
    # The lamp stands at the upper left, and so does the brightest point of the ball.
    window = light[100:200, 150:250]
    row, column = np.unravel_index(window.argmax(), window.shape)
    assert row < 50 and column < 50
    assert light[190, 240] < light[110, 160] - 10


@pytest.mark.parametrize("height", [0.15, 0.3, 0.5])
@pytest.mark.parametrize("way", [1.0, -1.0], ids=["raised", "engraved"])
def test_lettering_stands_out_from_its_ground(height: float, way: float) -> None:
    """Of one colour with its plate, at the shallowest that a process holds: contrast of 3 to 1 as text asks."""
    bar = m3.Manifold.cube([16.0, 4.0, height + 0.1]).translate([12.0, 8.0, 1.9 if way > 0 else 2.0 - height])
    blank = PLATE.as_original()
    made = solid_of(blank + bar if way > 0 else blank - bar, blank=blank)
    assert made.is_lettering.any() and not made.is_lettering.all()
    shown = drawn(made, FROM_ABOVE, ground=Ground.FLOORS if way < 0 else Ground.AROUND)
    light = (shown[:, :, 0] / 255.0) ** 2.2
    there = shown[:, :, 3] > 250
    dark, bright = np.quantile(light[there], (0.01, 0.6))
    assert (bright + 0.05) / (dark + 0.05) > 3.0


def test_a_leaning_face_is_not_darkened_as_a_corner() -> None:
    """Seen at any slope a bare plate is of one shade but for its rim."""
    for tilt in (0.3, 0.8, 1.5):
        look = Look(towards_eye=(0.0, -tilt, 1.0), lamp=(-1.0, 1.0, 1.0), up=(0.0, 1.0, 0.0))
        light = drawn(solid_of(m3.Manifold.cube([40.0, 40.0, 0.5])), look)[:, :, 0].astype(int)
        cover = drawn(solid_of(m3.Manifold.cube([40.0, 40.0, 0.5])), look)[:, :, 3] > 250
        rows = np.flatnonzero(cover.any(axis=1))
        middle = light[rows[len(rows) // 3] : rows[2 * len(rows) // 3], 150:250]
        assert np.ptp(middle) <= 4


def test_a_round_face_shows_no_facets() -> None:
    """A cylinder of 64 flats: brightness changes from point to point by little, as on a turned one."""
    flats = m3.Manifold.cylinder(20.0, 10.0, circular_segments=64)
    light = drawn(solid_of(flats), Look(towards_eye=(0.0, -1.0, 0.0), lamp=(-1.0, -1.0, 1.0)))[150, :, 0]
    inside = light[80:320].astype(int)
    assert np.abs(np.diff(inside)).max() <= 6


def test_the_same_piece_gives_the_same_bytes() -> None:
    one, other = (
        picture_png(
            solid_of(PLATE + BAR),
            look=FROM_ABOVE,
            colour=SILVER,
            size_px=(64, 48),
            ground=Ground.AROUND,
            margin_px=4,
        )
        for _ in range(2)
    )
    assert one == other
    with Image.open(io.BytesIO(one)) as image:
        assert image.size == (64, 48) and image.mode == "RGBA"


def test_gold_is_yellow_and_black_stays_black() -> None:
    gold = drawn(solid_of(PLATE), colour="#d9b45a")[150, 200]
    assert gold[0] > gold[1] > gold[2]
    assert drawn(solid_of(PLATE), colour="#000000")[150, 200, :3].max() < 40


def test_how_large_a_piece_is_seen() -> None:
    assert seen_size_mm(solid_of(PLATE), STRAIGHT_DOWN) == pytest.approx((40.0, 20.0))

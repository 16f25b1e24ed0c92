"""Every blank against closed formulas, and its areas against the body that they lie on.

Turned bodies by Pappus, V = 2 pi R_c A; a regular n-gon falls short of its circle by the factor
(n / 2 pi) sin(2 pi / n), which with chords true to 0.005 mm is under 0.1 % on these sizes, and as much
again, up to 0.2 %, is missing between a curved profile and its own chords.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
import trimesh

from kizami.blanks.area import Area
from kizami.blanks.band_ring import BandRing
from kizami.blanks.blank import Blank
from kizami.blanks.outlines import PLATE_OUTLINES, plate_outline
from kizami.blanks.plate import Plate
from kizami.blanks.round_things import BallBead, Coin, DomedDisc, Sleeve

SAGITTA = 0.005
BAND: dict[str, Any] = {"bore_mm": 17.2, "width_mm": 6.0, "wall_mm": 2.0, "seam_mm": 4.0}
PLATE: dict[str, Any] = {"length_mm": 40.0, "height_mm": 24.0, "thickness_mm": 3.0}


def segment(width: float, rise: float) -> tuple[float, float]:
    """Area of a circle's segment, and distance of its centroid from the chord."""
    radius = (width**2 / 4 + rise**2) / (2 * rise)
    half = math.asin(width / 2 / radius)
    area = radius**2 * (half - math.sin(half) * math.cos(half))
    centroid = 4 * radius * math.sin(half) ** 3 / (3 * (2 * half - math.sin(2 * half)))
    return area, centroid - radius * math.cos(half)


def pappus(*parts: tuple[float, float]) -> float:
    """Volume of a turned body from areas with the radii of their centroids."""
    return sum(2 * math.pi * radius * area for area, radius in parts)


def domed() -> float:
    area, off = segment(6.0, 0.8)
    return pappus((1.2 * 6.0, 8.6 + 0.6), (area, 8.6 + 1.2 + off))


def comfort() -> float:
    area, off = segment(6.0, 0.5)
    # What the bore bulges inward is added to a wall that ends at the edge radius.
    return pappus((1.5 * 6.0, 9.1 + 0.75), (area, 9.1 - off))


def leaf_area(length: float, height: float) -> float:
    """A lens widened by r (Steiner's formula): A + P r + pi r^2, the lens of two segments of a circle."""
    r = height / 8
    a, b = length / 2 - r, height / 2 - r
    radius = (a * a + b * b) / (2 * b)
    half = math.atan2(a, radius - b)
    lens = radius**2 * (2 * half - math.sin(2 * half))
    return lens + 4 * radius * half * r + math.pi * r * r


BLANKS: dict[str, tuple[Blank, float]] = {
    "domed band": (BandRing(**BAND, outer="domed", rise_mm=0.8), domed()),
    "comfort band": (BandRing(**BAND, inner="comfort", ease_mm=0.5), comfort()),
    "tapered band": (BandRing(**BAND, outer="tapered", rise_mm=0.8), pappus((12.0, 8.6 + 1.0)) + math.pi * 6 * 0.8**2 / 12),
    # The rule of thumb of a channel ring: bore radius 12, wall 2, width 9, rims 1 wide, lettering 0.4.
    "channel band": (
        BandRing(bore_mm=24.0, width_mm=9.0, wall_mm=2.0, seam_mm=0.0, outer="channel", rise_mm=0.4, rim_mm=1.0),
        pappus((2.0 * 9.0, 13.0), (2 * 0.4, 14.2)),
    ),
    "bead": (BallBead(diameter_mm=16, hole_mm=4), 4 / 3 * math.pi * (64 - 4) ** 1.5),
    "domed disc": (
        DomedDisc(diameter_mm=24, edge_mm=1.2, rise_mm=2.0, hole_mm=2.4, web_mm=1.5),
        math.pi * 144 * 1.2 + math.pi * 2 * (3 * 144 + 4) / 6 - math.pi * 1.44 * 1.78,
    ),
    "coin": (Coin(diameter_mm=30, thickness_mm=3), math.pi * 225 * 3),
    "rounded coin": (
        Coin(diameter_mm=30, thickness_mm=3, round_mm=1.5),
        math.pi * 13.5**2 * 3 + pappus((math.pi * 1.5**2 / 2, 13.5 + 4 * 1.5 / (3 * math.pi))),
    ),
    "sleeve": (Sleeve(low_mm=30, high_mm=30, length_mm=50, bore_mm=20), math.pi * (225 - 100) * 50),
    "grip": (Sleeve(low_mm=36, high_mm=28, length_mm=100, bore_mm=20), math.pi * 100 / 3 * (324 + 252 + 196) - math.pi * 1e4),
    "rounded plate": (Plate(**PLATE, outline="rounded", corner_mm=5.0), (40 * 24 - (4 - math.pi) * 25) * 3),
    "disc with a hole": (
        Plate(outline="oval", length_mm=30, height_mm=30, thickness_mm=2, hang="hole top", hole_mm=4, web_mm=2),
        (math.pi * 225 - math.pi * 4) * 2,
    ),
    "oval with an ear": (
        Plate(outline="oval", length_mm=40, height_mm=24, thickness_mm=3, hang="ear top", hole_mm=4, web_mm=2),
        float("nan"),
    ),
    "ticket": (Plate(**PLATE, outline="ticket", corner_mm=4.0), (40 * 24 - math.pi * 16) * 3),
    "heart": (Plate(outline="heart", length_mm=24, height_mm=22, thickness_mm=3), float("nan")),
    "leaf": (Plate(outline="leaf", length_mm=40, height_mm=20, thickness_mm=3), 3 * leaf_area(40, 20)),
    "tray": (
        Plate(**PLATE, outline="rounded", corner_mm=5.0, tray_mm=1.0, rim_mm=2.0),
        (40 * 24 - (4 - math.pi) * 25) * 3 - (36 * 20 - (4 - math.pi) * 9) * 1,
    ),
}  # fmt: skip
each = pytest.mark.parametrize("name", list(BLANKS))


@each
def test_the_volume_is_what_geometry_says(name: str) -> None:
    blank, expected = BLANKS[name]
    volume = blank.body(SAGITTA).volume()
    assert volume > 0
    if not math.isnan(expected):
        assert volume == pytest.approx(expected, rel=3e-3)


def test_a_finer_chord_comes_nearer_and_stays_inside() -> None:
    """Halving the tolerance halves what is missing: the error of an inscribed polygon is linear in it."""
    blank, expected = BLANKS["bead"]
    missing = [expected - blank.body(s).volume() for s in (0.02, 0.01, 0.005)]
    assert missing[0] > missing[1] > missing[2] > 0
    assert missing[0] / missing[2] == pytest.approx(4, rel=0.2)


@each
def test_it_is_one_closed_body_with_the_holes_that_it_should_have(name: str) -> None:
    blank, _ = BLANKS[name]
    body = blank.body(SAGITTA)
    mesh = body.to_mesh()
    shape = trimesh.Trimesh(mesh.vert_properties[:, :3], mesh.tri_verts)
    assert shape.is_volume
    assert len(body.decompose()) == 1
    through = {"domed band", "comfort band", "tapered band", "channel band", "bead", "domed disc", "sleeve", "grip",
               "disc with a hole", "oval with an ear"}  # fmt: skip
    assert body.genus() == (name in through)
    # Euler: V - E + F = 2 - 2 g.
    assert shape.euler_number == 2 - 2 * body.genus()


AREAS = [(name, area) for name, (blank, _) in BLANKS.items() for area in blank.areas]


def inside(area: Area, count: int = 200) -> np.ndarray:
    """Points of an area, off its keep-outs, the same every time."""
    low_u, low_v, high_u, high_v = area.outline.bounds
    random = np.random.default_rng(5)
    points = random.uniform((low_u, low_v), (high_u, high_v), (count * 6, 2))
    # Off the edges, where a cut along the normal would come out at the side.
    region = area.clear_region(1.0)
    return points[shapely.contains_xy(region, *points.T)][:count]


@pytest.mark.parametrize(("name", "area"), AREAS, ids=[f"{n}, {a.name}" for n, a in AREAS])
def test_an_area_lies_on_its_body_with_the_wall_that_it_states(name: str, area: Area) -> None:
    """Rays against the normal meet the surface at once, and the far side no sooner than the wall says."""
    body = BLANKS[name][0].body(SAGITTA).to_mesh()
    mesh = trimesh.Trimesh(body.vert_properties[:, :3], body.tri_verts)
    uv = inside(area)
    assert len(uv) > 50
    above = area.surface.place(uv, np.full(len(uv), 0.2))
    on = area.surface.place(uv, np.zeros(len(uv)))
    inward = (on - above) / 0.2
    hits, rays, _ = mesh.ray.intersects_location(above, inward)
    first = np.full(len(uv), np.inf)
    distance = np.linalg.norm(hits - above[rays], axis=1)
    np.minimum.at(first, rays, distance)
    assert np.abs(first - 0.2).max() < 2 * SAGITTA + 1e-3
    second = np.full(len(uv), np.inf)
    np.minimum.at(second, rays, np.where(distance > first[rays] + 0.05, distance, np.inf))
    assert (second - first).min() >= area.wall_mm - 0.02


@pytest.mark.parametrize(("name", "area"), AREAS, ids=[f"{n}, {a.name}" for n, a in AREAS])
def test_an_area_is_a_sound_outline_around_its_anchor(name: str, area: Area) -> None:
    assert area.outline.is_valid and area.outline.exterior.is_ccw
    assert area.clear_region(0.0).contains(shapely.Point(area.anchor))


@pytest.mark.parametrize("kind", list(PLATE_OUTLINES))
def test_outlines_fill_their_box_and_are_true_to_the_tolerance(kind: str) -> None:
    size = {"length_mm": 40.0, "height_mm": 26.0, "corner_mm": 4.0}
    fine = shapely.Polygon(plate_outline(kind, **size, sagitta_mm=0.0005))
    coarse = shapely.Polygon(plate_outline(kind, **size, sagitta_mm=0.05))
    assert fine.is_valid and fine.exterior.is_ccw
    assert fine.bounds == pytest.approx((0, 0, 40, 26), abs=1e-3)
    assert coarse.hausdorff_distance(fine) <= 0.06
    assert len(coarse.exterior.coords) < len(fine.exterior.coords) or kind == "rounded"


def test_the_back_of_a_plate_reads_from_behind() -> None:
    back = Plate(**PLATE, outline="rounded", hang="hole left", hole_mm=4, web_mm=2).areas[1]
    first, last, out = back.surface.place(
        np.array([(5.0, 12.0), (30.0, 12.0), (5.0, 12.0)]), np.array([0, 0, 1.0])
    )
    assert first[0] > last[0]  # who looks from below, top still up, reads towards -x
    assert out[2] < first[2]
    # The hole that is left in front is right behind.
    assert back.keep_outs[0].outline.centroid.x == pytest.approx(40 - 4)
    assert back.anchor[0] < 20


def test_the_floor_of_a_tray_ends_at_its_rim() -> None:
    face = BLANKS["tray"][0].areas[0]
    assert face.outline.bounds == pytest.approx((2, 2, 38, 22), abs=1e-3)
    assert face.wall_mm == 2.0


def test_a_domed_disc_has_its_hole_where_its_area_says() -> None:
    disc, _ = BLANKS["domed disc"]
    spot = disc.areas[0].keep_outs[0].outline
    (middle,) = disc.areas[0].surface.place(np.array([(spot.centroid.x, spot.centroid.y)]), np.zeros(1))
    assert middle[:2] == pytest.approx([0, 12 - 1.5 - 1.2], abs=0.02)

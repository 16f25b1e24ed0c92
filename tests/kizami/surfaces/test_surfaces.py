"""The surface protocol, and every surface against what geometry says of it.

Sources: cylinder and cone unroll without stretch and a ball can not (Gauss, Theorema Egregium); along a
parallel of a ball lengths shrink by cos(latitude); a cone of slant length l and base radius r unrolls to a
sector of radius l and angle 2 pi r / l; a layer on a surface by Steiner's formula; turned bodies by Pappus.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from kizami.surfaces.ball_patch import BallPatch
from kizami.surfaces.bore import Bore
from kizami.surfaces.cone import Cone
from kizami.surfaces.cylinder import Cylinder
from kizami.surfaces.layer import layer_mm, layer_volume_mm3
from kizami.surfaces.moved import Moved
from kizami.surfaces.plane import Plane
from kizami.surfaces.protocol import Surface
from kizami.surfaces.turned import Arc, Line, Profile, Turned, ball_band, smooth_enough

DOMED = Profile(pieces=(Arc(centre=(4.0, 3.5), radius_mm=7.0, from_rad=-0.5, to_rad=0.5),))
COMFORT = Profile(
    pieces=(Arc(centre=(20.0, 3.0), radius_mm=11.0, from_rad=math.pi + 0.27, to_rad=math.pi - 0.27),)
)
ROUNDED_EDGE = Profile(
    pieces=(
        Arc(centre=(10.0, 1.0), radius_mm=1.0, from_rad=-math.pi / 2 * 0.8, to_rad=0.0),
        Line(start=(11.0, 1.0), end=(11.0, 4.0)),
        Arc(centre=(10.0, 4.0), radius_mm=1.0, from_rad=0.0, to_rad=math.pi / 2 * 0.8),
    )
)

#: Surfaces with a part of them that is looked at: u and v at most this far from the origin of v.
SURFACES = {
    "plane": (Plane(z_mm=3.0), (-30, 30), (-30, 30)),
    "cylinder": (Cylinder(radius_mm=10.4), (0, 60), (0, 9)),
    "bore": (Bore(radius_mm=8.6), (0, 50), (0, 9)),
    "bore along y": (
        Moved(surface=Bore(radius_mm=8.6), rows=((1, 0, 0), (0, 0, 1), (0, -1, 0)), origin=(0, -4.5, 0)),
        (0, 50),
        (0, 9),
    ),
    "cone, narrow on top": (Cone(low_radius_mm=12, high_radius_mm=8, height_mm=10), (-9, 9), (0.5, 9)),
    "cone, wide on top": (Cone(low_radius_mm=8, high_radius_mm=12, height_mm=10), (-9, 9), (0.5, 9)),
    "cone from inside": (
        Cone(low_radius_mm=8, high_radius_mm=12, height_mm=10, side="inside"),
        (-9, 9),
        (0.5, 9),
    ),
    "ball, equator": (ball_band(radius_mm=20), (0, 60), (-9, 9)),
    "ball, 40 degrees": (ball_band(radius_mm=20, latitude_deg=40), (0, 60), (-9, 9)),
    "ball patch": (BallPatch(radius_mm=20), (-9, 9), (-9, 9)),
    "domed band": (Turned(profile=DOMED, reference_mm=3.5), (0, 60), (-3, 3)),
    "comfort bore": (Turned(profile=COMFORT, reference_mm=3.0, side="inside"), (0, 50), (-2.5, 2.5)),
    "rounded edge": (Turned(profile=ROUNDED_EDGE, reference_mm=2.7), (0, 60), (-2.5, 2.5)),
}
DEVELOPABLE = ["plane", "cylinder", "bore", "cone, narrow on top", "cone, wide on top", "cone from inside"]
each = pytest.mark.parametrize("name", list(SURFACES))
share = st.floats(0.02, 0.98)


def some(name: str, a: float, b: float) -> tuple[Surface, np.ndarray]:
    surface, (low_u, high_u), (low_v, high_v) = SURFACES[name]
    return surface, np.array([low_u + a * (high_u - low_u), low_v + b * (high_v - low_v)])


def derivatives(surface: Surface, uv: np.ndarray, h: float = 0.0) -> np.ndarray:
    """Along u, along v and along the normal, by differences over 1e-5 mm."""
    step = 1e-5
    du, dv = np.array([step, 0.0]), np.array([0.0, step])
    at = np.array([uv + du, uv - du, uv + dv, uv - dv, uv, uv])
    points = surface.place(at, np.array([h, h, h, h, h + step, h - step]))
    return (points[::2] - points[1::2]) / (2 * step)


@each
@given(a=share, b=share)
def test_the_frame_is_right_handed_and_h_is_length_along_the_normal(name: str, a: float, b: float) -> None:
    surface, uv = some(name, a, b)
    along, up, out = derivatives(surface, uv)
    # Reading direction x up = outward: lettering can't come out mirrored.
    assert np.dot(np.cross(along, up), out) > 0.5
    assert np.linalg.norm(out) == pytest.approx(1, rel=1e-6)
    assert abs(np.dot(out, along)) + abs(np.dot(out, up)) < 1e-5


@pytest.mark.parametrize("name", [n for n in SURFACES if n != "ball patch"])
# Not as far inward as the middle of the tightest round, where all normals meet.
@given(a=share, b=share, h=st.floats(-0.9, 1.5))
def test_where_a_point_lies_is_where_it_was_placed(name: str, a: float, b: float, h: float) -> None:
    surface, uv = some(name, a, b)
    found = surface.unplace(surface.place(uv[None, :], np.array([h])))
    assert found is not None
    (back,), (height,) = found
    if surface.period_mm is not None:
        # Whichever turn it is counted in.
        back = back - np.array([round((back[0] - uv[0]) / surface.period_mm) * surface.period_mm, 0.0])
    assert back == pytest.approx(uv, abs=1e-9)
    assert height == pytest.approx(h, abs=1e-9)


def test_beyond_the_ends_of_a_profile_it_goes_on_and_between_pieces_the_nearer_counts() -> None:
    """A quarter round between two lines: a point far out at 45 degrees stands over the middle of the round."""
    profile = Profile(
        pieces=(
            Line(start=(5.0, 0.0), end=(5.0, 2.0)),
            Arc(centre=(3.0, 2.0), radius_mm=2.0, from_rad=0.0, to_rad=math.pi / 2),
        )
    )
    points = np.array([(6.0, -1.0), (6.5, 1.0), (3 + 3 / math.sqrt(2), 2 + 3 / math.sqrt(2)), (4.0, 1.5)])
    s, off = profile.nearest(points)
    assert s == pytest.approx([-1.0, 1.0, 2.0 + math.pi / 2, 1.5])
    assert off == pytest.approx([1.0, 1.5, 1.0, -1.0])


@each
@given(a=share, b=share)
def test_the_stretch_is_what_lengths_say(name: str, a: float, b: float) -> None:
    surface, uv = some(name, a, b)
    along, up, _ = derivatives(surface, uv)
    measured = np.linalg.svd(np.column_stack((along, up)), compute_uv=False)
    assert np.sort(measured) == pytest.approx(np.sort(surface.stretch(uv[None, :])[0]), abs=1e-5)
    if name in DEVELOPABLE:
        assert measured == pytest.approx([1, 1], abs=1e-5)


@each
@given(a=share, b=share, h=st.floats(-1.5, 1.5))
def test_a_layer_is_what_the_volume_element_says(name: str, a: float, b: float, h: float) -> None:
    """d/dh of the layer is the determinant of the map at that height (Steiner's formula)."""
    surface, uv = some(name, a, b)
    determinant = np.linalg.det(derivatives(surface, uv, h))
    step = 1e-4
    rate = layer_mm(surface, uv[None, :], h - step, h + step)[0] / (2 * step)
    assert rate == pytest.approx(determinant, rel=1e-4, abs=1e-6)


@each
@given(a=share, b=share, h=st.floats(-1, 1), sagitta=st.floats(0.002, 0.05))
def test_a_chord_of_the_longest_step_leaves_the_surface_by_the_tolerance(
    name: str, a: float, b: float, h: float, sagitta: float
) -> None:
    surface, uv = some(name, a, b)
    steps = surface.max_step(sagitta_mm=sagitta, h_mm=h)
    for step, way in zip(steps, ((1, 0), (0, 1)), strict=True):
        if math.isinf(step):
            continue
        half = np.array(way) * step / 2
        ends = np.array([uv - half, uv + half, uv])
        first, last, middle = surface.place(ends, np.full(3, h))
        off = (first + last) / 2 - middle
        assert abs(off @ derivatives(surface, uv, h)[2]) <= sagitta * 1.001 + 1e-9


@pytest.mark.parametrize("name", ["cylinder", "bore", "ball, equator", "domed band", "comfort bore"])
def test_what_closes_meets_itself_after_its_period(name: str) -> None:
    surface, uv = some(name, 0.3, 0.4)
    assert surface.period_mm is not None
    first, second = surface.place(np.array([uv, uv + np.array([surface.period_mm, 0])]), np.zeros(2))
    assert first == pytest.approx(second)


@pytest.mark.parametrize(
    "name",
    [n for n in SURFACES if "bore" not in n and "inside" not in n and n not in ("plane", "ball patch")],
)
def test_the_middle_of_what_is_read_from_outside_faces_the_front(name: str) -> None:
    surface, uv = some(name, 0.5, 0.5)
    middle = 0.0 if surface.period_mm is None else surface.period_mm / 2
    (point,) = surface.place(np.array([(middle, uv[1])]), np.array([0.5]))
    assert point[0] == pytest.approx(0, abs=1e-9) and point[1] < 0


@pytest.mark.parametrize("radius", [10.0, 111.0])
@pytest.mark.parametrize("latitude", [0.0, 25.0, -50.0])
def test_along_a_parallel_lengths_shrink_with_the_cosine_of_its_latitude(
    radius: float, latitude: float
) -> None:
    surface = ball_band(radius_mm=radius, latitude_deg=latitude, reach_deg=25)
    for other in (latitude - 20, latitude, latitude + 20):
        v = math.radians(other - latitude) * radius
        expected = math.cos(math.radians(other)) / math.cos(math.radians(latitude))
        assert surface.stretch(np.array([[3.0, v]]))[0] == pytest.approx([expected, 1.0])
        (point,) = surface.place(np.array([[3.0, v]]), np.zeros(1))
        assert np.linalg.norm(point) == pytest.approx(radius)
        assert math.degrees(math.asin(point[2] / radius)) == pytest.approx(other)


@pytest.mark.parametrize(
    ("low", "high", "height"), [(10.0, 5.0, 12.0), (5.0, 10.0, 12.0), (14.0, 12.0, 90.0)]
)
def test_a_cone_unrolls_to_the_sector_that_geometry_says(low: float, high: float, height: float) -> None:
    cone = Cone(low_radius_mm=low, high_radius_mm=high, height_mm=height)
    # Completed to its apex it has the base radius of its wide end and the slant length from there.
    wide = max(low, high)
    slant = cone.slant_mm * wide / abs(high - low)
    assert cone.sector_rad == pytest.approx(2 * math.pi * wide / slant)
    apex = cone.apex
    assert apex.turn_rad == cone.sector_rad
    # Half the sector from the front it meets itself at the back.
    for reach in (low / cone.sine, high / cone.sine):
        ends = []
        for side in (-1, 1):
            theta = side * cone.sector_rad / 2
            down = -1 if cone.is_narrow_on_top else 1
            ends.append((reach * math.sin(theta), apex.v_mm + down * reach * math.cos(theta)))
        left, right = cone.place(np.array(ends), np.zeros(2))
        assert left == pytest.approx(right, abs=1e-9)
        assert left[1] > 0


@pytest.mark.parametrize("name", ["cone, narrow on top", "cone, wide on top", "cone from inside"])
def test_an_arc_about_the_apex_is_level_on_the_cone(name: str) -> None:
    surface, _ = some(name, 0.5, 0.5)
    apex = surface.apex
    assert apex is not None
    reach = abs(apex.v_mm - 4.0)
    down = -1.0 if apex.v_mm > 0 else 1.0
    theta = np.linspace(-0.3, 0.3, 9)
    arc = np.column_stack((reach * np.sin(theta), apex.v_mm + down * reach * np.cos(theta)))
    heights = surface.place(arc, np.zeros(9))[:, 2]
    assert np.ptp(heights) < 1e-9
    straight = surface.place(np.column_stack((np.linspace(-5, 5, 9), np.full(9, 4.0))), np.zeros(9))[:, 2]
    assert np.ptp(straight) > 0.2  # which is the droop


@pytest.mark.parametrize("radius", [10.0, 111.0])
def test_from_the_middle_of_a_ball_patch_lengths_and_directions_are_true(radius: float) -> None:
    surface = BallPatch(radius_mm=radius)
    for angle in (0.0, 1.0, 2.5):
        way = np.array([math.cos(angle), math.sin(angle)])
        (point,) = surface.place(way[None, :] * radius * 0.4, np.zeros(1))
        assert math.acos(point[2] / radius) == pytest.approx(0.4)
        assert math.atan2(point[1], point[0]) == pytest.approx(angle)


# -- volumes: a whole turn of a layer is a turned body, whose volume Pappus gives


def rectangle(low_u: float, low_v: float, high_u: float, high_v: float) -> shapely.MultiPolygon:
    return shapely.MultiPolygon([shapely.segmentize(shapely.box(low_u, low_v, high_u, high_v), 0.5)])


@pytest.mark.parametrize(("low", "high"), [(-0.4, 0.0), (0.0, 0.5), (-2.0, 3.0)])
def test_layers_of_whole_turns(low: float, high: float) -> None:
    cylinder = Cylinder(radius_mm=10.0)
    turn = rectangle(0, 0, 2 * math.pi * 10, 4)
    hollow = math.pi * ((10 + high) ** 2 - (10 + low) ** 2) * 4
    assert layer_volume_mm3(cylinder, turn, low, high) == pytest.approx(hollow)
    bore = Bore(radius_mm=10.0)
    inner = math.pi * ((10 - low) ** 2 - (10 - high) ** 2) * 4
    assert layer_volume_mm3(bore, turn, low, high) == pytest.approx(inner)
    ball = ball_band(radius_mm=10.0)
    zone = rectangle(0, -3, 2 * math.pi * 10, 3)
    # A zone between two latitudes of a hollow ball: 2/3 pi (R^3 - r^3) (sin a2 - sin a1).
    shell = 2 / 3 * math.pi * ((10 + high) ** 3 - (10 + low) ** 3) * 2 * math.sin(0.3)
    assert layer_volume_mm3(ball, zone, low, high) == pytest.approx(shell, rel=1e-6)


@pytest.mark.parametrize(("low", "high"), [(-0.4, 0.0), (0.0, 0.5)])
def test_layers_of_a_whole_cone_and_of_a_cap(low: float, high: float) -> None:
    """The shell of a frustum is a turned parallelogram (Pappus); that of a cap a difference of sectors."""
    cone = Cone(low_radius_mm=12, high_radius_mm=8, height_mm=10)
    sector = shapely.MultiPolygon([shapely.Polygon(cone.outline(sagitta_mm=1e-5))])
    cosine = math.sqrt(1.0 - cone.sine**2)
    shell = 2 * math.pi * (10 + (low + high) / 2 * cosine) * cone.slant_mm * (high - low)
    assert layer_volume_mm3(cone, sector, low, high) == pytest.approx(shell, rel=1e-5)
    cap = shapely.MultiPolygon([shapely.Point(0, 0).buffer(0.4 * 20.0, quad_segs=400)])
    between = 2 / 3 * math.pi * ((20 + high) ** 3 - (20 + low) ** 3) * (1 - math.cos(0.4))
    assert layer_volume_mm3(BallPatch(radius_mm=20.0), cap, low, high) == pytest.approx(between, rel=1e-5)


def test_a_layer_off_to_the_side_of_a_cap_is_its_share_by_angle() -> None:
    """A piece of a ring about the middle, far from the midst of its own box."""
    ball = BallPatch(radius_mm=20.0)
    ring = (
        shapely.Point(0, 0)
        .buffer(8.0, quad_segs=400)
        .difference(shapely.Point(0, 0).buffer(6.0, quad_segs=400))
    )
    corner = shapely.MultiPolygon([ring.intersection(shapely.box(0, 0, 9, 9))])
    zone = 2 / 3 * math.pi * (20**3 - 19.5**3) * (math.cos(0.3) - math.cos(0.4)) / 4
    assert layer_volume_mm3(ball, corner, -0.5, 0.0) == pytest.approx(zone, rel=1e-5)


def test_a_profile_with_a_corner_is_told_from_a_smooth_one() -> None:
    assert smooth_enough(ROUNDED_EDGE.pieces)
    bent = (Line(start=(5, 0), end=(5, 3)), Line(start=(5, 3), end=(4, 6)))
    apart = (Line(start=(5, 0), end=(5, 3)), Line(start=(5, 4), end=(5, 6)))
    assert not smooth_enough(bent) and not smooth_enough(apart)


@pytest.mark.parametrize("sagitta", [0.05, 0.005])
def test_the_polyline_of_a_profile_is_true_to_the_tolerance_and_no_finer_than_it_asks(sagitta: float) -> None:
    line = shapely.LineString(ROUNDED_EDGE.polyline(sagitta_mm=sagitta))
    dense, _, _ = ROUNDED_EDGE.at(np.linspace(0, ROUNDED_EDGE.length_mm, 4000))
    assert shapely.distance(shapely.points(dense), line).max() <= sagitta * 1.0001
    quarter = math.ceil(0.8 * math.pi / 2 / (2 * math.acos(1 - sagitta)))
    assert len(line.coords) <= 2 * quarter + 2

"""Sharp points, overhang and hollows against bodies whose measures are known by analysis."""

from __future__ import annotations

import math

import manifold3d as m3
import numpy as np
import pytest
from scipy import ndimage

from kizami.solids.drains import _swollen, trapped
from kizami.solids.measured import Measured
from kizami.solids.printing import best_lain, islands_along, lain_along
from kizami.solids.sharpness import corner_angles_rad, sharpest
from kizami.solids.solid import solid_of

UP = np.array([0.0, 0.0, 1.0])


def measured(body: m3.Manifold) -> Measured:
    solid = solid_of(body)
    return Measured(vertices=solid.vertices, triangles=solid.triangles)


def box(x: float, y: float, z: float, at: tuple[float, float, float] = (0, 0, 0)) -> m3.Manifold:
    return m3.Manifold.cube((x, y, z)).translate(at)


def wedge(angle_deg: float) -> m3.Manifold:
    """An upright prism that runs out in a point of an angle; its other two angles are wide."""
    half = math.tan(math.radians(angle_deg) / 2)
    return m3.Manifold.extrude(m3.CrossSection([[(0, 0), (20, -20 * half), (20, 20 * half)]]), 3.0)


@pytest.mark.parametrize("angle", [4.0, 9.9, 10.1, 30.0, 59.0])
def test_the_corner_of_an_upright_prism_has_the_angle_of_its_outline(angle: float) -> None:
    found = sharpest(measured(wedge(angle)))
    assert found is not None
    assert found.angle_deg == pytest.approx(angle, rel=1e-4)
    assert found.at_mm[:2] == pytest.approx((0.0, 0.0), abs=1e-6)


def test_a_corner_of_a_tetrahedron_encloses_acos_23_27() -> None:
    """Solid angle of a regular tetrahedron's corner: acos(23/27), from memory of tables of polyhedra."""
    of = measured(m3.Manifold.tetrahedron())
    found = corner_angles_rad(of, np.arange(4))
    assert found == pytest.approx([math.acos(23 / 27)] * 4, rel=1e-5)


def test_neither_a_box_nor_a_ball_nor_a_curve_has_a_sharp_point() -> None:
    for body in (box(3, 4, 5), m3.Manifold.sphere(5.0, 128), m3.Manifold.cylinder(3.0, 8.0, 8.0, 128)):
        assert sharpest(measured(body)) is None


def test_a_point_too_small_to_be_felt_is_none() -> None:
    nick = box(0.02, 0.02, 3.0).rotate((0, 0, 45)).translate((0, 5, 0))
    assert sharpest(measured(box(10, 5, 3) + nick)) is None


MUSHROOM = box(4, 4, 7, (3, 3, 0)) + box(10, 10, 2, (0, 0, 6))


def test_what_leans_out_over_air_is_counted_layer_by_layer() -> None:
    """A cap of 10 x 10 on a stem of 4 x 4: 84 mm2 have nothing under them; upside down nothing has."""
    lain = lain_along(measured(MUSHROOM), UP)
    assert lain.overhang_mm2 == pytest.approx(84.0)
    assert lain.at_mm is not None and lain.at_mm[2] == pytest.approx(6.0)
    best = best_lain(measured(MUSHROOM))
    assert (best.overhang_mm2, best.islands, best.said) == (pytest.approx(0.0), 0, "upside down")


TABLE = box(8, 8, 1, (0, 0, 5)) + box(1, 1, 6) + box(1, 1, 4, (3, 0, 2)) + box(1, 3, 1, (0, 2, 3))


@pytest.mark.parametrize("body", [MUSHROOM, TABLE, box(3, 4, 5)], ids=["mushroom", "table", "block"])
@pytest.mark.parametrize("turned", [(0, 0, 0), (90, 0, 0), (0, 90, 0), (180, 0, 30)], ids=str)
def test_a_piece_lies_best_where_none_of_its_six_sides_is_better(
    body: m3.Manifold, turned: tuple[float, float, float]
) -> None:
    piece = measured(body.rotate(turned))
    ways = [lain_along(piece, sign * np.eye(3)[axis]) for axis in range(3) for sign in (1.0, -1.0)]
    best = best_lain(piece)
    assert (best.islands, best.overhang_mm2) == min((way.islands, way.overhang_mm2) for way in ways)


@pytest.mark.parametrize(("lean_deg", "counts"), [(49.0, False), (51.0, True)])
def test_a_wall_that_leans_out_is_held_up_to_fifty_degrees(lean_deg: float, counts: bool) -> None:
    out = 5.0 * math.tan(math.radians(lean_deg))
    section = m3.CrossSection([[(0, 0), (5, 0), (5 + out, 5), (0, 5)]])
    body = m3.Manifold.extrude(section, 8.0).rotate((90, 0, 0))
    area = lain_along(measured(body), UP).overhang_mm2
    assert area == pytest.approx(8.0 * 5.0 / math.cos(math.radians(lean_deg)) if counts else 0.0, abs=1e-3)


def under_a_slant(reach: float) -> m3.Manifold:
    """A niche in a block: its floor rises from a notch, its roof leans out over it from there."""
    notch = m3.CrossSection(
        [[(2, 2), (2 + 0.2 * reach, 2.05), (2 + reach, 2 + 0.6 * reach), (2 + reach, 2 + 0.9 * reach)]]
    )
    niche = m3.Manifold.extrude(notch, 4.0).rotate((90, 0, 0)).translate((0, 6.0, 0))
    return box(1.0 + reach, 8, 4 + reach) - niche


@pytest.mark.parametrize("reach", [0.5, 2.0, 12.0])
def test_a_notch_under_a_long_slant_begins_on_metal(reach: float) -> None:
    """The lowest edge of the niche has the block under it, however much more of the roof looks down."""
    body = under_a_slant(reach)
    assert islands_along(measured(body), UP) == 0
    # What hangs from the roof without reaching the floor does begin in the air.
    drop = box(0.05 * reach, 1.0, reach, (2.0 + 0.5 * reach, 3.5, 2.0 + 0.35 * reach))
    assert islands_along(measured(body + drop), UP) == 1


HOLLOW = box(20, 20, 20) - box(16, 16, 16, (2, 2, 2))


def opened(width: float) -> m3.Manifold:
    return HOLLOW - m3.Manifold.cylinder(6.0, width / 2, width / 2, 64).translate((10, 10, 16))


@pytest.mark.parametrize(
    ("body", "drain", "stays"),
    [
        pytest.param(HOLLOW, 3.0, True, id="closed"),
        pytest.param(opened(2.4), 3.0, True, id="a hole too narrow"),
        pytest.param(opened(3.8), 3.0, False, id="a hole wide enough"),
        pytest.param(opened(2.4), 1.8, False, id="the same hole for what runs more easily"),
        pytest.param(box(20, 20, 20), 3.0, False, id="solid"),
        pytest.param(box(20, 20, 6) - box(1, 12, 3, (9, 4, 3)), 3.0, False, id="an engraved stroke"),
        pytest.param(box(20, 20, 10) - box(14, 14, 6, (3, 3, 4)), 3.0, False, id="a tray"),
    ],
)
def test_what_never_drains(body: m3.Manifold, drain: float, stays: bool) -> None:
    found = trapped(measured(body), drain_mm=drain)
    if not stays:
        assert found.volume_mm3 == 0.0 and found.at_mm is None
        return
    # A ball does not come into the corners of a chamber: of each edge (1 - pi/4) r^2 stays, at r = 1.5 some 90 mm3.
    assert found.volume_mm3 == pytest.approx(16**3 - 90.0, rel=0.06)
    assert found.at_mm == pytest.approx((10, 10, 10), abs=0.6)


@pytest.mark.parametrize("radius", [0.4, 1.0, 1.5, 2.0, 2.9, 3.0])
def test_where_a_ball_has_room_is_what_the_distance_transform_says(radius: float) -> None:
    # Reference: scipy's exact Euclidean distance transform.
    metal = np.random.default_rng(3).random((19, 14, 23)) < 0.02
    assert np.array_equal(~_swollen(metal, radius), ndimage.distance_transform_edt(~metal) >= radius)


def burred(high_mm: float) -> Measured:
    """A box with a facet along the middle of its top that leans over one half of it by 60 degrees."""
    corners = [(x, y, z) for z in (0, 3) for y in (-5, 5) for x in (0, 10)]
    lean = math.radians(60.0)
    tip = (5.0, -high_mm * math.sin(lean), 3.0 + high_mm * math.cos(lean))
    points = np.array([*corners, (0, 0, 3), (10, 0, 3), tip], dtype=np.float32)
    near, far, at = 8, 9, 10
    below = [(0, 2, 3), (0, 3, 1)]
    sides = [(0, 1, 5), (0, 5, 4), (3, 2, 6), (3, 6, 7), (1, 3, 9), (3, 7, 9), (1, 9, 5)]
    sides += [(2, 0, 8), (0, 4, 8), (2, 8, 6)]
    top = [(4, 5, far), (4, far, near), (near, at, 6), (at, 7, 6), (at, far, 7), (near, far, at)]
    return Measured(vertices=points, triangles=np.array(below + sides + top, dtype=np.uint32))


@pytest.mark.parametrize(("high_mm", "is_felt"), [(0.002, False), (0.2, True)])
def test_a_facet_that_stands_on_its_edge_is_a_sharp_one_from_what_faces_may_be_off_on(
    high_mm: float, is_felt: bool
) -> None:
    piece = burred(high_mm)
    assert (piece.sides.other >= 0).all(), "a closed skin"
    assert (sharpest(piece) is not None) is is_felt

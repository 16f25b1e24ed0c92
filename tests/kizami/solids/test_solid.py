"""A finished body's measures, the same whichever way it was made, against manifold3d's and closed formulas."""

from __future__ import annotations

import math

import manifold3d as m3
import numpy as np
import pytest

from kizami.solids.body_mesh import BodyMesh
from kizami.solids.solid import solid_of

BOX = m3.Manifold.cube((4, 3, 2))
FRAME = BOX - m3.Manifold.cube((2, 1, 4)).translate((1, 1, -1))
HOLLOW = BOX - m3.Manifold.cube((1, 1, 1)).translate((1, 1, 0.5))
#: Bodies and through holes, counted by hand.
BODIES = {
    "a box": (BOX, 1, 0, 24.0),
    "a frame": (FRAME, 1, 1, 20.0),
    "two frames apart": (FRAME + FRAME.translate((9, 0, 0)), 2, 2, 40.0),
    "a frame and two boxes": (FRAME + BOX.translate((9, 0, 0)) + BOX.translate((0, 9, 0)), 3, 1, 68.0),
    "a ball": (m3.Manifold.sphere(5, 64), 1, 0, 4 / 3 * math.pi * 125),
}


@pytest.mark.parametrize("name", list(BODIES))
def test_bodies_holes_and_volume(name: str) -> None:
    body, bodies, holes, volume = BODIES[name]
    for given in (body, BodyMesh.of(body)):
        solid = solid_of(given)
        assert (solid.bodies, solid.genus) == (bodies, holes)
        assert solid.volume_mm3 == pytest.approx(volume, rel=1e-9 if name != "a ball" else 0.01)
        assert solid.bounds_mm == pytest.approx(body.bounding_box())
        assert solid.is_lettering.all()


def test_a_closed_room_inside_is_a_skin_of_its_own() -> None:
    """It counts as a body, so that no piece with one passes unseen."""
    assert solid_of(HOLLOW).bodies == solid_of(BodyMesh.of(HOLLOW)).bodies == 2


def test_what_came_from_the_blank_is_known_after_all_roads() -> None:
    post = m3.Manifold.cube((1, 1, 1)).translate((1.5, 1, 1.5))
    whole = BOX + post
    as_manifold, as_mesh = solid_of(whole, blank=BOX), solid_of(BodyMesh.of(whole), blank=BOX)
    back = solid_of(BodyMesh.of(whole).manifold(), blank=BOX)
    for solid in (as_manifold, as_mesh, back):
        # What stands out of the box: four walls and a top.
        made = solid.vertices[solid.triangles[solid.is_lettering]]
        assert len(made) == 10
        assert made[..., 2].min() == 2.0 and made[..., 2].max() == 2.5


def test_corners_that_fall_together_in_single_precision_are_made_one() -> None:
    """Two corners 1e-9 mm apart, 30 mm from the origin, where single precision steps by 2e-6 mm."""
    close = m3.Manifold.hull_points(
        np.array(
            [(30, 0, 0), (30 + 1e-9, 0.5, 0), (30 + 1e-9, 0.5 + 1e-9, 0), (34, 0, 0), (32, 3, 0), (32, 1, 3)]
        )
    )
    for given in (close, BodyMesh.of(close)):
        solid = solid_of(given)
        assert len(np.unique(solid.vertices, axis=0)) == len(solid.vertices)
        assert solid.volume_mm3 == pytest.approx(close.volume(), rel=1e-4)

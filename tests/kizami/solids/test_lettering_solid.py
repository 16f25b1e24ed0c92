"""Lettering laid on: always the same, whole where outlines touch, cut as often as chords ask and no more."""

from __future__ import annotations

import manifold3d as m3
import numpy as np
import pytest
import shapely

from kizami.cli import catalogue_at
from kizami.dividing.relief import relief_mesh
from kizami.formats.stl import stl_bytes
from kizami.outlines.curves import bodies_of
from kizami.pieces.building import make_solid
from kizami.pieces.forecast import tried
from kizami.solids import into_facets, lettered
from kizami.solids.flat import upright
from kizami.solids.lettering_solid import lay_on, lines_across
from kizami.surfaces.ball_patch import BallPatch
from kizami.surfaces.cone import Cone
from kizami.surfaces.cylinder import Cylinder
from kizami.surfaces.plane import Plane
from kizami.surfaces.protocol import Surface
from kizami.surfaces.turned import ball_band
from launch.state import REPOSITORY

CATALOGUE = catalogue_at(REPOSITORY / "demo" / "products.toml")
#: A band, softened edges, a ball, a taper, letters tied together.
CODES = ["CHOIR-RING", "KEEL-RING", "SHORE-BEAD", "TILLER-GRIP", "BERTH-SIGN"]


def file_of(code: str, name: str) -> bytes:
    solid = make_solid(tried(CATALOGUE.products[code.casefold()], name))
    assert solid is not None
    return stl_bytes(solid, title=name)


@pytest.mark.parametrize("code", CODES)
def test_the_same_piece_comes_out_whatever_was_made_before(code: str) -> None:
    alone = file_of(code, "Ottoline")
    for name in ("Nettie", "Lionel", "Otto"):
        file_of(code, name)
    assert file_of(code, "Ottoline") == alone
    lettered.facets_of_body.cache_clear()
    into_facets._face.cache_clear()
    assert file_of(code, "Ottoline") == alone


@pytest.mark.parametrize("surface", [Plane(), Cylinder(radius_mm=10.0)], ids=["plane", "band"])
def test_outlines_that_touch_in_a_point_are_whole_solids(surface: Plane | Cylinder) -> None:
    """Two squares corner to corner, and a hole whose corner lies on its outline."""
    kite = shapely.Polygon([(10, 0), (16, 0), (16, 6), (10, 6)], [[(10, 3), (12, 2), (13, 3), (12, 4)]])
    squares = [shapely.box(0, 0, 3, 3), shapely.box(3, 3, 6, 6)]
    outlines = bodies_of(shapely.MultiPolygon([*squares, kite]))
    assert outlines.is_valid
    solid = lay_on(upright(outlines, 0.0, 1.0), surface, sagitta_mm=0.005)
    assert solid.status() == m3.Error.NoError
    bent = 1.0 if isinstance(surface, Plane) else 1.0 + 1.0 / 20.0
    assert solid.volume() == pytest.approx(outlines.area * bent, rel=2e-3)


@pytest.mark.parametrize(
    ("surface", "low", "high"),
    [
        pytest.param(Cylinder(radius_mm=10.0), -0.4, 0.05, id="band"),
        pytest.param(Cone(low_radius_mm=12, high_radius_mm=8, height_mm=10), 0.0, 1.0, id="taper"),
        pytest.param(BallPatch(radius_mm=20.0), -0.4, 0.05, id="dome"),
        pytest.param(ball_band(radius_mm=20.0), -0.4, 0.05, id="ball"),
    ],
)
def test_lines_leave_no_chord_longer_than_asked_and_are_no_more_than_needed(
    surface: Surface, low: float, high: float
) -> None:
    outlines = bodies_of(shapely.MultiPolygon([shapely.box(-6, 1, 6, 7)]))
    lines = lines_across(outlines, surface, sagitta_mm=0.005, span_mm=(low, high))
    uvh, faces = relief_mesh(outlines, upright(outlines, low, high).levels, lines)
    ends = faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    ends = ends[uvh[ends[:, 0], 2] == uvh[ends[:, 1], 2]]
    middles = uvh[ends].mean(axis=1)
    chords = surface.place(uvh[:, :2], uvh[:, 2])[ends].mean(axis=1)
    at, out = (surface.place(middles[:, :2], middles[:, 2] + h) for h in (0.0, 1.0))
    off = np.einsum("nd,nd->n", at - chords, out - at)
    assert 0.003 < off.max() <= 1.01 * 0.005


def test_a_taper_is_cut_through_its_apex_from_side_to_side() -> None:
    """The middle of a long straight side is nearer to the apex than its ends, and is cut all the same."""
    cone = Cone(low_radius_mm=12, high_radius_mm=8, height_mm=10)
    panel = bodies_of(shapely.MultiPolygon([shapely.box(-14, 1, 14, 9)]))
    (pencil,) = lines_across(panel, cone, sagitta_mm=0.005, span_mm=(-0.5, 0.0))
    lines = pencil.lines()
    drawn = shapely.linestrings(np.stack((lines.starts, lines.ends), axis=1))
    inside = shapely.intersection(drawn, panel.geoms[0].exterior)
    assert (shapely.get_num_geometries(inside) == 2).all()
    apex = np.array([cone.apex.u_mm, cone.apex.v_mm])
    ends = np.stack((lines.starts, lines.ends), axis=1) - apex
    aside = ends[:, 0, 0] * ends[:, 1, 1] - ends[:, 0, 1] * ends[:, 1, 0]
    assert aside == pytest.approx(np.zeros(len(lines)), abs=1e-6)

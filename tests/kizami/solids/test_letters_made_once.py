"""Letters are made once and put together: what comes out never depends on what was made before."""

from __future__ import annotations

import manifold3d as m3
import pytest
import shapely

from kizami.cli import catalogue_at
from kizami.forecast import tried
from kizami.formats.stl import stl_bytes
from kizami.make import lay_out, make_solid
from kizami.outlines.curves import bodies_of
from kizami.solids import lettering_solid
from kizami.solids.flat import upright
from kizami.solids.lettering_solid import divided, lay_on
from kizami.surfaces.cylinder import Cylinder
from kizami.surfaces.plane import Plane
from launch.state import REPOSITORY
from tests.kizami.pieces import RING, RING_RAISED, inputs

CATALOGUE = catalogue_at(REPOSITORY / "demo" / "products.toml")
#: A band, softened edges, a ball, a taper, letters tied together.
CODES = ["CHOIR-RING", "KEEL-RING", "SHORE-BEAD", "TILLER-GRIP", "BERTH-SIGN"]


def forget() -> None:
    lettering_solid._body.cache_clear()
    lettering_solid._flat_body.cache_clear()


def file_of(code: str, name: str) -> bytes:
    solid = make_solid(tried(CATALOGUE.products[code.casefold()], name))
    assert solid is not None
    return stl_bytes(solid, title=name)


@pytest.mark.parametrize("code", CODES)
def test_the_same_piece_comes_out_whatever_was_made_before(code: str) -> None:
    forget()
    alone = file_of(code, "Ottoline")
    for name in ("Nettie", "Lionel", "Otto"):
        file_of(code, name)
    assert file_of(code, "Ottoline") == alone
    forget()
    assert file_of(code, "Ottoline") == alone


def test_a_letter_that_comes_again_is_not_made_again() -> None:
    forget()
    make_solid(lay_out(inputs(RING, "tttt")))
    info = lettering_solid._body.cache_info()
    assert (info.misses, info.hits) == (1, 3)
    # At another size of ring it is divided otherwise, but not triangulated anew.
    make_solid(lay_out(inputs(RING, "tt", size="60")))
    assert lettering_solid._body.cache_info().misses == 2
    assert lettering_solid._flat_body.cache_info().misses == 1
    # And raised on the same ring it is another solid.
    make_solid(lay_out(inputs(RING_RAISED, "t")))
    assert lettering_solid._flat_body.cache_info().misses == 2


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


def test_bodies_stand_where_their_outlines_do() -> None:
    outlines = bodies_of(shapely.MultiPolygon([shapely.box(5, 1, 6, 2), shapely.box(40, 3, 41, 5)]))
    uvh, faces = divided(upright(outlines, -0.4, 0.05), Cylinder(radius_mm=10.0), sagitta_mm=0.005)
    assert uvh[:, :2].min(axis=0) == pytest.approx([5, 1])
    assert uvh[:, :2].max(axis=0) == pytest.approx([41, 5])
    assert (uvh[:, 2].min(), uvh[:, 2].max()) == pytest.approx((-0.4, 0.05))
    assert faces.max() == len(uvh) - 1

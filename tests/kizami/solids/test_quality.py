"""Facets against counts by hand, chord errors against the circle's own, and solids that never cross themselves."""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
import trimesh

from kizami.cli import catalogue_at
from kizami.dividing.chains import Chain
from kizami.pieces.building import bare_body, in_order, make_solid
from kizami.pieces.forecast import tried
from kizami.pieces.laying_out import lay_out
from kizami.solids.quality import added_share, facets_asked, lettering_quality, smallest_angle_deg
from kizami.tolerance import SAGITTA_MM
from launch.state import REPOSITORY
from tests.kizami.samples import RING, RING_RAISED, TAG, inputs

CATALOGUE = catalogue_at(REPOSITORY / "demo" / "products.toml")
SQUARE = shapely.MultiPolygon([shapely.box(0, 0, 10, 10)])
FRAME = shapely.MultiPolygon([shapely.box(0, 0, 10, 10).difference(shapely.box(3, 3, 7, 7))])


@pytest.mark.parametrize(
    ("shape", "steps", "count"),
    [
        pytest.param(SQUARE, (math.inf, math.inf), 12, id="a box has twelve"),
        pytest.param(FRAME, (math.inf, math.inf), 2 * 8 + 16, id="a frame: 8 + 2 - 2 a face, 8 walls"),
        # Cut once: two boxes that share a side without walls between them.
        pytest.param(SQUARE, (9.0, math.inf), 8 + 12, id="a box cut once"),
        pytest.param(SQUARE, (math.inf, 9.0), 8 + 12, id="a box cut once the other way"),
    ],
)
def test_what_is_asked_is_what_is_counted_by_hand(
    shape: shapely.MultiPolygon, steps: tuple[float, float], count: int
) -> None:
    block = [Chain(outlines=shape, inward_mm=0.0, outside_mm=0.0, inside_mm=1.0)]
    assert facets_asked(block, step_u_mm=steps[0], step_v_mm=steps[1]) == count


@pytest.mark.parametrize("name", ["Ottoline", "WILMA KATZ"], ids=["round letters", "straight letters"])
@pytest.mark.parametrize("code", list(CATALOGUE.products))
def test_no_letter_has_needless_facets_or_long_chords(code: str, name: str) -> None:
    product = CATALOGUE.products[code]
    laid_out = tried(product, name)
    quality = lettering_quality(laid_out.made, sagitta_mm=SAGITTA_MM)
    if quality is None:
        assert product.treatment.kind == "scored" or laid_out.made.is_pointed
        return
    # The count is exact but for where lines fall, which an outline may cross once more or less.
    assert 0.8 <= quality.share <= 1.1
    assert quality.chord_error_mm <= 1.01 * SAGITTA_MM
    assert quality.smallest_angle_deg > 0


#: Where lettering is cut out of the body or added to it, their facets meet at random; a pointed floor is divided
#: as its ridges ask; lines right round are laid on in halves.
MORE = {
    "knot-signet": 1.7,
    "pebble-fob": 1.9,
    "moon-disc": 6.0,
    "tide-ring": 1.7,
    "wren-ring": 1.7,
    # Letters end on the very outline that holds them and run on into the frame.
    "buoy-frame": 1.2,
}


@pytest.mark.parametrize("name", ["Ottoline", "WILMA KATZ"], ids=["round letters", "straight letters"])
@pytest.mark.parametrize("code", list(CATALOGUE.products))
def test_lettering_adds_no_facet_to_its_blank_that_nothing_asks_for(code: str, name: str) -> None:
    product = CATALOGUE.products[code]
    laid_out = tried(product, name, second="Wren")
    blank = bare_body(laid_out)
    added = len(make_solid(laid_out).triangles) - (0 if blank is None else blank.num_tri())
    share = added_share(added, [part.made for part in in_order(laid_out)], sagitta_mm=SAGITTA_MM)
    if product.treatment.kind == "scored":
        assert share == 0
        return
    # On what is flat the count is exact.
    assert 0.8 <= share <= MORE.get(code, 1.1)


def test_on_a_plane_nothing_is_divided_and_nothing_is_off() -> None:
    laid_out = lay_out(inputs(TAG, "Ottoline"))
    quality = lettering_quality(laid_out.made, sagitta_mm=SAGITTA_MM)
    assert (quality.share, quality.chord_error_mm) == (1.0, pytest.approx(0.0, abs=1e-12))


def test_a_finer_tolerance_gives_a_smaller_error_for_few_more_facets() -> None:
    laid_out = lay_out(inputs(RING, "Ottoline"))
    coarse, fine = (lettering_quality(laid_out.made, sagitta_mm=s) for s in (0.05, 0.005))
    assert fine.chord_error_mm < 0.5 * coarse.chord_error_mm <= 0.5 * 1.01 * 0.05
    # Along one direction only: facets grow as the root of ten at most.
    assert fine.facets < coarse.facets * 3.2


def test_the_smallest_angle_is_that_of_the_triangle() -> None:
    corners = np.array([(0.0, 0, 0), (10, 0, 0), (10, 1, 0), (0, 0, 5)])
    assert smallest_angle_deg(corners, np.array([(0, 1, 2)])) == pytest.approx(math.degrees(math.atan(0.1)))
    assert smallest_angle_deg(corners, np.array([(0, 1, 3), (0, 1, 2)])) == pytest.approx(5.7106, abs=1e-4)
    assert smallest_angle_deg(corners, np.array([(0, 1, 1)])) == 0.0


@pytest.mark.parametrize(
    "code",
    [
        "choir-ring",
        "vow-ring",
        "keel-ring",
        "dome-ring",
        "shore-bead",
        "tiller-grip",
        "ledger-ticket",
        "linnet-heart",
        "berth-sign",
        "pebble-fob",
    ],
)
def test_no_solid_crosses_itself(code: str) -> None:
    """Along any line through a sound body its skin is entered and left in turn (embree finds every crossing)."""
    solid = make_solid(tried(CATALOGUE.products[code], "Ottoline"))
    mesh = trimesh.Trimesh(solid.vertices, solid.triangles, process=False)
    assert mesh.is_watertight and mesh.is_winding_consistent and mesh.volume > 0
    random = np.random.default_rng(7)
    low, high = mesh.bounds
    ways = random.normal(size=(300, 3))
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    reach = float(np.linalg.norm(high - low)) * 2
    starts = random.uniform(low, high, (300, 3)) - ways * reach
    triangles, rays, places = mesh.ray.intersects_id(starts, ways, multiple_hits=True, return_locations=True)
    along = np.einsum("nd,nd->n", places - starts[rays], ways[rays])
    enters = np.einsum("nd,nd->n", mesh.face_normals[triangles], ways[rays]) < 0
    looked_at = 0
    for ray in np.unique(rays):
        order = np.argsort(along[rays == ray])
        turns, gaps = enters[rays == ray][order], np.diff(along[rays == ray][order])
        # Two crossings within a micrometre graze an edge and may come in either order.
        if len(turns) % 2 or (gaps < 1e-3).any():
            continue
        assert (turns == np.tile([True, False], len(turns) // 2)).all()
        looked_at += 1
    assert looked_at > 100


def test_raised_letters_are_asked_as_engraved_ones() -> None:
    for product in (RING, RING_RAISED):
        laid_out = lay_out(inputs(product, "Ottoline"))
        quality = lettering_quality(laid_out.made, sagitta_mm=SAGITTA_MM)
        assert 0.95 <= quality.share <= 1.05

"""Lettering set into a body's facets: the same piece as by cutting, and all else as it was.

The other road, by manifold3d's own cutting and joining of solids, is the judge of volumes, holes and
bodies; trimesh, an independent measurer, of closed skins.
"""

from __future__ import annotations

import itertools
import math

import manifold3d as m3
import numpy as np
import pytest
import shapely
import trimesh

from kizami.as_made.treatment import Engraved, Raised
from kizami.cli import catalogue_at
from kizami.outlines.curves import bodies_of
from kizami.pieces.building import bare_body, make_solid
from kizami.pieces.forecast import tried
from kizami.pieces.laying_out import LaidOut
from kizami.solids.body_mesh import BodyMesh
from kizami.solids.by_booleans import by_booleans
from kizami.solids.facets import facets_seen
from kizami.solids.into_facets import into_facets
from kizami.solids.lettered import face_sagitta_mm, lettered
from kizami.solids.solid import solid_of
from kizami.surfaces.cylinder import Cylinder
from kizami.surfaces.plane import Plane
from kizami.tolerance import SAGITTA_MM
from launch.state import REPOSITORY
from tests.kizami.samples import drawn

CATALOGUE = catalogue_at(REPOSITORY / "demo" / "products.toml")
#: Every surface and shape of lettering that can be set into facets: band, bore, taper, ball, rounded edge,
#: plane, tray, sector of a grip; upright, chamfered, rounded, drafted, pointed and in a recess.
SET_INTO = [
    "choir-ring", "vow-ring", "keel-ring", "dome-ring", "wren-ring", "tally-band", "shore-bead", "skipper-button",
    "tiller-grip", "candle-cap", "oar-grip", "crew-tag", "linnet-heart", "harbour-signet", "oven-tag", "guest-plate", "ledger-ticket",
]  # fmt: skip
#: Domes, whose facets about the pole are far finer than letters ask, and shapes without a formula.
CUT_INTO = ["moon-disc", "knot-signet", "pebble-fob"]
NAMES = ["Ottoline", "WILMA KATZ"]


def by_facets(laid_out: LaidOut) -> BodyMesh | None:
    area, body, chains = laid_out.area, bare_body(laid_out), laid_out.made.chains
    assert body is not None
    seen = facets_seen(body, area.surface, middle_u_mm=area.anchor[0])
    return None if seen is None or chains is None else into_facets(seen, chains, area.surface)


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize("code", SET_INTO)
def test_it_is_the_piece_that_cutting_makes(code: str, name: str) -> None:
    laid_out = tried(CATALOGUE.products[code], name)
    body = bare_body(laid_out)
    assert body is not None
    mesh = by_facets(laid_out)
    assert mesh is not None
    piece = solid_of(mesh, blank=body)
    cut = by_booleans(body, laid_out.made, sagitta_mm=SAGITTA_MM)
    other = solid_of(cut, blank=body)
    assert (piece.bodies, piece.genus) == (other.bodies, other.genus)
    changed = other.volume_mm3 - body.volume()
    # Floors are cut along other lines, each within the tolerance of the same surface.
    assert piece.volume_mm3 - body.volume() == pytest.approx(changed, rel=0.012)
    assert piece.bounds_mm == pytest.approx(other.bounds_mm, abs=0.006)
    skin = trimesh.Trimesh(piece.vertices, piece.triangles, process=False)
    assert skin.is_volume and skin.euler_number == 2 * (piece.bodies - piece.genus)
    assert skin.volume == pytest.approx(piece.volume_mm3, rel=1e-5)
    # Taken in by manifold3d it is the same body, and knows which triangles the letters made.
    again = mesh.manifold()
    assert again.status() == m3.Error.NoError
    assert (again.volume(), again.genus()) == pytest.approx((piece.volume_mm3, piece.genus))
    assert solid_of(again, blank=body).is_lettering.sum() == piece.is_lettering.sum() > 100


@pytest.mark.parametrize("code", SET_INTO)
def test_all_else_is_as_it_was(code: str) -> None:
    """What letters did not make lies in the planes of the blank's own facets, and covers the rest of it."""
    laid_out = tried(CATALOGUE.products[code], "Ottoline")
    body, piece = bare_body(laid_out), make_solid(laid_out)
    assert body is not None and piece is not None
    mesh = body.to_mesh()
    before = trimesh.Trimesh(mesh.vert_properties[:, :3], mesh.tri_verts, process=False)
    ground = trimesh.Trimesh(piece.vertices, piece.triangles[~piece.is_lettering], process=False)
    _, off, _ = trimesh.proximity.closest_point(before, ground.triangles_center)
    assert off.max() < 1e-4
    chains = laid_out.made.chains
    assert chains is not None
    feet = chains[0].outlines.area
    # Unrolled areas are true on all but surfaces that bend both ways, where u shrinks with the radius.
    assert before.area - ground.area == pytest.approx(
        feet, rel=0.002 if code not in ("shore-bead", "dome-ring", "skipper-button") else 0.05
    )


#: The second one is so small on a disc that creases of its pointed floor would cross where strokes narrow.
@pytest.mark.parametrize("name", ["Ottoline", "Ottoline Bartholomew"])
@pytest.mark.parametrize("code", CUT_INTO)
def test_what_can_not_be_set_into_facets_is_cut(code: str, name: str) -> None:
    laid_out = tried(CATALOGUE.products[code], name)
    assert by_facets(laid_out) is None
    assert make_solid(laid_out).is_lettering.any()


PLATE = m3.Manifold.cube((40, 20, 3))
SQUARE = bodies_of(shapely.MultiPolygon([shapely.box(10, 5, 14, 9), shapely.box(20, 5, 26, 12)]))
ON_TOP = Plane(z_mm=3.0)


def set_into(
    body: m3.Manifold, outlines: shapely.MultiPolygon, treatment: Engraved | Raised
) -> BodyMesh | None:
    seen = facets_seen(body, ON_TOP, middle_u_mm=20.0)
    assert seen is not None
    chains = drawn(outlines, treatment).chains
    assert chains is not None
    return into_facets(seen, chains, ON_TOP)


def test_a_pocket_in_a_plate_is_exact() -> None:
    found = set_into(PLATE, SQUARE, Engraved(depth_mm=1.0))
    assert found is not None
    piece = solid_of(found, blank=PLATE)
    assert piece.volume_mm3 == pytest.approx(40 * 20 * 3 - SQUARE.area, rel=1e-12)
    # Ten triangles of the cube are as they were; each pocket has two for its floor and eight for its walls,
    # and the ground of 12 corners with two holes has 12 + 2 * 2 - 2.
    assert len(piece.triangles) == 10 + 2 * 10 + 14
    assert piece.is_lettering.sum() == 20


REFUSED = {
    "over the edge": (PLATE, shapely.box(36, 5, 41, 9), Engraved(depth_mm=1.0)),
    "up to the edge": (PLATE, shapely.box(36, 5, 40, 9), Engraved(depth_mm=1.0)),
    "as deep as the plate": (PLATE, shapely.box(10, 5, 14, 9), Engraved(depth_mm=3.0)),
    "deeper than the plate": (PLATE, shapely.box(10, 5, 14, 9), Engraved(depth_mm=18.0)),
    "all but through": (PLATE, shapely.box(10, 5, 14, 9), Engraved(depth_mm=2.95)),
    "over a hole": (
        PLATE - m3.Manifold.cylinder(10, 2, circular_segments=32).translate((12, 7, -2)),
        shapely.box(11, 5, 18, 9),
        Engraved(depth_mm=1.0),
    ),
    "into a bore from the side": (
        PLATE - m3.Manifold.cube((40, 4, 1)).translate((0, 5, 1)),
        shapely.box(10, 5, 14, 9),
        Engraved(depth_mm=1.2),
    ),
    "where a post stands": (
        PLATE + m3.Manifold.cube((2, 2, 2)).translate((11, 6, 3)),
        shapely.box(10, 5, 14, 9),
        Raised(height_mm=1.0, root_mm=0.5),
    ),
    "under a roof": (
        PLATE + m3.Manifold.cube((30, 20, 1)).translate((0, 0, 3.8)) + m3.Manifold.cube((2, 20, 1.5)).translate((0, 0, 2.5)),
        shapely.box(10, 5, 14, 9),
        Raised(height_mm=1.0, root_mm=0.5),
    ),
}  # fmt: skip


@pytest.mark.parametrize("case", list(REFUSED))
def test_where_anything_is_in_the_way_it_is_left_to_cutting(case: str) -> None:
    body, box, treatment = REFUSED[case]
    outlines = bodies_of(shapely.MultiPolygon([box]))
    assert set_into(body, outlines, treatment) is None
    # Not because of the body: elsewhere on it the same lettering is welcome, if it does not go too deep.
    if "plate" not in case and "through" not in case:
        elsewhere = bodies_of(shapely.MultiPolygon([shapely.box(34, 13, 36, 18)]))
        assert set_into(body, elsewhere, treatment) is not None


def test_a_hole_beside_the_letters_is_no_hindrance() -> None:
    holed = PLATE - m3.Manifold.cylinder(10, 2, circular_segments=32).translate((17, 8, -2))
    found = set_into(holed, SQUARE, Engraved(depth_mm=1.0))
    assert found is not None
    piece = solid_of(found, blank=holed)
    assert piece.volume_mm3 == pytest.approx(holed.volume() - SQUARE.area, rel=1e-9)
    assert piece.genus == 1


def test_letters_may_stand_in_the_middle_of_others() -> None:
    ring = shapely.box(5, 3, 25, 17).difference(shapely.box(7, 5, 23, 15))
    outlines = bodies_of(shapely.MultiPolygon([ring, shapely.box(10, 8, 14, 12)]))
    found = set_into(PLATE, outlines, Raised(height_mm=1.0, root_mm=0.5))
    assert found is not None
    piece = solid_of(found, blank=PLATE)
    assert piece.volume_mm3 == pytest.approx(40 * 20 * 3 + outlines.area, rel=1e-12)
    assert (piece.bodies, piece.genus) == (1, 0)


def test_a_band_may_be_lettered_anywhere_but_across_its_cut() -> None:
    """Opposite to the middle, where it is cut open to be unrolled, it is left to cutting."""
    turn = 2 * math.pi * 10
    surface = Cylinder(radius_mm=10.0)
    facets = 100
    section = m3.CrossSection.circle(10.0, facets) - m3.CrossSection.circle(8.0, facets)
    band = m3.Manifold.extrude(section, 6.0)
    seen = facets_seen(band, surface, middle_u_mm=turn / 2)
    assert seen is not None
    for at, is_set in ((2.0, True), (turn / 2, True), (turn - 8.0, True), (-1.0, False), (turn - 1.0, False)):
        outlines = bodies_of(shapely.MultiPolygon([shapely.box(at, 1, at + 3, 5)]))
        chains = drawn(outlines, Engraved(depth_mm=0.5)).chains
        assert chains is not None
        found = into_facets(seen, chains, surface)
        assert (found is not None) == is_set
        if found is not None:
            expected = 3 * 4 * 0.5 * (1 - 0.5 / 20)
            assert band.volume() - solid_of(found).volume_mm3 == pytest.approx(expected, rel=0.01)


def test_a_second_lettering_is_set_into_what_the_first_has_left() -> None:
    area = tried(CATALOGUE.products["crew-tag"], "Otto").area
    one, two = (bodies_of(shapely.MultiPolygon([shapely.box(u, 8, u + 6, 14)])) for u in (20, 40))
    blank = bare_body(tried(CATALOGUE.products["crew-tag"], "Otto"))
    assert blank is not None
    body: m3.Manifold | BodyMesh = blank
    for outlines, treatment in ((one, Raised(height_mm=0.5, root_mm=0.3)), (two, Engraved(depth_mm=1.0))):
        body = lettered(body, drawn(outlines, treatment, area=area), sagitta_mm=SAGITTA_MM)
        assert isinstance(body, BodyMesh)
    piece = solid_of(body, blank=blank)
    assert piece.volume_mm3 == pytest.approx(blank.volume() + 36 * 0.5 - 36 * 1.0, rel=1e-9)
    assert piece.is_lettering.sum() == 20


@pytest.mark.parametrize("code", ["vow-ring", "tiller-grip", "candle-cap"])
def test_tops_keep_the_tolerance_though_they_stand_on_the_face_s_facets(code: str) -> None:
    """Chords of the same angle are further off their curve the further out they are."""
    laid_out = tried(CATALOGUE.products[code], "Ottoline")
    surface, treatment = laid_out.area.surface, laid_out.inputs.product.treatment
    piece = make_solid(laid_out)
    assert piece is not None
    _, h = surface.unplace(piece.vertices.astype(float))
    top = np.abs(h - treatment.height_mm) < 1e-3
    faces = piece.triangles[top[piece.triangles].all(axis=1)]
    assert len(faces) > 50
    ends = faces[:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2)
    _, middle = surface.unplace(piece.vertices[ends].mean(axis=1).astype(float))
    assert 0.003 < (treatment.height_mm - middle).max() <= 1.01 * SAGITTA_MM


@pytest.mark.parametrize(("radius", "top"), list(itertools.product([5.0, 20.0], [0.0, 0.5, 3.0])))
def test_how_much_nearer_the_face_s_chords_must_come(radius: float, top: float) -> None:
    """By the sagitta of a circle, r (1 - cos(a / 2)), with one angle for both radii."""
    asked = face_sagitta_mm(Cylinder(radius_mm=radius), sagitta_mm=0.005, top_mm=top)
    half = math.acos(1 - asked / radius)
    assert (radius + top) * (1 - math.cos(half)) == pytest.approx(0.005, rel=1e-3)

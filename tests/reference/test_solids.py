"""Solids against closed formulas and against independent readers and measurers.

Formulas: Pappus for the band (V = 2 pi R_c A); area times layer for lettering on a cylinder,
A d (1 - d / 2R) engraved and A h (1 + h / 2R) raised; Euler's V - E + F = 2 - 2 g; a regular
n-gon falls short of its circle by the factor (n / 2 pi) sin(2 pi / n), which sets tolerances.
"""

from __future__ import annotations

import io
import math

import manifold3d as m3
import numpy as np
import pytest
import shapely
import trimesh
from lib3mf import get_wrapper

from kizami.formats.stl import stl_bytes
from kizami.formats.three_mf import three_mf_bytes
from kizami.pieces.make import Made, make_piece
from kizami.solids.flat import upright
from kizami.solids.lettering_solid import lay_on
from kizami.surfaces.cylinder import Cylinder
from kizami.tolerance import SAGITTA_MM
from tests.kizami.samples import FOUR, FOUR_IDS, RING, RING_RAISED, RING_TABLE, TAG, inputs, product

WORDINGS = ["Ottoline", "&8oB", "iiii", "Żółw"]


def shortfall(radius_mm: float) -> float:
    """Share of a circle's area that its polygon with the core's chords leaves out."""
    facets = math.ceil(math.pi / math.acos(1 - SAGITTA_MM / radius_mm))
    return 1 - facets / (2 * math.pi) * math.sin(2 * math.pi / facets)


def read_stl(made: Made) -> trimesh.Trimesh:
    assert made.solid is not None
    return trimesh.load(io.BytesIO(stl_bytes(made.solid, title="x")), file_type="stl")


@pytest.mark.parametrize("size", ["41", "54", "70"])
def test_the_blank_band_by_pappus(size: str) -> None:
    blank = RING.blank_for(RING.read_size(size))
    inner, outer = blank.bore_mm / 2, blank.outer_radius_mm
    pappus = 2 * math.pi * (inner + outer) / 2 * (blank.wall_mm * blank.width_mm)
    volume = blank.body(SAGITTA_MM).volume()
    assert volume < pappus
    # Both circles are polygons of as many sides, so the band falls short by the same factor.
    assert volume == pytest.approx(pappus * (1 - shortfall(outer)), rel=1e-9)


def test_the_blank_tag_by_its_areas() -> None:
    tag = TAG.blank_for(None)
    area = 60 * 25 - (4 - math.pi) * 25 - math.pi * 2.5**2
    assert tag.body(SAGITTA_MM).volume() == pytest.approx(area * 3, rel=2e-4)


@pytest.mark.parametrize("wording", WORDINGS)
@pytest.mark.parametrize("which", FOUR, ids=FOUR_IDS)
def test_lettering_changes_the_volume_by_the_closed_formula(which, wording: str) -> None:
    made = make_piece(inputs(which, wording))
    assert made.solid is not None
    area = made.laid_out.layout.outlines.area
    blank = made.laid_out.blank.body(SAGITTA_MM).volume()
    changed = made.solid.volume_mm3 - blank
    treatment = which.treatment
    if which.size_system is None:
        expected = -area * treatment.depth_mm if treatment.kind == "engraved" else area * treatment.height_mm
        tolerance = 1e-6
    else:
        radius = made.laid_out.blank.outer_radius_mm
        if treatment.kind == "engraved":
            expected = -area * treatment.depth_mm * (1 - treatment.depth_mm / (2 * radius))
        else:
            expected = area * treatment.height_mm * (1 + treatment.height_mm / (2 * radius))
        # Floor and face are each within the chord tolerance of the true cylinder.
        tolerance = 2 * SAGITTA_MM / abs(treatment.layer[1] - treatment.layer[0])
    assert changed == pytest.approx(expected, rel=tolerance)


@pytest.mark.parametrize("wording", WORDINGS)
@pytest.mark.parametrize("which", FOUR, ids=FOUR_IDS)
def test_every_piece_is_one_watertight_body_with_one_hole(which, wording: str) -> None:
    made = make_piece(inputs(which, wording))
    assert made.solid is not None
    mesh = read_stl(made)
    assert mesh.is_watertight and mesh.is_winding_consistent and mesh.is_volume
    assert mesh.body_count == 1
    # Band and tag have one through hole each: V - E + F = 2 - 2 g = 0, whatever is engraved.
    assert mesh.euler_number == 0
    assert made.solid.genus == 1
    assert mesh.volume == pytest.approx(made.solid.volume_mm3, rel=1e-5)
    assert mesh.bounds.ravel() == pytest.approx(made.solid.bounds_mm, abs=1e-4)


def test_gauss_bonnet_holds_on_a_finished_ring() -> None:
    """The angle defects of a closed surface of genus 1 add up to 4 pi (1 - g) = 0."""
    mesh = read_stl(make_piece(inputs(RING, "Ottoline")))
    assert mesh.vertex_defects.sum() == pytest.approx(0, abs=1e-3)


@pytest.mark.parametrize("which", [RING, RING_RAISED], ids=["engraved", "raised"])
def test_depth_is_constant_along_the_normal(which) -> None:
    """Rays from outside, through the middle of each letter, meet floor or face at one radius."""
    made = make_piece(inputs(which, "HIMLET"))
    layout, blank = made.laid_out.layout, made.laid_out.blank
    mesh = read_stl(made)
    uv = []
    for shape in layout.shapes:
        point = shape.geoms[0].representative_point()
        uv.append((point.x, point.y))
    surface = Cylinder(radius_mm=blank.outer_radius_mm)
    outside = surface.place(np.array(uv), np.full(len(uv), 5.0))
    inward = surface.place(np.array(uv), np.zeros(len(uv))) - outside
    hits, rays, _ = mesh.ray.intersects_location(outside, inward, multiple_hits=False)
    assert sorted(rays) == list(range(len(uv)))
    low, high = which.treatment.layer
    expected = blank.outer_radius_mm + (low if which.treatment.kind == "engraved" else high)
    assert np.hypot(hits[:, 0], hits[:, 1]) == pytest.approx(expected, abs=0.01)


def test_the_wording_reads_from_outside_left_to_right() -> None:
    """Seen from the front (-y) with z up, the first letter lies at the left, x below zero."""
    made = make_piece(inputs(RING_RAISED, "LL."))
    mesh = read_stl(made)
    proud = mesh.vertices[np.hypot(*mesh.vertices[:, :2].T) > made.laid_out.blank.outer_radius_mm + 0.3]
    assert (proud[:, 1] < 0).all()
    left, right = proud[proud[:, 0] < 0], proud[proud[:, 0] > 0]
    # Two capitals stand at the left, a full stop low at the right.
    assert left[:, 2].max() > right[right[:, 0] > 2][:, 2].max() + 0.5


@pytest.mark.parametrize("which", FOUR, ids=FOUR_IDS)
def test_lib3mf_reads_every_3mf_in_strict_mode(which) -> None:
    made = make_piece(inputs(which, "Bartholomew"))
    assert made.solid is not None
    wrapper = get_wrapper()
    model = wrapper.CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromBuffer(three_mf_bytes(made.solid, title="Bartholomew & Co"))
    assert reader.GetWarningCount() == 0
    items = model.GetMeshObjects()
    assert items.MoveNext()
    mesh = items.GetCurrentMeshObject()
    assert mesh.IsManifoldAndOriented()
    assert mesh.GetTriangleCount() == len(made.solid.triangles)
    assert mesh.GetName() == "Bartholomew & Co"
    placed = model.GetBuildItems()
    assert placed.MoveNext()
    assert not items.MoveNext()


def test_trimesh_reads_a_3mf_with_the_same_volume() -> None:
    made = make_piece(inputs(RING, "Ana"))
    assert made.solid is not None
    scene = trimesh.load(io.BytesIO(three_mf_bytes(made.solid, title="Ana")), file_type="3mf")
    mesh = scene.to_geometry()
    assert mesh.volume == pytest.approx(made.solid.volume_mm3, rel=1e-4)
    # The build item moves the piece into the positive octant.
    assert mesh.bounds[0] == pytest.approx([0, 0, 0], abs=1e-3)


def bar_on(surface: Cylinder, width: float, height: float) -> m3.Manifold:
    """A straight bar, sunk into a band."""
    bar = shapely.MultiPolygon([shapely.box(0, 0, width, height)])
    return lay_on(upright(shapely.orient_polygons(bar), -0.4, 0.05), surface, sagitta_mm=SAGITTA_MM)


def test_only_the_bending_direction_is_subdivided() -> None:
    """Facets grow with the width round the band; the height up the band costs none."""
    surface = Cylinder(radius_mm=10.0)
    step, _ = surface.max_step(sagitta_mm=SAGITTA_MM, h_mm=0.05)

    def facets(width: float, height: float) -> int:
        return bar_on(surface, width, height).num_tri()

    # A bar within one step is a box, however tall.
    assert facets(0.9 * step, 4.0) == facets(0.9 * step, 400.0) == 12
    assert facets(6.0, 4.0) == facets(6.0, 400.0)
    # Each column needs 2 facets on each of 4 sides; the diagonals of the sides double that.
    columns = math.ceil(6 / step)
    assert 12 + 8 * (columns - 1) <= facets(6.0, 4.0) <= 2 * (12 + 8 * (columns - 1))


def test_chords_of_lettering_stay_within_the_tolerance() -> None:
    surface = Cylinder(radius_mm=10.0)
    mesh = bar_on(surface, 20.0, 4.0).to_mesh()
    edges = mesh.vert_properties[mesh.tri_verts][:, [0, 1, 1, 2, 2, 0]].reshape(-1, 2, 3)
    ends, middles = np.hypot(edges[:, :, 0], edges[:, :, 1]), edges.mean(axis=1)
    level = np.abs(ends[:, 0] - ends[:, 1]) < 1e-4
    sag = ends[level, 0] - np.hypot(middles[level, 0], middles[level, 1])
    assert sag.max() <= SAGITTA_MM * 1.001


def test_the_boolean_equals_a_band_that_is_cut_by_another_road() -> None:
    """The same ring lettered flat and bent afterwards has the same volume.

    An independent road: the letters are cut from an unrolled slab, which then is rolled up, so
    neither the wrapped lettering nor the round boolean takes part in it.
    """
    made = make_piece(inputs(RING, "Ottoline"))
    blank, layout = made.laid_out.blank, made.laid_out.layout
    radius, turn = blank.outer_radius_mm, 2 * math.pi * blank.outer_radius_mm
    low, high = -RING.treatment.depth_mm, 0.05
    letters = m3.Manifold.extrude(m3.CrossSection(list(layout.contours), m3.FillRule.NonZero), high - low)
    slab = m3.Manifold.cube((turn, blank.width_mm, blank.wall_mm)).translate((0, 0, -blank.wall_mm))
    flat = (slab - letters.translate((0, 0, low))).scale((1, 1e-4, 1e-4)).refine_to_length(0.1)
    mesh = flat.to_mesh64()
    u, v, h = (mesh.vert_properties[:, i] * f for i, f in ((0, 1.0), (1, 1e4), (2, 1e4)))
    angle, r = u / radius, radius + h
    corners = np.column_stack((r * np.cos(angle), r * np.sin(angle), v))[mesh.tri_verts]
    # Divergence theorem; the two end faces coincide and cancel.
    rolled = np.einsum("ij,ij->i", corners[:, 0], np.cross(corners[:, 1], corners[:, 2])).sum() / 6
    assert made.solid is not None
    assert made.solid.volume_mm3 == pytest.approx(rolled, rel=1.5 * shortfall(radius))


def test_a_thin_wall_comes_back_held_and_never_vanishes() -> None:
    deep = product(RING_TABLE, treatment={"kind": "engraved", "depth_mm": 18.0})
    made = make_piece(inputs(deep, "Ottoline"))
    assert made.stage == "held"
    assert made.solid is not None and made.solid.volume_mm3 > 0

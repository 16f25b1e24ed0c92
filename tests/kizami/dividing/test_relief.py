"""Relief in section: softened edges, slanted walls, pointed and rounded floors, against closed formulas.

A rectangle a x b moved inward by d with sharp corners has the area (a - 2d)(b - 2d); the prismatoid between
two such sections at a height h apart has the volume h/6 (A1 + 4 Am + A2). A corner that points inward is cut off
1.02 d away from where it was: of a right angle that takes a triangle as high as (sqrt 2 - 1.02) d, and twice as wide.
"""

from __future__ import annotations

import math

import numpy as np
import pytest
import shapely
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st

from kizami.as_made.treatment import Engraved, Raised
from kizami.dividing.relief import relief
from kizami.lettering.block import draw, set_line
from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import join_shapes
from kizami.outlines.shrinking import Level, shrunk, thinnest_half_mm
from kizami.solids.lettering_bodies import flat_lettering
from kizami.solids.lettering_solid import lay_on
from kizami.surfaces.plane import Plane
from tests.kizami.samples import drawn

A, B = 4.0, 2.0
BOX = shapely.MultiPolygon([shapely.box(0, 0, A, B)])
RING = shapely.MultiPolygon([shapely.box(0, 0, 6, 6).difference(shapely.box(2, 2, 4, 4))])


def section(d: float) -> float:
    return (A - 2 * d) * (B - 2 * d)


def prismatoid(d1: float, d2: float, h: float) -> float:
    return h / 6 * (section(d1) + 4 * section((d1 + d2) / 2) + section(d2))


def word(text: str, code: str = "vollkorn-bold", height: float = 6.0) -> shapely.MultiPolygon:
    shapes = [s for s in draw(set_line(text, shipped_typeface(code)), sagitta=1e-3) if not s.is_empty]
    return shapely.transform(join_shapes(shapes), lambda xy: xy * height)


SECTIONS = [
    pytest.param(Raised(height_mm=1.0, root_mm=0.5).levels(0.5), 1.5 * A * B, id="plain"),
    pytest.param(
        Raised(height_mm=1.0, root_mm=0.5, edge="chamfer", edge_mm=0.2).levels(0.5),
        1.3 * A * B + prismatoid(0, 0.2, 0.2),
        id="chamfer",
    ),
    pytest.param(
        Raised(height_mm=1.0, root_mm=0.5, draft_deg=10).levels(0.5),
        0.5 * A * B + prismatoid(0, math.tan(math.radians(10)), 1.0),
        id="draft",
    ),
    pytest.param(
        Engraved(depth_mm=0.5, draft_deg=10).levels(0.5),
        prismatoid(0, 0.5 * math.tan(math.radians(10)), 0.5),
        id="engraved with draft",
    ),
]


@pytest.mark.parametrize(("levels", "volume"), SECTIONS)
def test_volumes_in_section(levels: tuple[Level, ...], volume: float) -> None:
    solid = relief(BOX, levels)
    assert solid.volume() == pytest.approx(volume, rel=1e-6)
    assert solid.genus() == 0


@pytest.mark.parametrize("radius", [0.1, 0.3])
def test_a_rounded_edge_takes_off_what_a_quarter_round_does(radius: float) -> None:
    """Along a straight edge (1 - pi/4) r^2; at the four corners a little less than twice that meets."""
    sharp = relief(BOX, Raised(height_mm=1.0, root_mm=0.5).levels(0.9)).volume()
    soft = relief(
        BOX, Raised(height_mm=1.0, root_mm=0.5, edge="rounded", edge_mm=radius).levels(0.9)
    ).volume()
    along = (1 - math.pi / 4) * radius**2 * 2 * (A + B)
    # Chords leave the quarter circle by up to 0.005 mm outside of what is taken.
    assert sharp - soft == pytest.approx(along, rel=0.05 + 0.012 / radius)


@pytest.mark.parametrize("most", [0.05, 0.2])
def test_an_edge_is_never_softened_by_more_than_the_stroke_allows(most: float) -> None:
    levels = Raised(height_mm=1.0, root_mm=0.5, edge="rounded", edge_mm=0.6, draft_deg=20).levels(most)
    assert max(level.inward_mm for level in levels) <= most + 1e-9
    assert levels[-1].height_mm == 1.0


@pytest.mark.parametrize("text", ["Ottoline", "&8oB", "gypsy", "ÅÖ%"])
@pytest.mark.parametrize(
    "treatment",
    [
        Raised(height_mm=1.0, root_mm=0.5, edge="chamfer", edge_mm=0.1),
        Raised(height_mm=1.0, root_mm=0.5, edge="rounded", edge_mm=0.1, draft_deg=3),
        Engraved(depth_mm=0.5, floor="rounded"),
        Engraved(depth_mm=0.5, draft_deg=8),
    ],
    ids=["chamfer", "rounded and drafted", "rounded floor", "drafted"],
)
def test_letters_come_out_closed_whole_and_with_their_holes(text: str, treatment: Raised | Engraved) -> None:
    outlines = word(text)
    levels = treatment.levels(0.7 * thinnest_half_mm(outlines))
    solid = relief(outlines, levels)
    mesh = solid.to_mesh()
    shape = trimesh.Trimesh(mesh.vert_properties[:, :3], mesh.tri_verts)
    assert shape.is_watertight and shape.is_winding_consistent
    assert len(solid.decompose()) == len(outlines.geoms)
    assert solid.genus() == sum(len(b.interiors) for b in outlines.geoms) - (len(outlines.geoms) - 1)
    heights = [level.height_mm for level in levels]
    box = solid.bounding_box()
    assert box[5] == pytest.approx(max(heights))
    upright = outlines.area * (max(heights) - min(heights))
    assert 0.3 * upright < solid.volume() < upright
    assert np.isfinite(shape.vertices).all()


@pytest.mark.parametrize("height", [0.1, 0.3, 0.5, 1.0, 2.0, 20.0])
@pytest.mark.parametrize("code", ["roboto-slab-bold", "vollkorn-bold", "great-vibes", "cinzel-bold"])
def test_softened_edges_come_out_whole_however_small_the_letters_are(code: str, height: float) -> None:
    """What is taken off gets as small as the strokes, down to less than a micrometre."""
    outlines = word("Rosalind", code, height)
    for treatment in (
        Raised(height_mm=0.7, root_mm=0.5, edge="rounded", edge_mm=0.12),
        Engraved(depth_mm=0.5, floor="rounded"),
    ):
        flat = flat_lettering(drawn(outlines, treatment))
        assert flat is not None
        assert len(lay_on(flat, Plane(), sagitta_mm=0.005).decompose()) == len(outlines.geoms)


@settings(max_examples=25, deadline=None)
@given(st.floats(0.02, 0.9), st.floats(0.1, 2.0))
def test_any_two_levels_of_a_ring_are_a_prismatoid(inward: float, height: float) -> None:
    solid = relief(RING, [Level(inward_mm=0, height_mm=0), Level(inward_mm=inward, height_mm=height)])

    def area(d: float) -> float:
        return (6 - 2 * d) ** 2 - ((2 + 2 * d) ** 2 - 4 * ((math.sqrt(2) - 1.02) * d) ** 2)

    expected = height / 6 * (area(0) + 4 * area(inward / 2) + area(inward))
    assert solid.volume() == pytest.approx(expected, rel=1e-6)
    assert solid.genus() == 1


def test_shrinking_and_the_thinnest_half() -> None:
    assert shrunk(BOX, 0) is BOX
    assert shrunk(BOX, 1.2).is_empty
    assert thinnest_half_mm(BOX) == pytest.approx(1.0, abs=0.02)
    neck = shapely.MultiPolygon(
        [shapely.union_all([shapely.box(0, 0, 3, 3), shapely.box(2, 1.3, 6, 1.7), shapely.box(5, 0, 8, 3)])]
    )
    assert thinnest_half_mm(neck) == pytest.approx(0.2, abs=0.02)

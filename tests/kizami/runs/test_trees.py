"""Casting trees: one body, nothing touches, it fits the flask, and its metal is weighed by formulas."""

from __future__ import annotations

import itertools
import math
from dataclasses import replace

import manifold3d as m3
import numpy as np
import pytest
import shapely
import trimesh
from scipy.spatial import ConvexHull

from kizami.runs.coding import flag_letters
from kizami.runs.machine import shipped_machines
from kizami.runs.melt import melt_of
from kizami.runs.tree import (
    OnTree,
    build_tree,
    flagged,
    lay_on_trees,
    place_on_tree,
    seen_from_outside,
    stem_mm3,
)
from kizami.solids.feeding import Feed, feeds_of
from kizami.solids.solid import Solid
from kizami.standards import shipped_standards
from tests.kizami.runs.samples import body, ring, solid, wedge

FLASK = shipped_machines()["FLASK-1"]


def on_tree(key: str, manifold: m3.Manifold, feeds: tuple[Feed, ...] | None = None) -> OnTree:
    skin = body(manifold)
    return OnTree(
        key=key,
        shape_key=f"{manifold.volume():.6f}",
        hull=skin.points[ConvexHull(skin.points).vertices],
        volume_mm3=skin.volume_mm3,
        feeds=feeds if feeds is not None else feeds_of(bare(manifold)),
        load=lambda: skin,
    )


def bare(manifold: m3.Manifold) -> Solid:
    made = solid(manifold)
    return replace(made, is_lettering=np.zeros(len(made.triangles), dtype=bool))


def mixed(count: int) -> list[OnTree]:
    kinds = [ring(), ring(bore=19, width=4), m3.Manifold.cube((40, 18, 2.5)), wedge()]
    return [on_tree(f"P{n}", kinds[n % 4]) for n in range(count)]


def test_forty_rings_hang_on_one_tree_that_is_one_body() -> None:
    machine = replace(FLASK, bed_mm=(100.0, 100.0, 200.0))
    trees, too_large = lay_on_trees([on_tree(f"R{n}", ring()) for n in range(40)], machine)
    assert not too_large and len(trees) == 1 and len(trees[0].hung) == 40
    whole = build_tree(trees[0], machine)
    mesh = whole.to_mesh()
    read = trimesh.Trimesh(mesh.vert_properties[:, :3], mesh.tri_verts)
    assert read.body_count == 1 and read.is_watertight
    # Every ring keeps its hole: one body with forty handles, but for those that feeds close between themselves.
    assert whole.genus() == 40


def test_pieces_keep_their_distance_and_the_tree_fits_the_flask() -> None:
    trees, _ = lay_on_trees(mixed(30), FLASK)
    assert sum(len(tree.hung) for tree in trees) == 30
    for tree in trees:
        placed = []
        for hung in tree.hung:
            turn, shift = place_on_tree(hung)
            skin = hung.branch.piece.load()
            points = (skin.points @ turn.T + shift).astype(np.float32)
            placed.append(m3.Manifold(m3.Mesh(points, skin.faces.astype(np.uint32))))
        for one, other in itertools.combinations(placed, 2):
            assert one.min_gap(other, 5.0) >= FLASK.spacing_mm - 0.02
        low_x, low_y, low_z, high_x, high_y, high_z = build_tree(tree, FLASK).bounding_box()
        reach = FLASK.bed_mm[0] / 2 - FLASK.margin_mm
        assert max(-low_x, -low_y, high_x, high_y) <= reach + 0.1
        assert low_z >= 0 and high_z <= FLASK.bed_mm[2]


def test_urgent_pieces_hang_on_the_first_tree() -> None:
    trees, _ = lay_on_trees(mixed(40), FLASK)
    assert {"P0", "P1", "P2"} <= {hung.branch.piece.key for hung in trees[0].hung}


def test_what_does_not_fit_the_flask_is_named() -> None:
    trees, too_large = lay_on_trees(
        [on_tree("big", m3.Manifold.cube((120, 60, 3))), on_tree("r", ring())], FLASK
    )
    assert too_large == ["big"] and len(trees[0].hung) == 1


def test_a_feed_reaches_from_the_sprue_into_the_piece() -> None:
    (tree,), _ = lay_on_trees([on_tree("r", ring())], FLASK)
    hung = tree.hung[0]
    turn, shift = place_on_tree(hung)
    at = turn @ np.array(hung.branch.feed.at_mm) + shift
    # Where the feed meets the piece: its own length out from the sprue's skin, at its angle.
    out = math.hypot(at[0], at[1])
    rise = math.radians(FLASK.angle_deg)
    assert out == pytest.approx(FLASK.sprue_mm / 2 + FLASK.feed_length_mm * math.cos(rise), abs=1e-3)
    assert at[2] - hung.z_mm == pytest.approx(out * math.tan(rise), abs=1e-3)


def test_pieces_seen_from_outside_stand_where_they_hang() -> None:
    (tree,), _ = lay_on_trees([on_tree(f"R{n}", ring()) for n in range(3)], FLASK)
    outlines, (width, height) = seen_from_outside(tree, FLASK)
    assert width == pytest.approx(2 * math.pi * (50 - 8)) and height == 150
    for hung, outline in zip(tree.hung, outlines, strict=True):
        assert outline.centroid.x / width * 2 * math.pi == pytest.approx(hung.angle_rad, abs=0.05)


def test_metal_is_weighed_by_formulas() -> None:
    """Sterling by mixture 10.36 g/cm3 (CRC Handbook densities, from memory), sprue and cup as cylinder and cone."""
    (tree,), _ = lay_on_trees([on_tree(f"R{n}", ring()) for n in range(4)], FLASK)
    melt = melt_of(tree, FLASK, "sterling-silver", weights_g=[5.0] * 4)
    radius, high, wide = 4.0, 0.9 * 8.0, 2.6 * 4.0
    cone = math.pi * high / 3 * (wide**2 + wide * radius + radius**2)
    stem = math.pi * radius**2 * (tree.height_mm - high) + cone + 4 * math.pi * 1.0**2 * 7.0
    assert stem_mm3(tree, FLASK) == pytest.approx(stem)
    assert melt.stem_g == pytest.approx(stem * 10.36 / 1000)
    assert melt.total_g == pytest.approx(1.03 * (20 + melt.stem_g + 2500 * 10.36 / 1000))
    assert sum(share for _, share in melt.parts) == pytest.approx(melt.total_g)
    assert dict(melt.parts)["fine silver"] == pytest.approx(0.925 * melt.total_g)


def test_the_stem_s_volume_is_that_of_the_body_without_pieces() -> None:
    (tree,), _ = lay_on_trees([on_tree(f"R{n}", ring()) for n in range(4)], FLASK)
    whole = build_tree(tree, FLASK).volume()
    pieces = 4 * ring().volume()
    # The feeds' ends within sprue and pieces, and the notch, are what formulas leave out.
    assert whole - pieces == pytest.approx(stem_mm3(tree, FLASK), rel=0.03)


def test_feeds_keep_off_the_lettering_and_look_outward() -> None:
    plate = m3.Manifold.cube((40, 18, 2.5))
    made = solid(plate)
    middles = made.vertices[made.triangles].mean(axis=1)
    top = middles[:, 2] > 2.4
    lettered = replace(made, is_lettering=top)
    best = feeds_of(lettered)[0]
    # Not on the lettered face, and at an edge's full section rather than through the thin plate.
    assert best.outward[2] < 0.5
    for feed in feeds_of(bare(ring())):
        out = np.hypot(*feed.at_mm[:2]) > 8.6 or abs(feed.outward[2]) > 0.9
        assert out, "a feed within the bore can't be reached"


def test_a_piece_that_is_all_lettering_is_fed_all_the_same() -> None:
    made = solid(wedge())
    assert feeds_of(replace(made, is_lettering=np.ones(len(made.triangles), dtype=bool)))


def test_a_feed_is_kept_as_numbers() -> None:
    feed = feeds_of(bare(wedge()))[0]
    assert Feed.from_table(feed.to_table()).at_mm == pytest.approx(feed.at_mm, abs=1e-4)


def test_a_flag_on_each_feed_bears_the_place_of_its_piece() -> None:
    limits = shipped_standards().processes["lost-wax"].limits
    machine = replace(FLASK, angle_deg=0.0)
    pieces = [replace(on_tree(f"R{n}", ring()), flagged=True, limits=limits) for n in range(12)]
    (tree,), _ = lay_on_trees(pieces, machine)
    assert flagged(tree, machine) == set(range(1, 13))
    mesh = build_tree(tree, machine).to_mesh()
    whole = trimesh.Trimesh(mesh.vert_properties[:, :3], mesh.tri_verts)
    assert whole.is_watertight and whole.body_count == 1
    for number in (1, 7, 12):
        hung = tree.hung[number - 1]
        # Seen from the side on which the figures stand: right is away from the sprue, above is up.
        a = hung.angle_rad
        side = np.array([math.sin(a), -math.cos(a), 0.0])
        right = np.array([math.cos(a), math.sin(a), 0.0])
        met = trimesh.intersections.mesh_plane(whole, side, side * 0.6)
        lines = np.stack((met @ right, met[:, :, 2] - hung.z_mm), axis=-1).round(5)
        figures = shapely.build_area(shapely.union_all(shapely.linestrings(lines)))
        low, high = machine.sprue_mm / 2 + 0.7, machine.sprue_mm / 2 + machine.feed_length_mm - 0.7
        seen = shapely.intersection(figures, shapely.box(low, machine.feed_mm / 2 + 0.1, high, 9.0))
        drawn = flag_letters(str(number), limits)
        moved = shapely.transform(
            drawn, lambda xy, s=seen, d=drawn: xy + np.subtract(s.bounds[:2], d.bounds[:2])
        )
        assert seen.symmetric_difference(moved).area < 0.03 * drawn.area, number


def test_no_flag_stands_where_the_feed_is_too_short_for_it() -> None:
    limits = shipped_standards().processes["lost-wax"].limits
    short = replace(FLASK, feed_length_mm=5.5)
    trees, _ = lay_on_trees([replace(on_tree("R", ring()), flagged=True, limits=limits)], short)
    assert flagged(trees[0], short) == set()
    assert len(build_tree(trees[0], short).decompose()) == 1

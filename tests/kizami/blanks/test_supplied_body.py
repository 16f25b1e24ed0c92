"""Supplied bodies: what is sound stays, what is nearly so is mended and said, all else is refused."""

from __future__ import annotations

import math
import pickle
from copy import deepcopy

import manifold3d as m3
import numpy as np
import pytest
import trimesh

from kizami.blanks.supplied_body import LARGEST_HOLE_MM, MOST_FACETS, SuppliedBody, sound_body
from kizami.checks.finding import Level
from kizami.errors import SurfaceError
from kizami.pieces.make import make_piece
from kizami.products.product_file import product_from_table
from tests.kizami.samples import TAG_TABLE, inputs


def box(x: float = 20, y: float = 12, z: float = 6) -> tuple[np.ndarray, np.ndarray]:
    mesh = trimesh.creation.box((x, y, z))
    return np.array(mesh.vertices), np.array(mesh.faces)


def ball(radius: float = 10.0) -> tuple[np.ndarray, np.ndarray]:
    mesh = trimesh.creation.icosphere(subdivisions=4, radius=radius)
    return np.array(mesh.vertices), np.array(mesh.faces)


def volume(body: SuppliedBody) -> float:
    """By the reference library, which must also find the body closed and the right way out."""
    mesh = trimesh.Trimesh(body.vertices, body.triangles, process=False)
    assert mesh.is_volume
    return float(mesh.volume)


def test_a_sound_body_stays_as_it_is() -> None:
    points, faces = box()
    body = sound_body(points, faces, name="block.stl")
    assert body.notes == ()
    assert volume(body) == pytest.approx(20 * 12 * 6)
    assert body.size_mm == pytest.approx((20, 12, 6))
    assert body.manifold.volume() == pytest.approx(20 * 12 * 6)


def test_loose_facets_are_joined_at_their_corners() -> None:
    points, faces = ball()
    soup = points[faces].reshape(-1, 3)
    body = sound_body(soup, np.arange(len(soup)).reshape(-1, 3), name="ball.stl")
    # An inscribed icosphere of 2,562 corners falls short of the ball by its facets' sagitta.
    assert volume(body) == pytest.approx(4 / 3 * math.pi * 1000, rel=0.005)
    assert len(body.vertices) == len(points)


@pytest.mark.parametrize(("unit_mm", "side"), [(25.4, 0.5), (10.0, 2.0), (1000.0, 0.02)])
def test_units_are_exact(unit_mm: float, side: float) -> None:
    points, faces = box(side, side, side)
    body = sound_body(points, faces, name="cube.obj", unit_mm=unit_mm)
    assert body.size_mm == pytest.approx((side * unit_mm,) * 3)


def test_inside_out_is_turned_and_said() -> None:
    points, faces = ball()
    body = sound_body(points, faces[:, ::-1], name="ball.stl")
    assert volume(body) > 0
    assert len(body.notes) == 1


@pytest.mark.parametrize("wrong", [[0], [3, 4, 5, 6], list(range(0, 5000, 7))])
def test_single_facets_that_look_the_wrong_way_are_turned(wrong: list[int]) -> None:
    points, faces = ball()
    faces = faces.copy()
    right = volume(sound_body(points, faces, name="ball.stl"))
    faces[wrong] = faces[wrong][:, ::-1]
    body = sound_body(points, faces, name="ball.stl")
    assert volume(body) == pytest.approx(right)
    assert str(len(wrong)) in body.notes[0]


def test_doubles_and_facets_without_area_are_left_out() -> None:
    points, faces = box()
    more = np.vstack((faces, faces[:3], [[0, 0, 1]]))
    body = sound_body(points, more, name="block.stl")
    assert len(body.triangles) == len(faces)
    assert len(body.notes) == 2


def test_a_small_hole_is_closed_and_said() -> None:
    points, faces = ball()
    # One facet of a fine ball: about 3 x 0.5 mm round, within the limit on this one.
    small = trimesh.creation.icosphere(subdivisions=5, radius=10.0)
    body = sound_body(np.array(small.vertices), np.array(small.faces)[1:], name="ball.stl")
    assert volume(body) == pytest.approx(4 / 3 * math.pi * 1000, rel=0.005)
    assert "closed" in body.notes[0]
    # The same facet missing from a coarser ball is a larger hole.
    edge = np.linalg.norm(points[faces[0]] - np.roll(points[faces[0]], 1, axis=0), axis=1).sum()
    assert edge > LARGEST_HOLE_MM
    with pytest.raises(SurfaceError, match=f"{edge:.2f} mm round"):
        sound_body(points, faces[1:], name="ball.stl")


def test_bodies_that_overlap_become_one() -> None:
    one, other = trimesh.creation.box((20, 6, 6)), trimesh.creation.box((6, 20, 6))
    both = trimesh.util.concatenate([one, other])
    body = sound_body(np.array(both.vertices), np.array(both.faces), name="cross.stl")
    assert volume(body) == pytest.approx(20 * 6 * 6 * 2 - 6 * 6 * 6)


def test_a_hollow_stays_hollow() -> None:
    outer, inner = trimesh.creation.box((20, 20, 20)), trimesh.creation.box((10, 10, 10))
    inner.invert()
    both = trimesh.util.concatenate([outer, inner])
    body = sound_body(np.array(both.vertices), np.array(both.faces), name="hollow.stl")
    assert body.manifold.volume() == pytest.approx(8000 - 1000)


def open_tube() -> tuple[np.ndarray, np.ndarray]:
    mesh = trimesh.creation.cylinder(radius=5, height=20, sections=64, cap=False)
    mesh = mesh.submesh([np.abs(mesh.face_normals[:, 2]) < 0.5], append=True)
    return np.array(mesh.vertices), np.array(mesh.faces)


def moebius() -> tuple[np.ndarray, np.ndarray]:
    """A twisted band, thin facets all along: one side, and closed nowhere."""
    steps = 40
    rows = []
    for i in range(steps):
        a = 2 * math.pi * i / steps
        for s in (-1, 1):
            r = 10 + 3 * s * math.cos(a / 2)
            rows.append((r * math.cos(a), r * math.sin(a), 3 * s * math.sin(a / 2)))
    faces = []
    for i in range(steps):
        a, b = 2 * i, 2 * i + 1
        c, d = (2 * (i + 1), 2 * (i + 1) + 1) if i + 1 < steps else (1, 0)
        faces += [(a, b, c), (b, d, c)]
    return np.array(rows), np.array(faces)


def far_apart() -> tuple[np.ndarray, np.ndarray]:
    one, other = trimesh.creation.box((5, 5, 5)), trimesh.creation.box((5, 5, 5))
    other.apply_translation((20, 0, 0))
    both = trimesh.util.concatenate([one, other])
    return np.array(both.vertices), np.array(both.faces)


def crowded_edge() -> tuple[np.ndarray, np.ndarray]:
    """Two blocks that share an edge: four facets meet there."""
    one, other = trimesh.creation.box((6, 6, 6)), trimesh.creation.box((6, 6, 6))
    other.apply_translation((6, 6, 0))
    both = trimesh.util.concatenate([one, other])
    return np.array(both.vertices), np.array(both.faces)


def flat() -> tuple[np.ndarray, np.ndarray]:
    """Two skins back to back: closed, but nothing lies between them."""
    points = np.array([(0, 0, 0), (20, 0, 0), (10, 15, 0), (10, 5, 1e-5)], dtype=float)
    return points, np.array([(0, 1, 2), (0, 1, 3), (1, 2, 3), (2, 0, 3)])


def not_numbers() -> tuple[np.ndarray, np.ndarray]:
    points, faces = box()
    points[3, 1] = np.nan
    return points, faces


REFUSED = [
    pytest.param(open_tube(), "2 holes, the largest 31.4", id="open at both ends"),
    pytest.param(moebius(), "one side|hole", id="twisted band"),
    pytest.param(far_apart(), "2 bodies", id="two bodies"),
    pytest.param(crowded_edge(), "more than two facets", id="four facets at an edge"),
    pytest.param(flat(), "encloses 0.0005 mm3", id="no volume"),
    pytest.param(not_numbers(), "no numbers", id="not a number"),
    pytest.param(box(0.5, 0.4, 0.2), "in cm it would be 5 × 4 × 2 mm", id="drawn in another unit"),
    pytest.param(box(2000, 10, 10), "from 3 to 600", id="too large"),
    pytest.param((np.zeros((0, 3)), np.zeros((0, 3), dtype=int)), "no surface", id="empty"),
    pytest.param((np.zeros((3, 3)), np.array([[0, 1, 9]])), "not in the file", id="corner that is not there"),
]


@pytest.mark.parametrize(("given", "said"), REFUSED)
def test_what_is_no_body_is_refused_with_what_is_wrong(
    given: tuple[np.ndarray, np.ndarray], said: str
) -> None:
    before = given[0].copy()
    with pytest.raises(SurfaceError, match=said):
        sound_body(*given, name="thing.stl")
    assert np.array_equal(given[0], before, equal_nan=True)


def test_five_million_facets_are_refused_before_anything_is_done() -> None:
    faces = np.zeros((5_000_000, 3), dtype=np.int64)
    with pytest.raises(SurfaceError, match=f"{MOST_FACETS:,} are the most"):
        sound_body(np.zeros((1, 3)), faces, name="scan.stl")


def test_bodies_are_values() -> None:
    points, faces = box()
    one, same = sound_body(points, faces, name="a.stl"), sound_body(points, faces, name="b.stl")
    assert one == same and hash(one) == hash(same)
    assert one != sound_body(points * 1.1, faces, name="a.stl")
    assert deepcopy(one) is one
    assert pickle.loads(pickle.dumps(one)) == one
    with pytest.raises(ValueError, match="read-only"):
        one.vertices[0] = 0


def test_a_skin_that_crosses_itself_is_refused_with_its_place() -> None:
    """A bar bent round so far that its end runs through its beginning: there it is inside twice."""
    turns = np.linspace(0.0, 2.0 * np.pi * 1.08, 80)
    section = np.array([(8.0, -2.0), (12.0, -2.0), (12.0, 2.0), (8.0, 2.0)])
    rings = [
        np.column_stack((section[:, 0] * np.cos(t), section[:, 0] * np.sin(t), section[:, 1] + 0.11 * t))
        for t in turns
    ]
    points = np.concatenate(rings)
    faces = [
        face
        for n in range(len(rings) - 1)
        for k in range(4)
        for face in (
            (4 * n + k, 4 * n + (k + 1) % 4, 4 * n + 4 + (k + 1) % 4),
            (4 * n + k, 4 * n + 4 + (k + 1) % 4, 4 * n + 4 + k),
        )
    ]
    last = 4 * (len(rings) - 1)
    faces += [(2, 1, 0), (3, 2, 0), (last, last + 1, last + 2), (last, last + 2, last + 3)]
    with pytest.raises(SurfaceError, match=r"crosses itself at x .*, y .*, z "):
        sound_body(points, np.array(faces), name="bar.stl")


def test_a_hollow_body_can_be_ready_where_nothing_stays_in_it() -> None:
    """A box with a closed cavity: printed in filament it is ready, cast it would hold what it was cast from."""
    hollow = m3.Manifold.cube((40, 30, 16)) - m3.Manifold.cube((12, 10, 8)).translate((14, 10, 4))
    mesh = hollow.to_mesh64()
    body = sound_body(
        np.array(mesh.vert_properties), np.array(mesh.tri_verts).astype(np.int64), name="box.stl"
    )
    table = {
        **TAG_TABLE, "blank": {"kind": "supplied shape", "file": "box.stl", "unit": "mm", "radius_mm": 12.0, "point": [20.0, 15.0, 16.0], "up": [0.0, 1.0, 0.0]},
        "treatment": {"kind": "engraved", "depth_mm": 0.6}, "material": "printed-resin",
        "fit": {"greatest_height_mm": 9.0, "lowest_height_mm": 4.0, "clearance_mm": 1.0},
    }  # fmt: skip
    found = {}
    for process in ("filament", "resin"):
        which = product_from_table({**table, "process": process}, bodies=lambda name, unit: body)
        found[process] = {f.code for f in make_piece(inputs(which, "IDA")).findings if f.level is Level.FAILS}
    assert found == {"filament": set(), "resin": {"cavities"}}


@pytest.mark.parametrize("up", [(0.0, 1.0, 0.0), (0.0, 0.0, 1.0), (1.0, 0.0, 0.0)])
@pytest.mark.parametrize("point", [(20.0, 15.0, 16.0), (20.0, 30.0, 8.0), (40.0, 15.0, 8.0)])
def test_on_a_flat_face_letters_stand_upright_right_to_its_edges(up, point) -> None:
    """Whichever face and whichever way is up, even along the normal; by rays the depth is the same everywhere."""
    box = m3.Manifold.cube((40, 30, 16)).to_mesh64()
    body = sound_body(np.array(box.vert_properties), np.array(box.tri_verts).astype(np.int64), name="box.stl")
    table = {
        **TAG_TABLE, "blank": {"kind": "supplied shape", "file": "box.stl", "unit": "mm", "radius_mm": 7.9, "point": list(point), "up": list(up)},
        "treatment": {"kind": "engraved", "depth_mm": 0.6},
        "fit": {"greatest_height_mm": 6.0, "lowest_height_mm": 3.0, "clearance_mm": 0.4},
    }  # fmt: skip
    which = product_from_table(table, bodies=lambda name, unit: body)
    piece = make_piece(inputs(which, "IDA"))
    assert piece.stage == "ready" and piece.solid is not None
    taken = 40 * 30 * 16 - piece.solid.volume_mm3
    assert taken == pytest.approx(piece.laid_out.layout.outlines.area * 0.6, rel=2e-3)

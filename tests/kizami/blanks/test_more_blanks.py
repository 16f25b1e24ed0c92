"""Signets, ring frames, sectors of grips and plates of a shop's own outline, against closed formulas."""

from __future__ import annotations

import math
from typing import Any

import numpy as np
import pytest
import shapely
import trimesh

from kizami.errors import CatalogueError
from kizami.pieces.make import Made, make_piece
from kizami.products.product import Product
from kizami.products.product_file import product_from_table
from tests.kizami.samples import RING_TABLE, TAG_TABLE, inputs

FIT = {"greatest_height_mm": 8.0, "lowest_height_mm": 2.0, "clearance_mm": 1.0, "tracking": 0.05}
SIGNET: dict[str, Any] = {
    "kind": "signet ring", "head": "oval", "head_length_mm": 16.0, "head_width_mm": 12.0,
    "rise_mm": 1.0, "shank_mm": 4.0, "wall_mm": 1.6,
}  # fmt: skip
FRAME: dict[str, Any] = {
    "kind": "ring frame", "diameter_mm": 40.0, "frame_mm": 3.0, "thickness_mm": 3.0, "hole_mm": 4.0, "web_mm": 2.0,
}  # fmt: skip
SLEEVE: dict[str, Any] = {
    "kind": "sleeve", "low_mm": 34.0, "high_mm": 34.0, "length_mm": 60.0, "bore_mm": 20.0, "sectors": 3.0,
}  # fmt: skip
SAIL = [[0, 0], [50, 0], [30, 40]]


def signet(**changes: Any) -> Product:
    return product_from_table({**RING_TABLE, "blank": {**SIGNET, **changes}, "fit": FIT})


def frame(clearance: float = 0.2, **changes: Any) -> Product:
    shape = {"shape": {"kind": "filled", "outline": "round", "most_stretch": 8.0}}
    fit = {"greatest_height_mm": 38.0, "lowest_height_mm": 10.0, "clearance_mm": clearance}
    return product_from_table(
        {**TAG_TABLE, "blank": {**FRAME, **changes}, "fit": fit, "arrangement": shape,
         "treatment": {"kind": "cut-out", "thickness_mm": 3.0}, "soundness": {"overlap_mm": 0.5}}
    )  # fmt: skip


def sleeve(area: str, **changes: Any) -> Product:
    return product_from_table({**TAG_TABLE, "blank": {**SLEEVE, **changes}, "fit": FIT, "area": area})


def plate(points: Any, **changes: Any) -> Product:
    blank = {"kind": "plate", "outline": "free", "points": points, "length_mm": 50.0, "height_mm": 40.0,
             "thickness_mm": 3.0, **changes}  # fmt: skip
    return product_from_table({**TAG_TABLE, "blank": blank, "fit": FIT})


def mesh_of(piece: Made) -> trimesh.Trimesh:
    mesh = trimesh.Trimesh(piece.solid.vertices, piece.solid.triangles)
    assert mesh.is_volume
    return mesh


def finding(piece: Made, code: str):
    return next(f for f in piece.findings if f.code == code)


@pytest.mark.parametrize("size", ["48", "54", "66"])
@pytest.mark.parametrize("head", [{}, {"head": "rounded", "corner_mm": 3.0}, {"dome_mm": 0.8}, {"head": "rounded", "corner_mm": 3.0, "dome_mm": 1.0}])  # fmt: skip
def test_a_signet_is_one_ring_with_its_bore_and_its_head(head: dict[str, Any], size: str) -> None:
    which = signet(**head)
    blank = which.blank_for(which.read_size(size))
    body = blank.body(0.005)
    assert (len(body.decompose()), body.genus()) == (1, 1)
    low_x, _, low_z, high_x, _, high_z = body.bounding_box()
    outer = blank.bore_mm / 2 + 1.6
    assert high_z == pytest.approx(outer + 1.0 + which.blank.dome_mm, abs=0.006)
    assert low_z == pytest.approx(-outer, abs=0.006)
    assert (low_x, high_x) == pytest.approx((-outer, outer), abs=0.02)
    # The bore is clear all along the axis, and the wall is solid just outside it.
    ring = trimesh.creation.cylinder(radius=blank.bore_mm / 2 - 0.01, height=30)
    ring.apply_transform(trimesh.transformations.rotation_matrix(math.pi / 2, (1, 0, 0)))
    import manifold3d as m3

    plug = m3.Manifold(m3.Mesh(ring.vertices.astype(np.float32), ring.faces.astype(np.uint32)))
    assert (body ^ plug).volume() == pytest.approx(0.0, abs=1e-6)


@pytest.mark.parametrize("dome", [0.0, 0.8])
def test_engraving_on_a_signet_is_as_deep_everywhere(dome: float) -> None:
    piece = make_piece(inputs(signet(dome_mm=dome), "OB"))
    assert piece.solid is not None and finding(piece, "right-volume").level.value == "passes"
    mesh = mesh_of(piece)
    blank = piece.laid_out.blank
    middles = mesh.triangles_center
    if dome:
        centre = np.array([0, 0, blank.face_mm + dome - blank.ball_radius_mm])
        out = middles - centre
        heights = np.linalg.norm(out, axis=1) - blank.ball_radius_mm
        out /= np.linalg.norm(out, axis=1, keepdims=True)
    else:
        heights, out = middles[:, 2] - blank.face_mm, np.array([[0.0, 0, 1]])
    facing = (mesh.face_normals * out).sum(axis=1) > 0.99
    floors = heights[facing & (np.abs(heights + 0.45) < 0.1)]
    assert len(floors) > 20
    assert np.abs(floors + 0.45).max() < 0.011


def test_an_empty_frame_has_the_volume_of_its_rings() -> None:
    body = frame().blank.body(0.005)
    ring = math.pi * (20**2 - 17**2)
    # A loop of radius 4 whose middle lies 3 mm outside the frame: the lens of the two discs is shared.
    d, big, small = 23.0, 20.0, 4.0
    a = (d * d + small**2 - big**2) / (2 * d)
    lens = (
        small**2 * math.acos(a / small)
        - a * math.sqrt(small**2 - a * a)
        + big**2 * math.acos((d - a) / big)
        - (d - a) * math.sqrt(big**2 - (d - a) ** 2)
    )
    loop = math.pi * 4**2 - lens - math.pi * 2**2
    # The loop's own hole stops short of the frame by half its web.
    assert body.volume() == pytest.approx(3 * (ring + loop), rel=2e-3)
    assert body.genus() == 2


@pytest.mark.parametrize("name", ["IDA", "OWEN", "ROSE", "MARGOT"])
def test_a_name_in_a_frame_is_one_with_it(name: str) -> None:
    piece = make_piece(inputs(frame(), name))
    mesh = mesh_of(piece)
    assert (finding(piece, "one-body").measured, finding(piece, "loose-parts").measured) == (1, 0)
    flat = shapely.union_all([piece.laid_out.layout.outlines, piece.laid_out.blank.flat])
    assert mesh.volume == pytest.approx(3 * flat.area, rel=1e-3)
    # Euler: 2 - 2 g with a hole for each opening seen from above.
    assert mesh.euler_number == 2 - 2 * len(flat.interiors)


def test_letters_that_do_not_reach_the_frame_are_held_with_their_number() -> None:
    piece = make_piece(inputs(frame(clearance=4.0), "IDA"))
    assert piece.stage == "held"
    assert finding(piece, "loose-parts").measured >= 1
    assert finding(piece, "one-body").level.value == "fails"


def test_too_many_letters_in_a_frame_are_held() -> None:
    piece = make_piece(inputs(frame(), "BARTHOLO"))
    assert finding(piece, "letters-in-shape").level.value == "fails"


@pytest.mark.parametrize("taper", [0.0, 6.0])
@pytest.mark.parametrize("count", [2, 3])
def test_sectors_share_the_whole_and_stand_evenly(count: int, taper: float) -> None:
    blank = sleeve("outside", sectors=float(count), high_mm=34.0 - taper).blank
    whole, *parts = blank.areas
    assert sum(part.outline.area for part in parts) == pytest.approx(whole.outline.area, rel=1e-3)
    places = [part.surface.place(np.array([part.anchor]), np.zeros(1))[0] for part in parts]
    turns = np.degrees([math.atan2(x, -y) for x, y, _ in places])
    apart = np.array(turns) - [360 / count * i for i in range(count)]
    assert (apart + 180) % 360 - 180 == pytest.approx([0.0] * count, abs=0.1)
    assert [z for *_, z in places] == pytest.approx([30.0] * count, abs=0.3)


@pytest.mark.parametrize("taper", [0.0, 6.0])
@pytest.mark.parametrize(("area", "turn"), [("sector 1", 0.0), ("sector 2", 120.0), ("sector 3", -120.0)])
def test_lettering_stays_in_its_sector(area: str, turn: float, taper: float) -> None:
    piece = make_piece(inputs(sleeve(area, high_mm=34.0 - taper), "Bo"))
    mesh = mesh_of(piece)
    middles = mesh.triangles_center
    walls = np.abs((mesh.face_normals * middles)[:, :2].sum(axis=1)) / np.linalg.norm(middles[:, :2], axis=1)
    cut = middles[
        (walls < 0.5) & (np.abs(middles[:, 2] - 30) < 10) & (np.linalg.norm(middles[:, :2], axis=1) > 12)
    ]
    off = (np.degrees(np.arctan2(cut[:, 0], -cut[:, 1])) - turn + 180) % 360 - 180
    assert len(cut) > 50
    assert np.abs(off).max() < 60
    assert np.ptp(off) > 10


def test_a_free_outline_is_drawn_as_large_as_it_says() -> None:
    which = plate(SAIL)
    assert which.blank.body(0.005).volume() == pytest.approx(50 * 40 / 2 * 3)
    # Given in other units and the other way round it is the same plate.
    turned = plate([[x / 25.4 + 7, y / 10 - 2] for x, y in SAIL[::-1]])
    assert turned.blank.body(0.005).volume() == pytest.approx(3000)
    # The largest oval three times as long as it is high is the incircle of the triangle squeezed so much:
    # twice the area over its perimeter, at the anchor.
    area = which.blank.areas[0]
    perimeter = 50 / 3 + math.hypot(30 / 3, 40) + math.hypot(20 / 3, 40)
    squeezed = shapely.transform(area.outline, lambda uv: uv / (3.0, 1.0))
    u, v = area.anchor
    room = squeezed.exterior.distance(shapely.Point(u / 3, v))
    assert room == pytest.approx(2 * 1000 / 3 / perimeter, rel=0.02)


WRONG = [
    (lambda: plate([[0, 0], [10, 10], [10, 0], [0, 10]]), "crosses or touches itself"),
    (lambda: plate([[0, 0], [10, 0], [20, 0]]), "enclose nothing"),
    (lambda: plate([]), "needs them"),
    (lambda: plate(SAIL, outline="oval"), "belong to an outline that is free"),
    (lambda: plate([[0, 0], [1, 1]]), "3 to 2000"),
    (lambda: plate([[0, 0], [1, "x"], [2, 2]]), "pairs of numbers"),
    (lambda: plate([[0, 0, 0], [1, 1, 1], [2, 2, 2]]), "pairs of numbers"),
    (lambda: sleeve("sector 3", sectors=2.0), "sector 3"),
    (lambda: sleeve("outside", sectors=1.0), "0, 2 or 3"),
    (lambda: signet(head="round"), "oval, rounded"),
    (lambda: signet(head_width_mm=4.0, shank_mm=6.0), "narrower than the shank"),
    (lambda: signet(dome_mm=9.0), "a quarter"),
    (lambda: signet(head="rounded", corner_mm=9.0), "half of the head"),
    (lambda: frame(frame_mm=16.0), "too little room"),
    (lambda: frame(web_mm=0.0), "web_mm"),
    (lambda: product_from_table({**TAG_TABLE, "blank": FRAME, "fit": FIT}), "cut-out"),
]


@pytest.mark.parametrize(("make", "said"), WRONG)
def test_what_can_not_be_is_refused(make, said: str) -> None:
    with pytest.raises(CatalogueError, match=said):
        make()


def test_the_inside_of_a_signet_is_lettered_under_its_head() -> None:
    """A date in the bore: cut to its depth, readable from inside with the finger pointing up."""
    table = {
        "area": "inside", "carries": "fixed", "text": "1987", "treatment": {"kind": "engraved", "depth_mm": 0.4},
        "fit": {"greatest_height_mm": 2.4, "lowest_height_mm": 1.5, "clearance_mm": 0.5},
    }  # fmt: skip
    which = product_from_table({**RING_TABLE, "blank": SIGNET, "fit": FIT, "also": [table]})
    made = make_piece(inputs(which, "OB"))
    (inside,) = made.laid_out.others
    assert made.solid is not None and made.solid.bodies == 1 and made.solid.genus == 1
    middles = np.array([b.representative_point().coords[0] for b in inside.layout.outlines.geoms])
    mesh = trimesh.Trimesh(made.solid.vertices, made.solid.triangles)
    assert mesh.is_volume
    for depth, solid in ((0.37, False), (0.43, True)):
        points = inside.area.surface.place(middles, np.full(len(middles), -depth))
        assert (mesh.contains(points) == solid).all()
    # An eye in the middle of the bore looks up at the head, with the finger's direction as its own up.
    feet = inside.area.surface.place(middles, np.zeros(len(middles)))
    assert (feet[:, 2] > 0).all()
    eye, up = np.array([0.0, 0.0, 1.0]), np.array([0.0, 1.0, 0.0])
    right = np.cross(eye, up)
    first, *_, last = feet[np.argsort(middles[:, 0])] @ right
    assert first < last

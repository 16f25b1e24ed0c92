"""Cutting along chains and lines: nothing is lost, nothing bends across a line, slopes stay straight.

A plane cut along lines is still the same plane: volumes are those of the uncut relief, which
tests/kizami/outlines/test_relief.py holds against prismatoids.
"""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from kizami.dividing.chains import Chain, chains_of, cut_along, stood
from kizami.dividing.pencils import Pencil, pencils_of
from kizami.dividing.relief import relief_mesh
from kizami.dividing.segments import Segments
from kizami.outlines.curves import bodies_of
from kizami.outlines.edges import directed_edges
from kizami.outlines.shrinking import Level

BOX = shapely.MultiPolygon([shapely.box(0, 0, 6, 4)])
FRAME = bodies_of(shapely.MultiPolygon([shapely.box(0, 0, 6, 4).difference(shapely.box(2, 1, 4, 3))]))
GRID = [((u, -1.0), (u, 5.0)) for u in (0.31, 1.13, 2.9, 5.77)] + [
    ((-1.0, v), (7.0, v)) for v in (0.27, 1.9, 3.81)
]
LEANING = [((1.0, -1.0), (2.0, 5.0)), ((3.3, -1.0), (2.9, 5.0)), ((5.0, 5.0), (5.5, -1.0))]
FAN = [((-3.0, -6.0), (20.0 * np.cos(a) - 3.0, 20.0 * np.sin(a) - 6.0)) for a in (0.5, 0.7, 0.9, 1.1)]
LINES = {"no lines": [], "a grid": GRID, "leaning lines": LEANING, "a fan": FAN}
LEVELS = {
    "upright": [(0.0, 0.0), (0.0, 1.0)],
    "chamfered": [(0.0, -0.5), (0.0, 0.6), (0.4, 1.0)],
    "drafted downward": [(0.0, 0.0), (0.3, -0.8)],
    "stepped": [(0.0, 0.0), (0.0, 0.4), (0.2, 0.4), (0.2, 0.9)],
}


def levels_of(name: str) -> list[Level]:
    return [Level(inward_mm=i, height_mm=h) for i, h in LEVELS[name]]


def pencils(lines: list[tuple[tuple[float, float], tuple[float, float]]]) -> list[Pencil]:
    ends = np.array(lines).reshape(-1, 2, 2)
    return pencils_of(Segments(starts=ends[:, 0], ends=ends[:, 1]))


def volume(corners: np.ndarray, faces: np.ndarray) -> float:
    a, b, c = corners[faces.T]
    return float(np.einsum("nd,nd->", a, np.cross(b, c)) / 6.0)


@pytest.mark.parametrize("lines", list(LINES))
@pytest.mark.parametrize("levels", list(LEVELS))
@pytest.mark.parametrize("shape", [BOX, FRAME], ids=["box", "frame"])
def test_a_relief_that_is_cut_is_the_same_closed_relief(
    shape: shapely.MultiPolygon, levels: str, lines: str
) -> None:
    plain, cut = (relief_mesh(shape, levels_of(levels), pencils(found)) for found in ([], LINES[lines]))
    assert plain is not None and cut is not None
    for _, faces in (plain, cut):
        edges, other, _ = directed_edges(faces)
        assert (other >= 0).all()
        assert len(np.unique(edges, axis=0)) == len(edges)
    assert volume(*plain) > 0
    # Slopes are planes, so that a corner put where lines meet on one lies in it.
    assert volume(*cut) == pytest.approx(volume(*plain), rel=1e-9)


@pytest.mark.parametrize("lines", ["a grid", "leaning lines", "a fan"])
@pytest.mark.parametrize("region", [None, shapely.box(-1, -1, 7, 5)], ids=["letters only", "with ground"])
def test_no_triangle_lies_on_both_sides_of_a_line(lines: str, region: shapely.Polygon | None) -> None:
    cut = cut_along(chains_of(FRAME, levels_of("upright")), pencils(LINES[lines]), region=region)
    assert cut is not None
    corners = cut.corners[cut.triangles]
    for line in LINES[lines]:
        a, b = np.array(line)
        along = (b - a) / np.linalg.norm(b - a)
        side = (corners - a) @ np.array([along[1], -along[0]])
        assert not ((side.min(axis=1) < -1e-9) & (side.max(axis=1) > 1e-9)).any()
    areas = np.bincount(cut.rings, weights=_areas(corners))
    assert areas[1] == pytest.approx(FRAME.area)
    assert areas[0] == pytest.approx(0.0 if region is None else region.area - FRAME.area)


def _areas(corners: np.ndarray) -> np.ndarray:
    a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
    return ((b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (c[:, 0] - a[:, 0])) / 2


def test_all_triangles_run_anticlockwise_and_each_knows_its_part() -> None:
    cut = cut_along(chains_of(FRAME, levels_of("chamfered")), pencils(GRID))
    assert cut is not None
    corners = cut.corners[cut.triangles]
    assert (_areas(corners) > 0).all()
    assert set(cut.rings.tolist()) == {1, 2}
    for number in range(int(cut.part_of.max()) + 1):
        # A part is one connected piece of the plane that no line and no chain runs through.
        part = shapely.union_all(shapely.polygons(corners[cut.part_of == number]), grid_size=1e-9)
        assert part.geom_type == "Polygon"
        assert len(set(cut.rings[cut.part_of == number].tolist())) == 1


def test_corners_stand_at_the_heights_of_their_chains() -> None:
    chains = chains_of(BOX, levels_of("chamfered"))
    assert [(c.outside_mm, c.inside_mm) for c in chains] == [(-0.5, 0.6), (1.0, 1.0)]
    cut = cut_along(chains, [])
    assert cut is not None
    letters = stood(cut, chains)
    assert letters is not None
    assert letters.heights[letters.is_foot].tolist() == [-0.5] * 4
    assert sorted(letters.heights.tolist()) == [-0.5] * 4 + [0.6] * 4 + [1.0] * 4
    inner = letters.heights == 1.0
    assert np.abs(letters.corners[inner] - (3, 2)).tolist() == pytest.approx(np.full((4, 2), (2.6, 1.6)))


def test_a_corner_on_a_slope_is_as_deep_as_it_is_far_from_the_side() -> None:
    """A thin bar beside a thick one: at the last level only the thick one is left, yet its roof goes on."""
    both = shapely.MultiPolygon([shapely.box(0, 0, 6, 4), shapely.box(8, 0, 8.4, 4)])
    levels = [Level(inward_mm=i, height_mm=h) for i, h in ((0, 0), (0.1, -0.1), (0.5, -0.5))]
    lines = pencils([((-1, v), (9, v)) for v in (0.3, 2.0)] + [((8.2, -1), (8.2, 5))])
    chains = chains_of(both, levels)
    cut = cut_along(chains, lines)
    assert cut is not None
    letters = stood(cut, chains)
    assert letters is not None
    middle = (np.abs(letters.corners[:, 0] - 8.2) < 0.05) & (np.abs(letters.corners[:, 1] - 2) < 1.8)
    # Lines meet in the middle of the bar, 0.2 mm from either side.
    assert letters.heights[middle].tolist() == pytest.approx([-0.2] * 2)


@pytest.mark.parametrize(
    "shape",
    [
        shapely.MultiPolygon([shapely.box(0, 0, 3, 3), shapely.box(3, 3, 6, 6)]),
        shapely.MultiPolygon(
            [shapely.Polygon([(0, 0), (6, 0), (6, 6), (0, 6)], [[(0, 3), (2, 2), (3, 3), (2, 4)]])]
        ),
    ],
    ids=["two that touch", "a hole that touches its outline"],
)
def test_what_touches_in_a_point_is_right_or_can_be_told(shape: shapely.MultiPolygon) -> None:
    """A side that is there twice is what a solid refuses; where there is none the mesh is whole."""
    found = relief_mesh(bodies_of(shape), levels_of("upright"))
    if found is None:
        return
    corners, faces = found
    edges, other, _ = directed_edges(faces)
    if len(np.unique(edges, axis=0)) == len(edges):
        assert (other >= 0).all()
        assert volume(corners, faces) == pytest.approx(shape.area)


def test_what_lies_between_chains_at_one_height_is_level_however_it_is_cut() -> None:
    """A recess with letters standing in it: its floor has corners where lines meet, all as deep."""
    panel = Chain(outlines=BOX, inward_mm=0.0, outside_mm=0.0, inside_mm=-0.5)
    letter = shapely.MultiPolygon([shapely.box(2, 1, 4, 3)])
    standing = Chain(outlines=letter, inward_mm=0.0, outside_mm=-0.5, inside_mm=0.3)
    cut = cut_along([panel, standing], pencils(GRID))
    assert cut is not None
    letters = stood(cut, [panel, standing])
    assert letters is not None
    assert set(letters.heights.tolist()) == {0.0, -0.5, 0.3}
    floor = letters.triangles[: len(cut.rings)][cut.rings == 1]
    assert (letters.heights[floor] == -0.5).all()


def test_a_chain_that_crosses_the_one_outside_of_it_is_refused() -> None:
    outer = Chain(outlines=BOX, inward_mm=0.0, outside_mm=0.0, inside_mm=1.0)
    stray = shapely.MultiPolygon([shapely.box(5, 1, 7, 3)])
    inner = Chain(outlines=stray, inward_mm=0.1, outside_mm=2.0, inside_mm=2.0)
    assert cut_along([outer, inner], []) is None
    assert cut_along([outer, inner], pencils(GRID)) is None

"""The plane divided along outlines and lines: the same parts as by noding and polygonizing, which shapely does.

shapely (GEOS) is the independent judge: its `node` and `polygonize` know nothing of depths or pencils.
"""

from __future__ import annotations

import numpy as np
import pytest
import shapely

from kizami.dividing.parts import Divided, divide
from kizami.dividing.pencils import pencils_of
from kizami.dividing.segments import Segments
from kizami.dividing.triangulating import triangulated
from kizami.outlines.curves import bodies_of

NONE: list[tuple[tuple[float, float], tuple[float, float]]] = []
UPRIGHT = [((u, -9.0), (u, 9.0)) for u in np.linspace(-4.3, 4.6, 14).tolist()]
GRID = UPRIGHT + [((-9.0, v), (9.0, v)) for v in np.linspace(-3.7, 4.1, 9).tolist()]
#: Through one point far below, as on a taper.
FAN = [((0.3 * k, -11.0), (1.5 * k, 21.0)) for k in range(-7, 8)]
#: Round whole numbers, so that corners lie on lines and sides run along them.
ROUND = [((u, -9.0), (u, 9.0)) for u in range(-4, 5)] + [((-9.0, v), (9.0, v)) for v in range(-4, 5)]
LEANING = [((-4.0, -9.0), (3.0, 9.0)), ((5.0, -9.0), (-5.5, 9.0)), ((-9.0, 2.2), (9.0, -1.1))]
LINES = {
    "none": NONE,
    "upright": UPRIGHT,
    "a grid": GRID,
    "a fan": FAN,
    "round numbers": ROUND,
    "leaning": LEANING,
}


def segments(lines: list[tuple[tuple[float, float], tuple[float, float]]]) -> Segments:
    ends = np.array(lines, dtype=float).reshape(-1, 2, 2)
    return Segments(starts=ends[:, 0], ends=ends[:, 1])


def blobs(seed: int) -> shapely.MultiPolygon:
    """Bodies with holes, some of them inside the holes of others, all of round or cornered bits."""
    rng = np.random.default_rng(seed)
    bits = []
    for _ in range(14):
        (u, v), size = rng.uniform(-3.5, 3.5, 2), rng.uniform(0.4, 1.6)
        cornered = rng.random() < 0.5
        bit = shapely.Point(u, v).buffer(size, quad_segs=1 if cornered else 6)
        bits.append(bit.difference(bit.buffer(-0.3)))
    return bodies_of(shapely.union_all(bits))


STAIRS = shapely.MultiPolygon(
    [
        shapely.Polygon([(-3, -3), (3, -3), (3, -1), (1, -1), (1, 1), (-1, 1), (-1, 3), (-3, 3)]),
        shapely.Polygon([(2, 2), (4, 2), (4, 4), (2, 4)], [[(2.5, 2.5), (3, 3.5), (3.5, 2.5)]]),
    ]
)
SHAPES = {"stairs": STAIRS, **{f"blobs {seed}": blobs(seed) for seed in range(6)}}


def by_shapely(
    shapes: list[shapely.MultiPolygon], lines: Segments, ground: shapely.Geometry | None
) -> list[tuple[int, float]]:
    """Depth and area of all parts, sorted."""
    nested = shapes if ground is None else [ground, *shapes]
    rings = shapely.get_rings(np.concatenate([shapely.get_parts(shape) for shape in nested]))
    drawn = shapely.linestrings(np.stack((lines.starts, lines.ends), axis=1)) if len(lines) else []
    noded = shapely.node(shapely.geometrycollections([*rings, *drawn]))
    parts = shapely.get_parts(shapely.polygonize(shapely.get_parts(noded)))
    inside = shapely.point_on_surface(parts)
    depths = sum(shapely.contains_properly(shape, inside).astype(int) for shape in nested)
    depths = depths - (0 if ground is None else 1)
    kept = depths >= (1 if ground is None else 0)
    areas = shapely.area(parts)[kept].round(6).tolist()
    return sorted(zip(depths[kept].tolist(), areas, strict=True))


def found(divided: Divided) -> list[tuple[int, float]]:
    return sorted(zip(divided.depths.tolist(), divided.areas_mm2().round(6).tolist(), strict=True))


@pytest.mark.parametrize("with_ground", [False, True], ids=["letters only", "with ground"])
@pytest.mark.parametrize("lines", list(LINES))
@pytest.mark.parametrize("shape", list(SHAPES))
def test_parts_are_those_that_noding_and_polygonizing_finds(
    shape: str, lines: str, with_ground: bool
) -> None:
    outlines, drawn = SHAPES[shape], segments(LINES[lines])
    ground = shapely.box(-6, -6, 6, 6) if with_ground else None
    shapes = [outlines, bodies_of(outlines.buffer(-0.08, join_style="mitre"))]
    divided = divide(shapes, pencils_of(drawn), ground=ground)
    assert divided is not None
    expected = by_shapely(shapes, drawn, ground)
    assert [depth for depth, _ in found(divided)] == [depth for depth, _ in expected]
    assert [area for _, area in found(divided)] == pytest.approx([area for _, area in expected], abs=2e-6)


@pytest.mark.parametrize("lines", list(LINES))
@pytest.mark.parametrize("shape", list(SHAPES))
def test_triangles_fill_their_parts_and_use_every_corner(shape: str, lines: str) -> None:
    outlines = SHAPES[shape]
    shapes = [outlines, bodies_of(outlines.buffer(-0.08, join_style="mitre"))]
    divided = divide(shapes, pencils_of(segments(LINES[lines])), ground=shapely.box(-6, -6, 6, 6))
    assert divided is not None
    triangles, part = triangulated(divided)
    a, b, c = divided.contours.nodes[triangles.T]
    twice = (b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]
    assert twice.min() > -1e-12
    assert np.bincount(part, weights=twice / 2) == pytest.approx(divided.areas_mm2(), abs=1e-9)
    # A polygon of V corners and H holes has V + 2 H - 2 triangles, so none is left out and none is put in.
    corners = np.bincount(divided.part_of, weights=divided.contours.lengths)
    holes = np.bincount(divided.part_of) - 1
    assert np.bincount(part).tolist() == (corners + 2 * holes - 2).tolist()


def test_a_line_may_end_on_the_edge_of_the_ground_or_on_another_line() -> None:
    """As the borders between a body's facets do."""
    ground = shapely.box(0, 0, 4, 2)
    lines = segments([((2, 0), (2, 2)), ((2, 1), (4, 1))])
    divided = divide([shapely.box(0.5, 0.5, 1.5, 1.5)], pencils_of(lines), ground=ground)
    assert divided is not None
    assert found(divided) == [(0, 2.0), (0, 2.0), (0, 3.0), (1, 1.0)]


def test_pieces_of_one_line_are_one_line() -> None:
    lines = segments([((1, 0), (1, 1)), ((1, 2), (1, 1)), ((3, 2), (3, 0)), ((1, 3), (1, 4))])
    (pencil,) = pencils_of(lines)
    assert sorted(zip(pencil.lines().starts.tolist(), pencil.lines().ends.tolist(), strict=True)) == [
        ([1, 0], [1, 2]),
        ([1, 3], [1, 4]),
        ([3, 0], [3, 2]),
    ]


def test_rays_about_a_point_are_one_pencil_however_wide_they_spread() -> None:
    """A flat cone unrolls to more than half a turn."""
    angles = np.linspace(-2.6, 2.6, 40)
    way = np.column_stack((np.cos(angles), np.sin(angles)))
    rays = Segments(starts=way, ends=5.0 * way)
    (pencil,) = pencils_of(rays)
    assert pencil.apex == pytest.approx([0.0, 0.0], abs=1e-9)
    ring = shapely.Point(0, 0).buffer(4.0, quad_segs=64).difference(shapely.Point(0, 0).buffer(2.0))
    ring = ring.difference(shapely.box(-5, -1, 0, 1))
    divided = divide([shapely.MultiPolygon([ring])], [pencil])
    assert divided is not None
    assert found(divided) == by_shapely([shapely.MultiPolygon([ring])], rays, None)


@pytest.mark.parametrize("lines", ["none", "a grid"])
def test_outlines_that_cross_are_refused(lines: str) -> None:
    """Without lines it is the triangles that tell: some lie the other way round."""
    outer, inner = shapely.box(-2, -2, 2, 2), shapely.box(1, -1, 3, 1)
    divided = divide([outer, inner], pencils_of(segments(LINES[lines])))
    if divided is not None:
        triangles, _ = triangulated(divided)
        a, b, c = divided.contours.nodes[triangles.T]
        assert ((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]).min() < -1e-3

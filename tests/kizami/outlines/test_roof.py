"""Pointed floors against solids whose volume is known, and against the distance from the outline."""

from __future__ import annotations

import math

import manifold3d as m3
import numpy as np
import pytest
import shapely

from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import glyph_in_mm
from kizami.outlines.curves import bodies_of
from kizami.outlines.roof import roof_mesh, roof_volume_mm3


def solid(outlines: shapely.MultiPolygon, depth: float, above: float = 0.05) -> m3.Manifold:
    found = roof_mesh(outlines, depth, above_mm=above, longest_mm=1.0)
    assert found is not None
    corners, faces = found
    body = m3.Manifold(m3.Mesh64(np.ascontiguousarray(corners), faces.astype(np.uint64)))
    assert body.status() == m3.Error.NoError
    return body


SQUARE = shapely.MultiPolygon([shapely.box(0, 0, 4, 2)])
DISC = bodies_of(shapely.Point(0, 0).buffer(1.0, quad_segs=64))
RING = bodies_of(
    shapely.Point(0, 0).buffer(3.0, quad_segs=64).difference(shapely.Point(0, 0).buffer(2.0, quad_segs=64))
)
CASES = [
    # A hipped roof: a prism over the ridge and two half pyramids, 1 mm deep.
    pytest.param(SQUARE, 1.6, 2 * 2 * 1.0 / 2 + 2 * 2 * 1.0 / 3, id="a hipped roof"),
    # Cut off half way: sections 4 x 2, 3.5 x 1.5, 3 x 1 (prismatoid).
    pytest.param(SQUARE, 0.5, 0.5 / 6 * (8 + 4 * 3.5 * 1.5 + 3), id="with a flat floor"),
    pytest.param(DISC, 2.0, math.pi / 3, id="a cone"),
    # Pappus: a triangle 1 mm wide and half as deep, round at 2.5 mm.
    pytest.param(RING, 1.0, 2 * math.pi * 2.5 * 0.25, id="a groove round a ring"),
]  # fmt: skip


@pytest.mark.parametrize(("outlines", "depth", "volume"), CASES)
def test_volumes(outlines: shapely.MultiPolygon, depth: float, volume: float) -> None:
    assert roof_volume_mm3(outlines, depth) == pytest.approx(volume, rel=2e-3)
    assert solid(outlines, depth).volume() - outlines.area * 0.05 == pytest.approx(volume, rel=0.012)


@pytest.mark.parametrize("code", ["noto-sans-bold", "vollkorn-bold-italic", "great-vibes", "cinzel-bold"])
@pytest.mark.parametrize("height", [3.0, 9.0])
def test_every_letter_is_closed_and_as_deep_as_it_is_far_from_its_edge(code: str, height: float) -> None:
    """No tooth: between corners the floor is where it must be, within the tolerance of its chords."""
    face = shipped_typeface(code)
    for letter in "WoBgS8&Åi":
        for glyph in face.shape(letter):
            outlines = glyph_in_mm(face, glyph.glyph, scale_mm=height, sagitta_mm=0.005)
            found = roof_mesh(outlines, 0.4, above_mm=0.05, longest_mm=1.0)
            assert found is not None
            corners, faces = found
            body = solid(outlines, 0.4)
            assert body.genus() == sum(len(b.interiors) for b in outlines.geoms) - (len(outlines.geoms) - 1)
            low = corners[faces][(corners[faces][:, :, 2] < 1e-9).all(axis=1)]
            middles = low.mean(axis=1)
            away = shapely.distance(outlines.boundary, shapely.points(middles[:, :2]))
            off = np.abs(-middles[:, 2] - np.minimum(away, 0.4))
            # Weighted by what they cover: a sliver's middle tells little.
            a, b, c = low[:, :, :2].transpose(1, 0, 2)
            cover = np.abs((b - a)[:, 0] * (c - a)[:, 1] - (b - a)[:, 1] * (c - a)[:, 0]) / 2.0
            assert off @ cover / cover.sum() < 0.004
            assert off[cover > 1e-3].max() < 0.1

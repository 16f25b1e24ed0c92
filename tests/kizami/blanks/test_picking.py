"""Which area a point of the skin belongs to: any place of any area of every demo product and starting kind."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from kizami.blanks.blank import Blank
from kizami.blanks.picking import area_at
from kizami.pieces.forecast import tried
from kizami.products.product_file import product_from_table
from kizami.products.starting import starting_products

KINDS = starting_products()


def blank_of(kind: str) -> Blank:
    return tried(product_from_table(KINDS[kind]), "Ida").blank


BLANKS = {kind: blank_of(kind) for kind in KINDS}


@pytest.mark.parametrize("kind", BLANKS)
@settings(deadline=None, max_examples=30)
@given(data=st.data())
def test_any_place_of_an_area_is_found_as_that_area(kind: str, data: st.DataObject) -> None:
    areas = BLANKS[kind].areas
    area = data.draw(st.sampled_from(areas))
    low_u, low_v, high_u, high_v = area.outline.bounds
    share = st.floats(0.02, 0.98)
    uv = np.array([low_u + data.draw(share) * (high_u - low_u), low_v + data.draw(share) * (high_v - low_v)])
    if not area.outline.buffer(-0.2).covers(shapely.Point(uv)):
        return
    off = data.draw(st.floats(-0.4, 0.4))
    foot, head, above = area.surface.place(np.array([uv, uv, uv]), np.array([0.0, off, 1.0]))
    # As it looks to whoever points at it, through what was engraved or on what stands proud.
    found = area_at(areas, head, out=above - foot, within_mm=1.0)
    assert found is not None
    if found.name != area.name:
        # Another one runs over the very same skin.
        same = found.surface.place(np.array([uv]), np.zeros(1))[0]
        assert np.allclose(same, foot, atol=1e-6) or area_at((found,), foot, out=above - foot, within_mm=1e-3)


def test_the_back_of_a_thin_plate_is_not_its_face() -> None:
    areas = BLANKS["TAG"].areas
    face, back = (next(a for a in areas if a.name == name) for name in ("face", "back"))
    for area in (face, back):
        foot, above = area.surface.place(np.array([area.anchor] * 2), np.array([0.0, 1.0]))
        assert area_at(areas, foot, out=above - foot, within_mm=5.0).name == area.name  # type: ignore[union-attr]
        # Whoever looks at the other side there means the other.
        other = area_at(areas, foot, out=foot - above, within_mm=5.0)
        assert other is not None and other.name != area.name


def test_a_place_off_every_area_is_none() -> None:
    areas = BLANKS["TAG"].areas
    assert area_at(areas, np.array([500.0, 0.0, 0.0]), within_mm=4.0) is None
    face = areas[0]
    low_u, low_v, _, _ = face.outline.bounds
    outside = face.surface.place(np.array([[low_u - 3.0, low_v - 3.0]]), np.zeros(1))[0]
    assert area_at((face,), outside, within_mm=4.0) is None

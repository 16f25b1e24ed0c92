"""Strokes drawn so wide that they hold where they are narrowest, by analysis and on the piece."""

from __future__ import annotations

import math

import pytest

from kizami.as_made.drawn import drawn_stroke_mm
from kizami.as_made.treatment import Engraved, Pierced, Raised
from kizami.pieces.laying_out import lay_out
from kizami.pieces.make import make_piece
from kizami.products.product_file import product_from_table
from kizami.surfaces.cylinder import Cylinder
from kizami.surfaces.plane import Plane
from tests.kizami.samples import RING_TABLE, TAG_TABLE, inputs

BOUNDS = (-5.0, -1.5, 5.0, 1.5)
#: Chords of a round pen lie within it by less than this.
SPARE = 0.004


@pytest.mark.parametrize(
    ("treatment", "surface", "wide"),
    [
        pytest.param(Raised(height_mm=0.5, root_mm=0.3), Plane(), 0.35, id="upright on a plane"),
        pytest.param(Pierced(), Plane(), 0.35, id="pierced"),
        pytest.param(
            Raised(height_mm=0.5, root_mm=0.3, edge="chamfer", edge_mm=0.1), Plane(), 0.35 + 2 * 0.1, id="chamfer"
        ),
        pytest.param(
            Engraved(depth_mm=0.5, draft_deg=10), Plane(), 0.35 + 2 * 0.5 * math.tan(math.radians(10)), id="draft"
        ),
        pytest.param(Engraved(depth_mm=0.5, floor="rounded"), Plane(), 0.35, id="a rounded floor narrows by design"),
        # At the floor a ring of radius 9 is narrower by 1 - d / R along the lettering, and not across.
        pytest.param(Engraved(depth_mm=0.45), Cylinder(radius_mm=9.0), 0.35 / (1 - 0.45 / 9.0), id="a ring's floor"),
        pytest.param(Raised(height_mm=0.5, root_mm=0.3), Cylinder(radius_mm=9.0), 0.35, id="a ring's top is wider"),
    ],
)  # fmt: skip
def test_by_analysis(treatment, surface, wide: float) -> None:
    found = drawn_stroke_mm(0.35, treatment, surface, BOUNDS)
    assert wide - 1e-6 <= found <= wide + SPARE + 1e-6


@pytest.mark.parametrize("table", [TAG_TABLE, RING_TABLE], ids=["tag", "ring"])
def test_names_that_are_held_for_their_tops_and_floors_hold_once_they_are_thickened(table) -> None:
    changed = {
        **table, "treatment": {"kind": "raised", "height_mm": 0.5, "root_mm": 0.4, "edge": "chamfer", "edge_mm": 0.1},
        "fit": {"greatest_height_mm": 4.4, "lowest_height_mm": 3.0, "clearance_mm": 0.6, "tracking": 0.1},
    }  # fmt: skip
    soundness = {"thicken": "where needed", "most_departure_mm": 0.3}
    size = "57" if table is RING_TABLE else ""
    plain, thick = (
        lay_out(inputs(product_from_table({**changed, **more}), "Quinn", size))
        for more in ({}, {"soundness": soundness})
    )
    assert "stroke-width" in {f.code for f in plain.failing}
    assert "stroke-width" not in {f.code for f in thick.failing}
    piece = make_piece(thick.inputs)
    assert "measured-twice" not in {f.code for f in piece.findings if f.level.value == "fails"}

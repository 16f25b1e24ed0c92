"""Sections against what is known of the bodies: plates, rings, tapers; grids against lengths in space."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
import shapely

from kizami.blanks.grid import area_grid
from kizami.drawing.section import section_of, section_view
from kizami.pieces.building import make_solid
from kizami.pieces.laying_out import lay_out
from tests.kizami.samples import RING, RING_TABLE, TAG, TAG_TABLE, inputs, product

TAPER = product(RING_TABLE, blank={"kind": "band ring", "outer": "tapered", "rise_mm": 1.2, "wall_mm": 2.4})


@pytest.mark.parametrize("which", [RING, TAG, TAPER], ids=["ring", "tag", "taper"])
def test_a_section_of_the_blank_is_its_profile(which) -> None:
    laid_out = lay_out(inputs(which, "Owen"))
    cut = section_of(laid_out.blank.body(0.005), laid_out.area)
    near = min(cut.geoms, key=lambda part: abs(part.bounds[3]))
    if which is TAG:
        # Through the middle of the face, beside the hole: 25 x 3 mm.
        assert near.area == pytest.approx(25 * 3, rel=1e-6)
    elif which is RING:
        assert near.area == pytest.approx(7.0 * 1.8, rel=2e-3)
        assert len(cut.geoms) == 2
    else:
        # A trapezium, its wall 2.4 mm in the middle, whichever way the cut is turned.
        assert near.area == pytest.approx(7.0 * 2.4, rel=2e-3)


def test_off_the_front_of_a_taper_the_cut_still_runs_through_the_axis() -> None:
    laid_out = lay_out(inputs(TAPER, "Owen"))
    area = laid_out.area
    cut = section_of(laid_out.blank.body(0.005), area, at=(8.0, area.anchor[1]))
    near = min(cut.geoms, key=lambda part: abs(part.bounds[3]))
    assert near.area == pytest.approx(7.0 * 2.4, rel=5e-3)


def test_an_engraved_stroke_is_seen_as_deep_as_it_is() -> None:
    laid_out = lay_out(inputs(TAG, "I"))
    stroke = laid_out.layout.outlines.geoms[0].bounds
    cut = section_of(
        make_solid(laid_out).manifold(),
        laid_out.area,
        at=((stroke[0] + stroke[2]) / 2, laid_out.area.anchor[1]),
    )
    assert cut.area == pytest.approx(25 * 3 - (stroke[3] - stroke[1]) * 1.0, rel=1e-4)


RAISED = {"kind": "raised", "height_mm": 0.7, "root_mm": 0.4}
RECESSED = {"kind": "in recess", "depth_mm": 0.8, "height_mm": 0.6, "margin_mm": 1.0}


@pytest.mark.parametrize(
    ("treatment", "measures"),
    [
        ({"kind": "engraved", "depth_mm": 1.2}, {"depth_mm": 1.2}),
        (RAISED, {"height_mm": 0.7, "root_mm": 0.4}),
        (RECESSED, {"depth_mm": 0.8, "height_mm": 0.6, "root_mm": 0.3}),
        ({"kind": "pierced"}, {}),
    ],
    ids=lambda value: value.get("kind", ""),
)
def test_a_section_at_the_lettering_carries_what_its_treatment_measures(
    treatment: dict, measures: dict[str, float]
) -> None:
    laid_out = lay_out(inputs(product(TAG_TABLE, treatment=treatment), "I"))
    letter = laid_out.layout.outlines.geoms[0].representative_point()
    made = make_solid(laid_out).manifold()
    view = section_view(made, laid_out.area, laid_out.made.treatment, at=(letter.x, letter.y))
    assert view is not None
    assert {span.key: round(span.mm, 6) for span in view.measures} == measures
    low, high = view.shape.bounds[1], view.shape.bounds[3]
    # The piece itself, 3 mm thick, with what stands on it or is cut into it.
    assert high - low == pytest.approx(
        3.0 + (measures["height_mm"] if treatment is RAISED else 0.0), abs=1e-6
    )


@pytest.mark.parametrize("which", [RING, TAG, TAPER], ids=["ring", "tag", "taper"])
def test_a_grid_has_its_step_flat_and_on_the_body(which) -> None:
    area = lay_out(inputs(which, "Owen")).area
    grid = area_grid(area)
    assert grid.step_mm == 1.0
    for flat, space in zip(grid.flat, grid.on_body(area, proud_mm=0.0), strict=True):
        # On a surface that unrolls without stretch, a line is as long on the body as it is flat.
        lengths = [np.linalg.norm(np.diff(line, axis=0), axis=1).sum() for line in (flat, space)]
        assert lengths[1] == pytest.approx(lengths[0], rel=1e-3)
    across = sorted({round(float(line[0, 0]), 6) for line in grid.flat if np.ptp(line[:, 0]) < 1e-9})
    assert np.diff(across) == pytest.approx(1.0)


def test_an_area_smaller_than_a_step_has_no_grid_and_is_no_error() -> None:
    area = lay_out(inputs(TAG, "Owen")).area
    small = replace(area, outline=shapely.box(0.2, 0.2, 0.8, 0.8), anchor=(0.0, 0.0), keep_outs=())
    assert area_grid(small).flat == ()

"""The fit plan finds the largest height that keeps its clearance: shown from both sides."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from kizami.blanks.area import Area, KeepOut, disc
from kizami.blanks.band_ring import BandRing
from kizami.blanks.plate import Plate
from kizami.lettering.arrangement import Arrangement
from kizami.lettering.fit_plan import HEIGHT_STEP_MM, FitPlan
from kizami.lettering.fitting import Request
from kizami.lettering.fitting import fit as fit_request
from kizami.lettering.layout import Layout
from kizami.lettering.shapes import Arc
from kizami.lettering.shipped import shipped_typeface
from kizami.surfaces.plane import Plane

FACE = shipped_typeface("noto-sans-bold")
RING = BandRing(bore_mm=17.2, width_mm=7.0, wall_mm=1.8, seam_mm=5.0)
TAG = Plate(
    outline="rounded",
    hang="hole left",
    length_mm=60,
    height_mm=25,
    thickness_mm=3,
    corner_mm=5,
    hole_mm=5,
    web_mm=3,
)
PLAN = FitPlan(greatest_height_mm=12.0, lowest_height_mm=3.0, clearance_mm=0.7, tracking=0.05)


def fit(text: str, area: Area, plan: FitPlan = PLAN) -> Layout:
    return fit_request(Request(text=text, typeface=FACE), area=area, plan=plan, sagitta_mm=0.005)


def grown(layout: Layout, area: Area, by: float) -> shapely.Geometry:
    anchor = np.array(area.anchor)
    return shapely.transform(layout.outlines, lambda xy: (xy - anchor) * by + anchor)


@pytest.mark.parametrize("area", [RING.areas[0], TAG.areas[0]], ids=["ring", "tag"])
@pytest.mark.parametrize("text", ["I", "Ivy", "Wilhelmina", "Queen Nº 4", "gypsy", "ÅÄÖ", "—"])
def test_the_clearance_is_kept_and_one_step_more_would_break_it(text: str, area: Area) -> None:
    layout = fit(text, area)
    region = area.clear_region(PLAN.clearance_mm)
    assert layout.fits
    # A micrometre for the finer outlines of the final height.
    assert shapely.covers(region.buffer(1e-3), layout.outlines)
    if layout.height_mm < PLAN.greatest_height_mm:
        next_height = (layout.height_mm + HEIGHT_STEP_MM) / layout.height_mm
        assert not shapely.covers(region, grown(layout, area, next_height))


@pytest.mark.parametrize("text", ["Theodora K", "Wilhelmina", "Ann-Sophie Brandt"])
@pytest.mark.parametrize(
    ("code", "named"),
    [
        pytest.param("noto-sans-bold", {"arrangement": Arrangement(shape=Arc(radius_mm=25.0))}, id="an arc"),
        pytest.param(
            "great-vibes", {"overlap_mm": 0.6, "joined_by_mm": 0.4, "open_mm": 0.3}, id="drawn together"
        ),
    ],
)
def test_letters_that_change_with_their_height_are_as_high_as_they_may_be(
    text: str, code: str, named: dict[str, Any]
) -> None:
    """Set one step higher, and at no other height, they have no room."""
    request = Request(text=text, typeface=shipped_typeface(code), **named)
    (area,) = TAG.areas[:1]
    found = fit_request(request, area=area, plan=PLAN, sagitta_mm=0.005)
    assert found.fits
    assert shapely.covers(area.clear_region(PLAN.clearance_mm).buffer(1e-3), found.outlines)
    assert found.height_mm < PLAN.greatest_height_mm
    higher = found.height_mm + HEIGHT_STEP_MM
    only = replace(PLAN, greatest_height_mm=higher, lowest_height_mm=higher)
    again = fit_request(request, area=area, plan=only, sagitta_mm=0.005)
    assert not again.fits or again.height_mm < higher - 1e-6


@settings(max_examples=25, deadline=None)
@given(st.text(st.sampled_from("abcdegijlmnopqstvwxyzABDGHJKMQRSTW &'-éåŁ"), min_size=1, max_size=24))
def test_whatever_is_set_keeps_its_clearance_or_says_so(text: str) -> None:
    layout = fit(text, TAG.areas[0])
    if layout.is_empty:
        return
    assert layout.height_mm == pytest.approx(round(layout.height_mm / HEIGHT_STEP_MM) * HEIGHT_STEP_MM)
    inside = shapely.covers(TAG.areas[0].clear_region(PLAN.clearance_mm).buffer(1e-3), layout.outlines)
    assert inside == layout.fits


@pytest.mark.parametrize("area", [RING.areas[0], TAG.areas[0]], ids=["ring", "tag"])
def test_the_ink_is_centred_both_ways(area: Area) -> None:
    low_u, low_v, high_u, high_v = fit("gypsy", area).ink_bounds
    assert ((low_u + high_u) / 2, (low_v + high_v) / 2) == pytest.approx(area.anchor, abs=0.01)


def test_the_cap_height_is_what_it_says() -> None:
    layout = fit("H", RING.areas[0])
    low, high = layout.ink_bounds[1], layout.ink_bounds[3]
    assert high - low == pytest.approx(layout.height_mm, abs=0.01)


def test_wording_too_long_is_held_with_the_height_that_would_fit() -> None:
    layout = fit("Maximilian-Alexander Theodor the Younger", RING.areas[0])
    assert layout.height_mm < PLAN.lowest_height_mm
    assert layout.fits
    assert [s.name for s in layout.steps] == ["natural size", "lower", "hold"]


def test_wording_that_fits_at_no_height_says_so() -> None:
    layout = fit("x" * 500, RING.areas[0])
    assert not layout.fits
    assert layout.steps[-1].name == "hold"


@pytest.mark.parametrize(("text", "missing"), [("", ()), ("🙂", (0,)), ("   ", ())])
def test_nothing_to_set_is_an_empty_layout(text: str, missing: tuple[int, ...]) -> None:
    layout = fit(text, RING.areas[0])
    assert layout.is_empty
    assert layout.missing == missing


def test_real_outlines_pass_where_boxes_would_touch() -> None:
    """A lone L leaves its upper right free: a keep-out there costs it nothing."""
    outline = shapely.box(0, 0, 40, 20)

    def area(*spots: KeepOut) -> Area:
        return Area(name="x", surface=Plane(), outline=outline, keep_outs=spots, anchor=(20, 10), wall_mm=3)

    plan = FitPlan(greatest_height_mm=14, lowest_height_mm=3, clearance_mm=0.5)
    free = fit("L", area(), plan)
    corner = KeepOut(name="stone", outline=disc(23, 14, 1.5))
    beside = fit("L", area(corner), plan)
    assert corner.outline.intersects(shapely.box(*free.ink_bounds))
    assert beside.height_mm == free.height_mm == 14


def test_the_seam_is_a_keep_out_but_the_cut_of_the_unrolled_view_is_none() -> None:
    """On a closed area only the seam bounds u; its clear region ends half a seam before the cut."""
    region = RING.areas[0].clear_region(0.7)
    low, _, high, _ = region.bounds
    turn = 2 * math.pi * RING.outer_radius_mm
    assert (low, high) == pytest.approx((2.5 + 0.7, turn - 2.5 - 0.7))

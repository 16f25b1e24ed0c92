"""Strokes, necks, gaps and middles of drawn figures whose measures follow from how they are drawn, and of
words against a distance transform on a fine raster (scipy), which knows nothing of outlines."""

from __future__ import annotations

import dataclasses
import math

import numpy as np
import pytest
import shapely
from scipy import ndimage

from kizami.as_made.as_made import AsMade
from kizami.as_made.fineness import Fine, Fineness, fineness
from kizami.as_made.treatment import CutOut, Engraved, InRecess, Raised, Treatment
from kizami.blanks.area import Area
from kizami.lettering.layout import Added, Layout, PlacedMark
from kizami.lettering.shipped import shipped_typeface
from kizami.outlines.curves import bodies_of
from kizami.outlines.narrow import measure_shape
from kizami.pieces.laying_out import lay_out
from kizami.surfaces.bore import Bore
from kizami.surfaces.cylinder import Cylinder
from kizami.surfaces.plane import Plane
from tests.kizami.samples import RAISED, TAG_TABLE, inputs, product

CAP = 5.0
WIDE = shapely.box(-100, -100, 100, 100)


def figure(
    *letters: shapely.Geometry,
    added: tuple[shapely.Geometry, ...] = (),
    treatment: Treatment | None = None,
    surface=None,
) -> AsMade:
    """Figures as letters of a word, as they will be made."""
    shapes = tuple(bodies_of(letter) for letter in letters)
    marks = tuple(
        PlacedMark(
            source=shipped_typeface("noto-sans"),
            glyph=0,
            cluster=n,
            u_mm=0.0,
            v_mm=0.0,
            scale_mm=CAP,
            plain=False,
        )
        for n in range(len(shapes))
    )
    layout = Layout(
        text="abcdefgh"[: len(shapes)], height_mm=CAP, lowest_height_mm=1.0, marks=marks, shapes=shapes,
        outlines=bodies_of(*shapes, *added), steps=(), fits=True, missing=(),
        added=tuple(Added(kind="bridge", outline=bodies_of(one)) for one in added),
    )  # fmt: skip
    area = Area(
        name="face", surface=surface or Plane(), outline=WIDE, keep_outs=(), anchor=(0.0, 0.0), wall_mm=5.0
    )
    return AsMade(area=area, layout=layout, treatment=treatment or CutOut(thickness_mm=2.0))


def found(made: AsMade, reach: float = 0.5) -> Fineness:
    return fineness(made, reach_mm=reach)


BAR = shapely.box(0, 0, 1, 5)


def test_two_bars_side_by_side() -> None:
    """1 mm wide, 0.3 mm apart."""
    result = found(figure(BAR, shapely.transform(BAR, lambda xy: xy + np.array([1.3, 0.0]))))
    assert [s.width_mm for s in result.strokes] == pytest.approx([1.0, 1.0], rel=1e-3)
    assert result.gaps[0].width_mm == pytest.approx(0.3) and result.gaps[0].parts == (0, 1)
    assert (result.gaps[0].u_mm, result.necks, result.middles) == (pytest.approx(1.15), (), ())


def test_any_two_parts_are_neighbours_not_only_those_next_to_each_other() -> None:
    """The first letter of one line and the last of the next: 0.2 mm, where those beside are 3 mm apart."""
    low = shapely.box(0, -5.2, 1, -0.2)
    result = found(figure(BAR, shapely.box(4, 0, 5, 5), shapely.box(8, 0, 9, 5), low))
    assert (result.gaps[0].width_mm, result.gaps[0].parts) == (pytest.approx(0.2), (0, 3))


def test_letters_that_touch_at_their_foot_leave_a_slit_above() -> None:
    """Two bars 0.08 mm apart, joined by a foot: the slit is as wide, whatever touches below."""
    right = shapely.union_all([shapely.box(1.08, 0, 2.08, 5), shapely.box(0.5, 0, 1.5, 0.6)])
    result = found(figure(BAR, right))
    assert result.gaps[0].width_mm == pytest.approx(0.08, abs=0.004)
    assert result.gaps[0].parts == (0, 1)


@pytest.mark.parametrize("neck", [0.1, 0.2, 0.34])
def test_a_neck_where_two_letters_meet(neck: float) -> None:
    """Two blocks corner to corner, overlapping by a square: the neck is its diagonal."""
    side = neck / math.sqrt(2.0)
    one, two = shapely.box(0, 0, 3, 3), shapely.box(3 - side, 3 - side, 6, 6)
    result = found(figure(one, two))
    assert result.necks[0].width_mm == pytest.approx(neck, rel=0.02)
    assert result.necks[0].parts == (0, 1)
    # Standing on a body a neck holds nothing.
    standing = dataclasses.replace(figure(one, two), treatment=Raised(height_mm=1.0, root_mm=0.5))
    assert found(standing).necks == ()


def test_what_a_bridge_fills_is_no_gap_and_the_bridge_is_a_neck() -> None:
    """A dot 0.4 mm above its stem, bridged 0.3 mm wide."""
    stem, dot = shapely.box(0, 0, 1, 3), shapely.box(0, 3.4, 1, 4.4)
    bridge = shapely.box(0.35, 2.8, 0.65, 3.6)
    open_ = found(figure(stem, dot))
    tied = found(figure(stem, dot, added=(bridge,)))
    assert open_.gaps[0].width_mm == pytest.approx(0.4)
    narrow = [*tied.necks, *tied.strokes]
    assert min(n.width_mm for n in narrow) == pytest.approx(0.3, abs=0.01)
    # What is left beside the bridge is a notch 0.35 mm deep: no gap that lasts.
    assert not tied.gaps


def leaning(shape: shapely.Geometry, degrees: float) -> shapely.Geometry:
    """Turned about the middle of the bar."""
    c, s = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    middle = np.array([26.0, 3.2])
    return shapely.transform(shape, lambda uv: (uv - middle) @ np.array([[c, s], [-s, c]]) + middle)


@pytest.mark.parametrize("lean", [0.0, 17.0, 90.0, 133.0])
def test_a_bar_that_is_added_is_as_wide_as_its_shorter_side(lean: float) -> None:
    bar = leaning(shapely.box(20, 3, 32, 3.4), lean)
    found = fineness(figure(shapely.box(0, 0, 3, 5), added=(bar,)), reach_mm=0.5)
    strokes = [one for one in found.strokes if one.parts == (1,)]
    assert strokes[0].flat_mm == pytest.approx(0.4, abs=1e-9)
    middle = leaning(shapely.LineString([(20.2, 3.2), (31.8, 3.2)]), lean)
    assert middle.distance(shapely.Point(strokes[0].u_mm, strokes[0].v_mm)) < 1e-9
    along = math.radians(lean)
    assert abs(np.dot(strokes[0].across, (math.cos(along), math.sin(along)))) < 1e-9


def test_what_leans_like_no_rectangle_is_measured() -> None:
    # A parallelogram with sides of 12 and 0.5 that lean: its height is what counts.
    slanted = shapely.Polygon([(20, 3), (32, 3), (32.3, 3.4), (20.3, 3.4)])
    found = fineness(figure(shapely.box(0, 0, 3, 5), added=(slanted,)), reach_mm=0.5)
    strokes = [one for one in found.strokes if one.parts == (1,)]
    assert strokes[0].flat_mm == pytest.approx(0.4, abs=2e-3)


def test_the_same_loop_elsewhere_is_as_wide() -> None:
    loop = shapely.Point(20, 3).buffer(2.0).difference(shapely.Point(20, 3).buffer(1.2))
    for move in ((0.0, 0.0), (3.123, -7.77)):
        moved = shapely.transform(loop, lambda uv, move=move: uv + move)
        found = fineness(figure(shapely.box(0, 0, 3, 5), added=(moved,)), reach_mm=1.0)
        stroke = next(one for one in found.strokes if one.parts == (1,))
        assert stroke.flat_mm == pytest.approx(0.8, abs=0.01)
        away = math.hypot(stroke.u_mm - 20 - move[0], stroke.v_mm - 3 - move[1])
        assert away == pytest.approx(1.6, abs=0.02)


PLATE = shapely.box(20, 0, 60, 24)
OVAL = shapely.transform(shapely.Point(0, 0).buffer(1, quad_segs=90), lambda xy: xy * (20, 12) + (40, 12))
BORDERS = {
    "rounded corners": PLATE.buffer(-4).buffer(4).difference(PLATE.buffer(-4).buffer(3.4)),
    "square corners": PLATE.difference(PLATE.buffer(-0.6, join_style="mitre")),
    "an oval": OVAL.buffer(0.3).difference(OVAL.buffer(-0.3)),
    "broader below": PLATE.difference(shapely.box(20.6, 1.4, 59.4, 23.4)),
    "narrower in one place": PLATE.difference(
        shapely.box(20.6, 0.6, 59.4, 23.4).union(shapely.box(38, 0.4, 39, 1))
    ),
    "a notch in it": PLATE.difference(shapely.box(39.8, 20, 40.2, 24)).difference(
        PLATE.difference(shapely.box(39.8, 20, 40.2, 24)).buffer(-0.6, join_style="mitre")
    ),
    "a waist": shapely.MultiPoint([(30, 12), (50, 12)]).buffer(10.4, quad_segs=60).buffer(0.3).difference(
        shapely.MultiPoint([(30, 12), (50, 12)]).buffer(10.4, quad_segs=60).buffer(-0.3)
    ),
}  # fmt: skip


@pytest.mark.parametrize("border", BORDERS.values(), ids=BORDERS)
def test_a_border_is_as_wide_as_when_it_is_sampled(border: shapely.Polygon) -> None:
    found = fineness(figure(shapely.box(0, 0, 3, 5), added=(border,)), reach_mm=0.5)
    sampled = measure_shape(shapely.MultiPolygon([border]), cap_height=3.0)

    def of_it(places: tuple[Fine, ...]) -> list[float]:
        return [one.flat_mm for one in places if one.parts == (1,)]

    assert of_it(found.strokes)[0] == pytest.approx(sampled.stroke.width, rel=2e-3)
    assert of_it(found.middles)[0] == pytest.approx(sampled.middles.narrowest.width, rel=5e-3)
    # What is narrower than the largest disc in it is told; what is no narrower may be.
    inner = sampled.gaps.narrowest
    if inner is not None and inner.width < 0.99 * of_it(found.middles)[0]:
        assert of_it(found.gaps)[0] == pytest.approx(inner.width, rel=5e-3)


def test_a_closed_middle_is_as_wide_as_its_largest_disc() -> None:
    ring = shapely.box(0, 0, 5, 5).difference(shapely.Point(2.5, 2.5).buffer(0.4, quad_segs=64))
    result = found(figure(ring))
    assert result.middles[0].width_mm == pytest.approx(0.8, abs=0.01)
    assert (result.middles[0].u_mm, result.middles[0].v_mm) == pytest.approx((2.5, 2.5), abs=0.01)


@pytest.mark.parametrize(
    ("surface", "treatment", "stroke", "gap", "end"),
    [
        pytest.param(Plane(), Engraved(depth_mm=1.0), 1.0, 0.3, "face", id="upright walls on a plane"),
        pytest.param(Cylinder(radius_mm=10.0), Engraved(depth_mm=1.0), 0.9, 0.27, "floor", id="engraved round a band"),
        pytest.param(Cylinder(radius_mm=10.0), Raised(height_mm=1.0, root_mm=0.5), 1.0, 0.3, "face", id="raised round a band"),
        pytest.param(Bore(radius_mm=3.5), Raised(height_mm=0.4, root_mm=0.5), 1 - 0.4 / 3.5, 0.3 * (1 - 0.4 / 3.5), "top", id="raised in a bore of 7 mm"),
        pytest.param(Plane(), Raised(height_mm=1.0, root_mm=0.5, edge="chamfer", edge_mm=0.2), 0.6, 0.3, "top", id="chamfered"),
        pytest.param(Plane(), Engraved(depth_mm=0.5, draft_deg=15.0), 1 - 2 * 0.5 * math.tan(math.radians(15)), 0.3, "floor", id="drafted"),
        pytest.param(Plane(), Engraved(depth_mm=0.3, floor="pointed"), 1.0, 0.3, "face", id="a pointed floor narrows by design"),
        pytest.param(Plane(), InRecess(depth_mm=0.5, height_mm=0.4, margin_mm=0.5), 1.0, 0.3, "floor", id="in a recess"),
    ],
)  # fmt: skip
def test_the_narrower_of_face_and_floor_or_top_counts(surface, treatment, stroke, gap, end) -> None:
    # Long enough against its edges that nothing else is thin.
    made = figure(
        BAR,
        shapely.transform(BAR, lambda xy: xy + np.array([1.3, 0.0])),
        treatment=treatment,
        surface=surface,
    )
    result = found(made)
    assert result.strokes[0].width_mm == pytest.approx(stroke, rel=2e-3)
    assert result.gaps[0].width_mm == pytest.approx(gap, rel=2e-3)
    assert result.strokes[0].end == end


@pytest.mark.parametrize("notches", [1, 2])
def test_the_corner_of_a_notch_comes_no_further_than_the_sides_of_a_drafted_stroke(notches: int) -> None:
    """Walls that slant equally would meet in a nick that goes sqrt(2) times as far; it is cut off."""
    right = shapely.Polygon([(1, 2.7), (0.8, 2.5), (1, 2.3)])
    left = shapely.Polygon([(0, 2.7), (0.2, 2.5), (0, 2.3)])
    bar = BAR.difference(right) if notches == 1 else BAR.difference(right).difference(left)
    made = figure(bar, treatment=Engraved(depth_mm=0.5, draft_deg=15.0))
    inward = 0.5 * math.tan(math.radians(15))
    expected = 1.0 - 0.2 * notches - 2 * inward
    assert found(made).strokes[0].width_mm == pytest.approx(expected, abs=4e-3)


def test_the_wall_of_a_recess_is_a_neighbour_too() -> None:
    made = figure(BAR, treatment=InRecess(depth_mm=0.5, height_mm=0.4, margin_mm=0.2))
    gap = found(made).gaps[0]
    # Its corners are drawn in 16 chords a quarter: r (1 - cos(pi / 64)) less.
    assert gap.width_mm == pytest.approx(0.2, rel=2e-3) and gap.parts == (0, -1)


def test_over_the_seam_the_last_letter_stands_beside_the_first() -> None:
    surface = Cylinder(radius_mm=10.0)
    turn = surface.period_mm
    made = figure(shapely.box(0.1, 0, 1.1, 5), shapely.box(turn - 1.05, 0, turn - 0.05, 5), surface=surface)
    area = dataclasses.replace(made.area, outline=shapely.box(0, -2, turn, 7))
    gap = found(dataclasses.replace(made, area=area, treatment=Engraved(depth_mm=0.1))).gaps[0]
    assert gap.width_mm == pytest.approx(0.15 * 0.99, rel=1e-2) and gap.parts == (1, 0)


WORDS = [
    ("Ottoline", "noto-sans-bold"),
    ("Wm Åö", "vollkorn-bold"),
    ("gryffe", "pacifico"),
    ("mill", "cinzel-bold"),
]


@pytest.mark.parametrize(("word", "code"), WORDS)
def test_against_a_distance_transform_on_a_raster(word: str, code: str) -> None:
    """At the place that is told, the largest disc of ink, or of paper, is as wide as was said.

    The raster has 0.01 mm, so a width is known to 0.02 mm.
    """
    which = product({**TAG_TABLE, "treatment": RAISED, "typeface": code}, fit={"lowest_height_mm": 1.0})
    made = lay_out(inputs(which, word)).made
    result = fineness(made, reach_mm=0.5)
    step = 0.01
    for fine, is_ink in ((result.strokes[0], True), (result.gaps[0], False)):
        low = np.array([fine.u_mm, fine.v_mm]) - 1.5
        count = int(3.0 / step)
        u, v = (low[k] + (np.arange(count) + 0.5) * step for k in (0, 1))
        ink = shapely.contains_xy(made.outlines, *np.meshgrid(u, v))
        away = ndimage.distance_transform_edt(ink if is_ink else ~ink) * step
        middle = away[count // 2 - 4 : count // 2 + 4, count // 2 - 4 : count // 2 + 4].max()
        assert 2.0 * middle == pytest.approx(fine.width_mm, abs=0.03)


@pytest.mark.parametrize(("word", "code"), WORDS)
def test_nothing_finer_is_overlooked(word: str, code: str) -> None:
    """Whatever is finer than was said is taken away by an opening: only points and corners may be lost."""
    which = product({**TAG_TABLE, "treatment": RAISED, "typeface": code}, fit={"lowest_height_mm": 1.0})
    made = lay_out(inputs(which, word)).made
    thin = fineness(made, reach_mm=0.5).strokes[0].width_mm * 0.97
    opened = made.outlines.buffer(-thin / 2.0, quad_segs=16).buffer(thin / 2.0, quad_segs=16)
    lost = shapely.get_parts(made.outlines.difference(opened))
    # A corner of 90 degrees loses (1 - pi / 4) of a square of half the width; a stroke that lasts far more.
    assert max((part.area for part in lost), default=0.0) < thin * max(
        1.5 * thin, 0.12 * made.layout.height_mm
    )

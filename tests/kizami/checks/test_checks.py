"""Each check at, just above and just below its limit, with its spot and its numbers."""

from __future__ import annotations

import dataclasses

import manifold3d as m3
import numpy as np
import pytest
import shapely

from kizami.as_made.treatment import Engraved, Raised, Treatment
from kizami.checks.cases import FlatCase
from kizami.checks.every_check import run_flat
from kizami.checks.finding import Finding, Level, Sense, Severity, judge, said, worst_first
from kizami.checks.kinds import KINDS
from kizami.checks.words import words_for
from kizami.lettering.shipped import shipped_typeface
from kizami.pieces.building import make_solid
from kizami.pieces.laying_out import lay_out
from kizami.pieces.make import make_piece
from kizami.pieces.measuring import check_solid
from kizami.products.product import Product
from kizami.surfaces.layer import layer_volume_mm3
from tests.kizami.samples import RING, RING_RAISED, RING_TABLE, TAG, TAG_RAISED, TAG_TABLE, inputs, product


def case(which: Product, wording: str, treatment: Treatment | None = None, **limits: float) -> FlatCase:
    laid_out = lay_out(inputs(which, wording))
    process = which.process
    for code, value in limits.items():
        process = dataclasses.replace(
            process, limits=process.limits.with_limits([(code.replace("__", ".").replace("_", "-"), value)])
        )
    made = dataclasses.replace(laid_out.made, treatment=treatment or which.treatment)
    return FlatCase(made=made, typeface=shipped_typeface(which.typeface), process=process)


def finding(of: FlatCase, code: str) -> Finding:
    return next(f for f in run_flat(of) if f.code == code)


@pytest.mark.parametrize(
    ("measured", "limit", "sense", "level"),
    [
        (0.5, 0.3, Sense.AT_LEAST, Level.PASSES),
        (0.33, 0.3, Sense.AT_LEAST, Level.PASSES),
        (0.32, 0.3, Sense.AT_LEAST, Level.CLOSE),
        (0.3, 0.3, Sense.AT_LEAST, Level.CLOSE),
        (0.1 + 0.2, 0.3, Sense.AT_LEAST, Level.CLOSE),
        (0.2999, 0.3, Sense.AT_LEAST, Level.FAILS),
        (-1.0, 0.3, Sense.AT_LEAST, Level.FAILS),
        (49, 50, Sense.AT_MOST, Level.CLOSE),
        (51, 50, Sense.AT_MOST, Level.FAILS),
        (1, 1, Sense.EXACTLY, Level.PASSES),
        (2, 1, Sense.EXACTLY, Level.FAILS),
    ],
)
def test_levels(measured: float, limit: float, sense: Sense, level: Level) -> None:
    assert judge(measured, limit, sense) is level


#: These speak only where they have something to measure, and each has a test of its own.
SILENT = {
    "wording-settled", "departure", "openings-kept", "letters-in-shape", "letters-apart",
    "letter-stretch", "loose-parts",
    "logo-detail", "fits-area", "neck-width", "web-width", "not-measured", "edge-made", "draft-made",
    "closed-middles", "made", "built", "letters-built", "standing-thickness", "slot-width", "undercut",
    "draft-held", "islands", "tilt", "edge-thickness", "trapped-volume", "sharp-point", "overhang", "hangs-below",
    "read-back", "loops-level", "loop-place", "loop-hold", "logo-as-sent",
}  # fmt: skip


def test_every_check_speaks_for_an_ordinary_piece() -> None:
    made = make_piece(inputs(RING, "Ottoline"))
    assert {f.code for f in made.findings} == set(KINDS) - SILENT
    assert made.stage == "ready"
    for f in made.findings:
        assert np.isfinite([f.measured, f.limit]).all()
        assert f.message and (f.hint or f.level is not Level.FAILS)


@pytest.mark.parametrize(
    ("code", "limit"),
    [
        ("stroke-width", "stroke_width__engraved"),
        ("gap-width", "gap_width"),
        ("middle-width", "middle_width"),
        ("edge-gap", "edge_gap"),
    ],
)
def test_a_measurement_passes_below_and_fails_above_itself(code: str, limit: str) -> None:
    measured = finding(case(RING, "Ottoline"), code).measured
    assert finding(case(RING, "Ottoline", **{limit: measured * 0.85}), code).level is Level.PASSES
    assert finding(case(RING, "Ottoline", **{limit: measured * 0.99}), code).level is Level.CLOSE
    failing = finding(case(RING, "Ottoline", **{limit: measured * 1.01}), code)
    assert failing.level is Level.FAILS
    # By how much it misses is data, for whatever cures it.
    assert failing.needed == pytest.approx(0.01 * measured, rel=1e-3) and failing.cause


def test_the_thinnest_stroke_of_a_plain_bar_is_its_drawn_width() -> None:
    """The l of this face is one bar: its width is the box of its outline."""
    of = case(TAG, "l")
    low, _, high, _ = of.layout.ink_bounds
    assert finding(of, "stroke-width").measured == pytest.approx(high - low, rel=0.01)


def test_the_gap_between_two_bars_is_the_distance_of_their_outlines() -> None:
    of = case(TAG, "ll")
    assert finding(of, "gap-width").measured == pytest.approx(
        of.layout.shapes[0].distance(of.layout.shapes[1])
    )


def test_the_spot_of_a_stroke_lies_in_the_letter_that_it_names() -> None:
    of = case(RING, "Ottoline")
    spot = finding(of, "stroke-width").spot
    assert spot is not None and spot.cluster is not None
    place = next(i for i, g in enumerate(of.layout.marks) if g.cluster == spot.cluster)
    assert of.layout.shapes[place].contains(shapely.Point(spot.u_mm, spot.v_mm))


def test_the_gap_to_the_edge_is_measured_to_the_nearest_of_edge_and_hole() -> None:
    of = case(TAG, "Halloran")
    found = finding(of, "edge-gap")
    hole = of.area.keep_outs[0].outline
    expected = min(of.layout.outlines.distance(hole), of.layout.outlines.distance(of.area.outline.exterior))
    assert found.measured == pytest.approx(expected)
    assert "hole" in found.message


def test_lettering_over_the_edge_measures_below_zero_at_the_spot() -> None:
    of = case(TAG, "Halloran")
    up = np.array([0.0, 12.0])
    shifted = dataclasses.replace(
        of.layout,
        outlines=shapely.transform(of.layout.outlines, lambda xy: xy + up),
        shapes=tuple(shapely.transform(shape, lambda xy: xy + up) for shape in of.layout.shapes),
    )
    of = dataclasses.replace(of, made=dataclasses.replace(of.made, layout=shifted))
    found = finding(of, "edge-gap")
    over = shifted.ink_bounds[3] - 25.0
    assert found.level is Level.FAILS
    assert found.measured == pytest.approx(-over, abs=1e-6)
    assert found.spot is not None and found.spot.v_mm == pytest.approx(25 + over, abs=0.01)


@pytest.mark.parametrize(
    ("treatment", "left", "level"),
    [
        (Engraved(depth_mm=1.0), 2.0, Level.PASSES),
        (Engraved(depth_mm=2.2), 0.8, Level.CLOSE),
        (Engraved(depth_mm=2.3), 0.7, Level.FAILS),
        (Engraved(depth_mm=18.0), -15.0, Level.FAILS),
        (Raised(height_mm=0.5, root_mm=0.4), 2.6, Level.PASSES),
        (Raised(height_mm=0.5, root_mm=3.5), -0.5, Level.FAILS),
    ],
    ids=[
        "deep enough wall",
        "on the limit",
        "too deep",
        "1.8 typed as 18",
        "root",
        "root comes out at the back",
    ],
)
def test_floor_left(treatment: Engraved | Raised, left: float, level: Level) -> None:
    found = finding(case(TAG, "Ng", treatment), "floor-left")
    assert found.measured == pytest.approx(left)
    assert found.level is level


@pytest.mark.parametrize(("depth", "level"), [(0.5, Level.PASSES), (0.3, Level.CLOSE), (0.29, Level.FAILS)])
def test_lettering_too_shallow(depth: float, level: Level) -> None:
    assert finding(case(TAG, "Ng", Engraved(depth_mm=depth)), "lettering-depth").level is level


def test_lowest_height_gives_the_height_that_would_fit() -> None:
    of = case(RING, "Maximilian-Alexander Theodor")
    found = finding(of, "lowest-height")
    assert found.level is Level.FAILS
    assert (found.measured, found.limit) == (of.layout.height_mm, 3.6)


def test_missing_characters_are_counted_and_named() -> None:
    found = finding(case(RING, "A🙂b🙂"), "missing-character")
    assert (found.level, found.measured) == (Level.FAILS, 2)
    assert "🙂" in found.message
    assert found.spot is not None and found.spot.cluster == 1


@pytest.mark.parametrize("wording", ["", "🙂"])
def test_nothing_to_set_is_held(wording: str) -> None:
    made = make_piece(inputs(RING, wording))
    assert made.stage == "held"
    assert made.solid is None
    assert "wording-present" in [f.code for f in made.findings if f.level is Level.FAILS]


@pytest.mark.parametrize(
    ("length", "level"), [(60.0, Level.PASSES), (60.1, Level.FAILS)], ids=["just goes in", "too long"]
)
def test_a_piece_must_go_into_the_machine(length: float, level: Level) -> None:
    made = make_piece(inputs(product(TAG_TABLE, blank={"length_mm": length}), "Ng"))
    assert next(f for f in made.findings if f.code == "piece-size").level is level


def test_the_size_of_a_raised_ring_includes_its_lettering() -> None:
    """Lettering most of the way round stands proud left and right, so the piece grows by it on both sides."""
    made = make_piece(inputs(RING_RAISED, "WILHELMINA & AUGUST"))
    ring = made.laid_out.blank
    assert made.solid is not None and made.solid.size_mm[0] == pytest.approx(
        2 * ring.outer_radius_mm + 2 * 0.6, abs=0.05
    )
    found = next(f for f in made.findings if f.code == "piece-size")
    # Turned to fit 50 x 50 x 60: the longest side goes up, the middle one is nearest to its limit.
    assert (found.measured, found.limit) == (pytest.approx(sorted(made.solid.size_mm)[1]), 50.0)


def test_a_pocket_through_the_wall_is_seen_on_the_solid_too() -> None:
    """Engraved right through, an o drops its middle: a second body, or a hole more."""
    made = make_piece(inputs(product(TAG_TABLE, treatment={"kind": "engraved", "depth_mm": 4.0}), "Ono"))
    failing = {f.code for f in made.findings if f.level is Level.FAILS}
    assert {"floor-left", "one-body", "through-holes", "right-volume"} <= failing
    assert made.stage == "held"


def test_a_second_body_is_seen_on_the_triangles() -> None:
    laid_out = lay_out(inputs(TAG_RAISED, "Ng"))
    solid = make_solid(laid_out)
    assert solid is not None
    speck = m3.Manifold.cube((1, 1, 1)).translate((10, 10, 20)).to_mesh()
    floating = dataclasses.replace(
        solid,
        vertices=np.vstack((solid.vertices, speck.vert_properties)).astype(np.float32),
        triangles=np.vstack((solid.triangles, speck.tri_verts + len(solid.vertices))).astype(np.uint32),
        is_lettering=np.append(solid.is_lettering, np.zeros(len(speck.tri_verts), dtype=bool)),
    )
    found = {f.code: f for f in check_solid(laid_out, floating)}
    assert (found["one-body"].measured, found["one-body"].level) == (2, Level.FAILS)
    assert {f.code: f.level for f in check_solid(laid_out, solid)}["one-body"] is Level.PASSES


def test_a_lost_letter_is_seen_by_the_volume() -> None:
    laid_out = lay_out(inputs(RING, "Ottoline"))
    solid = make_solid(laid_out)
    assert solid is not None
    share = laid_out.layout.shapes[3].area / laid_out.layout.outlines.area
    removed = share * layer_volume_mm3(laid_out.area.surface, laid_out.layout.outlines, -0.45, 0)
    lost = dataclasses.replace(solid, volume_mm3=solid.volume_mm3 + removed)
    levels = [{f.code: f.level for f in check_solid(laid_out, s)}["right-volume"] for s in (solid, lost)]
    assert levels == [Level.PASSES, Level.FAILS]


def test_the_shallower_the_lettering_the_more_chords_may_do_to_its_volume() -> None:
    """0.0035 mm over all of its area beside 0.8 %: 1.6 % at 0.45 mm, 7.8 % at 0.05 mm."""
    shallow = dataclasses.replace(RING, treatment=Engraved(depth_mm=0.05))
    limits = []
    for ring in (RING, shallow):
        laid_out = lay_out(inputs(ring, "Ottoline"))
        solid = make_solid(laid_out)
        assert solid is not None
        (found,) = [f for f in check_solid(laid_out, solid) if f.code == "right-volume"]
        assert found.level is Level.PASSES
        limits.append(found.limit)
    # On a round band a layer that goes inward is a little less than area times depth.
    assert limits == [pytest.approx(0.8 + 0.35 / 0.45, rel=0.03), pytest.approx(0.8 + 0.35 / 0.05, rel=0.01)]


def test_a_depth_that_is_four_percent_short_is_held() -> None:
    """What is asked is 0.45 mm, what is built 0.432 mm: less than half a chord, but all over."""
    laid_out = lay_out(inputs(RING, "Ottoline"))
    short = lay_out(inputs(dataclasses.replace(RING, treatment=Engraved(depth_mm=0.432)), "Ottoline"))
    solid = make_solid(short)
    assert solid is not None
    failing = {f.code for f in check_solid(laid_out, solid) if f.level is Level.FAILS}
    assert {"right-volume", "letters-proven"} <= failing


def test_findings_come_worst_first() -> None:
    findings = make_piece(inputs(RING, "Maximilian-Alexander Theodor")).findings
    assert findings == worst_first(findings)
    wrong = [(f.level.rank, f.severity.rank) for f in findings if f.level is not Level.PASSES]
    assert wrong == sorted(wrong) and sum(f.level is Level.FAILS for f in findings) >= 2
    # Of what passes, measures come before counts.
    counted = [not f.unit for f in findings if f.level is Level.PASSES]
    assert counted == sorted(counted)


def test_what_can_not_be_made_comes_before_what_is_ugly_however_much_the_ugly_one_misses() -> None:
    ugly = dataclasses.replace(
        finding(case(RING, "Ottoline", Engraved(depth_mm=0.1)), "lettering-depth"),
        severity=Severity.UGLY, measured=0.001,
    )  # fmt: skip
    grave = dataclasses.replace(ugly, severity=Severity.CANNOT_BE_MADE, measured=0.29)
    assert ugly.badness > grave.badness
    assert worst_first((ugly, grave)) == (grave, ugly) and grave.weight > ugly.weight


def test_the_catalogue_of_checks_lists_every_code() -> None:
    from launch.state import REPOSITORY

    page = (REPOSITORY / "docs" / "checks.md").read_text("utf-8")
    assert [code for code in KINDS if f"`{code}`" not in page] == []


def test_every_kind_has_words() -> None:
    """Unknown codes have none: a table that is asked for a word it lacks says so at once."""
    with pytest.raises(KeyError):
        words_for("no such check", None)  # type: ignore[arg-type]
    from kizami.checks.words import _WORDS

    assert set(_WORDS) == set(KINDS)


def test_wider_rings_leave_more_room() -> None:
    narrow = lay_out(inputs(RING, "Wilhelmina", "46")).layout.height_mm
    wide = lay_out(inputs(RING, "Wilhelmina", "66")).layout.height_mm
    assert narrow <= wide


def test_the_same_face_gives_the_same_stroke_share_at_any_height() -> None:
    low = case(product(RING_TABLE, fit={"greatest_height_mm": 3.6, "lowest_height_mm": 3.0}), "Ivy")
    high = case(RING, "Ivy")
    ratio = [finding(c, "stroke-width").measured / c.layout.height_mm for c in (low, high)]
    assert ratio[0] == pytest.approx(ratio[1])


@pytest.mark.parametrize("measured", [0.2996, 0.2999, 0.295, 0.304, 0.3001])
def test_a_value_never_reads_as_the_limit_that_it_misses(measured: float) -> None:
    """What is said, read back, lies on the same side of the limit as what was measured."""
    read = float(said(measured, 0.3))
    assert (read < 0.3, read > 0.3) == (measured < 0.3, measured > 0.3)

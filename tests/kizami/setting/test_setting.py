"""What the bench sets on one piece: read from text, laid over the product, given back when left out."""

from __future__ import annotations

import json
import math
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st

from kizami.as_made.narrow_gaps import with_gaps
from kizami.as_made.treatment import CutOut
from kizami.errors import AdjustmentError
from kizami.lettering.fit_plan import Step, check_fit_plan
from kizami.lettering.layout import Added
from kizami.lettering.shapes import STRAIGHT, Arc, Arched, Filled, LetterShape
from kizami.outlines.moving import rotated, shifted
from kizami.pieces.inputs import fingerprint
from kizami.pieces.laying_out import LaidOut, lay_out
from kizami.pieces.make import make_piece
from kizami.products.product import Product
from kizami.products.product_file import product_from_table
from kizami.setting.setting import AS_THE_PRODUCT, Setting, depth_of
from kizami.setting.telling import told
from kizami.setting.values import BOUNDS, SHAPES, TREATMENTS
from kizami.sizes import SizeSystem, parse_ring_size
from tests.kizami.samples import RING, RING_TABLE, TAG, TAG_TABLE, drawn, inputs

OFFERING = product_from_table(
    {**TAG_TABLE, "typefaces": ["vollkorn-bold"], "materials": ["sterling-silver"], "finishes": ["satin"]}
)


@pytest.mark.parametrize(
    ("given", "read"),
    [
        ({}, {}),
        ({"height_mm": " 4,5 "}, {"height_mm": 4.5}),
        ({"tracking": "0", "thicken_by_mm": ""}, {"tracking": 0.0}),
        ({"shape": "oval"}, {"shape": "oval", "shape_amount": 160.0}),
        ({"shape_amount": " "}, {}),
        ({"breaks": " 2  1 "}, {"breaks": "2 1"}),
        ({"typeface": "x" * 90}, {"typeface": "x" * 60}),
    ],
)
def test_reading(given: dict[str, str], read: dict[str, Any]) -> None:
    assert Setting.read(given).to_table() == read


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"height_mm": "four"}, "four"),
        ({"height_mm": "0.4"}, "from 0.5"),
        ({"tracking": "7"}, "from -0.2 to 1"),
        ({"thicken_by_mm": "2 in"}, "from -0.5 to 1"),
        ({"shape": "pretzel"}, "on an arc"),
        ({"shape": "round", "shape_amount": "9999"}, "500"),
        ({"shape_amount": "30"}, "choose its form"),
    ],
)
def test_what_may_not_be_set_is_refused_with_its_bounds(given: dict[str, str], says: str) -> None:
    with pytest.raises(AdjustmentError, match=says):
        Setting.read(given)


def test_no_adjustment_is_the_product_itself() -> None:
    assert AS_THE_PRODUCT.on(TAG) == TAG


def test_a_height_is_the_greatest_and_never_lowers_the_limit_that_it_is_judged_by() -> None:
    high = Setting.from_table({"height_mm": 9.0}).on(TAG).plan
    low = Setting.from_table({"height_mm": 3.0}).on(TAG).plan
    assert (high.greatest_height_mm, high.lowest_height_mm) == (9.0, 4.4)
    assert (low.greatest_height_mm, low.lowest_height_mm) == (3.0, 4.4)
    laid_out = lay_out(inputs(Setting.from_table({"height_mm": 3.0}).on(TAG), "Owen"))
    assert laid_out.layout.height_mm == 3.0
    assert [f.code for f in laid_out.failing if f.code == "lowest-height"] == ["lowest-height"]


def test_where_nothing_may_be_lowered_the_product_s_one_height_stays_the_limit() -> None:
    fixed = replace(TAG, plan=replace(TAG.plan, steps=()))
    low = Setting.from_table({"height_mm": 3.0}).on(fixed)
    assert (low.plan.greatest_height_mm, low.plan.lowest_height_mm) == (3.0, 11.0)
    assert "lowest-height" in {f.code for f in lay_out(inputs(low, "Owen")).failing}


def test_a_shape_keeps_the_product_s_own_bound_on_stretching() -> None:
    filled = replace(TAG.arrangement, shape=Filled(outline="round", width=1.0, most_stretch=1.5))
    oval = Setting.from_table({"shape": "oval", "shape_amount": 160.0}).on(replace(TAG, arrangement=filled))
    assert isinstance(oval.arrangement.shape, Filled) and oval.arrangement.shape.most_stretch == 1.5


def test_weight_thickens_all_over_and_nought_is_as_drawn() -> None:
    assert Setting.from_table({"thicken_by_mm": 0.2}).on(TAG).soundness.thicken == "all over"
    assert Setting.from_table({"thicken_by_mm": -0.1}).on(TAG).soundness.thicken_by_mm == -0.1
    assert Setting.from_table({"thicken_by_mm": 0.0}).on(TAG).soundness.thicken == "never"


SHAPED: list[tuple[str, float, LetterShape]] = [
    ("straight", 0.0, STRAIGHT),
    ("on an arc", 25.0, Arc(radius_mm=25.0)),
    ("on a hanging arc", 25.0, Arc(radius_mm=25.0, hollow=True)),
    ("arched", 40.0, Arched(rise=0.4)),
    ("round", 100.0, Filled(outline="round", width=1.0)),
    ("oval", 160.0, Filled(outline="oval", width=1.6)),
    ("diamond", 120.0, Filled(outline="diamond", width=1.2)),
    ("heart", 10.0, Filled(outline="heart", width=0.3)),
]


@pytest.mark.parametrize(("name", "amount", "shape"), SHAPED, ids=lambda v: str(v)[:12])
def test_every_shape_of_the_bench(name: str, amount: float, shape: LetterShape) -> None:
    assert Setting.from_table({"shape": name, "shape_amount": amount}).on(TAG).arrangement.shape == shape


def test_the_table_above_has_every_shape() -> None:
    assert {name for name, _, _ in SHAPED} == set(SHAPES)


def test_any_typeface_may_be_set_and_only_the_materials_and_finishes_that_are_offered() -> None:
    chosen = Setting.from_table(
        {"typeface": "vollkorn-bold", "material": "sterling-silver", "finish": "satin"}
    ).on(OFFERING)
    assert (chosen.typeface, chosen.material, chosen.finish) == ("vollkorn-bold", "sterling-silver", "satin")
    other = Setting.from_table({"typeface": "pacifico", "material": "sterling-silver", "finish": "satin"})
    assert (other.on(TAG).typeface, other.on(TAG).material) == ("pacifico", TAG.material)


@pytest.mark.parametrize(
    "adjustment",
    [
        {"height_mm": 6.0},
        {"tracking": 0.2},
        {"thicken_by_mm": 0.1},
        {"shape": "round", "shape_amount": 100.0},
        {"lowest_mm": 6.0, "height_mm": 6.0},
        {"along_mm": 1.0},
        {"across_mm": -0.5},
        {"turned_deg": 12.0},
        {"upside_down": True},
        {"treatment": "raised"},
        {"gaps": "opened"},
        {"body_mm": 3.5},
    ],
)
def test_every_adjustment_shapes_the_piece(adjustment: dict[str, Any]) -> None:
    assert fingerprint(inputs(Setting.from_table(adjustment).on(TAG), "Ng")) != fingerprint(inputs(TAG, "Ng"))


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"narrowest": "0.3"}, "from 0.6 to 1"),
        ({"most_lines": "9"}, "1 to 4 lines"),
        ({"most_lines": "-1"}, "1 to 4 lines"),
        ({"one_piece": "glue"}, "base bar"),
        ({"breaks": "2 0"}, "how many words stand on each line"),
        ({"breaks": "1 1 1 1 1"}, "4 lines at most"),
        ({"breaks": "two"}, "how many words"),
        ({"depth_mm": "0"}, "from 0.05"),
    ],
)
def test_more_that_may_not_be_set_is_refused(given: dict[str, str], says: str) -> None:
    with pytest.raises(AdjustmentError, match=says):
        Setting.read(given)


def test_lines_and_width_become_steps_of_the_plan() -> None:
    plan = Setting(most_lines=2, narrowest=0.8).on(TAG).plan
    assert plan.most_lines == 2 and plan.narrowest == 0.8
    assert plan.steps[-2:] == (Step.BREAK, Step.CONDENSE)
    assert check_fit_plan(plan) == ""
    one = Setting(most_lines=1, narrowest=1.0).on(replace(TAG, plan=plan)).plan
    assert not {Step.BREAK, Step.CONDENSE} & set(one.steps)


def test_words_stand_on_the_lines_that_are_set_and_on_no_others() -> None:
    breaking = replace(TAG, plan=replace(TAG.plan, most_lines=2, steps=(Step.BREAK, Step.LOWER)))
    for wording in ("Anna Maria Costa", "Anna Maria\nCosta"):
        for breaks, lines in (("1 2", "Anna\nMaria Costa"), ("3", "Anna Maria Costa")):
            base = inputs(breaking, wording, setting=Setting(breaks=breaks))
            laid = lay_out(base)
            assert laid.layout.text == lines
            # The same as if it had been written so, whatever the product would do with its lines.
            assert base.as_set.wording == lines
    wish = replace(breaking, wording=replace(TAG.wording, line_breaks="wish"))
    assert lay_out(inputs(wish, "Bo Ida", setting=Setting(breaks="1 1"))).layout.text == "Bo\nIda"


def test_lines_that_were_set_of_other_words_are_passed_over() -> None:
    base = inputs(TAG, "Anna Costa", setting=Setting(breaks="2 1"))
    assert fingerprint(base) == fingerprint(inputs(TAG, "Anna Costa"))
    assert told(Setting(), Setting(breaks="2 1")) == ["broken into lines of 2 and 1 words"]
    assert told(Setting(breaks="3"), Setting()) == ["words on each line: the product’s own"]


def test_depth_is_of_whatever_treatment() -> None:
    own = depth_of(TAG.treatment)
    assert own is not None
    assert depth_of(Setting(depth_mm=own + 0.2).on(TAG).treatment) == own + 0.2


def test_a_second_wording_is_received_set_or_left_out() -> None:
    assert Setting().second_of("2027") == "2027"
    assert Setting(second="2028").second_of("2027") == "2028"
    assert Setting(second="2028", without_second=True).second_of("2027") == ""


SETTINGS = st.builds(
    Setting,
    typeface=st.sampled_from(["", "vollkorn-bold"]),
    second=st.none() | st.text(min_size=1, max_size=8),
    height_mm=st.none() | st.floats(0.5, 100.0),
    tracking=st.none() | st.floats(-0.2, 1.0),
    narrowest=st.none() | st.floats(0.6, 1.0),
    most_lines=st.none() | st.integers(1, 4),
    breaks=st.sampled_from(["", "2 1", "3"]),
    thicken_by_mm=st.none() | st.floats(-0.5, 1.0),
    one_piece=st.sampled_from(["", "bridges", "no"]),
    depth_mm=st.none() | st.floats(0.05, 20.0),
    without_second=st.booleans(),
)


@given(SETTINGS)
def test_a_setting_is_kept_as_a_table_and_comes_back(setting: Setting) -> None:
    kept = json.loads(json.dumps(setting.to_table()))
    assert Setting.from_table(kept) == setting
    assert Setting.from_table({**kept, "of another time": 1}) == setting


def test_a_setting_stands_in_the_form_as_it_is_read() -> None:
    setting = Setting(height_mm=4.5, tracking=-0.05, most_lines=2, one_piece="bridges", without_second=True)
    assert Setting.read({name: str(value) for name, value in setting.to_fields().items()}) == setting


@given(SETTINGS)
def test_what_is_left_out_again_is_the_product_s_own(setting: Setting) -> None:
    assert AS_THE_PRODUCT.on(TAG) == TAG
    assert Setting.from_table({}).on(TAG) == TAG
    # Limits stand out of reach.
    assert setting.on(TAG).process == TAG.process
    assert setting.on(TAG).plan.lowest_height_mm == TAG.plan.lowest_height_mm


MOVED = [
    ("along", {"along_mm": 2.0}, (2.0, 0.0)),
    ("across", {"across_mm": -1.0}, (0.0, -1.0)),
    ("both", {"along_mm": -1.5, "across_mm": 0.5}, (-1.5, 0.5)),
]


@pytest.mark.parametrize(("setting", "by"), [row[1:] for row in MOVED], ids=[row[0] for row in MOVED])
def test_lettering_stands_where_it_is_put(setting: dict[str, float], by: tuple[float, float]) -> None:
    low = {"height_mm": 5.0}
    one, other = (
        lay_out(inputs(TAG, "Owen", setting=Setting.from_table({**low, **more}))).layout
        for more in ({}, setting)
    )
    assert one.height_mm == other.height_mm == 5.0
    moved = np.array(other.ink_bounds) - np.array(one.ink_bounds)
    assert moved == pytest.approx([*by, *by], abs=1e-6)


@pytest.mark.parametrize("degrees", [15.0, -40.0, 90.0, 180.0])
def test_lettering_is_turned_about_its_middle(degrees: float) -> None:
    low = {"height_mm": 3.0}
    one, other = (
        lay_out(inputs(TAG, "Owen", setting=Setting.from_table({**low, **more}))).layout
        for more in ({}, {"turned_deg": degrees})
    )
    turned = rotated(one.outlines, degrees)
    # Where the box of turned letters is centred is the area's say: only the form is compared.
    low_u, low_v, _, _ = turned.bounds
    now_u, now_v, _, _ = other.outlines.bounds
    there = shifted(turned, now_u - low_u, now_v - low_v)
    assert there.symmetric_difference(other.outlines).area < 0.01 * one.outlines.area
    # What the checks know of each letter lies on it where it stands.
    for shape, facts in zip(other.shapes, other.narrow, strict=True):
        if facts.stroke is not None:
            assert shapely.contains_xy(shape, facts.stroke.x, facts.stroke.y)


def test_what_is_cut_out_of_nothing_stands_where_it_is() -> None:
    name = replace(TAG, treatment=CutOut(thickness_mm=3.0))
    moved = Setting(along_mm=4.0, turned_deg=20.0, treatment="raised")
    assert moved.on(name) == name


@pytest.mark.parametrize("kind", TREATMENTS)
def test_every_treatment_can_be_made(kind: str) -> None:
    laid = lay_out(inputs(TAG, "Owen", setting=Setting(treatment=kind)))
    assert laid.made.treatment.kind == kind


def test_slits_are_opened_and_closed_where_they_are_and_nowhere_else() -> None:
    # Two bars joined at one end, a slit of 0.2 mm between them; another one of 0.6 mm beside it.
    comb = shapely.union_all(
        [
            shapely.box(0, 0, 6, 1),
            shapely.box(0, 1.2, 6, 2.2),
            shapely.box(0, 2.8, 6, 3.8),
            shapely.box(0, 0, 1, 3.8),
        ]
    )
    made = drawn(shapely.MultiPolygon([comb]), TAG.treatment)
    part = Added(kind="bridge", outline=made.outlines)
    made = replace(made, layout=replace(made.layout, added=(part,)))
    opened, closed = (with_gaps(made, how, 0.3).made for how in ("opened", "closed"))
    for changed, sign in ((opened, -1.0), (closed, 1.0)):
        by = changed.outlines.symmetric_difference(made.outlines)
        assert by.area > 0.0 and sign * (changed.outlines.area - made.outlines.area) > 0.0
        assert shapely.box(0.9, 0.9, 6.1, 2.3).covers(by), "only about the slit that is too narrow"
    between = shapely.box(2, 0.5, 5, 1.7)
    assert opened.outlines.intersection(between).area == pytest.approx(between.area - 3 * 0.3, rel=0.02)
    assert closed.outlines.intersection(between).area == pytest.approx(between.area, rel=1e-6)
    assert [step.name for step in opened.layout.steps][-1] == "slits"
    assert with_gaps(made, "opened", 0.15).made is made


@given(st.dictionaries(st.sampled_from(sorted(BOUNDS)), st.floats(0.0, 1.0), max_size=5))
def test_what_differs_is_told_and_what_does_not_is_not(shares: dict[str, float]) -> None:
    values = {name: low + shares[name] * (high - low) for name in shares for low, high in [BOUNDS[name]]}
    values.pop("shape_amount", None)
    setting = Setting.from_table(values)
    both = setting.height_mm is not None and setting.height_mm == setting.lowest_mm
    assert len(told(AS_THE_PRODUCT, setting)) == len(setting.to_table()) - both
    assert told(setting, setting) == []


def test_words_stand_apart_by_what_is_added_and_letters_as_before() -> None:
    """Analysis: every letter after the space goes on by the share of the cap height, no other moves."""
    for text, spaces in (("AN NE", 1), ("A N N", 2)):
        plain, wide = (
            lay_out(inputs(replace(TAG, plan=plan), text, setting=setting)).layout
            for plan in [replace(TAG.plan, greatest_height_mm=4.4)]
            for setting in (AS_THE_PRODUCT, Setting(word_space=0.5))
        )
        first = {mark.cluster: mark.u_mm for mark in plain.marks}
        moved = {mark.cluster: mark.u_mm - first[mark.cluster] for mark in wide.marks}
        # Centred as before: what is added stands half on either side.
        start = moved[0]
        added = [(moved[at] - start) / 4.4 for at in sorted(moved)]
        steps = [text[:at].count(" ") * 0.5 for at in sorted(moved)]
        assert added == pytest.approx(steps, abs=1e-3)
        assert start == pytest.approx(-4.4 * 0.5 * spaces / 2.0, abs=0.01)


def order_of(laid: LaidOut) -> list[int]:
    """Characters from left to right, without spaces."""
    seen = [m.cluster for m in sorted(laid.layout.marks, key=lambda m: m.u_mm)]
    return [at for at in seen if laid.layout.text[at] != " "]


def test_a_line_of_mixed_directions_is_read_the_way_that_is_set() -> None:
    """UAX 9: with the base direction set, the same runs stand in the other order."""
    hebrew = product_from_table({**TAG_TABLE, "typeface": "noto-sans-hebrew-bold"})
    ways = {}
    for way in ("", "left to right", "right to left"):
        ways[way] = order_of(lay_out(inputs(hebrew, "אב 12 גד", setting=Setting(direction=way))))
    assert ways[""] == ways["right to left"]
    # Letters from right to left in both; digits from left to right; words in the order of the line.
    assert ways["right to left"] == [7, 6, 3, 4, 1, 0]
    latin_first = {}
    for way in ("left to right", "right to left"):
        latin_first[way] = order_of(lay_out(inputs(hebrew, "12 אב", setting=Setting(direction=way))))
    assert latin_first == {"left to right": [0, 1, 4, 3], "right to left": [4, 3, 0, 1]}


def test_from_top_to_bottom_each_letter_stands_below_the_one_before() -> None:
    made = lay_out(inputs(TAG, "ANE", setting=Setting(direction="top to bottom")))
    feet = [mark.v_mm for mark in sorted(made.layout.marks, key=lambda m: m.cluster)]
    assert feet == sorted(feet, reverse=True) and len(set(feet)) == 3


def test_a_thicker_blank_is_heavier_by_its_plate_alone() -> None:
    """Analysis: the floor and the letters are as deep as before, so the volume grows with the outline."""
    thin, thick = (make_piece(inputs(TAG, "Ann", setting=s)) for s in (AS_THE_PRODUCT, Setting(body_mm=4.0)))
    assert thin.solid is not None and thick.solid is not None
    face = TAG.blank_for(None).areas[1].outline.area - math.pi * 2.5**2
    assert thick.solid.volume_mm3 - thin.solid.volume_mm3 == pytest.approx(face * 1.0, rel=0.01)


def test_a_wider_band_and_another_size_are_those_that_are_made() -> None:
    size = parse_ring_size("54", default=SizeSystem.ISO)
    base = replace(inputs(RING, "Ann"), size=size)
    wide = replace(base, setting=Setting(band_mm=9.0, size="US 8")).as_set
    assert wide.product.blank.width_mm == 9.0
    assert wide.size == parse_ring_size("US 8", default=SizeSystem.ISO)
    # What has no sizes and no band is as it was.
    other = replace(inputs(TAG, "Ann"), setting=Setting(band_mm=9.0, size="US 8")).as_set
    assert (other.size, other.product.blank) == (None, TAG.blank)


@pytest.mark.parametrize(
    ("setting", "of", "says"),
    [
        (Setting(size="eleventeen"), RING, "ring size"),
        (Setting(size="ISO 540"), RING, "Size"),
        (Setting(body_mm=0.3), product_from_table(
            {**RING_TABLE, "blank": {**RING_TABLE["blank"], "outer": "domed", "rise_mm": 0.4}}), "no such blank"),
    ],
)  # fmt: skip
def test_what_can_not_be_is_refused_and_where_it_stands_already_the_piece_is_held(
    setting: Setting, of: Product, says: str
) -> None:
    size = parse_ring_size("54", default=SizeSystem.ISO)
    with pytest.raises(AdjustmentError, match=says):
        setting.size_of(setting.on(of), size)
    # A product may have changed since: one line never stops a list.
    made = make_piece(replace(inputs(of, "Ann"), setting=setting, size=size))
    assert made.stage == "held" and made.laid_out.inputs.size == size
    assert any(says in f.message for f in made.findings if f.code == "wording-settled")
    assert made.fingerprint != make_piece(inputs(of, "Ann")).fingerprint


@pytest.mark.parametrize(
    ("hairline_mm", "stroke_mm", "stem", "hairline"),
    [(0.6, 0.58, 0.94, 0.6), (0.6, 0.2, 0.97, 0.57), (0.36, 0.2, 0.94, 0.36)],
    ids=["nothing to spare", "both give", "a stem more than twice as wide"],
)
def test_a_slit_is_opened_from_both_sides_or_from_the_sturdier_one(
    hairline_mm: float, stroke_mm: float, stem: float, hairline: float
) -> None:
    """A finer stroke and a stem of 1 mm, 0.24 mm apart, joined at one end."""
    top = 1.24 + hairline_mm
    comb = shapely.union_all(
        [shapely.box(0, 0, 6, 1), shapely.box(0, 1.24, 6, top), shapely.box(0, 0, 1, top)]
    )
    made = drawn(shapely.MultiPolygon([comb]), TAG.treatment)
    part = Added(kind="bridge", outline=made.outlines)
    made = replace(made, layout=replace(made.layout, added=(part,)))
    cut = shapely.LineString([(3.5, -1), (3.5, 3)])
    changed = with_gaps(made, "opened", 0.3, stroke_mm=stroke_mm).made
    lower, upper = sorted(
        shapely.get_parts(cut.intersection(changed.outlines)), key=lambda one: one.bounds[1]
    )
    assert lower.length == pytest.approx(stem, abs=0.01)
    assert upper.length == pytest.approx(hairline, abs=0.006)
    assert upper.bounds[1] - lower.bounds[3] >= 0.3

"""The ordered steps of a fit plan: which are taken, how far, what each gives up, and what is given back."""

from __future__ import annotations

import dataclasses
import itertools
from typing import Any

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from kizami.blanks.area import Area
from kizami.lettering.fit_plan import HEIGHT_STEP_MM, FitPlan, Step, check_fit_plan
from kizami.lettering.fitting import Request, fit
from kizami.lettering.layout import Layout
from kizami.lettering.line_breaks import best_breaks
from kizami.lettering.shipped import shipped_typeface
from kizami.lettering.typeface import PLAIN
from kizami.surfaces.plane import Plane

FACE = shipped_typeface("noto-sans")
BOLD = shipped_typeface("noto-sans-bold")
ALL = (Step.TIGHTEN, Step.LOWER, Step.CONDENSE, Step.BREAK, Step.LEAVE_OUT, Step.BOLDER)


def plate(width: float, height: float) -> Area:
    return Area(
        name="plate",
        surface=Plane(),
        outline=shapely.box(0, 0, width, height),
        keep_outs=(),
        anchor=(width / 2, height / 2),
        wall_mm=3,
    )


def plan(*steps: Step, **values: Any) -> FitPlan:
    usual: dict[str, Any] = {
        "greatest_height_mm": 8.0, "lowest_height_mm": 4.0, "clearance_mm": 1.0, "tracking": 0.1,
        "tightest": 0.0, "narrowest": 0.8, "most_lines": 3, "bolder_lowest_height_mm": 2.0,
    }  # fmt: skip
    return FitPlan(**{**usual, **values, "steps": steps})


def set_on(area: Area, text: str, tried: FitPlan, **request: Any) -> Layout:
    asked = Request(text=text, typeface=FACE, **request)
    return fit(asked, area=area, plan=tried, sagitta_mm=0.005)


def names(layout: Layout) -> list[str]:
    return [step.name for step in layout.steps]


def natural_width(text: str, height: float = 8.0, tracking: float = 0.1) -> float:
    """Width at a height, from a fit on a plate where nothing has to give."""
    layout = set_on(plate(900, 90), text, plan(greatest_height_mm=height, tracking=tracking, tightest=0.0))
    low, _, high, _ = layout.ink_bounds
    return high - low


def test_where_there_is_room_no_step_is_taken() -> None:
    layout = set_on(plate(200, 30), "Ottoline", plan(*ALL))
    assert names(layout) == ["natural size"]
    assert layout.height_mm == 8.0


def test_a_product_s_own_height_is_met_even_between_two_steps() -> None:
    """0.60 in: 15.24 mm."""
    layout = set_on(plate(200, 30), "Ng", plan(greatest_height_mm=15.24, lowest_height_mm=15.24))
    assert (layout.height_mm, layout.fits, names(layout)) == (15.24, True, ["natural size"])


def test_spacing_gives_way_before_height_and_only_as_far_as_needed() -> None:
    """Eight letters have seven gaps: each gives exactly what is missing, rounded up to a rung of 0.01."""
    width = natural_width("Ottoline")
    layout = set_on(plate(width - 2.0 + 2.0, 30), "Ottoline", plan(Step.TIGHTEN, Step.LOWER))
    assert names(layout) == ["natural size", "tighten"]
    assert layout.height_mm == 8.0
    low, _, high, _ = layout.ink_bounds
    # 2 mm are missing; one rung is 0.01 x 8 mm x 7 gaps = 0.56 mm.
    assert width - 2.0 - 0.56 <= high - low <= width - 2.0 + 1e-6


def test_height_gives_way_when_spacing_is_at_its_bound() -> None:
    tightest = natural_width("Ottoline", tracking=0.0)
    layout = set_on(plate(tightest * 0.8 + 2.0, 30), "Ottoline", plan(Step.TIGHTEN, Step.LOWER))
    assert names(layout) == ["natural size", "tighten", "lower"]
    low, _, high, _ = layout.ink_bounds
    assert tightest * 0.8 * (1 - HEIGHT_STEP_MM / layout.height_mm) <= high - low <= tightest * 0.8 + 1e-6


def test_width_gives_way_last_and_never_below_its_bound() -> None:
    lowest = natural_width("Ottoline", height=4.0)
    tried = plan(Step.LOWER, Step.CONDENSE)
    condensed = set_on(plate(lowest * 0.9 + 2.0, 30), "Ottoline", tried)
    assert names(condensed) == ["natural size", "lower", "condense"]
    assert condensed.height_mm == 4.0
    low, _, high, _ = condensed.ink_bounds
    assert 0.89 * lowest < high - low <= 0.9 * lowest + 1e-6
    held = set_on(plate(lowest * 0.7 + 2.0, 30), "Ottoline", tried)
    assert names(held)[-1] == "hold"
    assert held.height_mm < 4.0


def test_what_a_later_step_makes_needless_is_given_back() -> None:
    """Tightened to the bound and then lowered a whole step, some of the spacing is not needed any more."""
    tightest = natural_width("Ottoline", tracking=0.0)
    layout = set_on(plate(tightest + 2.0 - 0.05, 30), "Ottoline", plan(Step.TIGHTEN, Step.LOWER))
    low, _, high, _ = layout.ink_bounds
    # The next rung of spacing, 0.01 of the height in seven gaps, would not have fitted.
    assert high - low + 0.01 * layout.height_mm * 7 > tightest - 0.05


@pytest.mark.parametrize("missing", list(ALL))
def test_a_step_that_the_plan_does_not_list_is_never_taken(missing: Step) -> None:
    tried = plan(*(step for step in ALL if step is not missing))
    for width in (30, 45, 60, 90):
        layout = set_on(
            plate(width, 14), "Ottoline & Bartholomew", tried, second="1987", joint=" ", bolder=BOLD
        )
        taken = names(layout)
        if missing is Step.LOWER:
            # A bolder cut may always be smaller; what is held tells the height that would fit.
            assert "lower" not in taken or "bolder" in taken or taken[-1] == "hold"
        else:
            assert missing.value not in taken


def test_a_plan_that_may_not_lower_holds_what_is_too_long_for_its_one_height() -> None:
    layout = set_on(plate(natural_width("Ottoline") + 1.0, 14), "Ottoline", plan(Step.BREAK))
    assert names(layout) == ["natural size", "lower", "hold"]
    assert layout.lowest_height_mm == 8.0 > layout.height_mm


def test_lines_are_broken_before_anything_is_left_out_when_the_plan_says_so() -> None:
    area = plate(natural_width("Bartholomew", height=5.0) + 2.0, 30)
    tried = plan(Step.LOWER, Step.BREAK, Step.LEAVE_OUT)
    layout = set_on(area, "Ottoline Bartholomew", tried, second="1987", joint=" ")
    assert "break" in names(layout) and "leave out" not in names(layout)
    assert "1987" in layout.text
    other = dataclasses.replace(tried, steps=(Step.LEAVE_OUT, Step.LOWER, Step.BREAK))
    assert "1987" not in set_on(plate(60, 30), "Ottoline Bartholomew", other, second="1987", joint=" ").text


def test_the_second_part_is_left_out_only_when_there_is_no_room() -> None:
    tried = plan(Step.LOWER, Step.LEAVE_OUT)
    wide = set_on(plate(120, 20), "Ottoline", tried, second="1987", joint=" · ")
    narrow = set_on(plate(30, 20), "Ottoline", tried, second="1987", joint=" · ")
    assert (wide.text, narrow.text) == ("Ottoline · 1987", "Ottoline")
    assert "1987" in next(s.said for s in narrow.steps if s.name == "leave out")


def test_a_bolder_cut_may_be_smaller_and_is_tried_last() -> None:
    narrow = plate(natural_width("Ottoline", height=3.0) + 2.0, 20)
    layout = set_on(narrow, "Ottoline", plan(Step.LOWER, Step.BOLDER), bolder=BOLD)
    assert names(layout)[:2] == ["natural size", "bolder"]
    assert layout.marks[0].source is BOLD
    assert 2.0 <= layout.height_mm < 4.0
    assert layout.lowest_height_mm == 2.0


def test_a_missing_character_is_no_trouble_when_a_later_step_does_without_it() -> None:
    layout = set_on(plate(120, 20), "Ana", plan(Step.LOWER, Step.LEAVE_OUT), second="🙂", joint=" ")
    assert layout.text == "Ana" and not layout.missing


@pytest.mark.parametrize(("text", "size"), [("Ng", 21.0), ("Ottoline", 33.0), ("gypsy", 17.5)])
def test_an_exact_overall_measure_is_met(text: str, size: float) -> None:
    for measure, low, high in (("exact_width_mm", 0, 2), ("exact_height_mm", 1, 3)):
        fixed = plan(**{measure: size}, greatest_height_mm=60.0, lowest_height_mm=2.0, tracking=0.0)
        layout = set_on(plate(300, 80), text, fixed)
        assert layout.fits
        # The outlines of the final height may be finer than those it was found with.
        assert layout.ink_bounds[high] - layout.ink_bounds[low] == pytest.approx(size, abs=0.01)


def test_an_exact_measure_out_of_bounds_is_held() -> None:
    layout = set_on(plate(300, 80), "Ng", plan(exact_width_mm=100.0))
    assert not layout.fits and names(layout)[-1] == "hold"


@pytest.mark.parametrize(
    ("values", "says"),
    [
        ({"lowest_height_mm": 9.0}, "lowest_height_mm"),
        ({"steps": (Step.LOWER, Step.LOWER)}, "twice"),
        ({"steps": (Step.TIGHTEN,), "tightest": 0.2}, "tightest"),
        ({"steps": (Step.BREAK,), "most_lines": 1}, "most_lines"),
        ({"steps": (Step.CONDENSE,), "narrowest": 1.0}, "narrowest"),
        ({"steps": (Step.BOLDER,), "bolder_lowest_height_mm": 0.0}, "bolder_lowest_height_mm"),
        ({"exact_width_mm": 5.0, "exact_height_mm": 5.0}, "can't both"),
        ({}, ""),
    ],
)
def test_plans_that_contradict_themselves(values: dict[str, Any], says: str) -> None:
    wrong = check_fit_plan(dataclasses.replace(plan(*ALL), **values))
    assert says in wrong and bool(wrong) == bool(says)


@settings(max_examples=20, deadline=None)
@given(
    st.text(st.sampled_from("abdegilmnorstyABEHMRW -'"), min_size=1, max_size=22).filter(str.strip),
    st.floats(8, 90),
    st.floats(6, 40),
)
def test_whatever_the_plan_does_the_clearance_is_kept_or_the_piece_is_held(
    text: str, width: float, height: float
) -> None:
    area, tried = plate(width, height), plan(*ALL)
    layout = set_on(area, text, tried, second="1987", joint=" ", bolder=BOLD)
    if layout.is_empty:
        return
    inside = shapely.covers(area.clear_region(1.0).buffer(1e-3), layout.outlines)
    assert inside == layout.fits
    lowest = layout.lowest_height_mm
    assert (names(layout)[-1] == "hold") == (not layout.fits or layout.height_mm < lowest - 1e-9)
    assert layout.height_mm <= tried.greatest_height_mm


@pytest.mark.parametrize(
    ("text", "count", "lines"),
    [
        ("ONE TWO", 2, ["ONE", "TWO"]),
        ("AA BB CC DD", 2, ["AA BB", "CC DD"]),
        ("A BBBBBBBB C", 2, ["A", "BBBBBBBB C"]),
        ("Anna-Maria", 2, ["Anna-", "Maria"]),
        ("Rose & Thorn", 2, ["Rose &", "Thorn"]),
        ("one two three", 3, ["one", "two", "three"]),
        ("Wilhelmina", 2, None),
        ("", 2, None),
        ("x " * 41, 2, None),
    ],
)
def test_lines_break_where_the_widest_is_narrowest(text: str, count: int, lines: list[str] | None) -> None:
    broken = best_breaks(text, count, FACE, PLAIN)
    assert (None if broken is None else [line for _, line in broken]) == lines
    for start, line in broken or ():
        assert text[start : start + len(line)] == line


@settings(max_examples=60, deadline=None)
@given(
    st.lists(st.text(st.sampled_from("abil"), min_size=1, max_size=6), min_size=2, max_size=8),
    st.integers(2, 4),
)
def test_no_other_breaking_has_a_narrower_widest_line(words: list[str], count: int) -> None:
    text = " ".join(words)
    broken = best_breaks(text, count, FACE, PLAIN)
    if len(words) < count:
        assert broken is None
        return
    assert broken is not None and " ".join(line for _, line in broken) == text

    def width(line: str) -> float:
        return max(g.x for g in FACE.shape(line + "|"))

    others = (
        max(width(" ".join(words[a:b])) for a, b in itertools.pairwise((0, *cuts, len(words))))
        for cuts in itertools.combinations(range(1, len(words)), count - 1)
    )
    assert max(width(line) for _, line in broken) <= min(others) + 1e-6


def test_who_asks_for_a_typeface_is_never_given_another_one_in_its_place() -> None:
    """A sturdier family may stand for the product's own typeface; for one that was asked for only its own
    bolder cut may."""
    from kizami.pieces.laying_out import lay_out
    from kizami.products.product import Word
    from tests.kizami.samples import TAG_TABLE, inputs, product

    table = {**TAG_TABLE, "typeface": "great-vibes", "typefaces": ["sacramento", "vollkorn"]}
    fit = {
        "greatest_height_mm": 11.0, "lowest_height_mm": 3.0, "steps": ["lower", "bolder"], "bolder_lowest_height_mm": 3.0,
    }  # fmt: skip
    which = product(table, fit=fit)

    def face_of(asked: str) -> str:
        chosen = which.chosen({Word.TYPEFACE: asked}) if asked else which
        return lay_out(inputs(chosen, "Wilhelmina")).layout.marks[0].source.name

    assert face_of("") == "Pacifico"
    assert face_of("sacramento") == "Sacramento"
    assert face_of("vollkorn") == "Vollkorn Bold"


@pytest.mark.parametrize(
    ("text", "count", "lines"),
    [
        # UAX 14: no line begins with a small kana (CJ, strictly taken), a closing bracket or a full stop.
        pytest.param("東京「ちゃん」", 2, ("東京", "「ちゃん」"), id="brackets stay with what they hold"),
        pytest.param("Anne-Marie", 2, ("Anne-", "Marie"), id="after a hyphen"),
        pytest.param("04/05/2026", 2, None, id="a date is one word"),
        pytest.param("Ana · Tom", 2, ("Ana ·", "Tom"), id="a dot between names ends a line"),
    ],
)
def test_breaks_are_those_of_the_unicode_algorithm(
    text: str, count: int, lines: tuple[str, ...] | None
) -> None:
    face = shipped_typeface("m-plus-rounded-bold")
    broken = best_breaks(text, count, face, PLAIN)
    assert (broken and tuple(line for _, line in broken)) == lines

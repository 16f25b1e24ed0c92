"""Single kinds of remedies, each on a piece that it cures: other lines, other cuts, joined letters, repeats."""

from __future__ import annotations

from dataclasses import replace

import pytest

from kizami.checks.finding import Level
from kizami.lettering.fit_plan import FitPlan, Step
from kizami.lettering.round_about import Spread
from kizami.pieces.inputs import Inputs
from kizami.pieces.make import Made, make_piece
from kizami.products.product import Product
from kizami.remedies.departing import departure_parts
from kizami.remedies.search import Offered, search_remedies
from kizami.setting.setting import Setting
from tests.kizami.remedies.test_search import LONG, failing, held, of_the_demo, with_its_slits
from tests.kizami.samples import RING, TAG, inputs


def cures_of(base: Inputs, *fields: str) -> tuple[Made, Offered]:
    """What cures a piece with nothing but these values."""
    made = held(base)
    return made, search_remedies(base, made, seconds=LONG, may_change=frozenset(fields))


def parts_of(base: Inputs, setting: Setting) -> dict[str, float]:
    made = make_piece(replace(base, setting=setting))
    assert made.stage == "ready"
    return departure_parts(base, made.laid_out)


def test_fewer_lines_cure_what_is_too_high_and_the_customer_is_asked() -> None:
    base = of_the_demo("HIVE-PLATE", "Bo\nIda\nJo")
    made, found = cures_of(base, "breaks")
    assert "lowest-height" in failing(made)
    first = found.cures[0]
    assert first.made.laid_out.layout.text.count("\n") < 2
    assert "Bo / Ida / Jo" in first.asks[0]
    # Two lines less, and broken elsewhere.
    lines = first.made.laid_out.layout.text.count("\n")
    assert parts_of(base, first.setting)["broken elsewhere"] == pytest.approx(0.15 + 0.3 * (2 - lines))


def test_a_better_break_cures_what_the_narrowest_one_does_not() -> None:
    base = of_the_demo("HIVE-PLATE", "Ng Ýr Ann")
    _, found = cures_of(base, "breaks")
    first = found.cures[0]
    assert first.setting == Setting(breaks="1 2")
    # Nobody wrote the lines, so nobody is asked.
    assert first.asks == () and first.said == ("broken into lines of 1 and 2 words",)


def test_a_heavier_cut_of_its_own_family_comes_before_any_other_typeface() -> None:
    base = inputs(replace(RING, typeface="noto-sans"), "Ottoline")
    made, found = cures_of(base, "typeface")
    assert "stroke-width" in failing(made)
    assert found.cures[0].setting.typeface == "noto-sans-bold"
    assert parts_of(base, found.cures[0].setting)["typeface"] == pytest.approx(0.4)


def test_a_lighter_cut_opens_what_the_bold_one_closes() -> None:
    base = of_the_demo("CHOIR-RING", "Éric Clément")
    made, found = cures_of(base, "typeface")
    assert failing(made) <= {"gap-width", "middle-width"}
    assert base.product.typeface == "noto-sans-bold"
    assert "noto-sans" in [remedy.setting.typeface for remedy in found.cures]


def test_letters_drawn_further_into_each_other_hold() -> None:
    base = with_its_slits(of_the_demo("HERON-CHAIN", "Yaşar"))
    _, found = cures_of(base, "overlap_mm")
    setting = found.cures[0].setting
    assert setting.overlap_mm is not None and setting.overlap_mm > base.product.soundness.overlap_mm
    assert parts_of(base, setting)["letters joined"] > 0.0


#: Once around this band its letters stand too far apart, twice they have no room at their only height.
ONE_HEIGHT = FitPlan(greatest_height_mm=4.0, lowest_height_mm=4.0, clearance_mm=0.7, steps=(Step.LEAVE_OUT,))


def spread(widest_gap: float, plan: FitPlan = ONE_HEIGHT) -> Product:
    turn = Spread(separator=" · ", widest_gap=widest_gap)
    band = replace(RING.blank, seam_mm=0.0)  # type: ignore[type-var]
    return replace(RING, blank=band, plan=plan, arrangement=replace(RING.arrangement, turn=turn))


def test_wording_that_does_not_fill_its_turn_is_held_and_repeated() -> None:
    base = inputs(spread(0.2), "HILLTOPPIN")
    made, found = cures_of(base, "times", "narrowest")
    assert failing(made) == {"letters-apart"}
    gap = next(f for f in made.findings if f.code == "letters-apart")
    assert gap.limit == pytest.approx(0.2 * 4.0) and gap.measured > gap.limit
    first = found.cures[0]
    layout = first.made.laid_out.layout
    assert first.setting.times == 2 and layout.times == 2 and layout.width < 1.0
    assert len([m for m in layout.marks if m.cluster == 0]) == 2
    # To let it end, so that some of the turn stays bare, is further from what the product intended.
    _, ending = cures_of(base, "times")
    assert ending.cures[0].setting.times == 1 and ending.cures[0].cost > first.cost


@pytest.mark.parametrize(("widest", "level"), [(1.001, Level.PASSES), (0.999, Level.FAILS)])
def test_letters_may_stand_apart_by_just_the_widest_gap(widest: float, level: Level) -> None:
    """By analysis: what is left of the turn, shared by its gaps."""
    made = make_piece(inputs(spread(9.0), "Bartholomew"))
    gap = made.laid_out.layout.turn_gap
    assert gap is not None
    again = make_piece(inputs(spread(gap * widest), "Bartholomew"))
    assert next(f.level for f in again.findings if f.code == "letters-apart") is level


def test_wording_that_stands_once_has_nothing_to_fill() -> None:
    for base in (inputs(TAG, "Owen"), inputs(RING, "Ida")):
        assert "letters-apart" not in {f.code for f in make_piece(base).findings}

"""Remedies: what is said to cure does, what is undone leaves nothing, and the cheapest stands first."""

from __future__ import annotations

from dataclasses import replace

import pytest

from kizami.checks.finding import Level
from kizami.cli import catalogue_at
from kizami.pieces.inputs import Inputs, fingerprint
from kizami.pieces.make import Made, make_piece
from kizami.remedies.moves import moves_for
from kizami.remedies.remedy import Patient, departure, moved_between
from kizami.remedies.search import search_remedies
from kizami.setting.setting import AS_THE_PRODUCT, Setting
from launch.state import REPOSITORY
from tests.kizami.samples import TAG, inputs

LONG = 30.0


def held(base: Inputs, setting: Setting = AS_THE_PRODUCT) -> tuple[Patient, Made]:
    patient = Patient(base=base, setting=setting)
    made = make_piece(patient.inputs())
    assert made.stage == "held"
    return patient, made


def of_the_demo(code: str, wording: str) -> Inputs:
    product = catalogue_at(REPOSITORY / "demo" / "products.toml").find(code)
    assert product is not None
    return Inputs(product=product, wording=wording, size=None)


CURABLE = [
    ("GATE-TAG", "ITM", "standing-thickness"),
    ("GATE-TAG", "WWM", "departure"),
    ("GUEST-PLATE", "Oystercatcher", "lowest-height"),
]


@pytest.mark.parametrize(("code", "wording", "fails"), CURABLE, ids=[row[1] for row in CURABLE])
def test_what_is_said_to_cure_does_and_the_cheapest_stands_first(code: str, wording: str, fails: str) -> None:
    patient, made = held(of_the_demo(code, wording))
    assert fails in {f.code for f in made.findings if f.level is Level.FAILS}
    found = search_remedies(patient, made, seconds=LONG)
    assert found.cures and found.nearest is None
    for remedy in found.cures:
        # Made anew from the setting alone, as it is when somebody takes it.
        again = make_piece(patient.inputs(Setting.from_table(remedy.setting.to_table())))
        assert again.stage == "ready" and again.fingerprint == remedy.made.fingerprint
        assert remedy.said and remedy.cost == departure(remedy.setting, again.laid_out, patient.base)
    costs = [remedy.cost for remedy in found.cures]
    assert costs == sorted(costs)


def test_taken_and_undone_is_as_it_was() -> None:
    base = of_the_demo("GUEST-PLATE", "Oystercatcher")
    patient, made = held(base)
    remedy = search_remedies(patient, made, seconds=LONG, most=1).cures[0]
    assert fingerprint(patient.inputs(remedy.setting)) != fingerprint(base)
    assert fingerprint(patient.inputs(AS_THE_PRODUCT)) == fingerprint(base)


def test_where_one_change_is_not_enough_two_are_tried_together() -> None:
    # 58 mm wide: the name finds its height only condensed and set tighter.
    product = of_the_demo("GUEST-PLATE", "x").product
    plan = replace(product.plan, lowest_height_mm=6.4)
    patient, made = held(Inputs(product=replace(product, plan=plan), wording="Oystercatcher", size=None))
    found = search_remedies(patient, made, seconds=LONG, most=1)
    assert found.cures and len(found.cures[0].said) == 2
    assert found.cures[0].made.stage == "ready"


def test_where_nothing_cures_the_nearest_is_told_and_it_is_nearer() -> None:
    patient, made = held(of_the_demo("GUEST-PLATE", "Featherstonehaugh-Oystercatcherson"))
    found = search_remedies(patient, made, seconds=8.0)
    assert not found.cures and found.tried
    assert found.nearest is not None

    def gravest(piece: Made) -> tuple[int, float]:
        failing = [f for f in piece.findings if f.level is Level.FAILS]
        return (len(failing), max(f.weight for f in failing))

    assert found.nearest.made.stage == "held" and gravest(found.nearest.made) < gravest(made)


@pytest.mark.parametrize(
    "base",
    [inputs(TAG, "Owen"), replace(inputs(TAG, "Owen"), open_question="Which day is meant?"), inputs(TAG, "")],
    ids=["ready", "a question", "nothing"],
)
def test_what_no_setting_can_cure_is_offered_none(base: Inputs) -> None:
    patient = Patient(base=base, setting=AS_THE_PRODUCT)
    found = search_remedies(patient, make_piece(base), seconds=LONG)
    assert not found.cures and found.nearest is None


def test_time_ends_the_search() -> None:
    patient, made = held(of_the_demo("GUEST-PLATE", "Oystercatcher"))
    ended = search_remedies(patient, made, seconds=0.0)
    assert ended.tried == 0 and not ended.is_over, "nothing is said to be incurable that was not tried"


def test_changes_are_asked_of_every_way_in_turn() -> None:
    patient, made = held(of_the_demo("GUEST-PLATE", "Oystercatcher"))
    kinds = [move.kind for move in moves_for(patient, made)]
    assert kinds[:2] == ["tracking", "narrowest"]
    assert len(kinds) == len({move.said for move in moves_for(patient, made)})


def test_a_change_leaves_what_is_set_already() -> None:
    setting = Setting(thicken_by_mm=0.02, finish="satin")
    patient, made = held(of_the_demo("GUEST-PLATE", "Oystercatcher"), setting)
    for move in moves_for(patient, made):
        changed = move.change(setting)
        assert changed.finish == "satin" and changed != setting


def test_departure_grows_with_what_is_changed() -> None:
    base = inputs(TAG, "Owen")
    laid = make_piece(base).laid_out
    assert departure(AS_THE_PRODUCT, laid, base) == pytest.approx(0.0, abs=0.2)
    by = [departure(Setting(tracking=TAG.plan.tracking + t), laid, base) for t in (0.0, 0.03, 0.1, 0.2)]
    assert by == sorted(by) and by[0] < by[-1]


def test_measures_that_move_are_told_nearer_ones_first() -> None:
    patient, made = held(of_the_demo("GATE-TAG", "WWM"))
    after = make_piece(patient.inputs(Setting(typeface="vollkorn-bold")))
    moved = moved_between(made.findings, after.findings)
    assert moved[0].cured and moved[0].title == "Departure from the drawn letter"
    ranks = [(not row.cured, not row.nearer) for row in moved]
    assert ranks == sorted(ranks)
    assert moved_between(made.findings, made.findings) == ()

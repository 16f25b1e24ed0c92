"""Sets share the height of the member that is hardest to fit; a second part goes when there is no room."""

from __future__ import annotations

import dataclasses

import pytest

from kizami.pieces.batch import resolve_list
from kizami.pieces.inputs import fingerprint
from kizami.pieces.laying_out import lay_out
from kizami.pieces.make import make_piece
from kizami.pieces.sets import set_height_mm, with_set_heights
from kizami.products.product import Catalogue
from kizami.products.product_file import product_from_table
from tests.kizami.samples import TAG, TAG_TABLE, inputs

CATALOGUE = Catalogue(products={"tag": TAG})


def test_a_crew_shares_the_lowest_height_that_fits() -> None:
    crew = [inputs(TAG, name) for name in ("Ng", "Halloran", "Papadopoulos")]
    alone = [lay_out(member).layout.height_mm for member in crew]
    shared = set_height_mm(crew)
    assert shared == min(alone) and len(set(alone)) > 1
    together = [lay_out(dataclasses.replace(m, height_cap_mm=shared)).layout.height_mm for m in crew]
    assert together == [shared] * 3


def test_a_member_that_is_held_anyway_does_not_drag_the_others_down() -> None:
    crew = [inputs(TAG, name) for name in ("Ng", "Halloran", "Featherstonehaugh-Winterbourne", "⚓")]
    assert set_height_mm(crew) == set_height_mm(crew[:2])
    assert set_height_mm([crew[2], crew[3]]) is None
    assert set_height_mm(crew[:1]) is None
    assert set_height_mm([]) is None


def test_sets_of_a_list_are_found_by_order_name_and_product() -> None:
    data = (
        b"order,line,product,wording,set\n"
        b"A,1,TAG,Ng,crew\nA,2,TAG,Halloran,Crew\nA,3,TAG,Papadopoulos,\nB,1,TAG,Featherstone,crew\n"
    )
    lines = with_set_heights(resolve_list(data, CATALOGUE)[0])
    heights = [line.inputs.height_cap_mm for line in lines]
    assert heights[0] == heights[1] is not None
    assert heights[2:] == [None, None]
    assert [line.row.line for line in lines] == ["1", "2", "3", "1"]


def test_another_shared_height_is_another_piece() -> None:
    plain = inputs(TAG, "Ng")
    assert fingerprint(plain) != fingerprint(dataclasses.replace(plain, height_cap_mm=5.0))


def test_a_shared_height_never_goes_below_the_lowest() -> None:
    low = dataclasses.replace(inputs(TAG, "Ng"), height_cap_mm=1.0)
    assert lay_out(low).layout.height_mm == TAG.plan.lowest_height_mm


JOINED = product_from_table({**TAG_TABLE, "wording": {"second_after": " · "}})


@pytest.mark.parametrize(
    ("first", "second", "text"),
    [
        ("Ng", "2026", "Ng · 2026"),
        ("Papadopoulos", "Engine room and galley", "Papadopoulos"),
        ("Ng", "⚓", "Ng"),
        ("Ng", "", "Ng"),
    ],
    ids=["both fit", "no room", "second has no glyph", "no second"],
)
def test_a_second_part_is_set_when_there_is_room(first: str, second: str, text: str) -> None:
    laid_out = lay_out(dataclasses.replace(inputs(JOINED, first), second=second))
    assert laid_out.layout.text == text
    left_out = [s for s in laid_out.layout.steps if s.name == "leave out"]
    assert bool(left_out) == (bool(second) and second not in text)


def test_an_open_question_holds_the_piece() -> None:
    asked = dataclasses.replace(inputs(TAG, "03/04/2026"), open_question="Which day is meant?")
    made = make_piece(asked)
    assert made.stage == "held"
    assert made.findings[0].code == "wording-settled"
    assert make_piece(inputs(TAG, "03/04/2026")).stage == "ready"

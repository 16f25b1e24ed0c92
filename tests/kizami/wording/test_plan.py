"""What products ask of their wording: reduced without asking, left open, or only proposed."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kizami.errors import CatalogueError
from kizami.products.product_file import product_from_table
from kizami.wording.names import FamilyPlace
from kizami.wording.plan import WordingKind, WordingPlan
from kizami.wording.settling import settle
from tests.kizami.samples import TAG_TABLE

INITIALS = WordingPlan(kind=WordingKind.INITIALS, two_people="joined")
ASKED = WordingPlan(kind=WordingKind.INITIALS)
MONOGRAM = WordingPlan(kind=WordingKind.MONOGRAM)
DATE = WordingPlan(kind=WordingKind.DATE, date_form="04 · 05 · 26")
YEAR = WordingPlan(kind=WordingKind.YEAR)
TITLE = WordingPlan(kind=WordingKind.NAME, title_case=True)


@pytest.mark.parametrize(
    ("original", "plan", "text", "asks", "proposal"),
    [
        pytest.param("Dr. Ana Costa", INITIALS, "AC", False, "", id="a full name is reduced"),
        pytest.param("AC", INITIALS, "AC", False, "", id="initials stay"),
        pytest.param("J&T", INITIALS, "J&T", False, "", id="a couple's initials stay"),
        pytest.param("J + T", INITIALS, "J&T", False, "", id="joined with a plus"),
        pytest.param("Ana and Tom Costa", INITIALS, "A&T", False, "", id="a couple is one letter each"),
        pytest.param(
            "Ana and Tom Costa", ASKED, "Ana and Tom Costa", True, "", id="two people are asked about"
        ),
        pytest.param("J&T", ASKED, "J&T", False, "", id="two letters are clear"),
        pytest.param("Andrea Costa", INITIALS, "AC", False, "", id="an and inside a name joins nothing"),
        pytest.param("123", INITIALS, "123", True, "", id="no letters to take"),
        pytest.param("", INITIALS, "", False, "", id="nothing is no question"),
        pytest.param("n/a", INITIALS, "", False, "", id="a placeholder is nothing"),
        pytest.param("Ana Beatriz Costa", MONOGRAM, "ACB", False, "", id="family in the middle"),
        pytest.param("4 May 2026", DATE, "04 · 05 · 26", False, "", id="a date in words"),
        pytest.param("05/05/2026", DATE, "05 · 05 · 26", False, "", id="two readings that are one"),
        pytest.param("03/04/2026", DATE, "03/04/2026", True, "", id="two readings"),
        pytest.param("someday", DATE, "someday", True, "", id="no date"),
        pytest.param("03/04/2026", YEAR, "2026", False, "", id="the year is certain though the day is not"),
        pytest.param("2026", YEAR, "2026", False, "", id="a year"),
        pytest.param("MIRIAM", TITLE, "MIRIAM", False, "Miriam", id="capitals are proposed, not forced"),
        pytest.param(
            "MIRIAM", WordingPlan(), "MIRIAM", False, "", id="and not at all where they may be meant"
        ),
        pytest.param("jOHN", WordingPlan(), "jOHN", True, "John", id="a stuck shift key"),
    ],
)
def test_settling(original: str, plan: WordingPlan, text: str, asks: bool, proposal: str) -> None:
    settled = settle(original, plan)
    assert (settled.wording.text, bool(settled.open_question), settled.proposal) == (text, asks, proposal)
    assert settled.wording.original == original


def test_initials_in_scripts_without_capitals_are_taken_from_a_person_only() -> None:
    """A short name looks like initials there; from a list it is reduced, as the product promises."""
    assert settle("נח", INITIALS).wording.text == "נ"
    assert settle("נח", INITIALS, typed=True).wording.text == "נח"
    assert settle("ana", INITIALS, typed=True).wording.text == "A"


def test_a_source_that_always_writes_the_day_first_settles_it() -> None:
    plan = WordingPlan(kind=WordingKind.DATE, date_form="2026-05-04", day_first=True)
    assert settle("03/04/2026", plan).wording.text == "2026-04-03"


def test_every_step_is_on_record() -> None:
    settled = settle("  Ana &amp; Ivy Costa ", INITIALS)
    codes = [change.code for change in settled.wording.changes]
    assert codes == ["entities", "spaces", "initials"]
    assert settled.wording.changes[-1].before == "Ana & Ivy Costa"
    assert settled.wording.text == "A&I"


@given(st.text(max_size=30), st.sampled_from([INITIALS, MONOGRAM, DATE, YEAR, TITLE, WordingPlan()]))
def test_settling_what_is_settled_changes_nothing(text: str, plan: WordingPlan) -> None:
    once = settle(text, plan)
    # As a person would who presses the key again on what stands there.
    twice = settle(once.wording.text, plan, typed=True)
    if plan is DATE:
        return  # a short date may read another way
    assert twice.wording.text == once.wording.text or once.open_question


@pytest.mark.parametrize(
    ("wording", "says"),
    [
        ({"kind": "poem"}, "poem"),
        ({"family": "middle"}, "middle"),
        ({"most": 9}, "most"),
        ({"most": True}, "most"),
        ({"date_form": "someday"}, "date_form"),
        ({"colour": "red"}, "colour"),
        ("initials", "table"),
    ],
)
def test_a_wording_plan_that_cannot_be_is_refused(wording: object, says: str) -> None:
    with pytest.raises(CatalogueError, match=says):
        product_from_table({**TAG_TABLE, "wording": wording})


def test_a_wording_plan_reads_from_its_table() -> None:
    table = {"kind": "initials", "most": 2, "family": "first", "second_after": " · "}
    plan = product_from_table({**TAG_TABLE, "wording": table}).wording
    assert (plan.kind, plan.most, plan.family, plan.second_after) == (
        WordingKind.INITIALS,
        2,
        FamilyPlace.FIRST,
        " · ",
    )

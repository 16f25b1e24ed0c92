"""A product's fields: every key of its tables can be changed on its page, and what can't be is said in words."""

from __future__ import annotations

import re
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kizami.checks.finding import Level
from kizami.errors import CatalogueError, KizamiError
from kizami.lettering.shipped import shipped_typefaces
from kizami.pieces.forecast import tried
from kizami.products.lettering_tables import ArrangementTable, FitTable, SoundnessTable, WordingTable
from kizami.products.product_file import product_from_table
from kizami.products.product_tables import ProductTable
from kizami.products.starting import starting_products
from kizami.standards import shipped_standards
from workshop.catalogue.field import ProductField
from workshop.catalogue.product_fields import Known, fields_of
from workshop.catalogue.product_form import changed_table
from workshop.catalogue.telling import refusal_words, refused_at
from workshop.catalogue.trial_views import trial_shown

KINDS = starting_products()
TYPEFACES = {code: typeface.name for code, typeface in shipped_typefaces().items()}
KNOWN = Known(typefaces=TYPEFACES, standards=shipped_standards())
TAG = KINDS["TAG"]


def field(table: dict[str, Any], name: str) -> ProductField:
    return next(one for one in fields_of(table, KNOWN) if one.name == name)


@pytest.fixture(autouse=True)
def _without_a_shop(monkeypatch: pytest.MonkeyPatch) -> None:
    """Typefaces that ship are enough here, so that no test needs a database."""
    monkeypatch.setattr("workshop.catalogue.product_fields.typeface_names", lambda: TYPEFACES)
    now = shipped_standards(), frozenset[str]()
    monkeypatch.setattr("workshop.catalogue.product_fields.standards_now", lambda: now)
    monkeypatch.setattr("workshop.catalogue.product_fields.retired_typefaces", frozenset)


@pytest.mark.parametrize("kind", KINDS)
def test_every_field_has_words_of_its_own_and_a_place(kind: str) -> None:
    fields = fields_of(KINDS[kind], KNOWN)
    names = [one.name for one in fields]
    assert len(set(names)) == len(names)
    for one in fields:
        assert one.label and "_" not in one.label
        if one.is_number:
            assert one.low <= one.value <= one.high, one.name
        elif one.choices and not (one.is_several or one.is_ordered) and one.name != "typeface":
            assert one.value in dict(one.choices), one.name


@pytest.mark.parametrize("kind", KINDS)
@settings(deadline=None, max_examples=25)
@given(data=st.data())
def test_any_measure_over_all_its_bounds_is_drawn_or_refused_in_words(kind: str, data: st.DataObject) -> None:
    table = KINDS[kind]
    numbers = [one for one in fields_of(table, KNOWN) if one.is_measure]
    one = data.draw(st.sampled_from(numbers))
    value = data.draw(st.one_of(st.floats(one.low, one.high), st.sampled_from([one.low, one.high])))
    changed = changed_table(table, {one.name: f"{value:.6f}"})
    try:
        spec = product_from_table(changed)
    except CatalogueError as error:
        said = refusal_words(error)
        assert not re.search(r"[a-z]_[a-z]", said) and said[0].isupper() and said.endswith(".")
        at = refused_at(error, changed)
        assert at == "" or at in {each.name for each in fields_of(changed, KNOWN)}
        return
    shown = trial_shown(spec)
    assert shown["views"] and shown["strips"]


@settings(deadline=None, max_examples=60)
@given(data=st.data())
def test_any_choice_and_number_of_a_tag_is_a_product_or_is_refused(data: st.DataObject) -> None:
    table: dict[str, Any] = dict(TAG)
    given_: dict[str, Any] = {}
    for _ in range(data.draw(st.integers(1, 4))):
        fields = fields_of(changed_table(table, given_, with_gone=True), KNOWN)
        one = data.draw(st.sampled_from(fields))
        if one.is_several or one.is_ordered:
            given_[one.name] = data.draw(st.lists(st.sampled_from([value for value, _ in one.choices])))
        elif one.choices:
            given_[one.name] = data.draw(st.sampled_from([value for value, _ in one.choices]))
        elif one.is_number:
            given_[one.name] = f"{data.draw(st.floats(one.low, one.high)):.6f}"
    changed = changed_table(table, given_)
    try:
        spec = product_from_table(changed)
    except KizamiError as error:
        assert refusal_words(error)
        return
    laid_out = tried(spec, "Ida")
    fails = any(f.level is Level.FAILS for f in laid_out.findings)
    assert laid_out.layout.outlines.area > 0 or fails


def test_a_shape_that_becomes_an_arc_begins_with_a_usual_one_and_takes_a_radius_instead() -> None:
    arc = changed_table(TAG, {"arrangement.shape.kind": "arc"})
    assert arc["arrangement"]["shape"] == {"kind": "arc", "angle_deg": 120.0}
    given_ = {
        "arrangement.shape.kind": "arc",
        "arrangement.shape.radius_mm": "30,5",
        "arrangement.shape.angle_deg": "0",
    }
    product_from_table(changed_table(TAG, given_))
    assert changed_table(TAG, given_)["arrangement"]["shape"]["radius_mm"] == 30.5


def test_steps_keep_their_order_and_nothing_is_a_step() -> None:
    steps = field(TAG, "fit.steps")
    assert steps.value == ["lower", "break", "leave out"] and len(steps.in_order) == len(steps.choices)
    changed = changed_table(TAG, {"fit.steps": ["break", "", "lower", "break", "", ""]})
    assert changed["fit"]["steps"] == ["break", "lower"]


def test_remedies_by_itself_are_ticked_and_none_is_an_empty_list() -> None:
    ticked = changed_table(TAG, {"fit.remedies": ["", "slits", "depth"], "fit.most_departure": "0,4"})
    assert ticked["fit"]["remedies"] == ["slits", "depth"] and ticked["fit"]["most_departure"] == 0.4
    assert changed_table(ticked, {"fit.remedies": [""]})["fit"]["remedies"] == []
    assert changed_table(TAG, {"fit.remedies": [""]}) == TAG


def test_another_area_comes_as_the_wordings_own_and_goes_again() -> None:
    both = changed_table(TAG, {"also.new": "back"})
    spec = product_from_table(both)
    assert [further.area for further in spec.also] == ["back"]
    assert spec.also[0].treatment == spec.treatment
    # As a page sends it: the field that added it, and the one that takes it off.
    assert changed_table(TAG, {"also.new": "back", "also.0.carries": "gone"}) == TAG
    assert changed_table(both, {"also.0.carries": "gone"}) == TAG
    text = changed_table(both, {"also.0.carries": "fixed", "also.0.text": "Made in Wick"})
    assert product_from_table(text).also[0].text == "Made in Wick"


def test_several_are_added_before_any_is_kept() -> None:
    given_ = {"ornaments.new": ["slot", "", "oval", "slot"]}
    kinds = [row["kind"] for row in changed_table(TAG, given_)["ornaments"]]
    assert kinds == ["slot", "oval", "slot"]
    # There is one second wording; whatever comes after it begins with a text of its own.
    band = changed_table(KINDS["BAND"], {"also.new": ["inside", "outside"]})
    areas = [row["area"] for row in band.get("also", [])]
    assert len(areas) == len(set(areas))
    many = changed_table(TAG, {"also.new": ["back", "back", "back"]})
    assert [row["area"] for row in many["also"]] == ["back"]
    second = changed_table(TAG, {"wording.second_after": " · ", "also.new": ["back"]})
    assert second["also"][0]["carries"] == "second wording"
    after = changed_table(
        {**TAG, "wording": {"kind": "as written", "second_after": " · "}}, {"also.new": ["back"]}
    )
    assert after["also"][0]["carries"] == "fixed" and product_from_table(after).also[0].text
    assert len(changed_table(TAG, {"ornaments.new": ["slot"] * 400})["ornaments"]) == 12


def test_a_row_that_is_taken_off_keeps_the_places_of_the_others() -> None:
    two = changed_table(TAG, {"ornaments.new": "border"})
    two = changed_table(two, {"ornaments.new": "slot"})
    given_ = {"ornaments.0.kind": "gone", "ornaments.1.length_mm": "12"}
    assert changed_table(two, given_)["ornaments"] == [{"kind": "slot", "length_mm": 12.0, "height_mm": 1.2}]
    names = [one.name for one in fields_of(changed_table(two, given_, with_gone=True), KNOWN)]
    assert (
        "ornaments.0.kind" in names
        and "ornaments.0.inset_mm" not in names
        and "ornaments.1.length_mm" in names
    )


@pytest.mark.parametrize(
    ("given_", "at"),
    [
        ({"blank.corner_mm": "20"}, "blank.corner_mm"),
        ({"fit.lowest_height_mm": "40"}, "fit.lowest_height_mm"),
        ({"treatment.depth_mm": "90"}, "treatment.depth_mm"),
        ({"blank.tray_mm": "2", "blank.rim_mm": "14"}, "blank.rim_mm"),
    ],
)
def test_a_refusal_names_the_field_that_it_speaks_of(given_: dict[str, str], at: str) -> None:
    with pytest.raises(CatalogueError) as refused:
        product_from_table(changed_table(TAG, given_))
    assert refused_at(refused.value, TAG) == at


@pytest.mark.parametrize(
    ("kind", "given_", "filled"),
    [
        ("STENCIL", {"blank.hang": "ear top", "blank.hole_mm": "0"}, {"hole_mm": 3.0, "web_mm": 1.8}),
        ("BAND", {"blank.outer": "channel"}, {"rise_mm": 0.4, "rim_mm": 1.0}),
        ("BAND", {"blank.inner": "comfort", "blank.ease_mm": "0,35"}, {"ease_mm": 0.35}),
        ("TAG", {"blank.tray_mm": "1"}, {"rim_mm": 2.0}),
    ],
)
def test_a_word_that_asks_for_a_measure_brings_a_usual_one(
    kind: str, given_: dict[str, str], filled: dict[str, float]
) -> None:
    changed = changed_table(KINDS[kind], given_)
    assert {key: changed["blank"][key] for key in filled} == filled
    product_from_table(changed)


@pytest.mark.parametrize("kind", KINDS)
def test_every_key_of_a_products_tables_has_a_field_but_what_is_drawn_in_the_file(kind: str) -> None:
    """So that a key which is new in the core is not forgotten on the page."""
    names = {one.name for one in fields_of(KINDS[kind], KNOWN)}
    tables = {
        "fit": FitTable,
        "wording": WordingTable,
        "arrangement": ArrangementTable,
        "soundness": SoundnessTable,
    }
    missing = {
        f"{prefix}.{key}"
        for prefix, table in tables.items()
        for key in table.model_fields
        if f"{prefix}.{key}" not in names and key not in ("shape", "turn")
    }
    # Those that only a date and a place have.
    assert missing <= {"wording.day_first", "wording.decimals"}
    own = (
        set(ProductTable.model_fields)
        - names
        - {*tables, "blank", "treatment", "also", "ornaments", "limits"}
    )
    assert own - {"area", "size_system"} == {"code", "colours"} and "colours.two" in names


def test_two_colours_come_together_and_go_together() -> None:
    assert "colours.body" not in {one.name for one in fields_of(TAG, KNOWN)}
    two = changed_table(TAG, {"colours.two": "yes"})
    assert set(two["colours"]) == {"body", "lettering"} and field(two, "colours.body").is_colour
    # As a page sends it when both are there already.
    red = changed_table(two, {"colours.two": "yes", "colours.body": "#C0341D"})
    assert red["colours"] == {**two["colours"], "body": "#c0341d"}
    assert product_from_table(red).body_colour == "#c0341d"
    assert changed_table(red, {"colours.two": "no", "colours.body": "#C0341D"}) == TAG
    with pytest.raises(CatalogueError, match="colour"):
        product_from_table(changed_table(two, {"colours.body": "red"}))


def test_finishes_are_words_of_the_shops_own() -> None:
    several = changed_table(TAG, {"finish": "bright", "finishes": " blackened, rose ,, blackened\nmatt"})
    assert several["finishes"] == ["blackened", "rose", "matt"]
    assert field(several, "finishes").as_list == "blackened, rose, matt"
    spec = product_from_table(several)
    assert (spec.finish, spec.finishes) == ("bright", ("blackened", "rose", "matt"))
    assert product_from_table(changed_table(several, {"finishes": ""})).finishes == ()
    # As many or as long as nobody has them is refused, and nothing of it cut off in silence.
    for words in (",".join(map(str, range(41))), "x" * 41):
        with pytest.raises(CatalogueError, match="finishes"):
            product_from_table(changed_table(TAG, {"finishes": words}))


@pytest.mark.parametrize("number", ["²", "9" * 5000, "-1", "٣"])
def test_what_only_looks_like_a_number_is_refused_and_breaks_nothing(number: str) -> None:
    table = changed_table(TAG, {"wording.kind": "coordinates"})
    with pytest.raises(CatalogueError):
        product_from_table(changed_table(table, {"wording.decimals": number}))
    product_from_table(changed_table(TAG, {"arrangement.features": ["", f"liga={number}"]}))


def test_a_typefaces_other_forms_are_ticked_and_draw_otherwise() -> None:
    features = field(TAG, "arrangement.features")
    assert ("smcp", "small capitals for small letters") in features.choices and features.is_several
    small = changed_table(TAG, {"arrangement.features": ["", "smcp", "onum"]})
    assert small["arrangement"]["features"] == {"smcp": 1, "onum": 1}
    plain, other = (tried(product_from_table(t), "Ida 27").layout.outlines for t in (TAG, small))
    assert not plain.equals_exact(other, 1e-6)
    assert changed_table(small, {"arrangement.features": [""]})["arrangement"]["features"] == {}
    # What the file asks for besides stays on the list and stays as it is when it is sent back.
    file = {**TAG, "arrangement": {"features": {"liga": 0, "smcp": 1}}}
    asked = field(file, "arrangement.features")
    assert asked.value == ["liga=0", "smcp"] and ("liga=0", "liga=0") in asked.choices
    assert changed_table(file, {"arrangement.features": ["", "liga=0", "smcp"]}) == file
    with pytest.raises(CatalogueError, match="four-letter"):
        product_from_table(changed_table(TAG, {"arrangement.features": ["no such"]}))


def test_which_number_of_a_date_is_the_day_is_said_or_asked_about() -> None:
    date = changed_table(TAG, {"wording.kind": "date"})
    assert field(date, "wording.day_first").value == ""
    for word, value in (("day", True), ("month", False)):
        said = changed_table(date, {"wording.day_first": word})
        assert said["wording"]["day_first"] is value and field(said, "wording.day_first").value == word
        assert changed_table(said, {"wording.day_first": ""})["wording"] == date["wording"]
    place = changed_table(TAG, {"wording.kind": "coordinates"})
    assert product_from_table(changed_table(place, {"wording.decimals": "2"})).wording.decimals == 2


def test_what_people_call_it_is_changed_and_its_code_stays() -> None:
    assert product_from_table(changed_table(TAG, {"name": "Harbour tag"})).name == "Harbour tag"
    assert "code" not in {one.name for one in fields_of(TAG, KNOWN)}


@pytest.mark.parametrize(
    ("typed", "length_mm"), [("2,5 in", 63.5), ('2 1/2"', 63.5), ("6,2 cm", 62.0), ("71.125", 71.125)]
)
def test_measures_are_typed_with_any_unit(typed: str, length_mm: float) -> None:
    assert changed_table(TAG, {"blank.length_mm": typed})["blank"]["length_mm"] == length_mm


def test_a_number_that_is_none_is_refused_at_its_field() -> None:
    with pytest.raises(CatalogueError) as refused:
        changed_table(TAG, {"blank.length_mm": "12 ells"})
    assert refusal_words(refused.value).startswith("Length: “12 ells”")
    assert refused_at(refused.value, TAG) == "blank.length_mm"

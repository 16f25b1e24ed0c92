"""What a shop holds to: read from tables and written back, refused in words, and taken by products."""

from __future__ import annotations

from typing import Any

import pytest

from kizami.checks.finding import Sense
from kizami.checks.kinds import KINDS
from kizami.checks.limits_told import limit_told
from kizami.errors import CatalogueError
from kizami.pieces.inputs import Inputs, fingerprint
from kizami.pieces.looser import looser_said
from kizami.pieces.make import make_piece
from kizami.pieces.run_facts import run_facts
from kizami.processes import LIMITS_AT_MOST, LIMITS_KNOWN, Material, Process
from kizami.products.product import Product
from kizami.products.product_file import product_from_table
from kizami.runs.machine import machine_from_table, shipped_machines
from kizami.runs.melt import melt_of_box
from kizami.standards import (
    material_from_table,
    process_from_table,
    shipped_standards,
    table_of_material,
    table_of_process,
)
from tests.kizami.samples import RAISED, TAG_TABLE

SHIPS = shipped_standards()
WAX = SHIPS.processes["lost-wax"]
BRONZE = SHIPS.materials["bronze"]
#: 58.5 % gold, the rest silver and copper in equal parts, by ideal mixing of densities (CRC Handbook of
#: Chemistry and Physics, from memory: Au 19.30, Ag 10.49, Cu 8.96).
ROSE = {
    "name": "Rose gold 14 k", "colour": "#c98f7a", "density_g_cm3": 13.17, "melts_c": [880, 900],
    "parts": {"fine gold": 0.585, "fine silver": 0.09, "copper": 0.325},
}  # fmt: skip


def tag(**changes: Any) -> Product:
    return product_from_table({**TAG_TABLE, **changes})


def piece(product: Product) -> Inputs:
    return Inputs(product=product, wording="Ida", size=None)


@pytest.mark.parametrize("code", SHIPS.processes)
def test_a_process_reads_back_as_itself(code: str) -> None:
    assert process_from_table(code, table_of_process(SHIPS.processes[code])) == SHIPS.processes[code]


@pytest.mark.parametrize("code", LIMITS_KNOWN)
def test_every_limit_has_a_name_and_stands_on_the_side_of_its_check(code: str) -> None:
    told = limit_told(code)
    assert told.title
    kind = KINDS.get(code.split(".")[0])
    if kind is not None:
        assert (kind.sense is Sense.AT_MOST) == (code in LIMITS_AT_MOST)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        pytest.param({"limits": {"gap-width": 0.3}}, "missing or unknown edge-gap", id="limits-missing"),
        pytest.param({"size_mm": [50, 50]}, "three lengths", id="two-sides"),
        pytest.param({"size_mm": [50, 50, 0]}, "three lengths", id="no-height"),
        pytest.param({"size_mm": [50, 50, "high"]}, "three lengths", id="words-for-a-side"),
        pytest.param({"name": " "}, "1 to 60 characters", id="no-name"),
        pytest.param({"colour": "#ffffff"}, "unknown colour", id="unknown-key"),
    ],
)
def test_a_process_that_can_t_be_is_refused(change: dict[str, Any], said: str) -> None:
    with pytest.raises(CatalogueError, match=said):
        process_from_table("lost-wax", {**table_of_process(WAX), **change})


@pytest.mark.parametrize("value", [-0.1, 0, float("nan"), float("inf"), "wide", True, 1e6, None])
def test_a_limit_is_a_positive_number(value: Any) -> None:
    table = table_of_process(WAX)
    table["limits"]["gap-width"] = value
    with pytest.raises(CatalogueError, match="gap-width must be a positive number"):
        process_from_table("lost-wax", table)


@pytest.mark.parametrize(
    ("change", "said"),
    [
        pytest.param({"density_g_cm3": 0}, "density_g_cm3 must be from 0.01 to 25", id="weightless"),
        pytest.param({"density_g_cm3": 10360}, "density_g_cm3 must be", id="kilograms-a-cubic-metre"),
        pytest.param({"colour": "rose"}, "colour must be a colour", id="colour"),
        pytest.param({"parts": {"fine gold": 0.585}}, "come to 0.585 instead of 1", id="parts-short"),
        pytest.param({"parts": {"fine gold": 58.5}}, "from 0 to 1", id="parts-in-percent"),
        pytest.param({"melts_c": [900, 880]}, "from where it begins", id="melts-backwards"),
        pytest.param({"melts_c": [900]}, "from where it begins", id="melts-half"),
        pytest.param({"hardness": 3}, "unknown hardness", id="unknown-key"),
    ],
)
def test_a_material_that_can_t_be_is_refused(change: dict[str, Any], said: str) -> None:
    with pytest.raises(CatalogueError, match=said):
        material_from_table("rose-gold", {**ROSE, **change})


@pytest.mark.parametrize("code", ["", "Rose", "rose gold", "x" * 41, "-rose"])
def test_codes_are_what_files_can_carry(code: str) -> None:
    with pytest.raises(CatalogueError, match="a code has 1 to 40"):
        material_from_table(code, ROSE)


def test_a_material_of_the_shop_s_own_weighs_looks_and_melts_as_it_says() -> None:
    rose = material_from_table("rose-gold", ROSE)
    assert material_from_table("rose-gold", table_of_material(rose)) == rose
    standards = SHIPS.changed(materials=[rose])
    with pytest.raises(CatalogueError, match="rose-gold"):
        product_from_table({**TAG_TABLE, "material": "rose-gold"})
    product = product_from_table({**TAG_TABLE, "material": "rose-gold"}, standards=standards)
    made, bronze = make_piece(piece(product)), make_piece(piece(tag()))
    assert made.solid is not None and bronze.solid is not None
    assert made.solid.volume_mm3 == bronze.solid.volume_mm3
    assert made.weight_g == pytest.approx(made.solid.volume_mm3 * 13.17e-3)
    box = machine_from_table(
        "BOX",
        {"name": "Box", "kind": "sand box", "processes": ["sand"], "bed_mm": [200, 200, 80], "loss_percent": 0,
         "materials": ["rose-gold"], "button_mm3": 0},
        standards=standards,
    )  # fmt: skip
    melt = melt_of_box(box, "rose-gold", weights_g=[10.0])
    assert dict(melt.parts)["fine gold"] == pytest.approx(5.85) and melt.melts_c == (880.0, 900.0)


def test_a_material_that_weighs_otherwise_is_another_piece_and_one_that_does_not_is_the_same() -> None:
    heavier = SHIPS.changed(materials=[Material(**{**_values(BRONZE), "density_g_cm3": 8.8})])
    same = SHIPS.changed(materials=[Material(**_values(BRONZE))])
    as_it_ships = fingerprint(piece(tag()))
    assert fingerprint(piece(product_from_table(TAG_TABLE, standards=heavier))) != as_it_ships
    assert fingerprint(piece(product_from_table(TAG_TABLE, standards=same))) == as_it_ships


def _values(material: Material) -> dict[str, Any]:
    return {name: getattr(material, name) for name in Material.__dataclass_fields__}


def stricter(code: str, value: float) -> Process:
    return Process(code=WAX.code, name=WAX.name, limits=WAX.limits.with_limits([(code, value)]))


def test_pieces_are_held_to_what_the_shop_s_process_holds() -> None:
    """Just inside and just outside what the same piece measures as it ships."""
    made = make_piece(piece(tag(treatment=RAISED)))
    stroke = next(f for f in made.findings if f.code == "stroke-width")
    assert made.stage == "ready"
    for limit, stage in ((stroke.measured - 0.001, "ready"), (stroke.measured + 0.001, "held")):
        standards = SHIPS.changed(processes=[stricter("stroke-width.raised", limit)])
        product = product_from_table({**TAG_TABLE, "treatment": RAISED}, standards=standards)
        assert make_piece(piece(product)).stage == stage


def test_a_product_may_hold_itself_to_more_and_is_held_to_it() -> None:
    stroke = next(f for f in make_piece(piece(tag())).findings if f.code == "stroke-width").measured
    own = tag(limits={"stroke-width": {"engraved": stroke + 0.01}})
    assert [row.is_looser for row in own.own_limits] == [False] and looser_said(own) == ""
    made = make_piece(piece(own))
    assert made.stage == "held" and run_facts(made)["looser"] == ""


def test_looser_needs_a_reason_and_the_reason_goes_with_the_piece() -> None:
    with pytest.raises(CatalogueError, match=r"lets more pass than .* holds, 0\.3 mm; say in looser_because"):
        tag(limits={"gap-width": 0.2}, looser_because="because")
    product = tag(limits={"gap-width": 0.2}, looser_because="Forty cast, none filled in.")
    facts = run_facts(make_piece(piece(product)))
    assert facts["limits"]["gap-width"] == 0.2
    assert facts["looser"] == "narrowest gap at least 0.2 mm instead of 0.3 mm: Forty cast, none filled in."
    assert fingerprint(piece(product)) != fingerprint(piece(tag()))


def test_at_most_is_looser_the_larger_it_is() -> None:
    printed = {"process": "filament", "material": "printed-filament"}
    tag(**printed, limits={"overhang": 100})
    with pytest.raises(CatalogueError, match="printed over air at most 200 mm² lets more pass"):
        tag(**printed, limits={"overhang": 200})


@pytest.mark.parametrize(
    ("limits", "said"),
    [
        pytest.param({"gap": 0.3}, "gap is none of", id="unknown"),
        pytest.param({"overhang": 3}, "has no limit overhang", id="not-asked-of-this-process"),
        pytest.param({"gap-width": 0}, "gap-width must be above 0", id="nothing"),
        pytest.param({"gap-width": "wide"}, "gap-width must be a number", id="words"),
        pytest.param({"stroke-width": 0.4}, "stroke-width is none of", id="neither-raised-nor-engraved"),
        pytest.param([0.3], "limits must be a table", id="no-table"),
    ],
)
def test_own_limits_that_can_t_be_are_refused(limits: Any, said: str) -> None:
    with pytest.raises(CatalogueError, match=said):
        tag(limits=limits)


def test_what_is_the_same_as_the_process_has_it_is_none_of_its_own() -> None:
    same = tag(limits={"gap-width": 0.3}, looser_because="no longer needed")
    assert same.own_limits == () and same.looser_because == ""
    assert fingerprint(piece(same)) == fingerprint(piece(tag()))


def test_machines_know_what_their_shop_has() -> None:
    table = {"name": "Box", "kind": "sand box", "processes": ["sand"], "bed_mm": [200, 200, 80]}
    rose = material_from_table("rose-gold", ROSE)
    taken = machine_from_table(
        "BOX", {**table, "materials": ["rose-gold"]}, standards=SHIPS.changed(materials=[rose])
    )
    assert taken.takes("sand", "rose-gold")
    assert shipped_machines()["RESIN-1"].standards is SHIPS

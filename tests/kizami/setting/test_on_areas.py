"""What is set otherwise on a further area of a piece: read, kept, told, laid over it, cured and taken back."""

from __future__ import annotations

import json
from dataclasses import replace

import pytest
import shapely

from kizami.checks.finding import Level
from kizami.cli import catalogue_at
from kizami.errors import AdjustmentError
from kizami.pieces.inputs import Inputs, fingerprint
from kizami.pieces.laying_out import lay_out
from kizami.pieces.make import make_piece
from kizami.remedies.departing import departure, departure_parts, outside_of
from kizami.remedies.search import search_remedies
from kizami.setting.setting import AS_THE_PRODUCT, Setting
from kizami.setting.telling import told
from launch.state import REPOSITORY
from tests.kizami.samples import inputs

#: So many trials find them, however long each takes here.
LONG, TRIALS = 600.0, 140


def key(**back: object) -> Inputs:
    """A plate with a raised name on its face and two engraved lines on its back."""
    product = catalogue_at(REPOSITORY / "demo" / "products.toml").find("FERRY-KEY")
    assert product is not None
    also = tuple(replace(area, plan=replace(area.plan, **back)) for area in product.also)  # type: ignore[arg-type]
    return inputs(replace(product, also=also), "Petrel")


def on_back(**values: object) -> Setting:
    return AS_THE_PRODUCT.changed({f"on.back.{name}": value for name, value in values.items()})


@pytest.mark.parametrize(
    ("given", "table"),
    [
        ({"on.back.height_mm": "4,5"}, {"further": {"back": {"height_mm": 4.5}}}),
        ({"on.back.depth_mm": "0.02 in", "depth_mm": "0.3"}, {"depth_mm": 0.3, "further": {"back": {"depth_mm": 0.508}}}),
        ({"on.inside of it.upside_down": "on"}, {"further": {"inside of it": {"upside_down": True}}}),
        # What is of the whole piece is not set on one area, and an empty field is none.
        ({"on.back.size": "54", "on.back.body_mm": "3", "on.back.capitals": "on"}, {}),
        ({"on.back.height_mm": " ", "on..height_mm": "4", "on.height_mm": "4"}, {}),
    ],
)  # fmt: skip
def test_reading_and_keeping(given: dict[str, str], table: dict[str, object]) -> None:
    setting = Setting.read(given)
    assert setting.to_table() == table
    kept = json.loads(json.dumps(setting.to_table()))
    assert (
        Setting.from_table(kept)
        == setting
        == Setting.read({k: str(v) for k, v in setting.to_fields().items()})
    )


def test_what_can_not_be_is_refused_by_the_name_of_its_area() -> None:
    with pytest.raises(AdjustmentError, match="On the back: Height at most: 1000 must be from"):
        Setting.read({"on.back.height_mm": "1000"})


def test_only_its_area_is_set_otherwise_and_taken_back_nothing_is_left() -> None:
    plain = key()
    before = lay_out(plain)
    setting = on_back(height_mm=3.5, depth_mm=0.7, turned_deg=180.0, typeface="roboto-slab-bold")
    after = lay_out(replace(plain, setting=setting))
    assert shapely.equals_exact(before.layout.outlines, after.layout.outlines)
    (was,), (now,) = before.others, after.others
    assert was.layout.height_mm > 3.5 == pytest.approx(now.layout.height_mm)
    assert (was.made.treatment.depth_mm, now.made.treatment.depth_mm) == (0.5, 0.7)  # type: ignore[union-attr]
    # Half a turn of two unlike lines: what was the wide first one is the low one now.
    assert now.inputs.face.code == "roboto-slab-bold" != was.inputs.face.code
    assert make_piece(after.inputs).stage == "ready"
    assert fingerprint(after.inputs) != fingerprint(plain)
    emptied = {name: "" if name.endswith("typeface") else None for name in setting.to_fields()}
    assert setting.changed(emptied) == AS_THE_PRODUCT


def test_an_area_that_the_product_has_no_more_is_passed_over() -> None:
    setting = AS_THE_PRODUCT.changed({"on.edge.height_mm": 3.0})
    assert fingerprint(replace(key(), setting=setting)) == fingerprint(key())


def test_it_is_told_by_its_area() -> None:
    assert told(AS_THE_PRODUCT, on_back(height_mm=4.0)) == ["on the back at most 4.00 mm"]
    assert told(on_back(height_mm=4.0), AS_THE_PRODUCT) == ["on the back height: the product’s own"]


def test_it_counts_as_a_departure_of_its_area() -> None:
    plain = key()
    parts = departure_parts(plain, lay_out(replace(plain, setting=on_back(treatment="raised"))))
    assert parts["back: treatment"] > 0.0 and "treatment" not in parts
    assert outside_of(plain, lay_out(replace(plain, setting=on_back(treatment="raised")))) == (
        "on the back not the product’s treatment",
    )
    # A thicker blank is one, whatever stands on it.
    thicker = departure_parts(plain, lay_out(replace(plain, setting=Setting(body_mm=4.0))))
    assert [name for name in thicker if "blank" in name] == ["blank"]


@pytest.mark.parametrize(
    ("back", "fails"),
    [({"lowest_height_mm": 4.9}, "lowest-height"), ({"tracking": -0.15, "tightest": -0.15}, "gap-width")],
    ids=["too little room", "too close"],
)
def test_what_a_further_area_is_held_for_is_cured_there(back: dict[str, float], fails: str) -> None:
    base = key(**back)
    made = make_piece(base)
    failing = {(f.area, f.code) for f in made.findings if f.level is Level.FAILS}
    assert ("back", fails) in failing and all(area in ("back", "") for area, _ in failing)
    found = search_remedies(base, made, seconds=LONG, trials=TRIALS)
    assert found.cures
    for remedy in found.cures:
        taken = replace(base, setting=Setting.from_table(remedy.setting.to_table()))
        again = make_piece(taken)
        assert again.stage == "ready" and again.fingerprint == remedy.made.fingerprint
        assert remedy.cost == departure(base, again.laid_out)
    assert any(remedy.setting.further for remedy in found.cures)
    # One cure of an area does not stand in the way of another one of it.
    assert len({remedy.setting for remedy in found.cures if remedy.setting.further}) > 1
    best = found.cures[0]
    assert best.setting.further and shapely.equals_exact(
        best.made.laid_out.layout.outlines, made.laid_out.layout.outlines
    )

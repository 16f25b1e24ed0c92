"""Products files: what is read, and that every refusal names the product and the key."""

from __future__ import annotations

from typing import Any

import pytest

from kizami.cli import catalogue_at
from kizami.errors import CatalogueError, SizeError
from kizami.lettering.arrangement import LogoPlace, MonogramForm
from kizami.lettering.fit_plan import Step
from kizami.lettering.round_about import OneTurn, Repeated, RoundAbout, Sector, Spread
from kizami.lettering.shapes import Arc
from kizami.outlines.soundness import Soundness
from kizami.products.blank_tables import BLANK_TABLES
from kizami.products.product import Word
from kizami.products.product_file import product_from_table, read_catalogue
from kizami.sizes import SizeSystem
from launch.state import REPOSITORY
from tests.kizami.samples import RING, RING_TABLE, TAG, TAG_TABLE


def test_the_demo_catalogue_reads() -> None:
    catalogue = catalogue_at(REPOSITORY / "demo" / "products.toml")
    products = catalogue.products.values()
    assert {type(p.blank) for p in products} == {table.makes for table in BLANK_TABLES.values()}
    assert {p.treatment.kind for p in products} == {
        "engraved", "raised", "in recess", "pierced", "scored", "cut-out",
    }  # fmt: skip
    assert {p.area for p in products} >= {"outside", "inside", "face", "band", "edge", "piece"}


def test_a_code_is_found_in_any_letter_case() -> None:
    catalogue = catalogue_at(REPOSITORY / "demo" / "products.toml")
    assert catalogue.find(" choir-ring ") is catalogue.find("CHOIR-RING")
    assert catalogue.find("nothing") is None


@pytest.mark.parametrize(
    ("table", "changes", "says"),
    [
        pytest.param(RING_TABLE, {"code": ""}, "code", id="no code"),
        pytest.param(RING_TABLE, {"code": "a/b"}, "code", id="code with a slash"),
        pytest.param(RING_TABLE, {"colour": "red"}, "unknown colour", id="unknown key"),
        pytest.param(RING_TABLE, {"blank": None}, "blank must be a table", id="no blank"),
        pytest.param(RING_TABLE, {"blank": {"kind": "sphere"}}, "kind", id="unknown blank"),
        pytest.param(RING_TABLE, {"blank": {**RING_TABLE["blank"], "wall_mm": 0}}, "wall_mm", id="wall of zero"),
        pytest.param(RING_TABLE, {"blank": {**RING_TABLE["blank"], "width_mm": -7}}, "width_mm", id="negative"),
        pytest.param(RING_TABLE, {"blank": {**RING_TABLE["blank"], "width_mm": True}}, "width_mm", id="not a number"),
        pytest.param(RING_TABLE, {"blank": {**RING_TABLE["blank"], "width_mm": float("nan")}}, "width_mm", id="nan"),
        pytest.param(RING_TABLE, {"size_system": "French"}, "size_system", id="unknown system"),
        pytest.param(RING_TABLE, {"size_system": ""}, "size_system", id="ring without a system"),
        pytest.param(TAG_TABLE, {"size_system": "US"}, "rings only", id="tag with a system"),
        pytest.param(TAG_TABLE, {"blank": {**TAG_TABLE["blank"], "corner_mm": 13}}, "corner_mm", id="corner too round"),
        pytest.param(TAG_TABLE, {"blank": {**TAG_TABLE["blank"], "hole_mm": 24}}, "hole", id="hole too large"),
        pytest.param(TAG_TABLE, {"treatment": {"kind": "painted"}}, "treatment", id="unknown treatment"),
        pytest.param(TAG_TABLE, {"treatment": {"kind": "engraved"}}, "depth_mm", id="no depth"),
        pytest.param(TAG_TABLE, {"treatment": {"kind": "raised", "height_mm": 1}}, "root_mm", id="no root"),
        pytest.param(TAG_TABLE, {"process": "forging"}, "process", id="unknown process"),
        pytest.param(TAG_TABLE, {"material": "tin foil"}, "material", id="unknown material"),
        pytest.param(TAG_TABLE, {"typeface": "comic"}, "typeface", id="unknown typeface"),
        pytest.param(TAG_TABLE, {"fit": {**TAG_TABLE["fit"], "lowest_height_mm": 12}}, "lowest_height", id="lowest above greatest"),
        pytest.param(TAG_TABLE, {"fit": {**TAG_TABLE["fit"], "steps": ["shrink"]}}, "tighten, lower", id="unknown step"),
        pytest.param(TAG_TABLE, {"fit": {**TAG_TABLE["fit"], "steps": "lower"}}, "list", id="steps no list"),
        pytest.param(TAG_TABLE, {"fit": {**TAG_TABLE["fit"], "steps": ["break"]}}, "most_lines", id="break into one line"),
        pytest.param(TAG_TABLE, {"arrangement": {"logo": "under"}}, "above the words", id="unknown logo place"),
        pytest.param(TAG_TABLE, {"arrangement": {"colour": 1}}, "unknown colour", id="unknown arrangement"),
        pytest.param(TAG_TABLE, {"arrangement": {"features": {"small caps": 1}}}, "four-letter", id="no feature tag"),
        pytest.param(TAG_TABLE, {"arrangement": {"language": "english, please"}}, "language", id="no language"),
        pytest.param(TAG_TABLE, {"arrangement": {"shape": {"kind": "spiral"}}}, "straight, arc", id="unknown shape"),
        pytest.param(TAG_TABLE, {"arrangement": {"shape": {"kind": "arc"}}}, "radius_mm or angle_deg", id="arc of nothing"),
        pytest.param(TAG_TABLE, {"arrangement": {"shape": {"kind": "arc", "radius_mm": 9, "angle_deg": 9}}}, "either", id="arc of both"),
        pytest.param(TAG_TABLE, {"arrangement": {"shape": {"kind": "arched"}}}, "rise is missing", id="arch without rise"),
        pytest.param(TAG_TABLE, {"arrangement": {"shape": {"kind": "arched", "rise": 9}}}, "from -0.9 to 3", id="arch too high"),
        pytest.param(TAG_TABLE, {"arrangement": {"shape": {"kind": "filled", "outline": "star"}}}, "heart", id="unknown outline"),
        pytest.param(TAG_TABLE, {"arrangement": {"shape": {"kind": "filled", "outline": "free"}}}, "needs them", id="free outline without points"),
        pytest.param(TAG_TABLE, {"arrangement": {"shape": {"kind": "filled", "outline": "free", "points": [[0, 0], [1, 1]]}}}, "enclose nothing", id="outline of a line"),
        pytest.param(TAG_TABLE, {"arrangement": {"shape": {"kind": "filled", "outline": "round", "points": [[0, 0], [1, 1]]}}}, "free", id="points of a round"),
        pytest.param(TAG_TABLE, {"arrangement": {"shape": {"kind": "path", "points": [[0, 0]]}}}, "2 to 2000", id="path of one point"),
        pytest.param(TAG_TABLE, {"arrangement": {"shape": {"kind": "path", "points": [[0, 0], [1, "x"]]}}}, "pairs of numbers", id="path of words"),
        pytest.param(RING_TABLE, {"arrangement": {"turn": {"kind": "repeated", "times": 99}}}, "from 2 to 24", id="too many repeats"),
        pytest.param(RING_TABLE, {"area": "edge"}, "area", id="unknown area"),
        pytest.param(TAG_TABLE, {"soundness": {"thicken": "more"}}, "where needed", id="unknown weight"),
        pytest.param(TAG_TABLE, {"soundness": {"thicken": "all over"}}, "how much", id="thicken by nothing"),
        pytest.param(TAG_TABLE, {"soundness": {"bridge_mm": 0.01}}, "from 0.2", id="bridge too thin"),
        pytest.param(TAG_TABLE, {"soundness": {"bridge_mm": "wide"}}, "number from 0.2 to 10, not 'wide'", id="bridge of words"),
        pytest.param(TAG_TABLE, {"soundness": {"glue": True}}, "unknown glue", id="unknown remedy"),
    ],
)  # fmt: skip
def test_a_product_that_cannot_be_is_refused(
    table: dict[str, Any], changes: dict[str, Any], says: str
) -> None:
    with pytest.raises(CatalogueError, match=says):
        product_from_table({**table, **changes})


@pytest.mark.parametrize(
    ("text", "says"), [("", "no .*product"), ("[[product", "TOML"), ("product = 3", "no .*product")]
)
def test_a_file_that_is_no_catalogue_is_refused(text: str, says: str) -> None:
    with pytest.raises(CatalogueError, match=says):
        read_catalogue(text)


def test_a_product_twice_is_refused() -> None:
    table = '[[product]]\ncode = "{}"\nblank = {{kind="band ring",width_mm=7,wall_mm=2,seam_mm=4}}\nsize_system="US"\n'
    table += 'treatment={{kind="engraved",depth_mm=0.4}}\nprocess="lost-wax"\nmaterial="bronze"\n'
    table += 'typeface="noto-sans-bold"\nfit={{greatest_height_mm=5,lowest_height_mm=3,clearance_mm=1}}\n'
    with pytest.raises(CatalogueError, match="twice"):
        read_catalogue(table.format("ring") + table.format("RING"))


def test_sizes_belong_to_rings_only() -> None:
    size = RING.read_size("54")
    assert size is not None and size.system is SizeSystem.ISO
    assert TAG.read_size("") is None
    assert TAG.read_size("54") is None
    with pytest.raises(SizeError, match="needs a ring size"):
        RING.blank_for(None)


def test_a_product_that_says_everything() -> None:
    one = product_from_table(
        {
            **TAG_TABLE,
            "fit": {
                **TAG_TABLE["fit"],
                "steps": ["tighten", "lower", "condense", "break", "leave out", "bolder"],
                "tightest": 0.01, "narrowest": 0.9, "most_lines": 2, "bolder_lowest_height_mm": 3.0,
            },
            "arrangement": {
                "monogram": "stacked", "logo": "above the words", "features": {"smcp": 1}, "language": "tr",
                "shape": {"kind": "arc", "angle_deg": 120.0, "hollow": True}, "upside_down": True,
            },
            "soundness": {"thicken": "where needed", "one_piece": "base bar", "loop": "balanced", "rim_mm": 1.5},
            "finish": "bright", "finishes": ["satin"], "typefaces": ["vollkorn-bold"], "takes_logo": True,
        }
    )  # fmt: skip
    assert one.plan.steps == tuple(Step)
    assert (one.plan.tightest, one.plan.narrowest, one.plan.most_lines) == (0.01, 0.9, 2)
    assert one.arrangement.shape == Arc(angle_deg=120.0, hollow=True)
    assert (one.arrangement.monogram, one.arrangement.logo) == (MonogramForm.STACKED, LogoPlace.ABOVE)
    assert (one.arrangement.features, one.arrangement.language) == ((("smcp", 1),), "tr")
    assert one.arrangement.upside_down and not one.arrangement.mirrored
    assert one.soundness == Soundness(
        thicken="where needed", one_piece="base bar", loop="balanced", rim_mm=1.5
    )
    assert one.choices(Word.FINISH) == ("bright", "satin")
    assert one.choices(Word.TYPEFACE) == ("noto-sans-bold", "vollkorn-bold")


@pytest.mark.parametrize(
    ("table", "turn"),
    [
        ({"kind": "once"}, OneTurn()),
        ({"kind": "spread", "separator": " · ", "share_end": True}, Spread(separator=" · ", share_end=True)),
        ({"kind": "repeated", "times": 3}, Repeated(times=3)),
        ({"kind": "sector", "angle_deg": 90.0, "direction_deg": 30.0}, Sector(angle_deg=90.0, direction_deg=30.0)),
    ],
    ids=lambda v: getattr(v, "kind", ""),
)  # fmt: skip
def test_a_ring_lettered_inside_and_right_round(table: dict[str, Any], turn: RoundAbout) -> None:
    one = product_from_table({**RING_TABLE, "area": "inside", "arrangement": {"turn": table}})
    assert one.arrangement.turn == turn
    assert one.area_of(one.blank_for(one.read_size("54"))).name == "inside"

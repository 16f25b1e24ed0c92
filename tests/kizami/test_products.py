"""Products files: what is read, and that every refusal names the product and the key."""

from __future__ import annotations

from typing import Any

import pytest

from kizami.errors import CatalogueError, SizeError
from kizami.products import product_from_table, read_catalogue
from kizami.sizes import SizeSystem
from launch.state import REPOSITORY
from tests.kizami.pieces import RING, RING_TABLE, TAG, TAG_TABLE


def test_the_demo_catalogue_reads() -> None:
    catalogue = read_catalogue((REPOSITORY / "demo" / "products.toml").read_text("utf-8"))
    kinds = {(type(p.blank).__name__, p.treatment.kind) for p in catalogue.products.values()}
    assert kinds == {(b, t) for b in ("BandRingSpec", "PlateTag") for t in ("engraved", "raised")}


def test_a_code_is_found_in_any_letter_case() -> None:
    catalogue = read_catalogue((REPOSITORY / "demo" / "products.toml").read_text("utf-8"))
    assert catalogue.find(" choir-ring ") is catalogue.find("CHOIR-RING")
    assert catalogue.find("nothing") is None


@pytest.mark.parametrize(
    ("table", "changes", "says"),
    [
        pytest.param(RING_TABLE, {"code": ""}, "code", id="no code"),
        pytest.param(RING_TABLE, {"code": "a/b"}, "code", id="code with a slash"),
        pytest.param(RING_TABLE, {"colour": "red"}, "unknown colour", id="unknown key"),
        pytest.param(RING_TABLE, {"blank": None}, "blank is missing", id="no blank"),
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
    with pytest.raises(SizeError, match="no sizes"):
        TAG.read_size("54")
    with pytest.raises(SizeError, match="needs a ring size"):
        RING.blank_for(None)

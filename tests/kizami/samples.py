"""Products and inputs that several tests share. Plain values, no clever fixtures."""

from __future__ import annotations

import math
from typing import Any

import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.treatment import Treatment
from kizami.blanks.area import Area
from kizami.lettering.layout import Layout
from kizami.pieces.inputs import Inputs
from kizami.products.product import Product
from kizami.products.product_file import product_from_table
from kizami.setting.setting import AS_THE_PRODUCT, Setting
from kizami.surfaces.plane import Plane

RING_TABLE: dict[str, Any] = {
    "code": "RING",
    "blank": {"kind": "band ring", "width_mm": 7.0, "wall_mm": 1.8, "seam_mm": 5.0},
    "size_system": "ISO",
    "treatment": {"kind": "engraved", "depth_mm": 0.45},
    "process": "lost-wax",
    "material": "sterling-silver",
    "typeface": "noto-sans-bold",
    "fit": {"greatest_height_mm": 4.8, "lowest_height_mm": 3.6, "clearance_mm": 0.7, "tracking": 0.06},
}
TAG_TABLE: dict[str, Any] = {
    "code": "TAG",
    "blank": {
        "kind": "plate",
        "hang": "hole left",
        "length_mm": 60.0,
        "height_mm": 25.0,
        "thickness_mm": 3.0,
        "corner_mm": 5.0,
        "hole_mm": 5.0,
        "web_mm": 3.0,
    },
    "treatment": {"kind": "engraved", "depth_mm": 1.0},
    "process": "lost-wax",
    "material": "bronze",
    "typeface": "noto-sans-bold",
    "fit": {"greatest_height_mm": 11.0, "lowest_height_mm": 4.4, "clearance_mm": 2.0, "tracking": 0.04},
}
RAISED = {"kind": "raised", "height_mm": 0.6, "root_mm": 0.4}


def product(table: dict[str, Any], **changes: Any) -> Product:
    """A product from a table with some keys replaced; nested tables are merged."""
    merged = {
        key: {**value, **changes[key]}
        if isinstance(value, dict) and key in changes and key != "treatment"
        else changes.get(key, value)
        for key, value in table.items()
    }
    return product_from_table(merged)


def inputs(which: Product, wording: str, size: str = "54", *, setting: Setting = AS_THE_PRODUCT) -> Inputs:
    """Inputs for a wording, in ISO 54 if the product has sizes."""
    bore = which.read_size(size if which.size_system else "")
    return Inputs(product=which, wording=wording, size=bore, setting=setting)


def drawn(outlines: shapely.MultiPolygon, treatment: Treatment, *, area: Area | None = None) -> AsMade:
    """Outlines as they will be made, on a wide plane unless an area is given."""
    plane = Area(
        name="face",
        surface=Plane(),
        outline=shapely.box(-1e3, -1e3, 1e3, 1e3),
        keep_outs=(),
        anchor=(0.0, 0.0),
        wall_mm=math.inf,
    )
    layout = Layout(
        text="", height_mm=10.0, lowest_height_mm=1.0, marks=(), shapes=(), outlines=outlines, steps=(), fits=True,
        missing=(),
    )  # fmt: skip
    return AsMade(area=area or plane, layout=layout, treatment=treatment)


RING = product(RING_TABLE)
RING_RAISED = product(RING_TABLE, treatment=RAISED)
TAG = product(TAG_TABLE)
TAG_RAISED = product(TAG_TABLE, treatment=RAISED)
FOUR = [RING, RING_RAISED, TAG, TAG_RAISED]
FOUR_IDS = ["ring engraved", "ring raised", "tag engraved", "tag raised"]

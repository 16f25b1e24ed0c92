"""Products to begin with: one of every kind of blank, with the measures that such pieces usually have, and
one on a body that a customer supplied."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache
from importlib.resources import files
from types import MappingProxyType
from typing import Any

import numpy as np
import shapely

from kizami.blanks.plate import WORDS_FORM
from kizami.blanks.supplied_body import SuppliedBody
from kizami.outlines.drawn import DrawnOutline
from kizami.products.product_file import product_tables
from kizami.surfaces.protocol import FloatArray

__all__ = ["starting_drawn", "starting_on", "starting_products"]


@cache
def starting_products() -> Mapping[str, Mapping[str, Any]]:
    """Their tables by code, in the order in which they are shown."""
    text = (files("kizami") / "data" / "starting-products.toml").read_text("utf-8")
    return MappingProxyType({table["code"]: table for table in product_tables(text)})


#: Of a supplied body: how far lettering reaches from its middle, as a share of the shorter side that it
#: stands on; its height and what it keeps clear, as shares of that.
_REACH, _HIGH, _CLEAR = 0.42, 0.6, 0.1
_DEEP_MM, _OF_THICKNESS = 0.4, 0.2


def starting_on(body: SuppliedBody, *, file: str, unit: str) -> dict[str, Any]:
    """A product on a supplied body, but for its code and name: lettered on its broadest side, in the middle.

    Parameters
    ----------
    file, unit : as products name the body's file, and the unit of its numbers where the file does not say it
    """
    low, high = body.vertices.min(axis=0), body.vertices.max(axis=0)
    sides = high - low
    # What is flat is lettered on its flat side, as it lies; of two that are alike the upper one.
    outward = int(np.lexsort((-np.arange(3), np.round(sides, 3)))[0])
    across = [axis for axis in range(3) if axis != outward]
    point = _on_top(body, outward, (low + high) / 2.0, float(high[outward]))
    radius = float(np.clip(_REACH * sides[across].min(), 1.0, 300.0))
    greatest = round(max(0.5, _HIGH * radius), 1)
    up = [0.0, 0.0, 0.0]
    up[across[-1]] = 1.0
    return {
        "blank": {
            "kind": "supplied shape",
            "file": file,
            **({"unit": unit} if unit else {}),
            "point": [round(float(c), 3) for c in point],
            "up": up,
            "radius_mm": round(radius, 2),
        },
        "treatment": {
            "kind": "engraved",
            "depth_mm": round(max(0.05, min(_DEEP_MM, _OF_THICKNESS * float(sides[outward]))), 2),
        },
        **_cast_with_names(greatest, clearance_mm=round(_CLEAR * radius, 2)),
    }


def _cast_with_names(greatest_mm: float, *, clearance_mm: float) -> dict[str, Any]:
    """What the tables of own shapes have alike: cast, with names as high as goes."""
    return {
        "process": "lost-wax",
        "material": "bronze",
        "typeface": "noto-sans-bold",
        "fit": {
            "greatest_height_mm": greatest_mm,
            "lowest_height_mm": round(max(0.5, min(2.6, greatest_mm / 2.0)), 1),
            "clearance_mm": clearance_mm,
            "tracking": 0.05,
        },
        "wording": {"kind": "name", "title_case": True},
        "soundness": {"thicken": "where needed"},
    }


#: Of a drawn plate: how thick it is, as a share of its shorter side, and the bounds of that, mm; its letters'
#: greatest height, as a share of the largest oval for words that goes in.
_SHALLOW_MM = 0.3
_THICK, _THICKEST_MM, _THINNEST_MM, _HIGH_IN_OVAL = 0.08, 4.0, 1.2, 0.7


def starting_drawn(outline: DrawnOutline, *, length_mm: float, height_mm: float) -> dict[str, Any]:
    """A plate of a drawn outline as large as is said, but for its code and name.

    Parameters
    ----------
    outline : in any unit
    """
    wide, high = outline.size
    edge = shapely.Polygon(outline.edge, outline.openings)
    # Half as high as the largest oval that words would go in: a circle in what is squeezed to their form.
    form = (length_mm / wide / WORDS_FORM, height_mm / high)
    half = shapely.maximum_inscribed_circle(shapely.transform(edge, lambda xy: xy * form)).length
    greatest = round(max(0.6, 2.0 * _HIGH_IN_OVAL * float(half)), 1)
    thick = min(max(_THICK * min(length_mm, height_mm), _THINNEST_MM), _THICKEST_MM)

    def corners(points: FloatArray) -> list[list[float]]:
        at = (points - outline.edge.min(axis=0)) * (length_mm / wide, height_mm / high)
        return [[round(float(x), 4), round(float(y), 4)] for x, y in at]

    openings = [corners(one) for one in outline.openings]
    return {
        "blank": {
            "kind": "plate",
            "outline": "free",
            "length_mm": length_mm,
            "height_mm": height_mm,
            "thickness_mm": round(thick, 1),
            "points": corners(outline.edge),
            **({"openings": openings} if openings else {}),
        },
        "treatment": {
            "kind": "engraved",
            "depth_mm": round(max(_SHALLOW_MM, min(_DEEP_MM, _OF_THICKNESS * thick)), 2),
        },
        **_cast_with_names(greatest, clearance_mm=round(min(1.5, 0.1 * float(half) + 0.3), 2)),
    }


def _on_top(body: SuppliedBody, outward: int, middle: FloatArray, top: float) -> FloatArray:
    """The place on a body's upper side nearest to its middle."""
    start, end = middle.copy(), middle.copy()
    start[outward], end[outward] = top + 1.0, top - 2000.0
    hits = body.manifold.ray_cast(start.tolist(), end.tolist())
    if hits:
        return np.array(hits[0].position)
    # Over a hole: the middle of the facet that looks up and is nearest to there.
    corners = body.vertices[body.triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    looks_up = np.flatnonzero(normals[:, outward] > 0.8 * np.linalg.norm(normals, axis=1))
    middles = corners[looks_up if len(looks_up) else slice(None)].mean(axis=1)
    nearest: FloatArray = middles[np.argmin(np.linalg.norm(middles - middle, axis=1))]
    return nearest

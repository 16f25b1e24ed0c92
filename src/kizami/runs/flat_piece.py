"""A flat piece read from its own drawing: what is cut, engraved and scored, as outlines in mm."""

from __future__ import annotations

import re
from xml.etree.ElementTree import ParseError

import numpy as np
import shapely
from defusedxml.ElementTree import fromstring

from kizami.errors import RunError
from kizami.outlines.curves import bodies_of
from kizami.solids.flat_work import FlatWork

__all__ = ["flat_piece", "flat_shape"]

_SVG = "{http://www.w3.org/2000/svg}"
_NUMBER = re.compile(r"-?\d+(?:\.\d+)?")


def flat_piece(drawing: bytes) -> FlatWork:
    """What a beam does to make a piece, from the drawing that was made of it.

    Raises
    ------
    RunError : it is no such drawing
    """
    try:
        root = fromstring(drawing, forbid_dtd=True)
        width, height = (float((root.get(side) or "").removesuffix("mm")) for side in ("width", "height"))
    except (ParseError, ValueError) as error:
        raise RunError("A piece's drawing is damaged. Make the piece again.") from error
    shapes = {
        "cut": shapely.MultiPolygon(),
        "engrave": shapely.MultiPolygon(),
        "score": shapely.MultiPolygon(),
    }
    for group in root.iter(f"{_SVG}g"):
        path = group.find(f"{_SVG}path")
        if group.get("id") in shapes and path is not None:
            shapes[str(group.get("id"))] = _outlines(path.get("d") or "", height)
    if shapes["cut"].is_empty:
        raise RunError("A piece's drawing has nothing to cut. Make the piece again.")
    return FlatWork(
        piece=shapes["cut"], engraved=shapes["engrave"], scored=shapes["score"], size_mm=(width, height)
    )


def flat_shape(drawing: bytes) -> shapely.Polygon:
    """The outside of a flat piece, without its holes.

    Raises
    ------
    RunError : it is no such drawing, or falls into parts when it is cut
    """
    parts = list(shapely.get_parts(flat_piece(drawing).piece))
    if len(parts) != 1:
        raise RunError(f"A piece falls into {len(parts)} parts when it is cut. Make it again.")
    return shapely.Polygon(parts[0].exterior)


def _outlines(data: str, height_mm: float) -> shapely.MultiPolygon:
    """Closed rings of straight lines; a ring within a ring is a hole, one within that stands again."""
    rings = []
    for ring in filter(None, data.split("Z")):
        points = np.array([float(v) for v in _NUMBER.findall(ring)]).reshape(-1, 2)
        rings.append(shapely.LinearRing(np.column_stack((points[:, 0], height_mm - points[:, 1]))))
    return bodies_of(shapely.build_area(shapely.MultiLineString(rings)))

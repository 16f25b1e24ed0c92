"""Words as outlines, in any script that the shop can letter: no viewer and no paper needs a typeface for
them."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import shapely

from kizami.lettering.block import draw, set_line
from kizami.lettering.shipped import shipped_typeface, shipped_typeface_codes
from kizami.lettering.typeface import join_shapes

__all__ = ["label", "label_width"]

_PLAIN, _BOLD = "noto-sans", "noto-sans-bold"
_SAGITTA = 0.03
_LONGEST = 60


@lru_cache(maxsize=4096)
def _outline(text: str, bold: bool) -> shapely.MultiPolygon:
    """A line with capitals one high, its base line at 0, beginning at 0."""
    words = " ".join(text.split())[:_LONGEST]
    code = _BOLD if bold else _PLAIN
    letters = {ord(letter) for letter in words if letter != " "}
    for other in (code, *shipped_typeface_codes()):
        if letters <= shipped_typeface(other).characters:
            code = other
            break
    shape = join_shapes(
        [s for s in draw(set_line(words, shipped_typeface(code)), sagitta=_SAGITTA) if not s.is_empty]
    )
    if shape.is_empty:
        return shapely.MultiPolygon()
    low = shape.bounds[0]
    return shapely.transform(shape, lambda xy: xy - np.array([low, 0.0]))


def label(
    text: str, *, height_mm: float, x_mm: float, y_mm: float, bold: bool = False
) -> shapely.MultiPolygon:
    """A line of words whose capitals are so high, beginning at a place on its base line, y up."""
    at = np.array([x_mm, y_mm])
    return shapely.transform(_outline(text, bold), lambda xy: xy * height_mm + at)


def label_width(text: str, *, height_mm: float, bold: bool = False) -> float:
    """How wide that line is."""
    shape = _outline(text, bold)
    return 0.0 if shape.is_empty else float(shape.bounds[2]) * height_mm

"""A typeface set in itself, capital letters at one height so that typefaces can be compared."""

from __future__ import annotations

import numpy as np
import shapely

from kizami.drawing.paths import path_data
from kizami.drawing.unrolled import Drawing
from kizami.lettering.block import draw, set_line
from kizami.lettering.typeface import Typeface, join_shapes

__all__ = ["specimen_drawing"]

#: Height of a capital in the drawing's units, and room for ascenders and descenders around it.
_CAP, _ABOVE, _BELOW = 10.0, 6.0, 6.5
_TOLERANCE = 0.01


def specimen_drawing(text: str, typeface: Typeface) -> Drawing:
    """Draw a line of text with its base line and cap line; characters that are missing are left out."""
    block = set_line(text, typeface)
    outlines = join_shapes([s for s in draw(block, sagitta=_TOLERANCE) if not s.is_empty])
    width = 10.0
    letters = ""
    if not outlines.is_empty:
        low = outlines.bounds[0]
        shape = shapely.transform(outlines, lambda xy: (xy - np.array([low, 0.0])) * _CAP)
        width = float(shape.bounds[2])
        letters = f'<path class="k-letters" d="{path_data(shape, top_mm=_CAP, decimals=2)}"/>'
    lines = f'<path class="k-rule" fill="none" d="M-1 0H{width + 1:.1f}M-1 {_CAP:.0f}H{width + 1:.1f}"/>'
    return Drawing(view_box=(-1.0, -_ABOVE, width + 2.0, _CAP + _ABOVE + _BELOW), content=lines + letters)

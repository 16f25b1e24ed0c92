"""A logo as it will be made: its outlines, filled."""

from __future__ import annotations

import shapely

from kizami.artwork.artwork import Artwork
from kizami.drawing.paths import path_data
from kizami.drawing.unrolled import Drawing

__all__ = ["artwork_drawing"]

#: The drawing's height in its own units; a logo's outlines are 1 high.
_HEIGHT = 100.0


def artwork_drawing(artwork: Artwork) -> Drawing:
    """Draw a logo, 100 units high."""
    outlines = artwork.outlines(sagitta=2e-3)
    enlarged = outlines if outlines.is_empty else _enlarged(outlines)
    content = f'<path class="k-letters" d="{path_data(enlarged, top_mm=_HEIGHT, decimals=2)}"/>'
    return Drawing(view_box=(-2.0, -2.0, artwork.width * _HEIGHT + 4.0, _HEIGHT + 4.0), content=content)


def _enlarged(outlines: shapely.MultiPolygon) -> shapely.MultiPolygon:
    return shapely.transform(outlines, lambda xy: xy * _HEIGHT)

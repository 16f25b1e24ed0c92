"""A block: wording set at a cap height of 1, before it has a size and a place.

Blocks are small values that are put together: glyphs to lines, lines under each other, letters of
several sizes to a monogram, a logo beside words. Outlines are drawn from a block last, as fine as
the size asks.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from kizami.artwork.artwork import Artwork
from kizami.lettering.optical import set_evenly
from kizami.lettering.typeface import PLAIN, Style, Typeface, glyph_lines, join_shapes, missing_characters
from kizami.outlines.centre_lines import CentreLines
from kizami.remembering import remembered

__all__ = [
    "CENTRING_SAGITTA",
    "Block",
    "Mark",
    "beside",
    "draw",
    "lines_of_mark",
    "scaled",
    "set_artwork",
    "set_line",
    "shifted",
    "stack",
]


@dataclass(frozen=True, kw_only=True, slots=True)
class Mark:
    """One glyph, or a logo, in a block.

    Attributes
    ----------
    source : what it is drawn from
    glyph : number in the typeface; 0 for a logo
    cluster : index of its first character in the wording
    x, y : origin, in cap heights
    line_y : how far its line is above the first one, cap heights; below 0 for lines under it
    scale_x, scale_y : width and height against the block's cap height
    """

    source: Typeface | Artwork
    glyph: int
    cluster: int
    x: float
    y: float
    scale_x: float = 1.0
    scale_y: float = 1.0
    line_y: float = 0.0

    @property
    def is_plain(self) -> bool:
        """Drawn in its own proportions and the right way round."""
        return self.scale_x == self.scale_y > 0


@dataclass(frozen=True, kw_only=True, slots=True)
class Block:
    """Wording in cap heights.

    Attributes
    ----------
    text : what is set
    marks : in visual order
    missing : indices of characters that the typeface lacks
    """

    text: str
    marks: tuple[Mark, ...]
    missing: tuple[int, ...] = ()


def set_line(text: str, typeface: Typeface, style: Style = PLAIN, *, first_cluster: int = 0) -> Block:
    """One line of text.

    Parameters
    ----------
    first_cluster : index of the line's first character in the whole wording
    """
    run = set_evenly(text, typeface, style)
    unit = 1.0 / typeface.cap_height_upem
    marks = tuple(
        Mark(
            source=typeface,
            glyph=g.glyph,
            cluster=g.cluster + first_cluster,
            x=g.x * unit,
            y=g.y * unit,
        )
        for g in run
    )
    missing = tuple(place + first_cluster for place in missing_characters(run))
    return Block(text=text, marks=marks, missing=missing)


def set_artwork(artwork: Artwork, *, text: str = "") -> Block:
    """A logo as high as a capital, standing on the line; it belongs to no letter of the text."""
    return Block(text=text, marks=(Mark(source=artwork, glyph=0, cluster=len(text), x=0.0, y=0.0),))


def scaled(block: Block, factor_x: float, factor_y: float | None = None) -> Block:
    """The block larger or smaller about its origin; condensed when only x is given another factor."""
    factor_y = factor_x if factor_y is None else factor_y
    marks = tuple(
        replace(
            m,
            x=m.x * factor_x,
            y=m.y * factor_y,
            scale_x=m.scale_x * factor_x,
            scale_y=m.scale_y * factor_y,
            line_y=m.line_y * factor_y,
        )
        for m in block.marks
    )
    return replace(block, marks=marks)


def shifted(block: Block, x: float, y: float) -> Block:
    """The block moved, in cap heights."""
    return replace(block, marks=tuple(replace(m, x=m.x + x, y=m.y + y) for m in block.marks))


def beside(blocks: Sequence[Block], *, gap: float, text: str) -> Block:
    """Blocks in a row on one line, `gap` cap heights of clear space between their outlines.

    The space is measured between the outlines themselves: a letter moves in over another's tail.
    """
    marks: list[Mark] = []
    missing: list[int] = []
    placed = shapely.MultiPolygon()
    for block in blocks:
        outlines = join_shapes(draw(block, sagitta=CENTRING_SAGITTA))
        move = _clear_move(placed, outlines, gap) if not placed.is_empty and not outlines.is_empty else 0.0
        marks.extend(shifted(block, move, 0.0).marks)
        missing.extend(block.missing)
        moved = shapely.transform(outlines, lambda xy, m=move: xy + np.array([m, 0.0]))
        placed = moved if placed.is_empty else shapely.MultiPolygon([*placed.geoms, *moved.geoms])
    return Block(text=text, marks=tuple(marks), missing=tuple(sorted(set(missing))))


def _clear_move(left: shapely.MultiPolygon, right: shapely.MultiPolygon, gap: float) -> float:
    """How far to the right a shape must go to stay `gap` clear of what stands to its left."""
    far = float(left.bounds[2] - right.bounds[0] + gap)
    # Never so far in that the two would change places.
    near = (left.bounds[0] + left.bounds[2]) / 2.0 - right.bounds[0]
    for _ in range(24):
        middle = (near + far) / 2.0
        moved = shapely.transform(right, lambda xy, m=middle: xy + np.array([m, 0.0]))
        if shapely.distance(left, moved) >= gap:
            far = middle
        else:
            near = middle
    return far


def stack(lines: Sequence[Block], *, leading: float, text: str) -> Block:
    """Lines under each other, `leading` cap heights from line to line, each centred on its outlines."""
    marks: list[Mark] = []
    missing: list[int] = []
    for number, line in enumerate(lines):
        low, _, high, _ = _bounds(line)
        under = -number * leading
        moved_there = shifted(line, -(low + high) / 2.0, under).marks
        marks.extend(replace(m, line_y=m.line_y + under) for m in moved_there)
        missing.extend(line.missing)
    return Block(text=text, marks=tuple(marks), missing=tuple(sorted(set(missing))))


#: Fine enough to centre by: a thousandth of the height is 0.005 mm on a 5 mm letter.
CENTRING_SAGITTA = 1e-3


def _bounds(block: Block) -> tuple[float, float, float, float]:
    shapes = [s for s in draw(block, sagitta=CENTRING_SAGITTA) if not s.is_empty]
    if not shapes:
        return (0.0, 0.0, 0.0, 0.0)
    boxes = shapely.bounds(np.array(shapes, dtype=object))
    return (*boxes[:, :2].min(axis=0).tolist(), *boxes[:, 2:].max(axis=0).tolist())


def lines_of_mark(mark: Mark) -> CentreLines | None:
    """The middles of a mark's strokes where it stands in its block; None for a logo or a space."""
    if isinstance(mark.source, Artwork) or mark.glyph == 0:
        return None
    return _lines_at(mark.source, mark.glyph, (mark.scale_x, mark.scale_y), (mark.x, mark.y))


@remembered
def _lines_at(
    typeface: Typeface, glyph: int, scale: tuple[float, float], origin: tuple[float, float]
) -> CentreLines | None:
    """Kept, so that what is drawn of the same lines is known to be the same."""
    lines = glyph_lines(typeface, glyph)
    return None if lines is None else lines.moved(scale, origin)


def draw(block: Block, *, sagitta: float) -> list[shapely.MultiPolygon]:
    """The outline of every mark, in cap heights, chords within `sagitta` of the curves.

    A space and a missing character draw nothing.
    """
    shapes = []
    for mark in block.marks:
        source = mark.source
        largest = max(abs(mark.scale_x), abs(mark.scale_y))
        if isinstance(source, Artwork):
            outline, unit = source.outlines(sagitta=sagitta / largest), 1.0
        elif mark.glyph == 0:
            outline, unit = shapely.MultiPolygon(), 1.0
        else:
            unit = 1.0 / source.cap_height_upem
            fine = sagitta / unit / largest
            outline = source.outline(mark.glyph, sagitta_upem=fine).polygons
        if outline.is_empty:
            shapes.append(shapely.MultiPolygon())
            continue
        factor = np.array([mark.scale_x * unit, mark.scale_y * unit])
        origin = np.array([mark.x, mark.y])
        drawn = shapely.transform(outline, lambda xy, f=factor, o=origin: xy * f + o)
        # A mirrored outline runs the other way round.
        shapes.append(shapely.orient_polygons(drawn) if mark.scale_x * mark.scale_y < 0 else drawn)
    return shapes

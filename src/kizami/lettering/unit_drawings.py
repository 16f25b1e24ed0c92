"""Drawings of a block while it is fitted: at a cap height of 1, and its marks once they have a place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

from kizami.lettering.block import Block, Mark
from kizami.lettering.layout import PlacedMark
from kizami.lettering.shapes import Shaped

__all__ = ["Drawing", "Outlines", "Unit", "array_of", "middle_of", "placed_marks"]

#: Array of shape (n,) of outlines.
Outlines = npt.NDArray[np.object_]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Drawing:
    """A block drawn at a cap height of 1: all its marks, and the outlines of those that have one."""

    marks: tuple[Mark, ...]
    outlines: Outlines
    inked: np.ndarray


def array_of(shapes: Sequence[shapely.MultiPolygon]) -> Outlines:
    """Outlines as one array, on which they are moved and asked together."""
    array = np.empty(len(shapes), dtype=object)
    array[:] = shapes
    return array


def middle_of(outlines: Outlines) -> np.ndarray:
    """Middle of the box round outlines, (x, y)."""
    low_x, low_y, high_x, high_y = shapely.total_bounds(outlines)
    return np.array([(low_x + high_x) / 2.0, (low_y + high_y) / 2.0])


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Unit:
    """Outlines at a cap height of 1, with the centre and half the size of their box."""

    outlines: shapely.MultiPolygon
    centre: np.ndarray
    half_box: np.ndarray

    @classmethod
    def of(cls, outlines: shapely.MultiPolygon) -> Unit:
        if outlines.is_empty:
            return cls(outlines=outlines, centre=np.zeros(2), half_box=np.zeros(2))
        low_x, low_y, high_x, high_y = outlines.bounds
        return cls(
            outlines=outlines,
            centre=np.array([(low_x + high_x) / 2.0, (low_y + high_y) / 2.0]),
            half_box=np.array([(high_x - low_x) / 2.0, (high_y - low_y) / 2.0]),
        )


def _condensed(mark: Mark) -> float:
    """Share of its own width that a mark is drawn with; 0 where it is drawn the other way round."""
    return mark.scale_x / mark.scale_y if mark.scale_x > 0.0 and mark.scale_y > 0.0 else 0.0


def placed_marks(block: Block, shaped: Shaped, height: float, offset: np.ndarray) -> list[PlacedMark]:
    marks = []
    for mark, move in zip(block.marks, shaped.moves, strict=True):
        x, y = mark.x * height, mark.y * height
        angle = 0.0
        if move is not None:
            x, y = move.apply(x, y)
            angle = move.angle_rad
        marks.append(
            PlacedMark(
                source=mark.source,
                glyph=mark.glyph,
                cluster=mark.cluster,
                u_mm=float(x + offset[0]),
                v_mm=float(y + offset[1]),
                scale_mm=height * abs(mark.scale_y),
                angle_rad=angle,
                plain=move is not None and mark.is_plain,
                condensed=_condensed(mark) if move is not None else 0.0,
            )
        )
    return marks

"""Outlines that are moved inward, from level to level, and how far they can be."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from kizami.outlines.curves import bodies_of
from kizami.remembering import remembered

__all__ = ["BLUNT", "SIMPLE_MM", "Level", "shrunk", "thinnest_half_mm"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Level:
    """The outline moved inward by `inward_mm` stands at `height_mm` along the normal."""

    inward_mm: float
    height_mm: float


#: Corners of a shrunk outline nearer than this to a line between their neighbours are left out.
SIMPLE_MM = 0.002
#: A corner that points inward goes so many times as far as sides move, and is cut off there; those of curves,
#: which turn hardly, stay corners.
BLUNT = 1.02


@remembered
def shrunk(
    outlines: shapely.MultiPolygon, inward_mm: float, *, simple_mm: float = SIMPLE_MM
) -> shapely.MultiPolygon:
    """Outlines moved inward; bodies that vanish are gone. Kept for a while: pieces are measured by them too.

    All of the outline moves as far: a corner that points inward is cut off where it would go further, so that
    no nick runs into the strokes that meet there.

    Parameters
    ----------
    simple_mm : needless corners are left out within this

    >>> shrunk(shapely.MultiPolygon([shapely.box(0, 0, 4, 2)]), 0.5).area
    3.0
    """
    if inward_mm <= 0:
        return outlines
    inner = outlines.buffer(-inward_mm, join_style="mitre", mitre_limit=BLUNT)
    return bodies_of(shapely.simplify(inner, simple_mm)) if not inner.is_empty else shapely.MultiPolygon()


@remembered
def thinnest_half_mm(
    outlines: shapely.MultiPolygon, *, step_mm: float = 0.02, enough_mm: float = 2.0
) -> float:
    """How far all bodies can be moved inward before one of them falls apart or vanishes.

    Parameters
    ----------
    enough_mm : more need not be known
    """
    count = len(outlines.geoms)
    # Far finer than the step, and several times quicker.
    outlines = outlines.simplify(step_mm / 8.0)
    inner = outlines.buffer(-enough_mm, quad_segs=2)
    if not inner.is_empty and len(shapely.get_parts(inner)) == count:
        return enough_mm
    low, high = 0.0, enough_mm
    while high - low > step_mm:
        middle = (low + high) / 2.0
        inner = outlines.buffer(-middle, quad_segs=2)
        if not inner.is_empty and len(shapely.get_parts(inner)) == count:
            low = middle
        else:
            high = middle
    return low

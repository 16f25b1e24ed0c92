"""The proof of a bed: nothing overlaps, every gap is kept, nothing lies off it. Looks at the true outlines,
and shares no code with what laid them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from kizami.runs.laying import Ground, Place, Shape, placed_outline

__all__ = ["Fault", "faults_of"]

#: A gap may be short by this, as places are kept in thousandths.
_SLACK_MM = 2e-3


@dataclass(frozen=True, kw_only=True, slots=True)
class Fault:
    """What is wrong with a bed, in words.

    Attributes
    ----------
    keys : the pieces at fault
    measured_mm, limit_mm : the gap that there is and the one that is asked
    """

    keys: tuple[str, ...]
    message: str
    measured_mm: float
    limit_mm: float


def faults_of(lying: Sequence[tuple[Shape, Place]], ground: Ground) -> list[Fault]:
    """All faults of one layer of a bed.

    Parameters
    ----------
    lying : pieces with their places
    """
    if not lying:
        return []
    outlines = np.array([placed_outline(shape, place) for shape, place in lying], dtype=object)
    keys = [place.key for _, place in lying]
    faults: list[Fault] = []
    low_x, low_y, high_x, high_y = ground.room
    for key, (a, b, c, d) in zip(keys, shapely.bounds(outlines), strict=True):
        inside = float(min(a - low_x, b - low_y, high_x - c, high_y - d))
        if inside < -_SLACK_MM:
            faults.append(
                Fault(
                    keys=(key,),
                    message=f"{key} reaches {-inside:.2f} mm into the margin or beyond the bed.",
                    measured_mm=inside + ground.margin_mm,
                    limit_mm=ground.margin_mm,
                )
            )
    tree = shapely.STRtree(outlines)
    one, other = tree.query(outlines, predicate="dwithin", distance=max(ground.gap_mm - _SLACK_MM, 0.0))
    for i, j in sorted({(int(i), int(j)) for i, j in zip(one, other, strict=True) if i < j}):
        gap = float(shapely.distance(outlines[i], outlines[j]))
        overlap = gap == 0.0 and shapely.area(shapely.intersection(outlines[i], outlines[j])) > 0.0
        if ground.gap_mm > 0.0 or overlap:
            said = "lie over each other" if overlap else f"lie {gap:.2f} mm apart"
            faults.append(
                Fault(
                    keys=(keys[i], keys[j]),
                    message=f"{keys[i]} and {keys[j]} {said}; {ground.gap_mm:g} mm are asked.",
                    measured_mm=gap,
                    limit_mm=ground.gap_mm,
                )
            )
    if ground.taken is not None:
        for key, outline in zip(keys, outlines, strict=True):
            gap = float(outline.distance(ground.taken))
            if gap < ground.gap_mm - _SLACK_MM:
                faults.append(
                    Fault(
                        keys=(key,),
                        message=f"{key} lies {gap:.2f} mm from where the sheet is used up.",
                        measured_mm=gap,
                        limit_mm=ground.gap_mm,
                    )
                )
    return faults

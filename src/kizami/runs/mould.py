"""What a pattern asks of a sand box: where the halves of the mould part, and whether they let go of it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from kizami.runs.body import Body
from kizami.runs.machine import Machine
from kizami.surfaces.protocol import FloatArray

__all__ = ["Mould", "mould_of", "said_of_moulds"]

#: Upright walls in single precision may look away by so much.
_UPRIGHT = 2e-3
#: So much of a pattern may look away from the pull, mm2: the ends of facets.
_SPECK_MM2 = 0.05
#: Facets that lean to the pull by less than this are walls.
_WALL = math.cos(math.radians(60.0))


@dataclass(frozen=True, kw_only=True, slots=True)
class Mould:
    """A pattern between two halves that are drawn off straight up and straight down.

    Attributes
    ----------
    parting_mm : height of the parting above the lowest point: what is above lies in the upper half
    undercut_mm2 : what looks away from its half's pull, as seen along it: sand there would be torn away
    slope_deg : least slope of a wall to the pull; 90 where there is no wall
    """

    parting_mm: float
    undercut_mm2: float
    slope_deg: float

    @property
    def lets_go(self) -> bool:
        """Whether the mould comes off."""
        return self.undercut_mm2 <= _SPECK_MM2


def mould_of(body: Body, turn: FloatArray) -> Mould:
    """The parting that holds back least of a pattern as it lies; of equal ones the lowest.

    If no facet above a level looks down and none below it looks up, every upright line meets the body in one
    stretch about that level, so that neither half holds it.

    Parameters
    ----------
    turn : (3, 3) matrix that lays it down
    """
    points = body.points @ turn.T
    a, b, c = points[body.faces.T]
    doubled = np.cross(b - a, c - a)
    area = np.linalg.norm(doubled, axis=1) / 2.0
    up = doubled[:, 2] / np.maximum(2.0 * area, 1e-12)
    middle = (a[:, 2] + b[:, 2] + c[:, 2]) / 3.0 - points[:, 2].min()
    order = np.argsort(middle, kind="stable")
    down_seen = np.where(up < -_UPRIGHT, -up * area, 0.0)[order]
    up_seen = np.where(up > _UPRIGHT, up * area, 0.0)[order]
    # Parting above the n lowest facets: those of them that look up are held, and those above that look down.
    held = np.concatenate(([0.0], np.cumsum(up_seen))) + (
        down_seen.sum() - np.concatenate(([0.0], np.cumsum(down_seen)))
    )
    best = int(np.flatnonzero(held <= held.min() + 1e-6)[0])
    lower = np.zeros(len(area), dtype=bool)
    lower[order[:best]] = True
    # Up to where the lower half's walls go; upright ones may be in either.
    ends = points[body.faces[lower & (up < -_UPRIGHT)], 2]
    parting = float(ends.max() - points[:, 2].min()) if len(ends) else 0.0
    side = np.where(lower, -up, up)
    walls = (np.abs(up) < _WALL) & (area > 1e-4)
    slope = float(np.degrees(np.arcsin(np.clip(side[walls].min(), -1.0, 1.0)))) if walls.any() else 90.0
    return Mould(
        parting_mm=round(parting, 3), undercut_mm2=float(held.min()), slope_deg=round(max(slope, 0.0), 2)
    )


def said_of_moulds(moulds: Sequence[Mould], heights_mm: Sequence[float], machine: Machine) -> tuple[str, ...]:
    """Parting, slope and sand of a box, in words.

    >>> said_of_moulds([], [], None)
    ()
    """
    if not moulds:
        return ()
    low, high = (pick(mould.parting_mm for mould in moulds) for pick in (min, max))
    if high < 0.05:
        rows = ["all patterns lie on the parting, in one half"]
    elif high - low < 0.05:
        rows = [f"parting {low:.1f} mm above the lowest point of each pattern"]
    else:
        rows = [f"parting {low:.1f} to {high:.1f} mm above the lowest point of a pattern"]
    steep = sum(mould.slope_deg < machine.draft_deg - 0.05 for mould in moulds)
    least = min(mould.slope_deg for mould in moulds)
    slope = f"least slope of walls {least:.1f}°, {machine.draft_deg:g}° are asked"
    if steep:
        slope += f": {steep} pattern{'s' * (steep != 1)} must be drawn with care"
    above = max(height - mould.parting_mm for height, mould in zip(heights_mm, moulds, strict=True))
    sand = machine.bed_mm[2] / 2.0 - max(above, high)
    return (f"{rows[0]}; {slope}; {sand:.0f} mm of sand over the highest",)

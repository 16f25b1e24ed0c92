"""Calipers: the width of a stroke or a gap on the finished piece, at a place known from the layout."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from kizami.as_made.as_made import AsMade
from kizami.as_made.fineness import Fine
from kizami.solids.soundings import HasRays

__all__ = ["Caliper", "measured_across"]

#: So far from the end at which it is narrowest, as a share of the way to the other end: on the edge
#: itself a ray might pass by.
_SHARE = 0.15
_STEP_MM = 1e-3
#: Rays all round; between two of them a straight wall is at most this cosine of 2.5 degrees off: 0.1 %.
_WAYS = 72


@dataclass(frozen=True, kw_only=True, slots=True)
class Caliper:
    """One width, told twice.

    Attributes
    ----------
    expected_mm : by the layout, at the height at which it was measured
    measured_mm : on the finished piece; infinite where there is nothing to measure against
    """

    expected_mm: float
    measured_mm: float


def measured_across(piece: HasRays, made: AsMade, fine: Fine, *, way: float) -> Caliper | None:
    """Measure a stroke (way -1) or a gap (way 1): twice the way from its middle to the nearest side.

    None for what has no sides: a closed middle, a dot.
    """
    across = np.array(fine.across)
    if not across.any():
        return None
    height = _height(made, fine)
    middle = np.array([[fine.u_mm, fine.v_mm]])
    ahead = np.array([-across[1], across[0]])
    around = np.vstack((middle, middle + across * _STEP_MM, middle + ahead * _STEP_MM))
    start, one, two = made.place(around, np.full(3, height))
    # Two directions along the face, at right angles in space.
    one = (one - start) / np.linalg.norm(one - start)
    two = two - start
    two -= one * float(two @ one)
    two /= np.linalg.norm(two)
    angles = np.linspace(0.0, 2.0 * np.pi, _WAYS, endpoint=False)
    ways = np.outer(np.cos(angles), one) + np.outer(np.sin(angles), two)
    hits = piece.rays.first(np.broadcast_to(start, ways.shape), ways)
    inward = _inward_at(made, height)
    flat = max(fine.flat_mm + way * fine.sides * inward, 0.0)
    true = 1.0 if made.scale.is_true else float(made.scale.across(middle, across[None], height)[0])
    return Caliper(expected_mm=flat * true, measured_mm=2.0 * float(hits.distance.min()))


def _height(made: AsMade, fine: Fine) -> float:
    """Between the two ends, near the one at which it is narrowest."""
    ends = [end.height_mm for end in made.ends]
    if len(ends) == 1:
        # A pointed or rounded floor: just under the face.
        return _SHARE * made.levels[-1].height_mm
    other = ends[1] if fine.height_mm == ends[0] else ends[0]
    return fine.height_mm + _SHARE * (other - fine.height_mm)


def _inward_at(made: AsMade, height_mm: float) -> float:
    """How far outlines have moved inward at a height."""
    levels = sorted(made.levels, key=lambda level: level.height_mm)
    return float(
        np.interp(height_mm, [level.height_mm for level in levels], [level.inward_mm for level in levels])
    )

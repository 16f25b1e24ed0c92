"""A line that somebody drew for lettering to stand on: joined to one, told apart from what lies beside it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from kizami.counting import so_many
from kizami.errors import OutlineError
from kizami.outlines.drawn import FINE, MOST_POINTS, joined_lines
from kizami.surfaces.protocol import FloatArray

__all__ = ["DrawnPath", "drawn_path"]

#: Another line that is as long, against the longest one, is no note beside it: nobody knows which is meant.
_AS_LONG = 0.25


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class DrawnPath:
    """An open line.

    Attributes
    ----------
    points : (n, 2) from its left end on, in the drawing's numbers, y up
    notes : what was put right or left out
    """

    points: FloatArray
    notes: tuple[str, ...]

    @property
    def length(self) -> float:
        """All along it."""
        return float(np.hypot(*np.diff(self.points, axis=0).T).sum())


def drawn_path(lines: Sequence[FloatArray]) -> DrawnPath:
    """The one open line that is drawn.

    Parameters
    ----------
    lines : each (n, 2), in any order and direction

    Raises
    ------
    OutlineError : all of it closes, several lines do not meet, or it crosses itself

    >>> drawn_path([np.array([(9.0, 3.0), (4.0, 0.0)]), np.array([(0.0, 0.0), (4.0, 0.0)])]).points.tolist()
    [[0.0, 0.0], [4.0, 0.0], [9.0, 3.0]]
    >>> drawn_path([np.array([(0.0, 0.0), (1.0, 0.0), (1.0, 1.0), (0.0, 0.0)])])
    Traceback (most recent call last):
    ...
    kizami.errors.OutlineError: What is drawn closes on itself. Letters stand on a line with two ends.
    """
    joined = joined_lines(lines)
    if not joined.open:
        raise OutlineError("What is drawn closes on itself. Letters stand on a line with two ends.")
    ordered = sorted((shapely.LineString(one) for one in joined.open), key=lambda one: -one.length)
    path, others = ordered[0], ordered[1:]
    if others and others[0].length >= _AS_LONG * path.length:
        end = min(
            (shapely.Point(path.coords[side]) for side in (0, -1)), key=lambda at: at.distance(others[0])
        )
        raise OutlineError(
            f"It is drawn of lines that do not meet: one ends at {end.x:.2f}, {end.y:.2f}. Letters stand on "
            "one line: join them, or leave out the others.",
            at=(end.x, end.y),
        )
    _refuse_crossing(path)
    notes = []
    left_out = len(others) + len(joined.rings)
    if left_out:
        notes.append(f"{so_many(left_out, 'other line')} left out")
    fine = FINE * joined.extent
    points: FloatArray = shapely.get_coordinates(path.simplify(fine))
    while len(points) > MOST_POINTS:
        fine *= 1.5
        points = shapely.get_coordinates(path.simplify(fine))
    if points[-1, 0] < points[0, 0]:
        points = points[::-1]
        notes.append("drawn from right to left, read from left to right")
    return DrawnPath(points=points, notes=tuple(notes))


def _refuse_crossing(path: shapely.LineString) -> None:
    if path.is_simple:
        return
    ends = {path.coords[0], path.coords[-1]}
    # Parted wherever it meets itself.
    parts = shapely.get_parts(shapely.node(path))
    crossing = next(
        (end for part in parts for end in (part.coords[0], part.coords[-1]) if end not in ends), None
    )
    where = f" at {crossing[0]:.2f}, {crossing[1]:.2f}" if crossing else ""
    raise OutlineError(
        f"The line crosses itself{where}. Letters would stand on each other there.",
        at=None if crossing is None else (crossing[0], crossing[1]),
    )

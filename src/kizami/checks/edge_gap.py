"""Lettering too near an edge, a hole or the sizing seam, or running off the area."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely

from kizami.as_made.as_made import AsMade, End
from kizami.as_made.treatment import CutOut
from kizami.checks.cases import FlatCase, causes_of, finding, spot_at
from kizami.checks.finding import Cause, Finding

__all__ = ["edge_gap"]

#: Of parts that are nearest unrolled, those within this share may be nearest in truth.
_NEARLY = 1.5


def edge_gap(case: FlatCase) -> Iterator[Finding]:
    """Least distance from what is cut or stands to an edge or keep-out; negative when it runs over it.

    Around letters in a recess it is the recess that must keep away.
    """
    made = case.made
    # A name with nothing behind it has no edge but its own.
    if made.outlines.is_empty or isinstance(case.treatment, CutOut):
        return
    changed = _changed(made)
    if not len(changed.shapes):
        return
    inside = shapely.covers(made.area.clear_region(0.0), changed.shapes)
    gap, at, height, number = _nearest(made, changed) if inside.all() else _furthest(made, changed, inside)
    part = [] if changed.numbers[number] < 0 else [int(changed.numbers[number])]
    what = "The recess" if made.panel is not None else "The lettering"
    cluster = next((c.cluster for c in causes_of(made, part) if c.cluster is not None), None)
    yield finding(
        "edge-gap",
        gap,
        case.limits.of("edge-gap"),
        spot=spot_at(made, at[0], at[1], height, cluster=cluster),
        cause=(*causes_of(made, part), Cause(kind=_nearest_name(made, at))),
        what=what,
    )


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Changed:
    """What changes the face: `shapes` (n,), the numbers of their parts (-1 for a recess), and between which
    ends they stand."""

    shapes: np.ndarray
    numbers: np.ndarray
    ends: tuple[End, ...]


def _changed(made: AsMade) -> _Changed:
    if made.panel is not None:
        floor = made.ends[0].height_mm
        ends = tuple(End(name=n, inward_mm=0.0, height_mm=h) for n, h in (("face", 0.0), ("floor", floor)))
        return _Changed(shapes=np.array([made.panel], dtype=object), numbers=np.array([-1]), ends=ends)
    # Ornaments are judged when their product is read.
    numbers = [n for n, part in enumerate(made.parts) if part.kind not in ("ornament", "frame")]
    shapes = np.array([made.parts[n].outline for n in numbers], dtype=object)
    return _Changed(shapes=shapes, numbers=np.array(numbers, dtype=np.int64), ends=made.ends)


def _nearest(made: AsMade, changed: _Changed) -> tuple[float, np.ndarray, float, int]:
    """Gap, its middle, the height at which it is so narrow, and the place among what changes the face."""
    edges = made.area.edges()
    flat = shapely.distance(changed.shapes, edges)
    near = np.flatnonzero(flat <= _NEARLY * flat.min() + 1e-9)
    lines = shapely.shortest_line(changed.shapes[near], edges)
    best: tuple[float, np.ndarray, float, int] | None = None
    for place, line in zip(near.tolist(), lines, strict=True):
        ends = shapely.get_coordinates(line)
        middle, along = ends.mean(axis=0), ends[1] - ends[0]
        length = float(np.hypot(*along))
        across = along[None] / length if length > 0 else np.zeros((1, 2))
        for end in changed.ends:
            true = (
                1.0
                if made.scale.is_true
                else float(made.scale.across(middle[None], across, end.height_mm)[0])
            )
            gap = (length + end.inward_mm) * true
            if best is None or gap < best[0]:
                best = (gap, middle, end.height_mm, place)
    assert best is not None
    return best


def _furthest(made: AsMade, changed: _Changed, inside: np.ndarray) -> tuple[float, np.ndarray, float, int]:
    """The same for what runs over an edge: how far, below 0."""
    clear, edges = made.area.clear_region(0.0), made.area.edges()
    worst: tuple[float, np.ndarray, float, int] | None = None
    for place in np.flatnonzero(~inside).tolist():
        beyond = shapely.get_coordinates(changed.shapes[place].difference(clear))
        if not len(beyond):
            beyond = shapely.get_coordinates(changed.shapes[place])
        reach = shapely.distance(shapely.points(beyond), edges)
        far = int(reach.argmax())
        if worst is None or -reach[far] < worst[0]:
            worst = (-float(reach[far]), beyond[far], 0.0, place)
    assert worst is not None
    return worst


def _nearest_name(made: AsMade, at: np.ndarray) -> str:
    spot = shapely.Point(at)
    named = [(k.outline.distance(spot), k.name) for k in made.area.keep_outs]
    named.append((made.area.outline.boundary.distance(spot), "edge"))
    return min(named)[1]

"""What a beam does to a sheet: paths by operation, in the order of work, with kerf made good and holding
tabs."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import shapely
import shapely.ops

from kizami.outlines.curves import bodies_of
from kizami.outlines.moving import rotated, shifted
from kizami.runs.flat_piece import flat_piece
from kizami.runs.laying import Place
from kizami.runs.machine import Machine, Operation, Work
from kizami.solids.flat_work import FlatWork
from kizami.surfaces.protocol import FloatArray

__all__ = ["Path", "SheetWork", "Step", "placed_flat", "placed_works", "sheet_work"]

#: The beam moves so fast where it does nothing (common practice, no source).
_TRAVEL_MM_S = 300.0
#: Making ready and taking off (common practice, no source).
_SET_UP_H = 0.1
#: A shortest way is looked for among so many paths at once.
_MOST_FOR_TURNS = 400


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Path:
    """One path of the beam, or the edge of an area that it engraves.

    Attributes
    ----------
    key : ticket code of the piece
    points : (n, 2), mm from the sheet's lower left corner
    closed : back to its start; a path with tabs is several open ones
    inner : of a cut, an opening of the piece
    """

    key: str
    points: FloatArray
    closed: bool
    inner: bool = False

    @property
    def length_mm(self) -> float:
        """Along it."""
        points = np.vstack([self.points, self.points[:1]]) if self.closed else self.points
        return float(np.linalg.norm(np.diff(points, axis=0), axis=1).sum())


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Step:
    """One operation with its paths in the order of work.

    Attributes
    ----------
    operation : with the station's settings
    paths : in their order
    area_mm2 : engraved; 0 for lines
    seconds : estimated, with the ways between
    """

    operation: Operation
    paths: tuple[Path, ...]
    area_mm2: float
    seconds: float


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class SheetWork:
    """All that is done to a sheet: scored, engraved, inner cuts, outer cuts."""

    steps: tuple[Step, ...]

    @property
    def cut_mm(self) -> float:
        """Length that is cut."""
        return sum(p.length_mm for s in self.steps if s.operation.work is Work.CUT for p in s.paths)

    @property
    def hours(self) -> float:
        """Estimated, with making ready."""
        return _SET_UP_H + sum(step.seconds for step in self.steps) / 3600.0


def placed_flat(work: FlatWork, place: Place) -> FlatWork:
    """A flat piece where it lies. Its drawing begins at the lower left corner, as its outline does."""

    def put(shape: shapely.MultiPolygon) -> shapely.MultiPolygon:
        turned = rotated(shape, place.turn_deg)
        return bodies_of(shifted(turned, place.x_mm, place.y_mm))

    return FlatWork(
        piece=put(work.piece), engraved=put(work.engraved), scored=put(work.scored), size_mm=work.size_mm
    )


def placed_works(
    pieces: Iterable[tuple[Place, str, Callable[[str], bytes]]],
) -> list[tuple[str, FlatWork]]:
    """What is done to each piece where it lies, with its ticket code; equal drawings are read once.

    Parameters
    ----------
    pieces : place, what tells its shape, and what reads its files

    Raises
    ------
    RunError : a drawing is damaged
    """
    drawn: dict[str, FlatWork] = {}
    placed = []
    for place, shape_key, read in pieces:
        if shape_key not in drawn:
            drawn[shape_key] = flat_piece(read("cut.svg"))
        placed.append((place.key, placed_flat(drawn[shape_key], place)))
    return placed


def sheet_work(
    pieces: Sequence[tuple[str, FlatWork]], machine: Machine, *, material: str, thickness_mm: float
) -> SheetWork:
    """The work on a sheet.

    What is inside is cut before what is outside: a piece that has come loose lies askew. Openings of letters
    and holes are cut before any outline is.

    Parameters
    ----------
    pieces : ticket code and what is done to it, where it lies

    Raises
    ------
    RunError : the station has no settings for a kind of work that is needed
    """
    scored, engraved, inner, outer = list[Path](), list[Path](), list[Path](), list[Path]()
    area = 0.0
    for key, work in pieces:
        scored += [Path(key=key, points=ring, closed=True) for ring in _rings(work.scored)]
        engraved += [Path(key=key, points=ring, closed=True) for ring in _rings(work.engraved)]
        area += float(work.engraved.area)
        # The beam takes half its width on either side: outlines go out by that, openings in.
        for part in shapely.get_parts(work.piece.buffer(machine.kerf_mm / 2.0, join_style="round")):
            outer += _with_tabs(key, _ring(part.exterior), machine)
            inner += [Path(key=key, points=_ring(hole), closed=True, inner=True) for hole in part.interiors]
    steps = []
    at = np.zeros(2)
    for work_kind, groups in (
        (Work.SCORE, [scored]),
        (Work.ENGRAVE, [engraved]),
        (Work.CUT, [inner, outer]),
    ):
        if not any(groups):
            continue
        operation = machine.operation(work_kind, material, thickness_mm)
        ordered: list[Path] = []
        travel = 0.0
        for group in groups:
            way, at, moved = _shortest(group, at)
            ordered += way
            travel += moved
        size = area if work_kind is Work.ENGRAVE else 0.0
        steps.append(
            Step(
                operation=operation,
                paths=tuple(ordered),
                area_mm2=size,
                seconds=_seconds(operation, ordered, size) + travel / _TRAVEL_MM_S,
            )
        )
    return SheetWork(steps=tuple(steps))


def _seconds(operation: Operation, paths: Sequence[Path], area_mm2: float) -> float:
    length = area_mm2 / operation.spacing_mm if area_mm2 else sum(path.length_mm for path in paths)
    return operation.passes * length / operation.speed_mm_s


def _rings(shape: shapely.Geometry) -> list[FloatArray]:
    return [
        _ring(ring)
        for part in shapely.get_parts(shape)
        if isinstance(part, shapely.Polygon)
        for ring in (part.exterior, *part.interiors)
    ]


def _ring(ring: shapely.LinearRing) -> FloatArray:
    return np.asarray(ring.coords, dtype=np.float64)[:-1]


def _with_tabs(key: str, ring: FloatArray, machine: Machine) -> list[Path]:
    """An outline in as many open paths as it has tabs; they stand on its straightest stretches, spread
    round."""
    line = shapely.LineString(np.vstack([ring, ring[:1]]))
    length = line.length
    if not machine.tabs or machine.tab_mm * machine.tabs * 4.0 > length:
        return [Path(key=key, points=ring, closed=True)]
    half = machine.tab_mm / 2.0 + machine.kerf_mm / 2.0
    share = length / machine.tabs
    centres = [_straightest(line, n * share, (n + 1) * share, half) for n in range(machine.tabs)]
    doubled = shapely.LineString(np.vstack([ring, ring, ring[:1]]))
    ends = [*centres[1:], centres[0] + length]
    paths = []
    for start, end in zip(centres, ends, strict=True):
        part = shapely.ops.substring(doubled, start + half, end - half)
        paths.append(Path(key=key, points=np.asarray(part.coords, dtype=np.float64), closed=False))
    return paths


def _straightest(line: shapely.LineString, start: float, end: float, half: float) -> float:
    """The place in the middle half of a stretch around which the line bends least."""
    quarter = (end - start) / 4.0
    tried = np.linspace(start + quarter, end - quarter, 9)
    bends = []
    for at in tried.tolist():
        a, c = (line.interpolate((at + d) % line.length) for d in (-2.0 * half, 2.0 * half))
        bends.append(4.0 * half - math.hypot(c.x - a.x, c.y - a.y))
    return float(tried[int(np.argmin(np.round(bends, 6)))])


def _shortest(paths: Sequence[Path], start: FloatArray) -> tuple[list[Path], FloatArray, float]:
    """A short way through paths: always to the nearest, then turned round where that shortens it.

    Returns
    -------
    the paths in their order, where the beam is then, and how far it moved between them
    """
    if not paths:
        return [], start, 0.0
    first = np.array([path.points[0] for path in paths])
    last = np.array([path.points[0 if path.closed else -1] for path in paths])
    left = np.ones(len(paths), dtype=bool)
    order: list[int] = []
    at = start
    for _ in paths:
        gaps = np.where(left, np.hypot(*(first - at).T), np.inf)
        number = int(gaps.argmin())
        left[number] = False
        order.append(number)
        at = last[number]
    if len(paths) <= _MOST_FOR_TURNS:
        order = _turned_round(order, first, last, start, np.array([path.closed for path in paths]))
    moved = float(np.hypot(*(first[order[0]] - start)))
    moved += float(sum(np.hypot(*(first[b] - last[a])) for a, b in pairwise(order)))
    return [paths[n] for n in order], last[order[-1]], moved


def _turned_round(
    order: list[int], first: FloatArray, last: FloatArray, start: FloatArray, closed: np.ndarray
) -> list[int]:
    """Stretches of the way are run the other way round where that is shorter (2-opt: G. A. Croes, 1958, from
    memory); only where all paths of a stretch are closed, as those begin where they end."""
    if not closed.all():
        return order
    points = np.vstack([start, first[order]])
    numbers = list(order)
    for _ in range(4):
        better = False
        for i in range(len(points) - 2):
            gaps = np.hypot(*(points[i + 1 :] - points[i]).T)
            # The way from i to i+1 and from j to j+1 becomes the way from i to j and from i+1 to j+1.
            after = np.vstack([points[i + 2 :], points[-1:]])
            now = gaps[0] + np.hypot(*(after - points[i + 1 :]).T)
            then = gaps + np.hypot(*(after - points[i + 1]).T)
            then[-1], now[-1] = gaps[-1], gaps[0]
            j = int((now - then).argmax())
            if now[j] - then[j] > 1e-6 and j > 0:
                points[i + 1 : i + j + 2] = points[i + 1 : i + j + 2][::-1]
                numbers[i : i + j + 1] = numbers[i : i + j + 1][::-1]
                better = True
        if not better:
            break
    return numbers

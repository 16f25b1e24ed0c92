"""Proof of build: the finished piece holds exactly the parts that were to be made, each in its place.

Every part is sounded by itself: at the middles of its strokes, where it must stand or be cut to its whole
depth, and on either side of its edge, where it must be there a little inside and gone a little outside.
A part that is lost, moved, mirrored, thinned or too shallow shows; a dot of an i as well as a whole letter.
What is expected comes from the outlines and from what was asked, never from how the piece was built.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.treatment import CutOut, Engraved, InRecess, Pierced, Raised, Scored
from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray
from kizami.prepared import prepared
from kizami.solids.soundings import HasRays, sounded

__all__ = ["DEEP", "INSIDE", "OUTSIDE", "Probes", "Proved", "probes_of", "prove"]

#: On either side of an edge probes stand so far from it, mm.
_BESIDE_MM = 0.05
#: Probes beside each outline of a part, and at the middles of its strokes.
_EDGE_PROBES, _DEEP_PROBES = 8, 6
#: What a depth may be off: the chord tolerance of 0.005 mm with single precision, and a share of it.
_OFF_MM, _OFF_SHARE = 0.0065, 0.008
#: Less than this share of its depth is no part at all.
_HARDLY = 0.2
#: Depth of what is not there, or goes through, mm.
_NOTHING_MM = 1e3
#: What a probe tells: the whole depth, that a part is there inside of its edge, that it is not outside.
DEEP, INSIDE, OUTSIDE = 0, 1, 2


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Probes:
    """Places where a piece is sounded, and what must be found there.

    Attributes
    ----------
    uv : (n, 2) unrolled mm
    part : (n,) number of the part that each proves
    kind : (n,) `DEEP`, `INSIDE` or `OUTSIDE`
    height_mm : (n,) of the part there
    """

    uv: FloatArray
    part: IntArray
    kind: IntArray
    height_mm: FloatArray


@dataclass(frozen=True, kw_only=True, slots=True)
class Proved:
    """One part on the finished piece.

    Attributes
    ----------
    part : its number
    depth_mm : least depth or height at the middles of its strokes; 0 where it is missing, and nan where
        none could be sounded
    wrong : what is wrong with it, in words, or ""
    u_mm, v_mm : where it is wrong, or shallowest
    """

    part: int
    depth_mm: float
    wrong: str
    u_mm: float
    v_mm: float


def prove(piece: HasRays, made: AsMade) -> tuple[Proved, ...]:
    """Sound every part of an area on the finished piece."""
    if isinstance(made.treatment, Scored) or made.outlines.is_empty:
        return ()
    probes = probes_of(made)
    heights = np.maximum(sounded(piece, made, probes.uv), -_NOTHING_MM)
    outside, _ = _levels(made)
    depth = np.abs(heights - outside)
    asked = np.abs(probes.height_mm - outside)
    if isinstance(made.treatment, Pierced):
        # However thick the wall is there, the ray must have come out of it.
        gone = heights < 0.02 - made.area.wall_mm
        depth, asked = np.where(gone, _NOTHING_MM, 0.0), np.full(len(depth), _NOTHING_MM)
    elif isinstance(made.treatment, CutOut):
        # Whatever of another turn of a curved wall is met further down is none of this one.
        there = heights > -_BESIDE_MM
        depth, asked = np.where(there, np.abs(heights), 0.0), np.abs(probes.height_mm)
    off = np.abs(depth - asked)
    deep = probes.kind == DEEP
    there = depth > asked / 2.0
    is_wrong = np.where(deep, off > _OFF_MM + _OFF_SHARE * asked, there != (probes.kind == INSIDE))
    count = len(made.parts)
    least = np.full(count, np.inf)
    np.minimum.at(least, probes.part[deep], depth[deep])
    proved = []
    for part in np.unique(probes.part).tolist():
        here = np.flatnonzero(probes.part == part)
        wrong, at = "", int(here[np.argmin(np.where(deep[here], depth[here], np.inf))])
        if is_wrong[here].any():
            bad = here[is_wrong[here]]
            at = int(bad[np.argmax(np.where(deep[bad], off[bad], -1.0))])
            wrong = _said(made, depth[here][deep[here]], asked[here][deep[here]], probes.kind[at])
        proved.append(
            Proved(
                part=part,
                depth_mm=float(least[part]) if np.isfinite(least[part]) else float("nan"),
                wrong=wrong,
                u_mm=float(probes.uv[at, 0]),
                v_mm=float(probes.uv[at, 1]),
            )
        )
    return tuple(proved)


def _levels(made: AsMade) -> tuple[float, float]:
    """Heights beside the parts and within them; what goes through has none, nor what nothing is behind."""
    treatment = made.treatment
    if isinstance(treatment, CutOut):
        return 0.0, treatment.thickness_mm
    if isinstance(treatment, InRecess):
        return treatment.layer
    if isinstance(treatment, Engraved | Raised):
        low, high = treatment.layer
        return (high, low) if treatment.sinks else (low, high)
    return 0.0, -_NOTHING_MM


def _said(made: AsMade, depth: FloatArray, asked: FloatArray, kind: int) -> str:
    """In words, what is wrong with a part of which these depths were found."""
    if kind == INSIDE:
        return "is narrower than it was drawn, or stands elsewhere"
    if kind == OUTSIDE:
        return "is wider than it was drawn, or stands elsewhere"
    if isinstance(made.treatment, Pierced):
        return "is not cut through"
    gone = depth < _HARDLY * asked
    if gone.all():
        return "is missing"
    if gone.any():
        return "is missing in part"
    worst = int(np.argmax(np.abs(depth - asked)))
    what = "deep" if made.treatment.sinks else "high"
    return f"is {depth[worst]:.3f} mm {what} where {asked[worst]:.3f} mm were asked for"


def probes_of(made: AsMade) -> Probes:
    """Where an area is sounded."""
    numbers = [n for n, part in enumerate(made.parts) if part.kind != "frame"]
    deep, deep_part = _middles(made, numbers)
    beside, inward, edge_part = _edges(made, numbers)
    reach = 0.0 if made.is_pointed else made.levels[-1].inward_mm
    steps = (0.0, reach + _BESIDE_MM, -_BESIDE_MM)
    uv = np.concatenate((deep, beside + inward * steps[INSIDE], beside + inward * steps[OUTSIDE]))
    part = np.concatenate((deep_part, edge_part, edge_part))
    kind = np.repeat([DEEP, INSIDE, OUTSIDE], [len(deep), len(beside), len(beside)])
    # What bridges or openings took out of a part is no part of it, and beside a letter another one may stand.
    outlines = prepared(made.outlines)
    edge = prepared(outlines.boundary)
    clear = np.array([reach + _BESIDE_MM, 0.8 * _BESIDE_MM, 0.8 * _BESIDE_MM])[kind]
    points = shapely.points(uv)
    is_in = np.asarray(shapely.contains_xy(outlines, uv), dtype=bool)
    kept = (is_in == (kind != OUTSIDE)) & ~shapely.dwithin(edge, points, clear)
    kept[kind == OUTSIDE] &= _is_ground(made, uv[kind == OUTSIDE])
    uv, part, kind, points = uv[kept], part[kept], kind[kept], points[kept]
    height = np.full(len(uv), _levels(made)[1])
    if made.is_pointed:
        # Walls at 45 degrees meet in the middle.
        height = np.maximum(height, -shapely.distance(edge, points))
    return Probes(uv=uv, part=part, kind=kind, height_mm=height)


def _is_ground(made: AsMade, uv: FloatArray) -> npt.NDArray[np.bool_]:
    """Places beside lettering where the face, or the floor of the recess, must be as it was."""
    if isinstance(made.treatment, CutOut):
        standing = made.area.standing
        return np.full(len(uv), True) if standing is None else ~shapely.contains_xy(standing, uv)
    room = made.area.clear_region(_BESIDE_MM) if made.panel is None else made.panel.buffer(-_BESIDE_MM)
    return np.asarray(shapely.contains_xy(room, uv), dtype=bool)


def _middles(made: AsMade, numbers: list[int]) -> tuple[FloatArray, IntArray]:
    """Middles of strokes, spread over each part, and the middle of every body that no stroke speaks for."""
    found: list[FloatArray] = []
    owner: list[int] = []
    for number in numbers:
        part = made.parts[number]
        strokes = np.empty((0, 2))
        if part.mark is not None:
            strokes = made.layout.narrow[part.mark].strokes.centres
            which = np.unique(np.linspace(0, len(strokes) - 1, _DEEP_PROBES).astype(np.int64))
            found.append(strokes[which] if len(strokes) else strokes)
            owner.extend([number] * len(found[-1]))
        bodies = part.outline.geoms
        if len(bodies) == 1 and len(strokes):
            continue
        for body in bodies:
            # A dot has no stroke that lasts.
            if len(strokes) and shapely.contains_xy(body, strokes).any():
                continue
            found.append(_middle_of(body))
            owner.append(number)
    return np.concatenate([np.empty((0, 2)), *found]), np.array(owner, dtype=np.int64)


def _middle_of(body: shapely.Polygon) -> FloatArray:
    """The middle of a dot: where it is its own middle, that is found at once."""
    centre = body.centroid
    whole = 4.0 * math.pi * body.area > _ROUND_SHARE * body.length**2 and not body.interiors
    if not whole:
        # Nearly the middle is as good: what is asked is a place well within.
        tolerance = _NEARLY * body.area / body.length
        centre = shapely.Point(shapely.maximum_inscribed_circle(body, tolerance=tolerance).coords[0])
    return np.array(centre.coords)


#: Of half the mean width of a body.
_NEARLY = 0.1
#: As round as a square or rounder: 4 pi A / P^2 of a square is pi / 4.
_ROUND_SHARE = 0.78


def _edges(made: AsMade, numbers: list[int]) -> tuple[FloatArray, FloatArray, IntArray]:
    """Places on outlines; unit vectors into the part; and the number of the part.

    Every outline is walked in equal stretches, and of each the longest side is taken, as its middle is far
    from corners.
    """
    bodies, of_part = shapely.get_parts([made.parts[n].outline for n in numbers], return_index=True)
    rings, of_body = shapely.get_rings(bodies, return_index=True)
    points, ring = shapely.get_coordinates(rings, return_index=True)
    sides = np.flatnonzero(ring[:-1] == ring[1:])
    start, way, ring = points[sides], points[sides + 1] - points[sides], ring[sides]
    length = np.hypot(*way.T)
    whole = np.bincount(ring, weights=length)
    along = np.cumsum(length) - length / 2.0
    along -= (np.cumsum(whole) - whole)[ring]
    stretch = np.minimum((along / whole[ring] * _EDGE_PROBES).astype(np.int64), _EDGE_PROBES - 1)
    stretch += ring * _EDGE_PROBES
    order = np.lexsort((-length, stretch))
    chosen = order[np.flatnonzero(np.append(True, np.diff(stretch[order]) > 0))]
    along = way[chosen] / np.maximum(length[chosen], 1e-12)[:, None]
    part = np.array(numbers, dtype=np.int64)[of_part[of_body[ring[chosen]]]]
    return start[chosen] + way[chosen] / 2.0, np.column_stack((-along[:, 1], along[:, 0])), part

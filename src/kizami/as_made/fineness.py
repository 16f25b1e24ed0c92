"""How fine a piece is where it is finest: strokes, necks, gaps and closed middles, as they are made.

Every width is taken at the narrower of face and floor or top, and in true length there. Within a glyph
the places are known from its typeface; between parts they are measured on the parts, whatever neighbours
they are; where parts meet, on what they make together.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

from kizami.as_made.as_made import AsMade, End
from kizami.as_made.narrow_places import ALONE, TOUCH_MM, NarrowPlaces, Owned, narrow_places
from kizami.as_made.treatment import CutOut
from kizami.outlines.curves import FloatArray
from kizami.outlines.narrow import Places

__all__ = ["Fine", "Fineness", "fineness", "finest", "reach_unrolled"]

#: Of gaps unrolled, those within this share of the narrowest may be narrower in truth.
_NEARLY = 1.3


@dataclass(frozen=True, kw_only=True, slots=True)
class Fine:
    """The finest place of a part, or between two.

    Attributes
    ----------
    width_mm : true width
    u_mm, v_mm : its middle, unrolled
    height_mm : at which it is so narrow, along the normal or the pull
    end : name of that height, see `kizami.as_made.as_made.End`
    parts : numbers of the parts; -1 is the edge of a recess
    flat_mm : its width at the face, unrolled
    across : unrolled unit vector from side to side; (0, 0) where it is as wide all round
    sides : how many of its two sides move inward with the walls
    """

    width_mm: float
    u_mm: float
    v_mm: float
    height_mm: float
    end: str
    parts: tuple[int, ...]
    flat_mm: float
    across: tuple[float, float]
    sides: int = 2


@dataclass(frozen=True, kw_only=True, slots=True)
class Fineness:
    """The finest places of an area, the finest first: one for each part, or pair of parts.

    Attributes
    ----------
    strokes, necks, gaps, middles : gaps are between strokes, middles are closed
    unmeasured : numbers of the parts that could not be measured
    """

    strokes: tuple[Fine, ...] = ()
    necks: tuple[Fine, ...] = ()
    gaps: tuple[Fine, ...] = ()
    middles: tuple[Fine, ...] = ()
    unmeasured: tuple[int, ...] = ()


def fineness(made: AsMade, *, reach_mm: float) -> Fineness:
    """Find the finest places of an area.

    Parameters
    ----------
    reach_mm : what is narrower is measured wherever it is; of what is wider the narrowest is told
    """
    if made.outlines.is_empty:
        return Fineness()
    return finest(made, narrow_places(made, reach_unrolled(made, reach_mm)), reach_mm=reach_mm)


def reach_unrolled(made: AsMade, reach_mm: float) -> float:
    """How wide, unrolled, what is so narrow in truth may look."""
    return reach_mm / _least_scale(made)[0]


def finest(made: AsMade, places: NarrowPlaces, *, reach_mm: float) -> Fineness:
    """The finest of the places where an area is narrow, in true length, see `fineness`."""
    span = _least_scale(made)
    between = [*_between(made, places, reach_mm / span[0]), *_recess(made)]
    return Fineness(
        strokes=_finest(made, places.strokes, -1.0, span),
        necks=_finest(made, places.necks, -1.0, span) if isinstance(made.treatment, CutOut) else (),
        gaps=_sorted((*_finest(made, places.gaps, 1.0, span), *between)),
        middles=_finest(made, places.middles, 1.0, span),
        unmeasured=tuple(sorted(places.unmeasured)),
    )


def _least_scale(made: AsMade) -> tuple[float, float]:
    scale = made.scale
    if scale.is_true:
        return 1.0, 1.0
    corners = shapely.get_coordinates(shapely.box(*made.outlines.bounds))
    around = np.vstack((corners, corners.mean(axis=0), (corners[:-1] + corners[1:]) / 2.0))
    spans = [scale.span(around, end.height_mm) for end in made.ends]
    return max(min(low for low, _ in spans), 0.2), max(high for _, high in spans)


def _finest(made: AsMade, owned: Owned, way: float, span: tuple[float, float]) -> tuple[Fine, ...]:
    """The finest place of each owner.

    Parameters
    ----------
    way : -1 for what narrows where outlines move inward, 1 for what widens
    span : least and greatest scale of the area
    """
    if not len(owned.places):
        return ()
    owned = _likely(made, owned, way, span)
    places = owned.places
    width, at_end = _true_width(made, places, way)
    keys = owned.part * 1_000_003 + owned.other
    order = np.lexsort((width, keys))
    first = order[np.flatnonzero(np.append(True, keys[order][1:] != keys[order][:-1]))]
    found = []
    for i in first.tolist():
        part, other, end = int(owned.part[i]), int(owned.other[i]), made.ends[at_end[i]]
        found.append(
            Fine(
                width_mm=float(width[i]),
                u_mm=float(places.centres[i, 0]),
                v_mm=float(places.centres[i, 1]),
                height_mm=end.height_mm,
                end=end.name,
                parts=(part,) if other == ALONE else (part, other),
                flat_mm=float(places.width[i]),
                across=(float(places.across[i, 0]), float(places.across[i, 1])),
            )
        )
    return _sorted(found)


def _likely(made: AsMade, owned: Owned, way: float, span: tuple[float, float]) -> Owned:
    """Without the places that can't be the finest of their owner, however the surface is stretched there."""
    inward = [end.inward_mm for end in made.ends]
    if made.scale.is_true or (way < 0 and any(inward)):
        return owned
    flat = owned.places.width
    _, owner = np.unique(owned.part * 1_000_003 + owned.other, return_inverse=True)
    most = np.full(int(owner.max()) + 1, np.inf)
    np.minimum.at(most, owner, (flat + 2.0 * max(inward)) * span[1])
    return owned.take(np.flatnonzero(flat * span[0] <= _BEYOND_SPAN * most[owner]))


#: The span is that of a few places; between them a scale may go a little beyond it.
_BEYOND_SPAN = 1.1


def _sorted(found: Iterable[Fine]) -> tuple[Fine, ...]:
    return tuple(sorted(found, key=lambda fine: (fine.width_mm, fine.parts)))


def _true_width(made: AsMade, places: Places, way: float) -> tuple[FloatArray, npt.NDArray[np.int64]]:
    """True width of each place at its narrowest end, and which end that is."""
    ends = [
        np.maximum(places.width + way * 2.0 * end.inward_mm, 0.0)
        * (1.0 if made.scale.is_true else made.scale.across(places.centres, places.across, end.height_mm))
        for end in made.ends
    ]
    table = np.vstack(ends)
    at = np.argmin(table, axis=0)
    return table[at, np.arange(table.shape[1])], at


def _between(made: AsMade, places: NarrowPlaces, reach: float) -> Iterator[Fine]:
    """Gaps between parts that stand apart, at the end where they come nearest."""
    if not places.apart:
        return
    ones = np.array([made.parts[a].outline for a, _, _ in places.apart], dtype=object)
    others = np.array([other for _, _, other in places.apart], dtype=object)
    flat = shapely.distance(ones, others)
    apart = flat[flat > TOUCH_MM]
    # Of what is wider than anyone asks only the narrowest is told.
    most = max(reach, _NEARLY * float(apart.min(initial=np.inf)))
    for place in np.flatnonzero((flat > TOUCH_MM) & (flat <= most)).tolist():
        (a, b, other), one = places.apart[place], ones[place]
        line = shapely.shortest_line(one, other)
        middle = np.array(line.interpolate(0.5, normalized=True).coords)
        widths = [_distance(made, (one, other), middle, end) for end in made.ends]
        end = made.ends[int(np.argmin(widths))]
        yield Fine(
            width_mm=min(widths),
            u_mm=float(middle[0, 0]),
            v_mm=float(middle[0, 1]),
            height_mm=end.height_mm,
            end=end.name,
            parts=(a, b),
            flat_mm=float(line.length),
            across=_along(line),
        )


def _distance(
    made: AsMade, pair: tuple[shapely.MultiPolygon, shapely.MultiPolygon], middle: FloatArray, end: End
) -> float:
    """True distance of two outlines near a place, where their walls begin or end."""
    if not made.scale.is_true:
        form = made.scale.at(middle, end.height_mm)[0]
        # Under this map unrolled lengths become true ones: |L d|^2 = d^T G d.
        stretched = np.linalg.cholesky(form + np.eye(2) * 1e-12)
        one, other = (shapely.transform(shape, lambda uv: uv @ stretched) for shape in pair)
        pair = (one, other)
    return float(shapely.distance(*pair)) + 2.0 * end.inward_mm


def _recess(made: AsMade) -> Iterator[Fine]:
    """The gap between letters and the wall of their recess."""
    if made.panel is None:
        return
    line = shapely.shortest_line(made.outlines, made.panel.exterior)
    middle = np.array(line.interpolate(0.5, normalized=True).coords)
    nearest = int(np.argmin([part.outline.distance(shapely.Point(middle[0])) for part in made.parts]))
    floor = made.ends[0]
    across = (np.array(line.coords[1]) - np.array(line.coords[0]))[None] / max(line.length, 1e-12)
    true = 1.0 if made.scale.is_true else float(made.scale.across(middle, across, floor.height_mm)[0])
    yield Fine(
        width_mm=line.length * true,
        u_mm=float(middle[0, 0]),
        v_mm=float(middle[0, 1]),
        height_mm=floor.height_mm,
        end=floor.name,
        parts=(nearest, -1),
        flat_mm=float(line.length),
        across=_along(line),
        sides=0,
    )


def _along(line: shapely.LineString) -> tuple[float, float]:
    (one_u, one_v), (other_u, other_v) = line.coords
    length = max(float(line.length), 1e-12)
    return ((other_u - one_u) / length, (other_v - one_v) / length)

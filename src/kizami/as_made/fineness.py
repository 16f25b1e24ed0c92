"""How fine a piece is where it is finest: strokes, necks, gaps and closed middles, as they are made.

Every width is taken at the narrower of face and floor or top, and in true length there. Within a glyph
the places are known from its typeface; between parts they are measured on the parts, whatever neighbours
they are; where parts meet, on what they make together.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from kizami.as_made.as_made import AsMade, End
from kizami.as_made.meetings import Near, places_met
from kizami.as_made.treatment import CutOut
from kizami.outlines.alike import measure_alike
from kizami.outlines.curves import FloatArray, bodies_of
from kizami.outlines.narrow import Places, ShapeFacts, middles_of
from kizami.prepared import prepared
from kizami.remembering import remembered

__all__ = ["Fine", "Fineness", "fineness"]

#: A place is a neck when the disc of the whole there is wider than those of all single parts by this share.
_NECK_SHARE = 0.98
#: Of gaps unrolled, those within this share of the narrowest may be narrower in truth.
_NEARLY = 1.3
#: Parts nearer than this touch, mm.
_TOUCH_MM = 1e-9


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


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Owned:
    """Places with the parts that they belong to, (n,) each; `other` is -2 where there is only one."""

    places: Places
    part: npt.NDArray[np.int64]
    other: npt.NDArray[np.int64]

    @classmethod
    def of(cls, rows: Iterable[tuple[Places, int, int]]) -> _Owned:
        rows = [row for row in rows if len(row[0])]
        counts = [len(places) for places, _, _ in rows]
        return cls(
            places=Places.of(*(places for places, _, _ in rows)),
            part=np.repeat(np.array([part for _, part, _ in rows], dtype=np.int64), counts),
            other=np.repeat(np.array([other for _, _, other in rows], dtype=np.int64), counts),
        )

    def take(self, which: npt.NDArray[np.int64]) -> _Owned:
        return _Owned(places=self.places.take(which), part=self.part[which], other=self.other[which])


_ALONE = -2


def fineness(made: AsMade, *, reach_mm: float) -> Fineness:
    """Find the finest places of an area.

    Parameters
    ----------
    reach_mm : what is narrower is measured wherever it is; of what is wider the narrowest is told
    """
    if made.outlines.is_empty:
        return Fineness()
    parts = made.parts
    facts = [_facts(made, number) for number in range(len(parts))]
    strokes = _Owned.of((f.strokes, n, _ALONE) for n, f in enumerate(facts))
    gaps = _Owned.of((f.gaps, n, _ALONE) for n, f in enumerate(facts))
    middles = _Owned.of((f.middles, n, _ALONE) for n, f in enumerate(facts))
    unmeasured = {n for n, f in enumerate(facts) if not f.is_measured}
    # Unrolled, what is so narrow in truth may look wider.
    span = _least_scale(made)
    reach = reach_mm / span[0]
    pairs = _pairs(made, reach)
    necks = _Owned.of(())
    if pairs.is_together:
        near = Near([*(part.outline for part in parts), *made.layout.opened])
        met = _met(made, near, reach)
        strokes, gaps, middles = (
            _Owned.of([*_rows(_apart(made, own, near, reach, is_metal=metal)), *_rows(new)])
            for own, new, metal in (
                (strokes, met.strokes, True),
                (gaps, met.gaps, False),
                (middles, met.middles, False),
            )
        )
        necks = met.necks
        unmeasured |= met.unmeasured
    between = [*_between(made, pairs, reach), *_recess(made)]
    return Fineness(
        strokes=_finest(made, strokes, -1.0, span),
        necks=_finest(made, necks, -1.0, span) if isinstance(made.treatment, CutOut) else (),
        gaps=_sorted((*_finest(made, gaps, 1.0, span), *between)),
        middles=_finest(made, middles, 1.0, span),
        unmeasured=tuple(sorted(unmeasured)),
    )


def _rows(owned: _Owned) -> Iterator[tuple[Places, int, int]]:
    """Back to rows, those of one owner together."""
    keys = owned.part * 1_000_003 + owned.other
    for key in np.unique(keys):
        which = np.flatnonzero(keys == key)
        yield owned.places.take(which), int(owned.part[which[0]]), int(owned.other[which[0]])


def _facts(made: AsMade, number: int) -> ShapeFacts:
    """What is known of one part by itself."""
    part, layout = made.parts[number], made.layout
    if part.mark is not None:
        return layout.narrow[part.mark]
    if part.kind in ("frame", "join", "filling"):
        # The blank's own, or what only rounds out a corner: found where it meets the rest.
        return ShapeFacts.of_nothing()
    return _measured(part.outline)


def _measured(shape: shapely.MultiPolygon) -> ShapeFacts:
    """Of what is no letter: loops and ornaments, which are alike on many pieces."""
    known = _as_bar(shape) or _as_border(shape)
    if known is not None:
        return known
    # Sampled as letters are whose strokes are as wide as it is on the whole. However slim it is against its
    # length, it is sampled in no more than some ten thousand places.
    mean_mm = 2.0 * shape.area / shape.length if shape.length else 0.0
    return measure_alike(shape, cap_height=max(_STROKES_HIGH * mean_mm, shape.length / _LONGEST))


#: A letter is about so many strokes high (common practice, no source).
_STROKES_HIGH = 5.0
#: Outline of what is measured by itself, in heights of a letter, before it is sampled less finely.
_LONGEST = 100.0


def _as_bar(shape: shapely.MultiPolygon) -> ShapeFacts | None:
    """What is known of a rectangle without measuring it; None where it is none."""
    corners = shapely.get_coordinates(shape)
    if len(corners) != _RECTANGLE:
        return None
    sides = np.diff(corners, axis=0)
    lengths = np.hypot(*sides.T)
    if np.abs(sides[0] + sides[2]).max() + abs(sides[0] @ sides[1]) / lengths.max() > _TOUCH_MM:
        return None
    long = int(lengths[1] > lengths[0])
    length, width = float(lengths[long]), float(lengths[1 - long])
    # All along its middle line, as a surface may be stretched in one place more than in another.
    steps = np.linspace(width / 2.0, length - width / 2.0, 1 + math.ceil((length - width) / width))
    begin = corners[0] + sides[1 - long] / 2.0 if long == 0 else corners[1] + sides[2] / 2.0
    strokes = Places(
        centres=begin + steps[:, None] * (sides[long] / length),
        across=np.tile(sides[1 - long] / width, (len(steps), 1)),
        width=np.full(len(steps), width),
    )
    return ShapeFacts(strokes=strokes, gaps=Places.none(), middles=Places.none())


@remembered
def _as_border(shape: shapely.MultiPolygon) -> ShapeFacts | None:
    """What is known of a border that is as wide all round, without sampling it; None where it is none.

    With sides bent outward alone, nothing outside it is a gap, and within it the largest disc is the
    narrowest place.
    """
    if len(shape.geoms) != 1 or len(shape.geoms[0].interiors) != 1:
        return None
    outer, inner = shape.geoms[0].exterior, shape.geoms[0].interiors[0]
    # The mean of what lies between two lines is at least their distance, and no more where it is the same
    # everywhere.
    mean_mm = 2.0 * shape.area / shape.length
    if outer.distance(inner) < (1.0 - _AS_WIDE) * mean_mm or not (
        _bends_outward(outer) and _bends_outward(inner)
    ):
        return None
    along = shapely.segmentize(inner, mean_mm)
    across = shapely.get_coordinates(shapely.shortest_line(shapely.points(along.coords[:-1]), outer))
    within, without = across[::2], across[1::2]
    width = np.hypot(*(without - within).T)
    strokes = Places(
        centres=(within + without) / 2.0, across=(without - within) / width[:, None], width=width
    )
    return ShapeFacts(strokes=strokes, gaps=Places.none(), middles=middles_of(shape, 0.1 * mean_mm))


#: A border is as wide all round where its narrowest place is its mean but for this share: a chord's height.
_AS_WIDE = 0.002


def _bends_outward(ring: shapely.LinearRing) -> bool:
    """Whether a line is its own convex hull, but for rounding."""
    hull = shapely.Polygon(ring).convex_hull
    return float(hull.area - shapely.Polygon(ring).area) <= _AS_WIDE**2 * float(hull.area)


#: Corners of a rectangle with the first one again.
_RECTANGLE = 5


def _least_scale(made: AsMade) -> tuple[float, float]:
    scale = made.scale
    if scale.is_true:
        return 1.0, 1.0
    corners = shapely.get_coordinates(shapely.box(*made.outlines.bounds))
    around = np.vstack((corners, corners.mean(axis=0), (corners[:-1] + corners[1:]) / 2.0))
    spans = [scale.span(around, end.height_mm) for end in made.ends]
    return max(min(low for low, _ in spans), 0.2), max(high for _, high in spans)


@dataclass(frozen=True, kw_only=True, slots=True)
class _Pairs:
    """Parts near each other.

    Attributes
    ----------
    apart : numbers of parts whose gap is the distance between them, and the outline of the second
    is_together : some parts touch, or something was taken out of them again
    """

    apart: tuple[tuple[int, int, shapely.MultiPolygon], ...]
    is_together: bool


def _pairs(made: AsMade, reach: float) -> _Pairs:
    parts = made.parts
    outlines = np.array([part.outline for part in parts], dtype=object)
    one, other = shapely.STRtree(outlines).query(outlines, predicate="dwithin", distance=reach)
    keep = one < other
    one, other = one[keep], other[keep]
    distance = shapely.distance(outlines[one], outlines[other])
    touching = distance <= _TOUCH_MM
    body = _bodies(one[touching], other[touching], len(parts))
    # Parts of one body may be near each other beside what joins them, and what joins them may fill the gap.
    together = touching | (body[one] == body[other])
    apart = [(int(a), int(b), outlines[b]) for a, b in zip(one[~together], other[~together], strict=True)]
    if not apart and not together.any():
        # All stand well apart: the nearest neighbours are told.
        count = len(parts)
        apart = [(a, b, outlines[b]) for a in range(count) for b in (a + 1, a + 2) if b < count]
    apart.extend(_over_the_seam(made, outlines, reach))
    return _Pairs(apart=tuple(apart), is_together=bool(touching.any()) or bool(made.layout.opened))


def _over_the_seam(
    made: AsMade, outlines: npt.NDArray[np.object_], reach: float
) -> Iterator[tuple[int, int, shapely.MultiPolygon]]:
    """Where an area closes on itself, the last letters stand beside the first ones."""
    area = made.area
    if not area.is_closed:
        return
    turned = np.array([area.turned(shape, 1.0) for shape in outlines], dtype=object)
    last, first = shapely.STRtree(turned).query(outlines, predicate="dwithin", distance=reach)
    for a, b in zip(last.tolist(), first.tolist(), strict=True):
        # A border that goes all the way round meets itself, which is no gap.
        if made.parts[a].kind != "ornament" and made.parts[b].kind != "ornament":
            yield a, b, turned[b]


def _bodies(one: npt.NDArray[np.int64], other: npt.NDArray[np.int64], count: int) -> npt.NDArray[np.int64]:
    linked = coo_array((np.ones(len(one)), (one, other)), shape=(count, count))
    labels: npt.NDArray[np.int64] = connected_components(linked, directed=False)[1]
    return labels


def _apart(made: AsMade, owned: _Owned, near: Near, reach: float, *, is_metal: bool) -> _Owned:
    """Without those narrow ones that are measured anew on the whole, and those that are none of it: a gap
    that a bridge fills, a stroke that an opening takes away."""
    centres = owned.places.centres
    fine = np.flatnonzero(owned.places.width <= reach)
    again = fine[near.two(centres.take(fine, axis=0), reach)]
    kept = np.asarray(shapely.contains_xy(_whole(made), centres), dtype=bool) == is_metal
    kept[again] = False
    return owned.take(np.flatnonzero(kept))


def _whole(made: AsMade) -> shapely.MultiPolygon:
    """The lettering with the frame that it stands in."""
    standing = made.area.standing
    return prepared(made.outlines if standing is None else bodies_of(made.outlines, standing))


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Found:
    strokes: _Owned
    necks: _Owned
    gaps: _Owned
    middles: _Owned
    unmeasured: set[int]


def _met(made: AsMade, near: Near, reach: float) -> _Found:
    """What is narrow where parts meet, on the whole."""
    whole = _whole(made)
    met = places_met(whole, near, reach_mm=reach, cap_height_mm=made.layout.height_mm)
    middles = [_largest_disc(hole) for body in whole.geoms for hole in body.interiors]
    every, beside = met.strokes, met.gaps
    owner, is_neck = _owners(made, every)
    first, second = _two_nearest(made, beside)
    holes = Places.discs([m for m, two in zip(middles, _two(near, middles, reach), strict=True) if two])
    hole_first, hole_second = _two_nearest(made, holes)
    own, joint = np.flatnonzero(~is_neck), np.flatnonzero(is_neck)
    neck_first, neck_second = _two_around(made, every.take(joint))
    return _Found(
        strokes=_Owned(places=every.take(own), part=owner[own], other=np.full(len(own), _ALONE)),
        necks=_Owned(places=every.take(joint), part=neck_first, other=neck_second),
        gaps=_Owned(places=beside, part=first, other=second),
        middles=_Owned(places=holes, part=hole_first, other=hole_second),
        unmeasured=set() if met.is_measured else set(range(len(made.parts))),
    )


def _two(near: Near, discs: Sequence[tuple[float, float, float]], reach: float) -> npt.NDArray[np.bool_]:
    """Which discs lie near two parts."""
    return near.two(np.array([disc[:2] for disc in discs]).reshape(-1, 2), reach)


def _largest_disc(hole: shapely.LinearRing) -> tuple[float, float, float]:
    filled = shapely.Polygon(hole)
    radius = shapely.maximum_inscribed_circle(filled, tolerance=max(filled.length * 1e-3, 1e-6))
    x, y = radius.coords[0]
    return (x, y, 2 * radius.length)


def _owners(made: AsMade, places: Places) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.bool_]]:
    """In which part each place of a stroke lies, and whether it is a neck: a place of no single part."""
    outlines = np.array([part.outline for part in made.parts], dtype=object)
    widest, owner = np.zeros(len(places)), np.zeros(len(places), dtype=np.int64)
    points = shapely.points(places.centres)
    if len(points):
        tree = shapely.STRtree(outlines)
        which, part = tree.query(points, predicate="intersects")
        inside = shapely.distance(shapely.boundary(outlines)[part], points[which])
        order = np.argsort(inside, kind="stable")
        widest[which[order]], owner[which[order]] = 2.0 * inside[order], part[order]
        beside = np.setdiff1d(np.arange(len(points)), which)
        owner[beside] = tree.nearest(points[beside])
    return owner, widest < _NECK_SHARE * places.width


def _two_nearest(made: AsMade, places: Places) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """The two parts on either side of each place; twice the same within one part."""
    outlines = np.array([part.outline for part in made.parts], dtype=object)
    count = len(places)
    first, second = np.zeros(count, dtype=np.int64), np.full(count, _ALONE)
    if not count:
        return first, second
    half = places.across * (places.width / 2.0)[:, None]
    tree = shapely.STRtree(outlines)
    one = tree.nearest(shapely.points(places.centres - half))
    other = tree.nearest(shapely.points(places.centres + half))
    first, second = np.minimum(one, other), np.maximum(one, other)
    return first, np.where(first == second, _ALONE, second)


def _two_around(made: AsMade, places: Places) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """The two parts whose joint a neck is: those nearest to its middle."""
    outlines = np.array([part.outline for part in made.parts], dtype=object)
    if not len(places) or len(outlines) < 2:
        # What was taken out of the only part leaves necks as well.
        return np.zeros(len(places), dtype=np.int64), np.full(len(places), _ALONE)
    away = np.array([shapely.distance(outlines, point) for point in shapely.points(places.centres)])
    two = np.sort(np.argsort(away, axis=1, kind="stable")[:, :2], axis=1)
    return two[:, 0], two[:, 1]


def _finest(made: AsMade, owned: _Owned, way: float, span: tuple[float, float]) -> tuple[Fine, ...]:
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
                parts=(part,) if other == _ALONE else (part, other),
                flat_mm=float(places.width[i]),
                across=(float(places.across[i, 0]), float(places.across[i, 1])),
            )
        )
    return _sorted(found)


def _likely(made: AsMade, owned: _Owned, way: float, span: tuple[float, float]) -> _Owned:
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


def _between(made: AsMade, pairs: _Pairs, reach: float) -> Iterator[Fine]:
    """Gaps between parts that stand apart, at the end where they come nearest."""
    if not pairs.apart:
        return
    ones = np.array([made.parts[a].outline for a, _, _ in pairs.apart], dtype=object)
    others = np.array([other for _, _, other in pairs.apart], dtype=object)
    flat = shapely.distance(ones, others)
    apart = flat[flat > _TOUCH_MM]
    # Of what is wider than anyone asks only the narrowest is told.
    most = max(reach, _NEARLY * float(apart.min(initial=np.inf)))
    for place in np.flatnonzero((flat > _TOUCH_MM) & (flat <= most)).tolist():
        (a, b, other), one = pairs.apart[place], ones[place]
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

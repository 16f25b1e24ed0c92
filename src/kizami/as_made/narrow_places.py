"""Every narrow place of an area, unrolled, with the parts that it belongs to.

Within a glyph the places are known from its typeface; between parts they are measured on the parts, whatever
neighbours they are; where parts meet, on what they make together. What was known before something was taken
out holds on away from there.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt
import shapely
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components

from kizami.as_made.as_made import AsMade
from kizami.as_made.meetings import Near, Where, beside, places_met
from kizami.outlines.alike import measure_alike
from kizami.outlines.curves import bodies_of
from kizami.outlines.narrow import Places, ShapeFacts, middles_of
from kizami.prepared import prepared
from kizami.remembering import remembered

__all__ = ["ALONE", "TOUCH_MM", "NarrowPlaces", "Owned", "after_opening", "narrow_places"]

#: A place is a neck when the disc of the whole there is wider than those of all single parts by this share.
_NECK_SHARE = 0.98
#: Parts nearer than this touch, mm.
TOUCH_MM = 1e-9
#: In place of a second part, where there is only one.
ALONE = -2


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Owned:
    """Places with the parts that they belong to, (n,) each; `other` is -2 where there is only one."""

    places: Places
    part: npt.NDArray[np.int64]
    other: npt.NDArray[np.int64]

    @classmethod
    def of(cls, rows: Iterable[tuple[Places, int, int]]) -> Owned:
        """From rows of places with their part and its second one."""
        rows = [row for row in rows if len(row[0])]
        counts = [len(places) for places, _, _ in rows]
        return cls(
            places=Places.of(*(places for places, _, _ in rows)),
            part=np.repeat(np.array([part for _, part, _ in rows], dtype=np.int64), counts),
            other=np.repeat(np.array([other for _, _, other in rows], dtype=np.int64), counts),
        )

    def and_of(self, others: Owned) -> Owned:
        """Those of both."""
        if not len(others.places) or not len(self.places):
            return self if len(self.places) else others
        return Owned(
            places=Places.of(self.places, others.places),
            part=np.concatenate((self.part, others.part)),
            other=np.concatenate((self.other, others.other)),
        )

    def take(self, which: npt.NDArray[np.int64]) -> Owned:
        """Some of them."""
        return Owned(places=self.places.take(which), part=self.part[which], other=self.other[which])


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class NarrowPlaces:
    """Where an area is narrow.

    Attributes
    ----------
    strokes, necks, gaps, middles : within parts and where parts meet
    apart : numbers of parts whose gap is the distance between them, and the outline of the second
    unmeasured : numbers of the parts that could not be measured
    is_together : some parts touch, or something was taken out of them again
    """

    strokes: Owned
    necks: Owned
    gaps: Owned
    middles: Owned
    apart: tuple[tuple[int, int, shapely.MultiPolygon], ...]
    unmeasured: frozenset[int]
    is_together: bool


def narrow_places(made: AsMade, reach: float) -> NarrowPlaces:
    """Find where an area is narrow.

    Parameters
    ----------
    reach : what is narrower is measured wherever it is, unrolled mm
    """
    facts = _all_facts(made)
    strokes = Owned.of((f.strokes, n, ALONE) for n, f in enumerate(facts))
    gaps = Owned.of((f.gaps, n, ALONE) for n, f in enumerate(facts))
    pairs = _pairs(made, reach)
    alone = NarrowPlaces(
        strokes=strokes,
        necks=Owned.of(()),
        gaps=gaps,
        middles=Owned.of((f.middles, n, ALONE) for n, f in enumerate(facts)),
        apart=pairs.apart,
        unmeasured=frozenset(n for n, f in enumerate(facts) if not f.is_measured),
        is_together=pairs.is_together,
    )
    if not pairs.is_together:
        return alone
    near = _near(made)
    met = _met(made, near.two, reach)
    return replace(
        alone,
        strokes=_apart(made, strokes, near.two, reach, is_metal=True).and_of(met.strokes),
        necks=met.necks,
        gaps=_apart(made, gaps, near.two, reach, is_metal=False).and_of(met.gaps),
        middles=_middles(made, alone.middles, near, reach),
        unmeasured=alone.unmeasured | met.unmeasured,
    )


def after_opening(
    known: NarrowPlaces, made: AsMade, openings: Sequence[shapely.Geometry], reach: float
) -> NarrowPlaces:
    """Where an area is narrow once something more was taken out of it: only about that is it measured again.

    Parameters
    ----------
    known : of the same area before
    made : after it, with the same parts
    openings : what was taken out since then
    reach : what is narrower is measured wherever it is, unrolled mm; the same as before
    """
    if not known.is_together:
        # What letters are by themselves was never looked at as a whole.
        return narrow_places(made, reach)
    where = beside(openings)
    met = _met(made, where, reach)
    facts = _all_facts(made)
    middles = Owned.of((f.middles, n, ALONE) for n, f in enumerate(facts))
    return replace(
        known,
        strokes=_apart(made, known.strokes, where, reach, is_metal=True).and_of(met.strokes),
        necks=_apart(made, known.necks, where, reach, is_metal=True).and_of(met.necks),
        gaps=_apart(made, known.gaps, where, reach, is_metal=False).and_of(met.gaps),
        middles=_middles(made, middles, _near(made), reach),
        unmeasured=known.unmeasured | met.unmeasured,
    )


def _near(made: AsMade) -> Near:
    return Near([*(part.outline for part in made.parts), *made.layout.opened])


def _all_facts(made: AsMade) -> list[ShapeFacts]:
    return [_facts(made, number) for number in range(len(made.parts))]


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
    if np.abs(sides[0] + sides[2]).max() + abs(sides[0] @ sides[1]) / lengths.max() > TOUCH_MM:
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
    touching = distance <= TOUCH_MM
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


def _apart(made: AsMade, owned: Owned, where: Where, reach: float, *, is_metal: bool) -> Owned:
    """Without those narrow ones that are measured anew on the whole, and those that are none of it: a gap
    that a bridge fills, a stroke that an opening takes away."""
    centres = owned.places.centres
    fine = np.flatnonzero(owned.places.width <= reach)
    again = fine[where(centres.take(fine, axis=0), reach)]
    kept = np.asarray(shapely.contains_xy(_whole(made), centres), dtype=bool) == is_metal
    kept[again] = False
    return owned.take(np.flatnonzero(kept))


def _whole(made: AsMade) -> shapely.MultiPolygon:
    """The lettering with the frame that it stands in."""
    standing = made.area.standing
    return prepared(made.outlines if standing is None else bodies_of(made.outlines, standing))


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class _Found:
    strokes: Owned
    necks: Owned
    gaps: Owned
    unmeasured: frozenset[int]


def _met(made: AsMade, where: Where, reach: float) -> _Found:
    """What is narrow where parts meet, or something was taken out, on the whole."""
    whole = _whole(made)
    met = places_met(whole, where, reach_mm=reach, cap_height_mm=made.layout.height_mm)
    owner, is_neck = _owners(made, met.strokes)
    first, second = _two_nearest(made, met.gaps)
    own, joint = np.flatnonzero(~is_neck), np.flatnonzero(is_neck)
    necks = met.strokes.take(joint)
    neck_first, neck_second = _two_around(made, necks)
    return _Found(
        strokes=Owned(places=met.strokes.take(own), part=owner[own], other=np.full(len(own), ALONE)),
        necks=Owned(places=necks, part=neck_first, other=neck_second),
        gaps=Owned(places=met.gaps, part=first, other=second),
        unmeasured=frozenset(() if met.is_measured else range(len(made.parts))),
    )


def _middles(made: AsMade, own: Owned, near: Near, reach: float) -> Owned:
    """Closed middles: those of single parts, and of the whole where parts meet."""
    discs = [_largest_disc(hole) for body in _whole(made).geoms for hole in body.interiors]
    holes = Places.discs(discs)
    holes = holes.take(np.flatnonzero(near.two(holes.centres, reach)))
    first, second = _two_nearest(made, holes)
    met = Owned(places=holes, part=first, other=second)
    return _apart(made, own, near.two, reach, is_metal=False).and_of(met)


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
        outside = np.setdiff1d(np.arange(len(points)), which)
        owner[outside] = tree.nearest(points[outside])
    return owner, widest < _NECK_SHARE * places.width


def _two_nearest(made: AsMade, places: Places) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """The two parts on either side of each place; twice the same within one part."""
    outlines = np.array([part.outline for part in made.parts], dtype=object)
    count = len(places)
    first, second = np.zeros(count, dtype=np.int64), np.full(count, ALONE)
    if not count:
        return first, second
    half = places.across * (places.width / 2.0)[:, None]
    tree = shapely.STRtree(outlines)
    one = tree.nearest(shapely.points(places.centres - half))
    other = tree.nearest(shapely.points(places.centres + half))
    first, second = np.minimum(one, other), np.maximum(one, other)
    return first, np.where(first == second, ALONE, second)


def _two_around(made: AsMade, places: Places) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """The two parts whose joint a neck is: those nearest to its middle."""
    outlines = np.array([part.outline for part in made.parts], dtype=object)
    if not len(places) or len(outlines) < 2:
        # What was taken out of the only part leaves necks as well.
        return np.zeros(len(places), dtype=np.int64), np.full(len(places), ALONE)
    away = np.array([shapely.distance(outlines, point) for point in shapely.points(places.centres)])
    two = np.sort(np.argsort(away, axis=1, kind="stable")[:, :2], axis=1)
    return two[:, 0], two[:, 1]

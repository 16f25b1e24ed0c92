"""Dots and accents brought to their letters, for lettering that must be one piece.

A mark is lowered (or raised, where it stands below) until its letter holds it by a neck as wide as a bridge:
so a goldsmith does it, who would never solder a block between a dot and its stem. Where that would close an
opening, or where a dot would vanish in a stem as wide as itself, it stays where it was drawn and is carried
by a slim stroke instead, see `kizami.outlines.joining`.
"""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from kizami.outlines.curves import FloatArray, bodies_of
from kizami.outlines.narrow import ShapeFacts, measure_shape
from kizami.outlines.touching import moved, neck, travel_until_held
from kizami.remembering import remembered

__all__ = [
    "Gathered",
    "gathered",
    "gathered_at",
    "is_dotted",
    "letters_at",
    "stands_apart",
    "travel_of",
    "width_of",
]

#: A mark may travel so far, in cap heights, and so far in its own heights or widths, whichever is less.
_MOST_TRAVEL, _MOST_OWN_SIZES = 0.36, 4.0
#: Points of writing that sets them far above and below its letters go so far: on a long stalk a point would
#: read as a stroke.
_FAR_TRAVEL = 1.2
#: A neck that is more than this share of the mark's own width shows no mark any more.
_MOST_NECK_SHARE = 0.72
#: A neck as wide as this share of the mark leaves it a mark.
_NECK_SHARE = 0.55
#: How far a mark may go into its letter, as a share of its own extent along the way.
_MOST_DEPTH_SHARE = 0.45
#: Straight down is taken before a slanted way that is hardly shorter.
_PREFERENCE = (1.0, 1.12, 1.25)


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Gathered:
    """The shapes of one letter after its marks were brought to it.

    Attributes
    ----------
    shapes : as they came, moved
    marks : the bodies that were moved, where they now are
    joints : where they meet
    facts : thinnest stroke and narrowest gap of each shape
    """

    shapes: tuple[shapely.MultiPolygon, ...]
    marks: tuple[shapely.Polygon, ...]
    joints: tuple[shapely.Geometry, ...]
    facts: tuple[ShapeFacts, ...]

    def at(self, origin: FloatArray) -> Gathered:
        """The same where the letter stands, whose shapes were given about its origin."""
        return Gathered(
            shapes=tuple(moved(shape, origin) for shape in self.shapes),
            marks=tuple(moved(mark, origin) for mark in self.marks),
            joints=tuple(moved(joint, origin) for joint in self.joints),
            facts=tuple(
                facts.placed(np.eye(2), 1.0, (float(origin[0]), float(origin[1]))) for facts in self.facts
            ),
        )


def letters_at(text: str, cluster: int, clusters: Iterable[int]) -> str:
    """The characters that are drawn together from a place of the wording on: those up to the next such place.

    >>> [letters_at("fiam\u0303 o", cluster, (0, 2, 3, 5, 6)) for cluster in (0, 2, 3)]
    ['fi', 'a', 'm\u0303']
    """
    return text[cluster : min((c for c in clusters if c > cluster), default=len(text))].strip()


def is_dotted(letters: str) -> bool:
    """Whether parts that stand apart in what is drawn together are dots or accents, rather than strokes of
    its own, as the leg of a K is in some hands.

    >>> [is_dotted(letters) for letters in ("i", "Ü", "Ł", "K", "ش", "fi", "m\u0303")]
    [True, True, True, False, True, True, True]
    """
    return any(_has_dots(letter) for letter in letters)


def _has_dots(letter: str) -> bool:
    name = unicodedata.name(letter, "")
    plain = name.startswith(_OF_STROKES) and len(unicodedata.normalize("NFD", letter)) == 1
    return not plain or letter in "ij" or " WITH " in name


#: Scripts whose plain letters have no dots, but for i and j.
_OF_STROKES = ("LATIN", "GREEK", "CYRILLIC")


def stands_apart(letter: str) -> bool:
    """Whether strokes of a letter stand apart by nature: brought to the rest they would make another letter,
    as het of the Hebrew he.

    >>> [stands_apart(letter) for letter in "הΞыӹKi"]
    [True, True, True, True, False, False]
    """
    return unicodedata.normalize("NFD", letter)[:1] in _OF_STROKES_APART


#: He and qof, yery, xi (Unicode's charts; from memory).
_OF_STROKES_APART = frozenset("הקЫыΞ")


def travel_of(letter: str) -> float:
    """How far the marks of a letter may go to it, in cap heights."""
    return _FAR_TRAVEL if unicodedata.name(letter, "").startswith(_POINTED) else _MOST_TRAVEL


#: Scripts whose vowels are points above and below.
_POINTED = ("ARABIC", "HEBREW", "SYRIAC", "THAANA")


def gathered_at(
    shapes: Sequence[shapely.MultiPolygon],
    origin: FloatArray,
    *,
    cap_height: float,
    wanted: float,
    least: float = 0.0,
    gap: float = 0.0,
    travel: float = _MOST_TRAVEL,
    beside: shapely.Geometry | None = None,
) -> Gathered | None:
    """`gathered` of a letter that stands somewhere; letters come again and again and are gathered once."""
    # To a nanometre, so that a letter is the same wherever it stands.
    about = tuple(shapely.transform(shape, lambda xy: (xy - origin).round(6)) for shape in shapes)
    found = _gathered_once(about, cap_height, (wanted, least), gap, travel)
    if found is None:
        return None
    there = found.at(origin)
    if beside is None or not any(shapely.dwithin(mark, beside, gap) for mark in there.marks):
        return there
    # In its usual place a mark would run into a neighbour, and be read as a part of it.
    return gathered(
        shapes, cap_height=cap_height, wanted=wanted, least=least, gap=gap, travel=travel, beside=beside
    )


@remembered
def _gathered_once(
    shapes: tuple[shapely.MultiPolygon, ...],
    cap_height: float,
    necks: tuple[float, float],
    gap: float,
    travel: float,
) -> Gathered | None:
    wanted, least = necks
    return gathered(shapes, cap_height=cap_height, wanted=wanted, least=least, gap=gap, travel=travel)


def gathered(
    shapes: Sequence[shapely.MultiPolygon],
    *,
    cap_height: float,
    wanted: float,
    least: float = 0.0,
    gap: float = 0.0,
    travel: float = _MOST_TRAVEL,
    beside: shapely.Geometry | None = None,
) -> Gathered | None:
    """Bring the loose bodies of one letter to its largest body; None where nothing was moved.

    Parameters
    ----------
    shapes : of the letter and of the marks that stand with it
    cap_height : tells how far a mark may go
    wanted : width of the neck by which it is held
    least : that it has at least, where the mark is so slim that a wider one would hide it
    gap : that marks keep from each other and from what stands beside
    travel : how far they may go, in cap heights
    beside : other letters near by

    >>> stem, dot = shapely.box(0, 0, 1, 7), shapely.Point(0.5, 9).buffer(0.9)
    >>> i = shapely.MultiPolygon([stem, dot])
    >>> found = gathered([i], cap_height=10, wanted=0.6)
    >>> round(found.marks[0].centroid.y, 1), len(bodies_of(*found.shapes).geoms)
    (7.8, 1)
    """
    owners = [(place, body) for place, shape in enumerate(shapes) for body in shape.geoms]
    if len(owners) < 2:
        return None
    order = sorted(range(len(owners)), key=lambda n: -owners[n][1].area)
    base: shapely.Geometry = owners[order[0]][1]
    # What touches the letter already is part of it.
    loose = []
    for number in order[1:]:
        body = owners[number][1]
        if shapely.intersects(base, body):
            base = bodies_of(base, body)
        else:
            loose.append(number)
    now = {number: body for number, (_, body) in enumerate(owners)}
    marks, joints = [], []
    way_of = _Way(cap_height=cap_height, wanted=wanted, least=least, gap=gap, travel=travel)
    # From the letter outward: what stands on a mark is brought to the mark.
    loose.sort(key=lambda n: (round(float(shapely.distance(base, owners[n][1])), 3), n))
    for group in _beside_each_other(loose, [body for _, body in owners]):
        found = way_of.brought([owners[n][1] for n in group], base, beside)
        for number, there in zip(group, found, strict=False):
            now[number] = there
            marks.append(there)
            joints.append(shapely.intersection(there, base))
        base = bodies_of(base, *found)
    if not marks:
        return None
    moved_shapes = tuple(
        bodies_of(*(now[number] for number, (owner, _) in enumerate(owners) if owner == place))
        for place in range(len(shapes))
    )
    facts = tuple(measure_shape(shape, cap_height=cap_height) for shape in moved_shapes)
    return Gathered(shapes=moved_shapes, marks=tuple(marks), joints=tuple(joints), facts=facts)


def _beside_each_other(numbers: Sequence[int], bodies: Sequence[shapely.Polygon]) -> list[list[int]]:
    """Marks in groups: those at one level, as the dots of a diaeresis, go together."""
    groups: list[list[int]] = []
    for number in numbers:
        here = next((g for g in groups if _is_level(bodies[g[0]], bodies[number])), None)
        if here is None:
            groups.append([number])
        else:
            here.append(number)
    return groups


def _is_level(one: shapely.Polygon, other: shapely.Polygon) -> bool:
    low, high = max(one.bounds[1], other.bounds[1]), min(one.bounds[3], other.bounds[3])
    apart = other.bounds[0] > one.bounds[2] or one.bounds[0] > other.bounds[2]
    return bool(
        apart and high - low > 0.3 * min(one.bounds[3] - one.bounds[1], other.bounds[3] - other.bounds[1])
    )


@dataclass(frozen=True, kw_only=True, slots=True)
class _Way:
    """How marks are brought to their letters; see `gathered`."""

    cap_height: float
    wanted: float
    least: float
    gap: float
    travel: float

    def brought(
        self, bodies: Sequence[shapely.Polygon], base: shapely.Geometry, beside: shapely.Geometry | None
    ) -> list[shapely.Polygon]:
        """Marks that stand at one level where their letter holds each of them; none where they should stay.

        They keep their place above the letter where they can; else they are moved aside together, and then
        away from each other, as little as will do.
        """
        # A bar across is moved by its height rather than its length, or it would leave its letter.
        bodies = self._seen(bodies, base)
        size = max(min(b.bounds[2] - b.bounds[0], b.bounds[3] - b.bounds[1]) for b in bodies)
        middle = sum(body.centroid.x for body in bodies) / len(bodies)
        asides = _ASIDE if len(bodies) > 1 or beside is not None else _ASIDE[:1]
        for spread in _SPREAD if len(bodies) > 1 else (0.0,):
            for aside in asides:
                there: list[shapely.Polygon] = []
                for body in bodies:
                    out = spread * float(np.sign(body.centroid.x - middle))
                    clear_of = [*there, *([] if beside is None else [beside])]
                    start = moved(body, np.array([(aside + out) * size, 0.0]))
                    found = self._one(start, base, clear_of)
                    if found is None:
                        break
                    there.append(found)
                if len(there) == len(bodies):
                    return there
        return []

    def _seen(self, bodies: Sequence[shapely.Polygon], base: shapely.Geometry) -> list[shapely.Polygon]:
        """Dots so much wider than the neck that must hold them, and than a stem whose end they come to, that
        they are seen: a goldsmith draws them heavier, those of one letter alike."""
        lacking = 0.0
        for body in bodies:
            width = width_of(body)
            if _extent(body, np.array([0.0, 1.0])) > _DOT_LONG * width:
                return list(bodies)
            stem = _stem_below(body, base, width)
            wanted = max(self.least / _NECK_SHARE, 0.0 if stem is None else _OVER_STEM * stem)
            lacking = max(lacking, min(wanted - width, _MOST_GROWN * width))
        if lacking <= 0.0:
            return list(bodies)
        return [body.buffer(lacking / 2.0, quad_segs=16) for body in bodies]

    def _one(
        self, body: shapely.Polygon, base: shapely.Geometry, clear_of: Sequence[shapely.Geometry]
    ) -> shapely.Polygon | None:
        shortest = np.asarray(shapely.shortest_line(body, base).coords)
        straight = shortest[-1] - shortest[0]
        length = float(np.hypot(*straight))
        if length == 0.0:
            return None
        straight = straight / length
        centre, own = body.centroid, body.bounds
        above = centre.y - base.centroid.y
        upright = np.array([0.0, -1.0 if above > 0 else 1.0])
        ways: list[FloatArray] = [upright, _unit(upright + straight), straight]
        if own[1] < base.bounds[3] and own[3] > base.bounds[1] and abs(straight[0]) > 0.8:
            # It stands beside its letter, as the caron of ď does.
            ways = [np.array([np.sign(straight[0]), 0.0]), straight]
        size, width = max(own[2] - own[0], own[3] - own[1]), width_of(body)
        most = min(self.travel * self.cap_height, _MOST_OWN_SIZES * size)
        middles = _middles(base)
        best: tuple[float, shapely.Polygon] | None = None
        for way, preference in zip(ways, _PREFERENCE, strict=False):
            # A neck much wider than half of the mark would show no mark.
            aim = min(self.wanted, max(_NECK_SHARE * width, self.least), _MOST_NECK_SHARE * width)
            deepest = _MOST_DEPTH_SHARE * min(_extent(body, way), 2.0 * width)
            went, held = travel_until_held(body, base, way, wanted=aim, most=most, most_depth=deepest)
            if held < aim:
                continue
            there = moved(body, way * went)
            if neck(there, base) > _MOST_NECK_SHARE * width:
                # It would melt into the stem.
                continue
            if any(shapely.dwithin(there, other, self.gap) for other in clear_of):
                continue
            if _middles(bodies_of(there, base)) > middles + len(body.interiors):
                continue
            if best is None or went * preference < best[0]:
                best = (went * preference, there)
        return None if best is None else best[1]


#: How far aside of its place a mark may stand, and how far marks of one letter are moved apart, in their own
#: sizes.
_ASIDE = (0.0, 0.15, -0.15, 0.3, -0.3, 0.45, -0.45, 0.6, -0.6)
_SPREAD = (0.0, 0.15, 0.3)


def _unit(way: FloatArray) -> FloatArray:
    length = float(np.hypot(*way))
    return way / length if length > 1e-9 else np.array([0.0, -1.0])


def _stem_below(body: shapely.Polygon, base: shapely.Geometry, width: float) -> float | None:
    """Width of the stem that a mark stands over; None over a bowl, which is broader than it."""
    foot = np.asarray(shapely.shortest_line(body, base).coords)[-1]
    # Not far down, where a stem that leans has moved aside.
    top, bottom = foot[1] + 0.1 * width, foot[1] - 0.3 * width
    if body.centroid.y < foot[1]:
        top, bottom = foot[1] + 0.3 * width, foot[1] - 0.1 * width
    near = base.intersection(shapely.box(foot[0] - 2.0 * width, bottom, foot[0] + 2.0 * width, top))
    if near.is_empty:
        return None
    part = min(shapely.get_parts(near), key=lambda one: float(shapely.distance(one, shapely.Point(foot))))
    across = float(part.bounds[2] - part.bounds[0])
    return across if across < _BROAD * width else None


#: A dot is at most so many of its widths high.
_DOT_LONG = 2.2
#: What is broader than so many widths of a mark is no stem. A dot over a stem is this much wider than it, but
#: never grows by more than this share of itself.
_BROAD, _OVER_STEM, _MOST_GROWN = 1.5, 1.6, 0.5


def width_of(body: shapely.Polygon) -> float:
    """Diameter of the largest disc within: of a stroke its width.

    >>> round(width_of(shapely.box(0, 0, 9, 1)), 2)
    1.0
    """
    radius = shapely.maximum_inscribed_circle(body, tolerance=0.01 * float(np.sqrt(body.area)))
    return 2.0 * float(radius.length)


def _extent(body: shapely.Polygon, way: FloatArray) -> float:
    reach = shapely.get_coordinates(body) @ way
    return float(reach.max() - reach.min())


def _middles(shape: shapely.Geometry) -> int:
    return sum(len(part.interiors) for part in shapely.get_parts(shape))

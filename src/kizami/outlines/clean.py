"""Clean outlines: no needless or double point, no sliver, no crossing, bodies anticlockwise."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import shapely

from kizami.outlines.curves import bodies_of
from kizami.prepared import prepared

__all__ = ["Cleanness", "clean", "cleanness", "mend_slits", "without_repeats"]


#: A ring that is longer than this many times the distance keeps three points.
_A_RING = 12.0


def without_repeats(shape: shapely.MultiPolygon, apart: float) -> shapely.MultiPolygon:
    """A shape whose points are further apart than this along its outline, without rings that are no larger.

    >>> speck = shapely.box(5, 5, 5.001, 5.001)
    >>> shape = shapely.MultiPolygon([shapely.box(0, 0, 1, 1), speck])
    >>> len(without_repeats(shape, 0.01).geoms)
    1
    """
    least = _A_RING * apart
    kept = [
        shapely.Polygon(body.exterior, [hole for hole in body.interiors if hole.length > least])
        for body in shape.geoms
        if body.exterior.length > least
    ]
    return bodies_of(shapely.remove_repeated_points(shapely.MultiPolygon(kept), apart))


def clean(shape: shapely.Geometry, *, tolerance: float, least_area: float = 0.0) -> shapely.MultiPolygon:
    """The same shape with as few points as the tolerance allows.

    Parameters
    ----------
    tolerance : how far a point may lie from the simpler outline, same unit as the shape
    least_area : bodies and holes smaller than this are slivers and are dropped

    >>> square = shapely.Polygon([(0, 0), (1, 0), (1, 0), (2, 0), (2, 2), (0, 2)])
    >>> len(clean(square, tolerance=0.01).geoms[0].exterior.coords) - 1
    4
    >>> clean(shapely.MultiPolygon(), tolerance=0.01).is_empty
    True
    """
    if shape.is_empty:
        return shapely.MultiPolygon()
    # Chords of two curves that nearly touch may cross where the curves do not.
    whole = shape if shape.is_valid else shapely.make_valid(shape, method="structure", keep_collapsed=False)
    # Simplifying keeps four points of a ring whatever they are, so a doubled one goes first.
    parts = shapely.get_parts(shapely.remove_repeated_points(whole))
    # Each body by itself: all at once, every ring is held against every other.
    simple = shapely.MultiPolygon(
        [
            p
            for p in shapely.simplify(parts, tolerance, preserve_topology=True)
            if isinstance(p, shapely.Polygon)
        ]
    )
    if not simple.is_valid:
        simple = shapely.make_valid(simple, method="structure", keep_collapsed=False)
    bodies = []
    for body in shapely.get_parts(simple):
        if not isinstance(body, shapely.Polygon) or body.area <= least_area or body.area == 0:
            continue
        holes = [h for h in body.interiors if shapely.Polygon(h).area > least_area]
        bodies.append(shapely.orient_polygons(shapely.Polygon(body.exterior, holes)))
    return shapely.MultiPolygon(bodies)


def mend_slits(shape: shapely.MultiPolygon, *, width: float) -> shapely.MultiPolygon:
    """Close slits and take away hairs that are narrower than `width`; all else stays as it is.

    Where contours of a glyph overlap by next to nothing, their union keeps slits and hairs that no
    eye has ever seen but that every later measurement would find. A closing and an opening take
    them away; a shape that has none comes back untouched.

    >>> slit = shapely.box(0, 0, 10, 10).difference(shapely.box(4.999, 2, 5.001, 10))
    >>> round(mend_slits(shapely.MultiPolygon([slit]), width=0.01).area, 3)
    100.0
    """
    if shape.is_empty or not (_comes_near_itself(shape, width) or _has_specks(shape, width * width)):
        return shape
    half = width / 2.0
    sharp = {"join_style": "mitre", "mitre_limit": 20.0}
    closed = shape.buffer(half, **sharp).buffer(-half, join_style="bevel")
    # A slit may leave a speck at its root, which the opening would tear open again.
    whole = clean(closed, tolerance=width * 0.01, least_area=width * width)
    opened = whole.buffer(-half, **sharp).buffer(half, **sharp)
    # A bevelled corner of 30 degrees takes 2 h^2, a point of 10 degrees 11 h^2: less is no slit or hair.
    slit = _differs(shape, closed, half) and _has_part(closed.difference(shape), 3.0 * half * half)
    hair = _differs(whole, opened, 2.0 * half) and _has_part(whole.difference(opened), 12.0 * half * half)
    if not slit and not hair and not _has_specks(shape, width * width):
        return shape
    return clean(opened, tolerance=width * 0.02, least_area=width * width)


#: A slit or a hair turns back on itself: more than this within a few widths is looked at closely.
_SHARP_RAD = np.radians(125.0)


def _comes_near_itself(shape: shapely.MultiPolygon, width: float) -> bool:
    """Whether any two stretches of outline are nearer than `width`; cheap, and never wrongly no.

    The nearest places of two edges that do not cross lie at an end of one of them, so corners are
    asked for the edges near them. Along one outline the stretch up to three widths away is passed
    over, as neighbours are near each other anyway: there the outline must turn back to come near
    itself, and how far it turns is what is looked at.
    """
    near = 3.0 * width
    ends, rings, reach, lengths = [], [], [], []
    for number, ring in enumerate(_rings(shape)):
        points = np.asarray(ring.coords)
        steps = np.diff(points, axis=0)
        length = np.hypot(steps[:, 0], steps[:, 1])
        heading = np.arctan2(steps[:, 1], steps[:, 0])
        turns = np.diff(heading, append=heading[:1])
        turns = np.abs((turns + np.pi) % (2.0 * np.pi) - np.pi)
        # What is turned from the end of each edge on, within the reach, once round and over the start.
        along = np.cumsum(length)
        total = float(along[-1])
        twice, turned = np.concatenate((along, along + total)), np.cumsum(np.concatenate((turns, turns)))
        last = np.searchsorted(twice, along + near, side="right") - 1
        before = turned[: len(turns)] - turns
        if (turned[last] - before > _SHARP_RAD).any():
            return True
        ends.append(points)
        rings.append(np.full(len(length), number))
        reach.append(along - length)
        lengths.append(np.full(len(length), total))
    ring_of, start, total_of = np.concatenate(rings), np.concatenate(reach), np.concatenate(lengths)
    edges = shapely.linestrings(np.concatenate([np.stack((p[:-1], p[1:]), axis=1) for p in ends]))
    corners = shapely.points(np.concatenate([p[:-1] for p in ends]))
    corner, edge = shapely.STRtree(edges).query(corners, predicate="dwithin", distance=width)
    if (ring_of[corner] != ring_of[edge]).any():
        return True
    # Along the outline from the corner to the edge, onward to its start or back to its end.
    onward = (start[edge] - start[corner]) % total_of[corner]
    back = (start[corner] - start[edge] - shapely.length(edges)[edge]) % total_of[corner]
    # A corner's own two edges begin and end where it stands, but for rounding.
    own = (onward > total_of[corner] - 1e-9) | (back > total_of[corner] - 1e-9)
    return bool(((np.minimum(onward, back) > near) & ~own).any())


def _differs(shape: shapely.Geometry, other: shapely.Geometry, reach: float) -> bool:
    """Whether two nearly equal shapes may differ by a slit or a hair; cheap, and never wrongly no.

    The root of a slit and the tip of a hair are corners that lie far from the other outline; a slit
    that goes right through parts a body or a hole from another.
    """
    if len(_rings(shape)) != len(_rings(other)):
        return True
    corners = shapely.points(shapely.get_coordinates(shape))
    outline = prepared(other.boundary)
    return not shapely.dwithin(outline, corners, reach).all()


def _has_part(shape: shapely.Geometry, least_area: float) -> bool:
    return any(part.area > least_area for part in shapely.get_parts(shape))


def _rings(shape: shapely.Geometry) -> list[shapely.LinearRing]:
    bodies = [part for part in shapely.get_parts(shape) if isinstance(part, shapely.Polygon)]
    return [ring for body in bodies for ring in (body.exterior, *body.interiors)]


def _has_specks(shape: shapely.MultiPolygon, least_area: float) -> bool:
    return any(shapely.Polygon(ring).area <= least_area for ring in _rings(shape))


@dataclass(frozen=True, kw_only=True, slots=True)
class Cleanness:
    """What is wrong with a shape's outlines; all zero and false is clean.

    Attributes
    ----------
    crosses : an outline crosses itself or another
    double_points : neighbouring points that are one
    needless_points : points on a straight line between their neighbours
    slivers : bodies or holes that are all edge
    wrong_windings : bodies not anticlockwise, holes not clockwise
    """

    crosses: bool
    double_points: int
    needless_points: int
    slivers: int
    wrong_windings: int

    @property
    def is_clean(self) -> bool:
        """Nothing is wrong."""
        faults = self.double_points + self.needless_points + self.slivers + self.wrong_windings
        return not self.crosses and not faults


def cleanness(shape: shapely.MultiPolygon, *, tolerance: float) -> Cleanness:
    """Look a shape over.

    Parameters
    ----------
    tolerance : points nearer than this are one; a sliver is nowhere wider
    """
    double = needless = slivers = wrong = 0
    for body in shape.geoms:
        for ring, is_hole in ((body.exterior, False), *((h, True) for h in body.interiors)):
            points = np.asarray(ring.coords)[:-1]
            before, after = np.roll(points, 1, axis=0), np.roll(points, -1, axis=0)
            double += int((np.hypot(*(points - before).T) <= tolerance * 1e-3).sum())
            span = after - before
            length = np.maximum(np.hypot(*span.T), 1e-30)
            off = np.abs(span[:, 0] * (points - before)[:, 1] - span[:, 1] * (points - before)[:, 0]) / length
            needless += int((off <= tolerance * 1e-3).sum())
            area = shapely.Polygon(ring).area
            slivers += bool(2.0 * area / max(ring.length, 1e-30) <= tolerance)
            wrong += ring.is_ccw == is_hole
    return Cleanness(
        crosses=not shape.is_valid,
        double_points=double,
        needless_points=needless,
        slivers=slivers,
        wrong_windings=wrong,
    )

"""How fine a shape is: its thinnest stroke and its narrowest gap, measured on the medial axis.

The medial axis of a shape is where the largest discs that fit into it have their centres; the
diameter of such a disc is the local width of the stroke. The same axis outside the shape gives
the width of the gaps. It is found from the Voronoi diagram of densely sampled outlines
(Blum 1967; sampling: Amenta, Bern and Kamvysselis 1998).

Every corner has an axis branch that shrinks to nothing, so a width counts only where it lasts:
the outline between the two points that the disc touches must be long against the disc. A disc
of diameter w in a corner of angle a touches after w / tan(a / 2) of outline, so a ratio of 3
leaves out stroke ends and points blunter than 37 degrees, a ratio of 5 leaves out notches wider
than 23 degrees. A taper shorter than a tenth of the cap height is a point, not a stroke, and a
notch may close at its root for up to a third of the cap height and still be read (both common
practice, no source; the notches of a bold M are what sets the second).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
import shapely
from scipy.spatial import Delaunay, QhullError

from kizami.outlines.curves import FloatArray

__all__ = ["MedialAxis", "Narrow", "ShapeFacts", "measure_shape", "medial_axis", "thin_lines"]

_STROKE_RATIO, _STROKE_LEAST_PATH = 3.0, 0.2
_GAP_RATIO, _GAP_LEAST_PATH = 5.0, 0.7
#: Distance between outline samples, as a share of the cap height. The width of a stroke is then
#: overstated by less than s^2 / (2 w): under 1 % for a hairline of 0.03 cap heights.
_SAMPLE_SHARE = 0.006


@dataclass(frozen=True, kw_only=True, slots=True)
class Narrow:
    """A narrowest place.

    Attributes
    ----------
    width : diameter of the largest disc there, in the shape's unit
    x, y : its centre
    """

    width: float
    x: float
    y: float


@dataclass(frozen=True, kw_only=True, slots=True)
class ShapeFacts:
    """Narrowest stroke and gap of a shape; None where it has none (a blank, a shape without gaps)."""

    stroke: Narrow | None
    gap: Narrow | None


def measure_shape(
    shape: shapely.MultiPolygon, *, cap_height: float, axis: MedialAxis | None = None
) -> ShapeFacts:
    """Measure the thinnest stroke and the narrowest gap of one glyph or mark.

    Parameters
    ----------
    shape : valid bodies with holes, any unit
    cap_height : height of the capital H in the same unit; sets how finely it is sampled
    axis : its medial axis where that is known already

    >>> bar = shapely.MultiPolygon([shapely.box(0, 0, 10, 1)])
    >>> round(measure_shape(bar, cap_height=10).stroke.width, 2)
    1.0
    >>> measure_shape(shapely.MultiPolygon(), cap_height=10)
    ShapeFacts(stroke=None, gap=None)
    """
    if shape.is_empty:
        return ShapeFacts(stroke=None, gap=None)
    axis = axis or medial_axis(shape, cap_height=cap_height)
    if axis is None:
        return ShapeFacts(stroke=None, gap=None)
    as_stroke = _lasts(axis, _STROKE_RATIO, _STROKE_LEAST_PATH * cap_height)
    as_gap = _lasts(axis, _GAP_RATIO, _GAP_LEAST_PATH * cap_height)
    # Most of the axis is neither, so what lies inside is asked last and of few.
    inside = _inside(shape, axis, as_stroke | as_gap)
    stroke = _narrowest(axis, as_stroke & inside)
    gap = _narrowest(axis, as_gap & ~inside)
    # A small closed middle is a gap at its widest, however short it is.
    for body in shape.geoms:
        for hole in body.interiors:
            radius = shapely.maximum_inscribed_circle(shapely.Polygon(hole), tolerance=cap_height * 0.002)
            (x, y), _ = radius.coords[0], radius.coords[-1]
            if gap is None or 2 * radius.length < gap.width:
                gap = Narrow(width=2 * radius.length, x=x, y=y)
    if stroke is None:
        stroke = _stroke_of_a_dot(shape)
    return ShapeFacts(stroke=stroke, gap=gap)


def thin_lines(
    shape: shapely.MultiPolygon, axis: MedialAxis | None, *, cap_height: float, below: float
) -> shapely.Geometry:
    """The middle lines of the strokes that are thinner than `below`, as one set of lines.

    >>> bar = shapely.MultiPolygon([shapely.box(0, 0, 10, 1)])
    >>> axis = medial_axis(bar, cap_height=10)
    >>> thin_lines(bar, axis, cap_height=10, below=0.9).is_empty
    True
    >>> low, bottom, high, top = thin_lines(bar, axis, cap_height=10, below=1.1).bounds
    >>> low < 1.5 and high > 8.5 and round(bottom, 6) == round(top, 6) == 0.5
    True
    """
    if axis is None:
        return shapely.MultiLineString()
    thin = _lasts(axis, _STROKE_RATIO, _STROKE_LEAST_PATH * cap_height) & (axis.width < below)
    return shapely.multilinestrings(
        shapely.linestrings(axis.ridges.compress(thin & _inside(shape, axis, thin), axis=0))
    )


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class MedialAxis:
    """The medial axis inside and outside a shape, ridge by ridge.

    Attributes
    ----------
    ridges : (n, 2, 2) ends of each ridge
    centres : (n, 2) middles of them
    width : diameter of the disc there
    path : outline between the two points that the disc touches
    """

    ridges: FloatArray
    centres: FloatArray
    width: FloatArray
    path: FloatArray

    def scaled(self, factor: float) -> MedialAxis:
        """That of the same shape in another size."""
        return MedialAxis(
            ridges=factor * self.ridges,
            centres=factor * self.centres,
            width=factor * self.width,
            path=factor * self.path,
        )


def medial_axis(shape: shapely.MultiPolygon, *, cap_height: float) -> MedialAxis | None:
    """The medial axis of a shape and of what lies around it; None where there is none."""
    if shape.is_empty:
        return None
    points, contour, along, lengths = _sample(shape, cap_height * _SAMPLE_SHARE)
    try:
        triangles = Delaunay(points)
    except QhullError:
        return None
    # The Voronoi diagram is the dual of the triangles: its corners are the middles of the circles
    # round them, and a ridge joins the middles of two triangles that share an edge.
    middles = _circle_middles(points.take(triangles.simplices, axis=0))
    beside = triangles.neighbors
    of, edge = np.nonzero(beside > np.arange(len(beside))[:, None])
    first = triangles.simplices[of, (edge + 1) % 3]
    second = triangles.simplices[of, (edge + 2) % 3]
    same = contour[first] == contour[second]
    apart = np.abs(along[first] - along[second])
    path = np.where(same, np.minimum(apart, lengths[contour[first]] - apart), np.inf)
    ridges = np.stack((middles.take(of, axis=0), middles.take(beside[of, edge], axis=0)), axis=1)
    centres = ridges.mean(axis=1)
    width = 2 * np.hypot(*(centres - points.take(first, axis=0)).T)
    # What three points in a row span has no circle.
    sound = np.flatnonzero(np.isfinite(width))
    return MedialAxis(
        ridges=ridges.take(sound, axis=0),
        centres=centres.take(sound, axis=0),
        width=width[sound],
        path=path[sound],
    )


def _circle_middles(corners: FloatArray) -> FloatArray:
    """Middles of the circles round triangles: (n, 3, 2) -> (n, 2); not finite where all is in a row."""
    origin = corners[:, 0]
    one, other = corners[:, 1] - origin, corners[:, 2] - origin
    twice = 2.0 * (one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0])
    one_square, other_square = (one**2).sum(axis=1), (other**2).sum(axis=1)
    with np.errstate(divide="ignore", invalid="ignore"):
        x = (other[:, 1] * one_square - one[:, 1] * other_square) / twice
        y = (one[:, 0] * other_square - other[:, 0] * one_square) / twice
    middles: FloatArray = origin + np.column_stack((x, y))
    return middles


def _inside(shape: shapely.MultiPolygon, axis: MedialAxis, asked: np.ndarray) -> np.ndarray:
    """Which of the ridges that are asked for are a stroke's, not a gap's; False for all others."""
    inside = np.zeros(len(asked), dtype=bool)
    shapely.prepare(shape)
    inside[asked] = shapely.contains_xy(shape, axis.centres[asked, 0], axis.centres[asked, 1])
    return inside


def _lasts(axis: MedialAxis, ratio: float, least: float) -> np.ndarray:
    lasting: np.ndarray = axis.path >= np.maximum(ratio * axis.width, least)
    return lasting


def _narrowest(axis: MedialAxis, chosen: np.ndarray) -> Narrow | None:
    places = np.flatnonzero(chosen)
    if not len(places):
        return None
    best = places[np.argmin(axis.width[places])]
    x, y = axis.centres[best]
    return Narrow(width=float(axis.width[best]), x=float(x), y=float(y))


def _stroke_of_a_dot(shape: shapely.MultiPolygon) -> Narrow:
    """A compact mark (a full stop) has no stroke that lasts: its width is that of its largest disc."""
    discs = [shapely.maximum_inscribed_circle(body) for body in shape.geoms]
    least = min(discs, key=lambda disc: disc.length)
    x, y = least.coords[0]
    return Narrow(width=2 * least.length, x=x, y=y)


def _sample(
    shape: shapely.MultiPolygon, spacing: float
) -> tuple[FloatArray, np.ndarray, FloatArray, FloatArray]:
    """Points along all outlines, with the contour and the arc length of each."""
    points, contour, along, lengths = [], [], [], []
    rings = [ring for body in shape.geoms for ring in (body.exterior, *body.interiors)]
    for number, ring in enumerate(rings):
        dense = np.asarray(shapely.segmentize(ring, spacing).coords)
        steps = np.hypot(*np.diff(dense, axis=0).T)
        reach = np.concatenate(([0.0], np.cumsum(steps)))
        points.append(dense[:-1])
        contour.append(np.full(len(dense) - 1, number))
        along.append(reach[:-1])
        lengths.append(reach[-1])
    assert math.isfinite(sum(lengths))
    return np.concatenate(points), np.concatenate(contour), np.concatenate(along), np.array(lengths)

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

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from scipy.spatial import Delaunay, QhullError

from kizami.outlines.curves import FloatArray
from kizami.prepared import prepared

__all__ = [
    "GAP_LEAST_PATH",
    "GAP_RATIO",
    "STROKE_LEAST_PATH",
    "STROKE_RATIO",
    "MedialAxis",
    "Narrow",
    "Places",
    "Samples",
    "ShapeFacts",
    "axis_of",
    "circle_middles",
    "gap_lines",
    "measure_shape",
    "medial_axis",
    "middles_of",
    "places_of",
    "sampled",
    "thin_lines",
]

STROKE_RATIO, STROKE_LEAST_PATH = 3.0, 0.2
#: The fine end of a stroke is none by itself, but where it runs into the next letter the two are.
THIN_LEAST_PATH = 0.05
GAP_RATIO, GAP_LEAST_PATH = 5.0, 0.7
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


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Places:
    """Narrow places of one kind.

    Attributes
    ----------
    centres : (n, 2)
    across : (n, 2) unit vectors from the one side to the other; (0, 0) where a disc touches all round
    width : (n,) diameter of the largest disc there
    """

    centres: FloatArray
    across: FloatArray
    width: FloatArray

    def __len__(self) -> int:
        return len(self.width)

    @classmethod
    def none(cls) -> Places:
        """No place at all."""
        return _NO_PLACES

    @classmethod
    def of(cls, *several: Places) -> Places:
        """Those of several together."""
        several = tuple(places for places in several if len(places))
        if len(several) < 2:
            return several[0] if several else _NO_PLACES
        return cls(
            centres=np.concatenate([p.centres for p in several]),
            across=np.concatenate([p.across for p in several]),
            width=np.concatenate([p.width for p in several]),
        )

    @classmethod
    def discs(cls, rows: Sequence[tuple[float, float, float]]) -> Places:
        """Discs that touch all round, as rows of x, y and diameter."""
        if not rows:
            return _NO_PLACES
        table = np.array(rows, dtype=np.float64)
        return cls(centres=table[:, :2], across=np.zeros((len(table), 2)), width=table[:, 2])

    def take(self, which: npt.NDArray[np.int64]) -> Places:
        """Some of them."""
        return Places(
            centres=self.centres.take(which, axis=0),
            across=self.across.take(which, axis=0),
            width=self.width.take(which),
        )

    def placed(self, turn: FloatArray, unit: float, origin: tuple[float, float]) -> Places:
        """In another size, turned (points are multiplied by `turn`, (2, 2)) and moved."""
        return Places(
            centres=self.centres @ turn * unit + np.array(origin),
            across=self.across @ turn,
            width=self.width * unit,
        )

    @property
    def narrowest(self) -> Narrow | None:
        """The narrowest of them."""
        if not len(self.width):
            return None
        best = int(np.argmin(self.width))
        x, y = self.centres[best]
        return Narrow(width=float(self.width[best]), x=float(x), y=float(y))


_NO_PLACES = Places(centres=np.empty((0, 2)), across=np.empty((0, 2)), width=np.empty(0))


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class ShapeFacts:
    """Where strokes are thin, gaps narrow, and closed middles small; empty where a shape has none.

    Attributes
    ----------
    strokes, gaps : every place that lasts, up to so much wider than the narrowest, see `WIDER`
    middles : the largest disc of each closed middle
    is_measured : False when the shape could not be measured, which is not the same as nothing being there
    """

    strokes: Places
    gaps: Places
    middles: Places
    is_measured: bool = True

    @property
    def stroke(self) -> Narrow | None:
        """The thinnest stroke."""
        return self.strokes.narrowest

    @property
    def gap(self) -> Narrow | None:
        """The narrowest gap, closed middles among them."""
        both = [n for n in (self.gaps.narrowest, self.middles.narrowest) if n is not None]
        return min(both, key=lambda n: n.width, default=None)

    def placed(self, turn: FloatArray, unit: float, origin: tuple[float, float]) -> ShapeFacts:
        """Those of the same shape in another size, turned and moved."""
        strokes, gaps, middles = (
            p.placed(turn, unit, origin) for p in (self.strokes, self.gaps, self.middles)
        )
        return ShapeFacts(strokes=strokes, gaps=gaps, middles=middles, is_measured=self.is_measured)

    @classmethod
    def of_nothing(cls) -> ShapeFacts:
        """Those of a blank."""
        return cls(strokes=_NO_PLACES, gaps=_NO_PLACES, middles=_NO_PLACES)


#: Places so many times wider than the narrowest are not kept: no surface that lettering stands on makes
#: one letter so much wider in one place than in another.
WIDER = 2.0


def measure_shape(
    shape: shapely.MultiPolygon, *, cap_height: float, axis: MedialAxis | None = None
) -> ShapeFacts:
    """Measure the thin strokes and the narrow gaps of one glyph or mark.

    Parameters
    ----------
    shape : valid bodies with holes, any unit
    cap_height : height of the capital H in the same unit; sets how finely it is sampled
    axis : its medial axis where that is known already

    >>> bar = shapely.MultiPolygon([shapely.box(0, 0, 10, 1)])
    >>> round(measure_shape(bar, cap_height=10).stroke.width, 2)
    1.0
    >>> measure_shape(shapely.MultiPolygon(), cap_height=10).stroke is None
    True
    """
    if shape.is_empty:
        return ShapeFacts.of_nothing()
    axis = axis or medial_axis(shape, cap_height=cap_height)
    if axis is None:
        return ShapeFacts(strokes=_NO_PLACES, gaps=_NO_PLACES, middles=_NO_PLACES, is_measured=False)
    as_stroke = _lasts(axis, STROKE_RATIO, STROKE_LEAST_PATH * cap_height)
    as_gap = _lasts(axis, GAP_RATIO, GAP_LEAST_PATH * cap_height)
    # Most of the axis is neither, so what lies inside is asked last and of few.
    inside = _inside(shape, axis, as_stroke | as_gap)
    strokes, gaps = _thin(axis, as_stroke & inside), _thin(axis, as_gap & ~inside)
    if not len(strokes):
        strokes = _stroke_of_a_dot(shape)
    return ShapeFacts(strokes=strokes, gaps=gaps, middles=middles_of(shape, cap_height * 0.002))


def middles_of(shape: shapely.MultiPolygon, tolerance: float) -> Places:
    """The largest disc of each closed middle: however short it is, it is a gap at its widest."""
    rows = []
    for body in shape.geoms:
        for hole in body.interiors:
            radius = shapely.maximum_inscribed_circle(shapely.Polygon(hole), tolerance=tolerance)
            (x, y), _ = radius.coords[0], radius.coords[-1]
            rows.append((x, y, 2 * radius.length))
    return Places.discs(rows)


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
    thin = _lasts(axis, STROKE_RATIO, THIN_LEAST_PATH * cap_height) & (axis.width < below)
    return shapely.multilinestrings(
        shapely.linestrings(axis.ridges.compress(thin & _inside(shape, axis, thin), axis=0))
    )


def gap_lines(
    shape: shapely.MultiPolygon, axis: MedialAxis | None, *, cap_height: float, below: float
) -> shapely.Geometry:
    """The middle lines of the gaps that are narrower than `below`, as one set of lines.

    >>> apart = shapely.MultiPolygon([shapely.box(0, 0, 10, 1), shapely.box(0, 1.5, 10, 2.5)])
    >>> axis = medial_axis(apart, cap_height=10)
    >>> round(gap_lines(apart, axis, cap_height=10, below=0.6).centroid.y, 6)
    1.25
    """
    if axis is None:
        return shapely.MultiLineString()
    narrow = _lasts(axis, GAP_RATIO, GAP_LEAST_PATH * cap_height) & (axis.width < below)
    chosen = narrow & ~_inside(shape, axis, narrow)
    return shapely.multilinestrings(shapely.linestrings(axis.ridges.compress(chosen, axis=0)))


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class MedialAxis:
    """The medial axis inside and outside a shape, ridge by ridge.

    Attributes
    ----------
    ridges : (n, 2, 2) ends of each ridge
    centres : (n, 2) middles of them
    across : (n, 2) unit vectors between the two points that the disc touches
    width : diameter of the disc there
    path : outline between those two points
    """

    ridges: FloatArray
    centres: FloatArray
    across: FloatArray
    width: FloatArray
    path: FloatArray

    def scaled(self, factor: float) -> MedialAxis:
        """That of the same shape in another size."""
        return MedialAxis(
            ridges=factor * self.ridges,
            centres=factor * self.centres,
            across=self.across,
            width=factor * self.width,
            path=factor * self.path,
        )


def medial_axis(shape: shapely.MultiPolygon, *, cap_height: float) -> MedialAxis | None:
    """The medial axis of a shape and of what lies around it; None where there is none."""
    if shape.is_empty:
        return None
    return axis_of(sampled(shape, cap_height * _SAMPLE_SHARE))


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Samples:
    """Points along outlines.

    Attributes
    ----------
    points : (n, 2)
    contour : (n,) number of the outline that each lies on
    along : (n,) how far along it
    lengths : (c,) of the outlines
    """

    points: FloatArray
    contour: npt.NDArray[np.int64]
    along: FloatArray
    lengths: FloatArray


def axis_of(samples: Samples) -> MedialAxis | None:
    """The medial axis of what outlines bound, from points densely on them; None where there is none."""
    points, contour, along, lengths = samples.points, samples.contour, samples.along, samples.lengths
    if len(points) < 4:
        return None
    try:
        triangles = Delaunay(_off_the_grid(points))
    except QhullError:
        return None
    # The Voronoi diagram is the dual of the triangles: its corners are the middles of the circles
    # round them, and a ridge joins the middles of two triangles that share an edge.
    middles = circle_middles(points.take(triangles.simplices, axis=0))
    beside = triangles.neighbors
    of, edge = np.nonzero(beside > np.arange(len(beside))[:, None])
    first = triangles.simplices[of, (edge + 1) % 3]
    second = triangles.simplices[of, (edge + 2) % 3]
    same = contour[first] == contour[second]
    apart = np.abs(along[first] - along[second])
    path = np.where(same, np.minimum(apart, lengths[contour[first]] - apart), np.inf)
    one, other = middles.take(of, axis=0), middles.take(beside[of, edge], axis=0)
    ridges = np.stack((one, other), axis=1)
    # What three points in a row span has no circle, and its middle is nowhere.
    with np.errstate(invalid="ignore"):
        centres = (one + other) / 2.0
    across = points.take(second, axis=0) - points.take(first, axis=0)
    width = 2 * np.hypot(*(centres - points.take(first, axis=0)).T)
    sound = np.flatnonzero(np.isfinite(width))
    across = across.take(sound, axis=0)
    return MedialAxis(
        ridges=ridges.take(sound, axis=0),
        centres=centres.take(sound, axis=0),
        across=across / np.maximum(np.hypot(*across.T), 1e-30)[:, None],
        width=width[sound],
        path=path[sound],
    )


def _off_the_grid(points: FloatArray) -> FloatArray:
    """Points moved by less than anything that is told, so that no four lie on one circle.

    Between parallel strokes all do, and Qhull then joins facets one by one: forty times slower, and it keeps
    only some of the triangles.
    """
    reach = _OFF_SHARE * float(np.ptp(points, axis=0).max())
    # Multiples of two numbers that no fraction comes near, so that neighbours move differently, and always
    # in the same way.
    steps = np.outer(np.arange(1, len(points) + 1), (0.6180339887498949, 0.7548776662466927)) % 1.0
    moved: FloatArray = points + reach * (steps - 0.5)
    return moved


#: Of the size of the whole: far above rounding, far below what is told.
_OFF_SHARE = 1e-9


def circle_middles(corners: FloatArray) -> FloatArray:
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
    inside[asked] = shapely.contains_xy(prepared(shape), axis.centres[asked, 0], axis.centres[asked, 1])
    return inside


def _lasts(axis: MedialAxis, ratio: float, least: float) -> np.ndarray:
    lasting: np.ndarray = axis.path >= np.maximum(ratio * axis.width, least)
    return lasting


def _thin(axis: MedialAxis, chosen: np.ndarray) -> Places:
    places = np.flatnonzero(chosen)
    if not len(places):
        return _NO_PLACES
    width = axis.width[places]
    return places_of(axis, places[width <= WIDER * width.min()])


def places_of(axis: MedialAxis, which: npt.NDArray[np.int64]) -> Places:
    """Some ridges of an axis as places."""
    return Places(
        centres=axis.centres.take(which, axis=0),
        across=axis.across.take(which, axis=0),
        width=axis.width.take(which),
    )


def _stroke_of_a_dot(shape: shapely.MultiPolygon) -> Places:
    """A compact mark (a full stop) has no stroke that lasts: its width is that of its largest disc."""
    rows = []
    for body in shape.geoms:
        disc = shapely.maximum_inscribed_circle(body)
        rows.append((*disc.coords[0], 2 * disc.length))
    return Places.discs(rows)


def sampled(shape: shapely.MultiPolygon, spacing: float) -> Samples:
    """Points along all outlines, no further apart than `spacing`."""
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
    return Samples(
        points=np.concatenate(points),
        contour=np.concatenate(contour),
        along=np.concatenate(along),
        lengths=np.array(lengths),
    )

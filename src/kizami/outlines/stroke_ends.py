"""Where the strokes of a letter end, and how each runs there: what goes on from it can follow its hand."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely

from kizami.outlines.curves import FloatArray
from kizami.prepared import prepared
from kizami.remembering import remembered

__all__ = ["StrokeEnd", "stroke_ends"]

#: Angles at which the surroundings of a place are looked at, and those of a tip.
_ANGLES, _FINE_ANGLES = 36, 120
#: How far around an outline's places a letter is looked at, and the steps in which a stroke is followed back,
#: in widths of its strokes.
_ABOUT, _STEP, _STEPS = 1.3, 0.3, 9
#: An end is met by less of the circle about it than this; what is met more widely is a flank.
_WIDEST_RAD = np.radians(85.0)
#: Steps that lie within the end of a stroke, and fine ones in which its tip is found.
_WITHIN, _FINE_STEPS = 3, 20
#: A stroke that is followed back ends where it is so much wider than a step before: there others join it.
_JOINED = 1.4
#: Places along an outline, in widths.
_APART = 0.35
#: Outlines are looked at to so much of a width.
_COARSE = 0.03


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class StrokeEnd:
    """The end of a stroke.

    Attributes
    ----------
    line : (n, 2) middle line from within the letter to the tip
    widths : (n,) of the stroke along that line
    """

    line: FloatArray
    widths: FloatArray

    @property
    def tip(self) -> FloatArray:
        """Where the stroke ends."""
        return np.asarray(self.line[-1], dtype=np.float64)

    @property
    def way(self) -> FloatArray:
        """The direction in which it goes out there, of length 1."""
        along = self.line[-1] - self.line[max(-3, -len(self.line))]
        return np.asarray(along / np.hypot(*along), dtype=np.float64)


def stroke_ends(
    letter: shapely.Geometry, *, across: tuple[float, float] = (-np.inf, np.inf)
) -> tuple[StrokeEnd, ...]:
    """The ends of the strokes of a letter.

    A place on an outline is one where a circle about it, somewhat wider than the strokes are, meets the
    letter once and by a small part; the stroke is then followed back by such circles about its tip, up to
    where others join it.

    Parameters
    ----------
    across : ends are looked for between these two, in x

    >>> bar = shapely.LineString([(0, 0), (10, 0)]).buffer(0.5)
    >>> sorted(end.tip.round(1)[0].item() for end in stroke_ends(bar))
    [-0.5, 10.5]
    >>> stroke_ends(shapely.Point(0, 0).buffer(5)), stroke_ends(shapely.Polygon())
    ((), ())
    """
    if letter.is_empty:
        return ()
    # The letters of a list come again, in other places and sizes.
    width = 2.0 * letter.area / letter.length
    low = np.array(letter.bounds[:2])
    unit = shapely.transform(letter, lambda xy: ((xy - low) / width).round(_DIGITS))
    found = _ends_of(unit, *(round(float((x - low[0]) / width), _DIGITS) for x in across))
    return tuple(StrokeEnd(line=end.line * width + low, widths=end.widths * width) for end in found)


#: Of the width of a stroke: far below what is seen.
_DIGITS = 7


@remembered
def _ends_of(letter: shapely.Geometry, low_x: float, high_x: float) -> tuple[StrokeEnd, ...]:
    """The same of a letter whose strokes are 1 wide."""
    letter = shapely.simplify(letter, _COARSE)
    asked = prepared(letter)
    found = []
    for body in shapely.get_parts(letter):
        ring = body.exterior
        count = max(8, int(ring.length / _APART))
        places = shapely.get_coordinates(
            shapely.line_interpolate_point(ring, np.linspace(0.0, ring.length, count, endpoint=False))
        )
        near = np.flatnonzero((places[:, 0] >= low_x) & (places[:, 0] <= high_x))
        runs, share = _met(asked, places[near], np.array([_ABOUT]))
        is_end = np.zeros(count, dtype=bool)
        is_end[near] = (runs[:, 0] == 1) & (share[:, 0] < _WIDEST_RAD)
        for group in _round_about(is_end):
            end = _followed(asked, places[group])
            if end is not None:
                found.append(end)
    return tuple(found)


def _round_about(chosen: npt.NDArray[np.bool_]) -> list[npt.NDArray[np.int64]]:
    """Runs of chosen numbers on a closed line; none where all are chosen."""
    bare = np.flatnonzero(~chosen)
    if not len(bare) or len(bare) == len(chosen):
        return []
    turned = np.roll(np.arange(len(chosen)), -int(bare[0]))
    places = np.flatnonzero(chosen[turned])
    return [turned[run] for run in np.split(places, np.flatnonzero(np.diff(places) > 1) + 1)]


def _followed(letter: shapely.Geometry, places: FloatArray) -> StrokeEnd | None:
    """The stroke that ends somewhere about some places."""
    # The tip is where the stroke's own direction leaves its end.
    middle = places.mean(axis=0)
    back = _middles(letter, middle, np.array([_ABOUT]))[0][0] - middle
    rough = _followed_from(letter, places[int(np.argmin(places @ back))])
    # That is a corner where an end is flat: from the middle of the end the stroke is told truly.
    return None if rough is None else _followed_from(letter, rough.tip) or rough


def _followed_from(letter: shapely.Geometry, tip: FloatArray) -> StrokeEnd | None:
    """The stroke that ends about a place, back to where others join it."""
    radii = _STEP * np.arange(1.0, _STEPS + 1.0)
    runs, _ = _met(letter, tip[None], radii)
    line, widths = _middles(letter, tip, radii)
    joined = np.flatnonzero((runs[0] != 1) | np.isnan(line[:, 0]))
    last = int(joined[0]) if len(joined) else len(radii)
    # Within its end a circle meets the end itself, which only opens up there.
    first = _WITHIN if last > _WITHIN + 1 else _WITHIN - 1
    if last - first < 2:
        return None
    grows = np.flatnonzero(widths[first + 1 : last] > _JOINED * widths[first : last - 1])
    last = first + 1 + int(grows[0]) if len(grows) else last
    if last - first < 2:
        return None
    bend = np.polynomial.polynomial.polyfit(
        radii[first:last], line[first:last], deg=2 if last - first > 3 else 1
    )
    # The line ends where the letter does.
    near = np.linspace(0.0, radii[first], _FINE_STEPS)
    inside = shapely.contains_xy(letter, *np.polynomial.polynomial.polyval(near, bend))
    if not inside.any():
        return None
    end = float(near[np.argmax(inside)])
    at = np.concatenate((radii[:last][radii[:last] > end][::-1], [end]))
    middles: FloatArray = np.asarray(np.polynomial.polynomial.polyval(at, bend).T, dtype=np.float64)
    own = widths[first:last][::-1]
    return StrokeEnd(line=middles, widths=np.concatenate((own, np.full(len(at) - len(own), own[-1]))))


def _angles(count: int) -> FloatArray:
    """Round about, along no direction in which letters have edges: there rounding alone would tell."""
    return np.linspace(0.0, 2.0 * np.pi, count, endpoint=False) + _OFF_RAD


#: Less than a step of either count, and no fraction of it.
_OFF_RAD = 0.0171


def _circle(
    letter: shapely.Geometry, places: FloatArray, radii: FloatArray, count: int
) -> npt.NDArray[np.bool_]:
    """What of circles about places is inked: (places, radii, angles)."""
    angles = _angles(count)
    way = np.column_stack((np.cos(angles), np.sin(angles)))
    points = places[:, None, None, :] + radii[None, :, None, None] * way[None, None]
    flat = points.reshape(-1, 2)
    inside = np.asarray(shapely.contains_xy(letter, flat[:, 0], flat[:, 1]), dtype=bool)
    return inside.reshape(len(places), len(radii), count)


def _met(
    letter: shapely.Geometry, places: FloatArray, radii: FloatArray
) -> tuple[npt.NDArray[np.int64], FloatArray]:
    """How often circles meet a letter, and by how much of them, in radians: (places, radii) each."""
    inked = _circle(letter, places, radii, _ANGLES)
    runs: npt.NDArray[np.int64] = (inked & ~np.roll(inked, 1, axis=2)).sum(axis=2)
    share: FloatArray = inked.sum(axis=2) * (2.0 * np.pi / _ANGLES)
    return runs, share


def _middles(letter: shapely.Geometry, tip: FloatArray, radii: FloatArray) -> tuple[FloatArray, FloatArray]:
    """The middles (n, 2) of what circles about a tip meet, and its width (n,); not finite where none is."""
    inked = _circle(letter, tip[None], radii, _FINE_ANGLES)[0]
    turn = np.exp(1j * _angles(_FINE_ANGLES))
    towards = (inked * turn).sum(axis=1)
    with np.errstate(invalid="ignore", divide="ignore"):
        towards = towards / np.abs(towards)
    middles = tip + radii[:, None] * np.column_stack((towards.real, towards.imag))
    angle = inked.sum(axis=1) * (2.0 * np.pi / _FINE_ANGLES)
    widths: FloatArray = 2.0 * radii * np.sin(np.minimum(angle, np.pi) / 2.0)
    return middles, widths

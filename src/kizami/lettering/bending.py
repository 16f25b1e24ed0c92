"""Curves that lines of letters stand on, and outlines bent with them."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import numpy as np
import shapely

from kizami.outlines.curves import FloatArray, bodies_of

__all__ = ["Along", "Warp", "arc_warp", "arch_radius_mm", "arched_warp", "bend", "on_arc"]


def on_arc(x: float, radius: float, line_mm: float = 0.0) -> tuple[float, float, float]:
    """Foot on a circle through the origin: the point and the angle that a letter there is turned by.

    A line above or under it has a circle of its own about the same middle, along which its places are told.
    """
    angle = x / _radius_of(radius, line_mm)
    return (radius * math.sin(angle), radius * (math.cos(angle) - 1.0), -angle)


def _radius_of(radius: float, line_mm: float) -> float:
    """The radius of a line's own circle; one that would lie beyond the middle keeps a little of it."""
    own = radius + line_mm
    least = _LEAST_RADIUS * abs(radius)
    return own if own * radius > 0.0 and abs(own) > least else math.copysign(least, radius)


#: A line that is set near the middle of its arc, or beyond it, can't be read there; it stays finite.
_LEAST_RADIUS = 0.05


class Along:
    """Points and directions along a path, by length from its middle.

    A line above or under the path is told along its own, everywhere as far from it; its feet are on the path.
    """

    def __init__(self, points: Sequence[tuple[float, float]], line_mm: float = 0.0) -> None:
        path = shapely.LineString(points)
        beside = path.offset_curve(line_mm) if line_mm else path
        # Where it winds so tightly that nothing runs beside it, the path itself has to do.
        is_whole = isinstance(beside, shapely.LineString) and not beside.is_empty
        self._line, self._line_mm = (beside, line_mm) if is_whole else (path, 0.0)

    def at(self, x: float, step: float | None = None) -> tuple[float, float, float]:
        """The foot at a place and the direction there, taken over `step` to either side."""
        reach = self._line.length / 2.0 + x
        inside = min(max(reach, 0.0), self._line.length)
        step = min(0.05, self._line.length / 100.0) if step is None else step
        before = self._line.interpolate(max(inside - step, 0.0))
        after = self._line.interpolate(min(inside + step, self._line.length))
        foot = self._line.interpolate(inside)
        angle = math.atan2(after.y - before.y, after.x - before.x)
        # Beyond its ends the path goes straight on, so that nothing is piled up there.
        over = reach - inside
        x, y = foot.x + over * math.cos(angle), foot.y + over * math.sin(angle)
        return (x + self._line_mm * math.sin(angle), y - self._line_mm * math.cos(angle), angle)

    def warp(self, middle: float, height_mm: float) -> Warp:
        """Every point as high above the path as it stood above the line, whose middle is given.

        A path has corners, letters have none: what stands on it leans by the direction of about a letter's
        length of it.
        """

        def warped(xy: FloatArray) -> FloatArray:
            feet = np.array([self.at(x, height_mm) for x in (xy[:, 0] - middle).tolist()]).reshape(-1, 3)
            aside = np.column_stack((-np.sin(feet[:, 2]), np.cos(feet[:, 2])))
            stood: FloatArray = feet[:, :2] + xy[:, 1:] * aside
            return stood

        return warped


Warp = Callable[[FloatArray], FloatArray]


def arc_warp(radius: float, middle: float, line_mm: float) -> Warp:
    own = _radius_of(radius, line_mm)

    def warp(xy: FloatArray) -> FloatArray:
        angle, reach = (xy[:, 0] - middle) / own, radius + xy[:, 1]
        return np.column_stack((reach * np.sin(angle), reach * np.cos(angle) - radius))

    return warp


def arched_warp(rise: float, low: float, high: float) -> Warp:
    def warp(xy: FloatArray) -> FloatArray:
        share = (2.0 * xy[:, 0] - low - high) / (high - low)
        return np.column_stack((xy[:, 0], xy[:, 1] * (1.0 + rise * (1.0 - share**2))))

    return warp


def arch_radius_mm(rise: float, width_mm: float, height_mm: float) -> float:
    """Radius of the parabola h r (1 - (2x/w)^2) at its top: 1 / |y''| = w^2 / (8 h r)."""
    return width_mm**2 / (8.0 * height_mm * max(abs(rise), 1e-3))


def bend(
    letters: Sequence[shapely.MultiPolygon], warp: Warp, sagitta_mm: float, *, radius_mm: float
) -> tuple[list[shapely.MultiPolygon], list[float]]:
    """Bend outlines. Edges are first cut so short that their chords stay true: c^2 / 8R = sagitta.

    Parameters
    ----------
    radius_mm : the tightest that they are bent with

    Returns
    -------
    the outlines, and of each the largest over the smallest scale that its middle underwent
    """
    step = math.sqrt(8.0 * radius_mm * sagitta_mm)
    outlines = np.array(letters, dtype=object)
    stretch = np.ones(len(outlines))
    inked = np.flatnonzero(~shapely.is_empty(outlines))
    bent = shapely.transform(shapely.segmentize(outlines[inked], step), warp)
    crossing = ~shapely.is_valid(bent)
    bent[~crossing] = [_as_bodies(shape) for shape in shapely.orient_polygons(bent[~crossing])]
    bent[crossing] = [_mended(shape) for shape in bent[crossing]]
    stretch[inked] = _stretch_at(warp, shapely.bounds(outlines[inked]))
    outlines[inked] = bent
    return outlines.tolist(), stretch.tolist()


def _as_bodies(shape: shapely.Polygon | shapely.MultiPolygon) -> shapely.MultiPolygon:
    """Bodies stay bodies where a library gives a single one back alone."""
    return shapely.MultiPolygon([shape]) if isinstance(shape, shapely.Polygon) else shape


def _mended(shape: shapely.MultiPolygon) -> shapely.MultiPolygon:
    """A bent outline that crosses itself, made whole."""
    return bodies_of(shapely.make_valid(shape, method="structure", keep_collapsed=False))


def _stretch_at(warp: Warp, boxes: FloatArray) -> FloatArray:
    """Largest over smallest singular value of the warp's derivative in the middle of each letter's box."""
    low, high = boxes[:, :2], boxes[:, 2:]
    step = (high - low).max(axis=1, keepdims=True) * 1e-4
    middle, none = (low + high) / 2.0, np.zeros_like(step)
    right, up = np.hstack((step, none)), np.hstack((none, step))
    east, west, north, south = np.split(
        warp(np.concatenate((middle + right, middle - right, middle + up, middle - up))), 4
    )
    jacobian = np.stack((east - west, north - south), axis=2) / (2.0 * step[:, :, None])
    values = np.linalg.svd(jacobian, compute_uv=False)
    ratio: FloatArray = values[:, 0] / np.maximum(values[:, -1], 1e-9)
    return ratio

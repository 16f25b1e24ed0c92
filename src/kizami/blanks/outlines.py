"""Outlines of plates, anticlockwise, their box from (0, 0): disc, oval, heart, leaf, ticket, rounded."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from kizami.surfaces.chords import chord_angle_rad
from kizami.surfaces.protocol import FloatArray

__all__ = ["PLATE_OUTLINES", "plate_outline"]


def _arc(
    centre: tuple[float, float], radius: float, from_rad: float, to_rad: float, sagitta_mm: float
) -> FloatArray:
    """Points along an arc, both ends among them."""
    step = chord_angle_rad(radius_mm=radius, sagitta_mm=sagitta_mm)
    angles = np.linspace(from_rad, to_rad, max(1, math.ceil(abs(to_rad - from_rad) / step)) + 1)
    return np.column_stack((centre[0] + radius * np.cos(angles), centre[1] + radius * np.sin(angles)))


def _rounded(length: float, height: float, corner: float, sagitta_mm: float) -> FloatArray:
    if corner <= 0:
        return np.array([(0, 0), (length, 0), (length, height), (0, height)], dtype=float)
    quarter = math.pi / 2.0
    right, top = length - corner, height - corner
    centres = ((right, top), (corner, top), (corner, corner), (right, corner))
    return np.vstack(
        [_arc(c, corner, i * quarter, (i + 1) * quarter, sagitta_mm) for i, c in enumerate(centres)]
    )


def _oval(length: float, height: float, _: float, sagitta_mm: float) -> FloatArray:
    """An ellipse. Equal steps of its angle leave it least true where it is flattest along its long axis."""
    a, b = length / 2.0, height / 2.0
    # For steps t the chord error of an ellipse is at most max(a, b) t^2 / 8, as of its larger circle.
    step = chord_angle_rad(radius_mm=max(a, b), sagitta_mm=sagitta_mm)
    t = np.linspace(0.0, 2.0 * math.pi, math.ceil(2.0 * math.pi / step), endpoint=False)
    return np.column_stack((a + a * np.cos(t), b + b * np.sin(t)))


def _heart(length: float, height: float, _: float, sagitta_mm: float) -> FloatArray:
    """Two half discs on top, two lines that leave them smoothly and meet in the point below."""
    radius = length / 4.0
    shoulder = height - radius
    right = (3.0 * radius, shoulder)
    tip = (length / 2.0, 0.0)
    # From the tip a line touches a disc at the angle whose sine is r / distance.
    reach = math.hypot(right[0] - tip[0], right[1] - tip[1])
    touch = math.acos(min(1.0, radius / reach))
    toward = math.atan2(tip[1] - right[1], tip[0] - right[0])
    start = toward + touch
    right_arc = _arc(right, radius, start, math.pi, sagitta_mm)
    left_arc = np.column_stack((length - right_arc[:, 0], right_arc[:, 1]))[::-1]
    return np.vstack(([tip], right_arc, left_arc))


def _leaf(length: float, height: float, _: float, sagitta_mm: float) -> FloatArray:
    """Two arcs that meet in a tip at either side, the tips rounded by an eighth of the height.

    All of it is a lens widened by the radius of its tips: arcs and tips meet without a corner.
    """
    tip = height / 8.0
    a, b = length / 2.0 - tip, height / 2.0 - tip
    radius = (a * a + b * b) / (2.0 * b)
    half = math.atan2(a, radius - b)
    up, down = math.pi / 2.0, 1.5 * math.pi
    middle = (length / 2.0, height / 2.0)
    parts = (
        ((middle[0] + a, middle[1]), tip, half - up, up - half),
        ((middle[0], middle[1] + b - radius), radius + tip, up - half, up + half),
        ((middle[0] - a, middle[1]), tip, up + half, down - half),
        ((middle[0], middle[1] + radius - b), radius + tip, down - half, down + half),
    )
    return np.vstack([_arc(*part, sagitta_mm)[:-1] for part in parts])


def _ticket(length: float, height: float, corner: float, sagitta_mm: float) -> FloatArray:
    """A rectangle with its corners bitten out by quarter discs."""
    if corner <= 0:
        return _rounded(length, height, 0.0, sagitta_mm)
    quarter = math.pi / 2.0
    corners = ((length, height), (0.0, height), (0.0, 0.0), (length, 0.0))
    bites = zip(corners, (3.0 * quarter, 0.0, quarter, 2.0 * quarter), strict=True)
    return np.vstack([_arc(c, corner, start, start - quarter, sagitta_mm) for c, start in bites])


PLATE_OUTLINES: dict[str, Callable[[float, float, float, float], FloatArray]] = {
    "rounded": _rounded,
    "oval": _oval,
    "heart": _heart,
    "leaf": _leaf,
    "ticket": _ticket,
}


def plate_outline(
    kind: str, *, length_mm: float, height_mm: float, corner_mm: float, sagitta_mm: float
) -> FloatArray:
    """An outline by its kind, shape (n, 2).

    Parameters
    ----------
    corner_mm : radius of the corners of “rounded” and of the bites of “ticket”
    sagitta_mm : largest distance between chords and curves

    >>> plate_outline("rounded", length_mm=3, height_mm=2, corner_mm=0, sagitta_mm=0.01).tolist()
    [[0.0, 0.0], [3.0, 0.0], [3.0, 2.0], [0.0, 2.0]]
    """
    points = PLATE_OUTLINES[kind](length_mm, height_mm, corner_mm, sagitta_mm)
    # Arcs that meet share a point, which must stand once only.
    distinct = np.hypot(*(points - np.roll(points, 1, axis=0)).T) > 1e-9
    outline: FloatArray = points[distinct]
    return outline

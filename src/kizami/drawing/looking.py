"""From where a piece is looked at, so that its lettering is seen upright and at once."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

import numpy as np

from kizami.as_made.as_made import pull_of
from kizami.blanks.area import Area
from kizami.outlines.curves import FloatArray

__all__ = ["FROM_ABOVE", "FROM_THE_FRONT", "Look", "Stance", "look_at", "stance_of", "unit_vector"]

_Vector = tuple[float, float, float]


@dataclass(frozen=True, kw_only=True, slots=True)
class Look:
    """From where a piece is looked at.

    Attributes
    ----------
    towards_eye : from the piece to the eye, any length
    lamp : from the piece to the lamp
    up : what is upright in the picture
    """

    towards_eye: _Vector
    lamp: _Vector
    up: _Vector = (0.0, 0.0, 1.0)

    @property
    def directions(self) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Unit vectors: the way that is looked, to the right and upward in the picture."""
        way = -unit_vector(np.array(self.towards_eye))
        right = unit_vector(np.cross(way, self.up))
        return way, right, np.cross(right, way)


class Stance(Enum):
    """How a lettered face is held before the eye, with the directions to the eye and to the lamp: along the
    reading direction, upward along the face, and outward of it.

    Plates lie and are looked down upon, bands stand and are seen from the front, and over the rim at the
    back where they are lettered inside.
    """

    LYING = ((0.12, -0.5, 1.0), (-1.2, 0.9, 0.75))
    STANDING = ((0.25, 0.55, 1.0), (-1.1, 1.0, 0.75))
    INSIDE = ((0.05, 0.75, 1.0), (-0.7, 1.3, 0.75))

    def before(self, frame: FloatArray) -> Look:
        """The look at a face whose directions are the rows (3, 3) of a frame: reading, upward, outward."""
        eye, lamp = (_vector(np.array(one) @ frame) for one in self.value)
        return Look(towards_eye=eye, lamp=lamp, up=_vector(frame[1]))


def look_at(area: Area) -> Look:
    """From where a piece is seen that is lettered on this area."""
    return stance_of(area).before(_frame(area))


def stance_of(area: Area) -> Stance:
    """How a piece is held that is lettered on this area."""
    if _hollow_per_mm(area) > _HOLLOW_PER_MM:
        return Stance.INSIDE
    return Stance.LYING if abs(_frame(area)[2, 2]) > _LIES else Stance.STANDING


#: What bends towards its reader by more than this, the inverse of a radius in mm, is looked into.
_HOLLOW_PER_MM = 1.0 / 50.0
#: A face lies where its normal leans less than 45 degrees from upright.
_LIES = 0.7


def _hollow_per_mm(area: Area) -> float:
    """How much the middle of an area bends towards its outward side along the reading direction."""
    u, v = area.anchor
    feet = area.surface.place(np.array([(u - _STEP_MM, v), (u, v), (u + _STEP_MM, v)]), np.zeros(3))
    bent = (feet[0] + feet[2] - 2.0 * feet[1]) / _STEP_MM**2
    return float(bent @ pull_of(area))


_STEP_MM = 0.5


def _frame(area: Area) -> FloatArray:
    """Reading direction, upward and outward at the middle of an area, (3, 3) rows.

    A piece is held level: the face of a tapered band is seen as that of a straight one.
    """
    u, v = area.anchor
    foot, head = area.surface.place(np.array([(u, v), (u, v + _STEP_MM)]), np.zeros(2))
    outward, upward = pull_of(area), head - foot
    lies = abs(outward[2]) > _LIES
    outward = np.where(np.arange(3) == 2, outward if lies else 0.0, 0.0 if lies else outward)
    outward = unit_vector(outward)
    upward = unit_vector(upward - (upward @ outward) * outward)
    if not lies:
        upward = np.array([0.0, 0.0, 1.0 if upward[2] >= 0.0 else -1.0])
    return np.stack((np.cross(upward, outward), upward, outward))


def unit_vector(vector: FloatArray) -> FloatArray:
    """A vector made 1 long."""
    unit: FloatArray = vector / np.linalg.norm(vector)
    return unit


def _vector(vector: FloatArray) -> _Vector:
    x, y, z = (round(float(one), 9) + 0.0 for one in vector)
    return (x, y, z)


#: At a plate that lies, and at a band whose lettering is in front.
FROM_ABOVE = Stance.LYING.before(np.eye(3))
FROM_THE_FRONT = Stance.STANDING.before(np.array([[1.0, 0.0, 0.0], [0.0, 0.0, 1.0], [0.0, -1.0, 0.0]]))

"""What is laid on a bed, the bed itself, and what comes of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
import shapely

from kizami.outlines.moving import rotated, shifted
from kizami.runs.coding import Tab
from kizami.runs.machine import Machine
from kizami.runs.mould import Mould

__all__ = ["Ground", "Item", "Place", "Shape", "drawn_outline", "fill", "ground_of", "placed_outline"]

#: Outlines are drawn up so much for packing, mm: fewer corners, and never inside the true one.
_TOLERANCE_MM = 0.05


@dataclass(frozen=True, eq=False)
class Shape:
    """What one or more equal pieces cover of a bed.

    Attributes
    ----------
    key : tells it from others
    outline : from x = y = 0, without holes
    height_mm : how high it stands
    mould : of a pattern for sand: what it asks of its mould
    tab : that carries the piece's code, in the axes of the outline, which holds it
    """

    key: str
    outline: shapely.Polygon
    height_mm: float = 0.0
    mould: Mould | None = None
    tab: Tab | None = None
    _turned: dict[float, shapely.Polygon] = field(default_factory=dict, repr=False)

    @cached_property
    def rough(self) -> shapely.Polygon:
        """An outline with few corners around the true one."""
        grown = self.outline.buffer(1.2 * _TOLERANCE_MM, join_style="mitre").simplify(_TOLERANCE_MM)
        return shapely.Polygon(grown.exterior) if isinstance(grown, shapely.Polygon) else grown.convex_hull

    @cached_property
    def round_mm(self) -> float:
        """Diameter of the smallest circle around it."""
        return 2.0 * float(shapely.minimum_bounding_radius(self.outline))

    @cached_property
    def is_round(self) -> bool:
        """Whether it fills that circle so well that it is packed as one."""
        return bool(self.outline.area > 0.85 * np.pi * (self.round_mm / 2.0) ** 2)

    def turned(self, turn_deg: float) -> shapely.Polygon:
        """The rough outline turned about its origin."""
        if turn_deg not in self._turned:
            self._turned[turn_deg] = rotated(self.rough, turn_deg)
        return self._turned[turn_deg]


@dataclass(frozen=True, kw_only=True, slots=True)
class Item:
    """One piece that is to be laid.

    Attributes
    ----------
    key : its ticket code
    shape : what it covers
    """

    key: str
    shape: Shape


@dataclass(frozen=True, kw_only=True, slots=True)
class Place:
    """Where a piece lies: its shape turned about its origin, then shifted.

    Attributes
    ----------
    x_mm, y_mm : from the bed's lower left corner
    z_mm : of the layer
    turn_deg : anticlockwise
    """

    key: str
    x_mm: float
    y_mm: float
    turn_deg: float = 0.0
    z_mm: float = 0.0


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Ground:
    """Where pieces may lie.

    Attributes
    ----------
    width_mm, depth_mm : of the whole bed
    margin_mm : kept clear along its edges
    gap_mm : between two pieces at least
    turns_deg : allowed turns
    taken : parts of the bed that are no longer there, as of a used sheet; None for a whole one
    """

    width_mm: float
    depth_mm: float
    margin_mm: float = 0.0
    gap_mm: float = 1.0
    turns_deg: tuple[float, ...] = (0.0, 90.0, 180.0, 270.0)
    taken: shapely.Geometry | None = None

    @property
    def room(self) -> tuple[float, float, float, float]:
        """Within the margins: x low, y low, x high, y high."""
        m = self.margin_mm
        return (m, m, self.width_mm - m, self.depth_mm - m)

    @property
    def area_mm2(self) -> float:
        """Of the room within the margins that is there."""
        room = shapely.box(*self.room)
        return float((room if self.taken is None else room.difference(self.taken)).area)

    def has_room_for(self, shape: Shape) -> bool:
        """Whether a shape fits on it at all, alone and in one of its turns."""
        low_x, low_y, high_x, high_y = self.room
        for turn in self.turns_deg:
            a, b, c, d = rotated(shape.outline, turn).bounds
            if c - a <= high_x - low_x + 1e-9 and d - b <= high_y - low_y + 1e-9:
                return True
        return False


def ground_of(machine: Machine, *, taken: shapely.Geometry | None = None) -> Ground:
    """The bed of a machine."""
    return Ground(
        width_mm=machine.bed_mm[0],
        depth_mm=machine.bed_mm[1],
        margin_mm=machine.margin_mm,
        gap_mm=machine.spacing_mm,
        turns_deg=machine.turns(),
        taken=taken,
    )


def placed_outline(shape: Shape, place: Place) -> shapely.Polygon:
    """The true outline of a piece where it lies."""
    turned = rotated(shape.outline, place.turn_deg)
    return shifted(turned, place.x_mm, place.y_mm)


def drawn_outline(shape: Shape, place: Place) -> shapely.Polygon:
    """The same with few corners, for maps."""
    return shifted(shape.turned(place.turn_deg), place.x_mm, place.y_mm)


def fill(shapes: Sequence[Shape], ground: Ground) -> float:
    """Share of a bed that pieces cover: the sum of their areas is the bound that no packing beats.

    >>> fill([], Ground(width_mm=10, depth_mm=10))
    0.0
    """
    return float(sum(shape.outline.area for shape in shapes)) / ground.area_mm2

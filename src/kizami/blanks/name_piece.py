"""Nothing behind the name: the lettering itself is the piece, flat or cut from a curved wall."""

from __future__ import annotations

import math
from dataclasses import dataclass

import manifold3d as m3
import shapely

from kizami.blanks.area import Area
from kizami.remembering import remembered
from kizami.surfaces.cylinder import CylinderPart
from kizami.surfaces.plane import Plane

__all__ = ["NamePiece"]


@dataclass(frozen=True, kw_only=True, slots=True)
class NamePiece:
    """Room for a name.

    Attributes
    ----------
    length_mm, height_mm : that the piece may take
    curve_mm : radius of the wall that it is cut from; 0 is flat
    """

    length_mm: float
    height_mm: float
    curve_mm: float = 0.0

    @property
    def areas(self) -> tuple[Area, ...]:
        """All of it."""
        return (_room(self),)

    def body(self, sagitta_mm: float) -> m3.Manifold:
        """None: an empty body."""
        return m3.Manifold()


@remembered
def _room(piece: NamePiece) -> Area:
    low = math.pi * piece.curve_mm - piece.length_mm / 2.0 if piece.curve_mm else 0.0
    surface = CylinderPart(radius_mm=piece.curve_mm) if piece.curve_mm else Plane()
    return Area(
        name="piece",
        surface=surface,
        outline=shapely.box(low, 0.0, low + piece.length_mm, piece.height_mm),
        keep_outs=(),
        anchor=(low + piece.length_mm / 2.0, piece.height_mm / 2.0),
        # Nothing lies under it: what stands is as thick as its treatment says.
        wall_mm=math.inf,
    )

"""A logo as outlines of height 1, ready to be set like a letter."""

from __future__ import annotations

import hashlib
import math
from dataclasses import dataclass

import numpy as np
import shapely

from kizami.errors import ArtworkError
from kizami.outlines.clean import clean
from kizami.remembering import remembered

__all__ = ["FINEST", "Artwork", "artwork_of"]

#: More outline than any logo that can be made has; keeps one file from stopping the shop.
LARGEST_POINTS = 200_000
#: How true outlines are kept, as a share of the height: 0.0003 mm on a logo of 10 mm.
FINEST = 3e-5


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Artwork:
    """Outlines of a logo, y up, lower left corner of their box at (0, 0), height 1.

    Attributes
    ----------
    name : file name or what it is called
    shape : bodies with holes, true to `FINEST`
    width : of the box, against its height
    fingerprint : of the outlines
    notes : what was left out or decided when it was read, for people
    changed : what the file shows and these outlines do not, for people
    pixels_high : of the picture that it was followed from, 0 for drawn ones
    wander_pixels : how far an edge may lie from where the picture shows it
    modules : of a square code, how many it is high; 0 for logos
    """

    name: str
    shape: shapely.MultiPolygon
    width: float
    fingerprint: str
    notes: tuple[str, ...] = ()
    changed: tuple[str, ...] = ()
    pixels_high: float = 0.0
    wander_pixels: float = 0.0
    modules: int = 0

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Artwork) and other.fingerprint == self.fingerprint

    def __hash__(self) -> int:
        return hash(self.fingerprint)

    def outlines(self, *, sagitta: float) -> shapely.MultiPolygon:
        """The shape with as few points as `sagitta` allows (in heights)."""
        return _outlines(self, math.floor(math.log2(sagitta)))


@remembered
def _outlines(artwork: Artwork, fineness: int) -> shapely.MultiPolygon:
    return clean(artwork.shape, tolerance=2.0**fineness)


def artwork_of(
    shape: shapely.Geometry, *, name: str, notes: tuple[str, ...] = (), changed: tuple[str, ...] = ()
) -> Artwork:
    """Artwork from bodies with holes in any unit, y down as in pictures.

    Raises
    ------
    ArtworkError : nothing has an area, or far too much is drawn
    """
    whole = clean(shape, tolerance=0.0)
    low_x, low_y, high_x, high_y = whole.bounds if not whole.is_empty else (0.0, 0.0, 0.0, 0.0)
    width, height = high_x - low_x, high_y - low_y
    if not (math.isfinite(width) and math.isfinite(height)) or width <= 0 or height <= 0:
        raise ArtworkError(f"“{name}” draws nothing that has an area, so there is nothing to make of it.")
    scale = 1.0 / height

    def place(points: np.ndarray) -> np.ndarray:
        return np.column_stack(((points[:, 0] - low_x) * scale, (high_y - points[:, 1]) * scale))

    upright = clean(shapely.transform(whole, place), tolerance=FINEST / 4.0)
    points = shapely.get_coordinates(upright)
    if len(points) > LARGEST_POINTS:
        raise ArtworkError(f"“{name}” has outlines of {len(points)} points; simplify it first.")
    return Artwork(
        name=name,
        shape=upright,
        width=width * scale,
        fingerprint=hashlib.sha256(np.round(points, 7).tobytes() + "".join(changed).encode()).hexdigest(),
        notes=(*notes, *(f"It uses {what}, which is not followed" for what in changed)),
        changed=changed,
    )

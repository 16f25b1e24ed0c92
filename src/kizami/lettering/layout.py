"""A layout: wording set as outlines in the unrolled millimetres of an area."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from kizami.lettering.outlines import FloatArray

__all__ = ["FitStep", "Layout", "PlacedGlyph"]


@dataclass(frozen=True, kw_only=True, slots=True)
class PlacedGlyph:
    """One glyph in place.

    Attributes
    ----------
    glyph : number in the typeface
    cluster : index of its first character in the wording
    u_mm, v_mm : origin, unrolled mm
    """

    glyph: int
    cluster: int
    u_mm: float
    v_mm: float


@dataclass(frozen=True, kw_only=True, slots=True)
class FitStep:
    """One step of the fit plan that was taken, in words, with the cap height after it."""

    name: str
    said: str
    height_mm: float


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Layout:
    """Wording in place.

    Attributes
    ----------
    text : what was set
    height_mm : cap height
    scale_mm : mm per font unit
    glyphs : in visual order
    shapes : one outline a glyph, unrolled mm; empty for a space
    outlines : all of them as one geometry
    contours : closed outlines, arrays of shape (n, 2), non-zero fill
    steps : what the fit plan did
    fits : the clearance is kept at this height
    missing : indices of characters that the typeface lacks
    """

    text: str
    height_mm: float
    scale_mm: float
    glyphs: tuple[PlacedGlyph, ...]
    shapes: tuple[shapely.MultiPolygon, ...]
    outlines: shapely.MultiPolygon
    contours: tuple[FloatArray, ...]
    steps: tuple[FitStep, ...]
    fits: bool
    missing: tuple[int, ...]

    @property
    def is_empty(self) -> bool:
        """Nothing to make: no wording, or none of it in the typeface."""
        return not self.contours

    @property
    def ink_bounds(self) -> tuple[float, float, float, float]:
        """(u low, v low, u high, v high) of the outlines, mm."""
        low_u, low_v, high_u, high_v = self.outlines.bounds
        return (low_u, low_v, high_u, high_v)

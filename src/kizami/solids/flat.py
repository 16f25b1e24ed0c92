"""Lettering before it is laid on: outlines and the levels that they stand at, in (u, v, h)."""

from __future__ import annotations

from dataclasses import dataclass

import shapely

from kizami.outlines.shrinking import Level

__all__ = ["Flat", "upright"]


@dataclass(frozen=True, eq=False, kw_only=True)
class Flat:
    """What is cut away or added, unrolled.

    Attributes
    ----------
    outlines : bodies with holes, unrolled mm
    levels : how far the outlines are moved inward at which heights, see `kizami.outlines.shrinking`
    """

    outlines: shapely.MultiPolygon
    levels: tuple[Level, ...]

    @property
    def span_mm(self) -> tuple[float, float]:
        """Lowest and highest h."""
        heights = [level.height_mm for level in self.levels]
        return (min(heights), max(heights))


def upright(outlines: shapely.MultiPolygon, low_mm: float, high_mm: float) -> Flat:
    """Outlines with upright walls between two heights."""
    levels = (Level(inward_mm=0.0, height_mm=low_mm), Level(inward_mm=0.0, height_mm=high_mm))
    return Flat(outlines=outlines, levels=levels)

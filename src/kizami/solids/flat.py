"""Lettering before it is laid on: outlines and the levels that they stand at, in (u, v, h)."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import manifold3d as m3
import numpy as np
import shapely

from kizami.errors import SolidError
from kizami.outlines.relief import Level, prism, relief

__all__ = ["Flat", "flat_solid", "upright"]


@dataclass(frozen=True, eq=False, kw_only=True)
class Flat:
    """What is cut away or added, unrolled.

    Attributes
    ----------
    outlines : bodies with holes, unrolled mm
    levels : how far the outlines are moved inward at which heights, see `kizami.outlines.relief`
    """

    outlines: shapely.MultiPolygon
    levels: tuple[Level, ...]

    @property
    def span_mm(self) -> tuple[float, float]:
        """Lowest and highest h."""
        heights = [level.height_mm for level in self.levels]
        return (min(heights), max(heights))

    @property
    def is_upright(self) -> bool:
        """Its walls are upright and its edges sharp."""
        return self.levels[-1].inward_mm == 0.0

    @cached_property
    def solid(self) -> m3.Manifold:
        """All of it as one solid in (u, v, h)."""
        return flat_solid(self.outlines, self.levels)


def upright(outlines: shapely.MultiPolygon, low_mm: float, high_mm: float) -> Flat:
    """Outlines with upright walls between two heights."""
    levels = (Level(inward_mm=0.0, height_mm=low_mm), Level(inward_mm=0.0, height_mm=high_mm))
    return Flat(outlines=outlines, levels=levels)


def flat_solid(outlines: shapely.MultiPolygon, levels: tuple[Level, ...]) -> m3.Manifold:
    """The solid over outlines.

    Raises
    ------
    SolidError : softened edges or slanted walls leave no face
    """
    if levels[-1].inward_mm == 0.0:
        low, high = sorted((levels[0].height_mm, levels[-1].height_mm))
        solid = prism(outlines, low, high)
        if solid.status() == m3.Error.NoError:
            return solid
        # An outline that touches itself shares a corner there, which only the slower way takes apart.
        contours = [np.asarray(r.coords)[:-1] for b in outlines.geoms for r in (b.exterior, *b.interiors)]
        section = m3.CrossSection(contours, m3.FillRule.NonZero)
        return m3.Manifold.extrude(section, high - low).translate((0.0, 0.0, low))
    solid = relief(outlines, levels)
    if solid.status() != m3.Error.NoError:
        raise SolidError(
            "The lettering is too small for its softened edges or slanted walls.",
            hint="Set it higher, or let the product have sharp edges and upright walls.",
        )
    return solid

"""Lettering as a solid on a surface: extruded flat, refined where the surface bends, laid on."""

from __future__ import annotations

import math
from collections.abc import Sequence

import manifold3d as m3
import numpy as np

from kizami.lettering.outlines import FloatArray
from kizami.surfaces.protocol import Surface

__all__ = ["lettering_solid"]

#: Squeezing the directions that do not count before refining makes edge length mean "length
#: along the bending direction". Not smaller, so that the finest outline detail stays far above
#: the working precision of the solids (1e-12 of the size).
_SQUEEZE = 1e-4


def lettering_solid(
    contours: Sequence[FloatArray],
    *,
    surface: Surface,
    low_mm: float,
    high_mm: float,
    sagitta_mm: float,
) -> m3.Manifold:
    """The solid between two heights above the outlines, at constant height along the normal.

    Parameters
    ----------
    contours : closed outlines in unrolled mm, each of shape (n, 2), filled non-zero
    low_mm, high_mm : heights along the outward normal
    sagitta_mm : largest distance between a chord and the surface

    Returns
    -------
    Manifold; several bodies, one a letter part
    """
    section = m3.CrossSection(list(contours), m3.FillRule.NonZero)
    flat = m3.Manifold.extrude(section, high_mm - low_mm).translate((0.0, 0.0, low_mm))
    step_u, step_v = surface.max_step(sagitta_mm=sagitta_mm, h_mm=max(low_mm, high_mm, 0.0))
    if math.isinf(step_u) and math.isinf(step_v):
        return _lay_on(flat, surface)
    weight_u = _SQUEEZE if math.isinf(step_u) else 1.0
    weight_v = _SQUEEZE if math.isinf(step_v) else step_u / step_v if weight_u == 1.0 else 1.0
    step = step_u if weight_u == 1.0 else step_v
    squeezed = flat.scale((weight_u, weight_v, _SQUEEZE)).refine_to_length(step)
    return _lay_on(squeezed, surface, weight_u, weight_v, _SQUEEZE)


def _lay_on(
    solid: m3.Manifold, surface: Surface, weight_u: float = 1.0, weight_v: float = 1.0, weight_h: float = 1.0
) -> m3.Manifold:
    unweigh = 1.0 / np.array([weight_u, weight_v, weight_h])

    def place(points: np.ndarray) -> np.ndarray:
        flat = points * unweigh
        return surface.place(flat[:, :2], flat[:, 2])

    return solid.warp_batch(place)

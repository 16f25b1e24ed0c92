"""Lettering as a solid on a surface: extruded flat, refined where the surface bends, laid on."""

from __future__ import annotations

import math
from collections.abc import Sequence

import manifold3d as m3
import numpy as np

from kizami.outlines.curves import FloatArray
from kizami.surfaces.plane import Plane
from kizami.surfaces.protocol import Surface

__all__ = ["divide", "lay_on", "lettering_solid", "steps_mm"]

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
    return lay_on(flat, surface, sagitta_mm=sagitta_mm, span_mm=(low_mm, high_mm))


def lay_on(
    flat: m3.Manifold,
    surface: Surface,
    *,
    sagitta_mm: float,
    span_mm: tuple[float, float],
    pull: FloatArray | None = None,
) -> m3.Manifold:
    """Lay a solid in (u, v, h) on a surface, divided only where and as finely as the surface bends.

    Parameters
    ----------
    span_mm : lowest and highest h
    pull : unit direction along which h runs instead of the normal, for moulds: walls are parallel to it
    """
    divided, weights = divide(flat, surface, sagitta_mm=sagitta_mm, span_mm=span_mm)
    return _placed(divided, surface, pull, weights)


_Weights = tuple[float, float, float]


def steps_mm(surface: Surface, *, sagitta_mm: float, span_mm: tuple[float, float]) -> tuple[float, float]:
    """Longest steps along u and v that the tolerance allows between two heights.

    Which of the two heights bends most depends on whether the surface is seen from inside.
    """
    both = [surface.max_step(sagitta_mm=sagitta_mm, h_mm=h) for h in span_mm]
    step_u, step_v = (min(pair) for pair in zip(*both, strict=True))
    return step_u, step_v


def divide(
    flat: m3.Manifold, surface: Surface, *, sagitta_mm: float, span_mm: tuple[float, float]
) -> tuple[m3.Manifold, _Weights]:
    """A flat solid divided as the surface bends, and the weights that its coordinates were given."""
    step_u, step_v = steps_mm(surface, sagitta_mm=sagitta_mm, span_mm=span_mm)
    if math.isinf(step_u) and math.isinf(step_v):
        return flat, (1.0, 1.0, 1.0)
    weight_u = _SQUEEZE if math.isinf(step_u) else 1.0
    weight_v = _SQUEEZE if math.isinf(step_v) else step_u / step_v if weight_u == 1.0 else 1.0
    step = step_u if weight_u == 1.0 else step_v
    weights = (weight_u, weight_v, _SQUEEZE)
    return flat.scale(weights).refine_to_length(step), weights


def _placed(solid: m3.Manifold, surface: Surface, pull: FloatArray | None, weights: _Weights) -> m3.Manifold:
    if isinstance(surface, Plane) and pull is None:
        # The usual case of a plate: only lifted.
        return solid.translate((0.0, 0.0, surface.z_mm))
    unweigh = 1.0 / np.array(weights)

    def place(points: np.ndarray) -> np.ndarray:
        flat = points * unweigh
        if pull is None:
            return surface.place(flat[:, :2], flat[:, 2])
        return surface.place(flat[:, :2], np.zeros(len(flat))) + np.outer(flat[:, 2], pull)

    return solid.warp_batch(place)

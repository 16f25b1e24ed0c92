"""A pattern: the piece made larger by what mould and metal shrink, so that the casting comes out true."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from kizami.solids.solid import Solid

__all__ = ["pattern_of"]


def pattern_of(solid: Solid, allowance_percent: float) -> Solid:
    """The piece larger by an allowance in every direction, about the place that it is drawn from.

    As a patternmaker's rule says it: a piece of 12 in with an allowance of 3/16 in per foot is 1.5625 %
    longer as a pattern (Machinery's Handbook, pattern allowances, from memory).
    """
    if allowance_percent == 0.0:
        return solid
    factor = 1.0 + allowance_percent / 100.0
    low_x, low_y, low_z, high_x, high_y, high_z = (factor * bound for bound in solid.bounds_mm)
    return replace(
        solid,
        vertices=(np.asarray(solid.vertices, dtype=np.float64) * factor).astype(np.float32),
        volume_mm3=solid.volume_mm3 * factor**3,
        bounds_mm=(low_x, low_y, low_z, high_x, high_y, high_z),
    )

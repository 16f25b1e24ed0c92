"""What a treatment must come to, by the closed formulas of its surface: volume and through holes.

Nothing here knows how a solid is built: a piece is measured against it.
"""

from __future__ import annotations

import itertools
from collections.abc import Callable

import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.treatment import CutOut, Engraved, InRecess, Pierced, Scored
from kizami.dividing.chains import Chain
from kizami.outlines.curves import bodies_of
from kizami.outlines.roof import roof_volume_mm3
from kizami.surfaces.layer import layer_volume_mm3

__all__ = ["changed_volume_mm3", "through_holes"]


def changed_volume_mm3(made: AsMade) -> tuple[float, float]:
    """The volume that a treatment adds, by the closed formula of the surface: least and most.

    What is taken away is below 0.

    The two differ only where a wall of uneven thickness is pierced. Between two levels the mean over
    three sections is taken (Simpson), which is exact for slanted walls. A pointed floor has no closed
    formula, as its ridges run where strokes meet: it is summed flat, slice by slice, and bent by the formula.
    """

    area, outlines, treatment = made.area, made.outlines, made.treatment

    def layer(shape: shapely.MultiPolygon, low_mm: float, high_mm: float) -> float:
        return layer_volume_mm3(area.surface, shape, low_mm, high_mm, pull=made.pull)

    if isinstance(treatment, CutOut) and area.standing is not None:
        outlines = bodies_of(outlines.difference(area.standing))
    if isinstance(treatment, Pierced):
        least = layer(outlines, -area.wall_mm, 0.0)
        return -max(least, layer(outlines, -area.through_mm, 0.0)), -least
    volume = _changed_mm3(layer, outlines, made)
    return volume, volume


def _changed_mm3(
    layer: Callable[[shapely.MultiPolygon, float, float], float],
    outlines: shapely.MultiPolygon,
    made: AsMade,
) -> float:
    treatment = made.treatment
    if isinstance(treatment, Scored | Pierced):
        return 0.0
    if isinstance(treatment, CutOut):
        return layer(outlines, 0.0, treatment.thickness_mm)
    if isinstance(treatment, InRecess):
        panel = shapely.MultiPolygon([made.panel])
        low, high = treatment.layer
        return layer(outlines, low, high) - layer(panel, low, 0.0)
    if isinstance(treatment, Engraved) and made.is_pointed:
        # Most of it lies in the upper half, where the groove is wide.
        middle = treatment.depth_mm / 2.0
        bent = layer(outlines, -middle, 0.0) / (outlines.area * middle)
        return float(-roof_volume_mm3(outlines, treatment.depth_mm) * bent)
    chains = made.chains or ()
    total = 0.0
    for chain in chains:
        low, high = sorted((chain.outside_mm, chain.inside_mm))
        total += layer(chain.outlines, low, high) if high > low else 0.0
    for outer, inner in itertools.pairwise(chains):
        low, high = sorted((outer.inside_mm, inner.outside_mm))
        first, last = layer(outer.outlines, low, high), layer(inner.outlines, low, high)
        # As much more or less than its area as the two others are.
        bent = (first / outer.outlines.area + last / inner.outlines.area) / 2.0
        total += (first + 4.0 * bent * _area_between(outer, inner) + last) / 6.0
    return -total if treatment.sinks else total


def _area_between(outer: Chain, inner: Chain) -> float:
    """Area half way between two chains.

    An outline moved inward by d with sharp corners has the area A - P d + c d^2, P being its length; c
    follows from both ends.
    """
    width, length = inner.inward_mm - outer.inward_mm, outer.outlines.length
    bend = (inner.outlines.area - outer.outlines.area + length * width) / width**2
    return float(outer.outlines.area - length * width / 2.0 + bend * width**2 / 4.0)


def through_holes(made: AsMade, *, blank_holes: int) -> int:
    """Through holes that the finished piece must have."""
    outlines, standing = made.outlines, made.area.standing
    if isinstance(made.treatment, Pierced):
        return blank_holes + len(outlines.geoms)
    if isinstance(made.treatment, CutOut):
        whole = outlines if standing is None else bodies_of(outlines, standing)
        return sum(len(body.interiors) for body in whole.geoms)
    return blank_holes

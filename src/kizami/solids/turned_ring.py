"""What goes right round a body, as closed rings without a seam."""

from __future__ import annotations

import math
from collections.abc import Sequence

import manifold3d as m3
import numpy as np

from kizami.errors import SolidError
from kizami.outlines.curves import FloatArray
from kizami.outlines.shrinking import Level
from kizami.solids.lettering_solid import steps_mm
from kizami.surfaces.protocol import Surface

__all__ = ["section", "turned_ring"]


def section(
    low_v_mm: float, high_v_mm: float, levels: Sequence[Level], *, step_mm: float = math.inf
) -> FloatArray:
    """The section of a strip between two levels v, as corners (n, 2) in v and h, anticlockwise.

    Both sides move inward from level to level; where they meet there is a ridge.

    Parameters
    ----------
    step_mm : longest side of its first and of its last level

    >>> levels = [Level(inward_mm=0, height_mm=0), Level(inward_mm=2, height_mm=-1)]
    >>> section(0.0, 2.0, levels).tolist()
    [[0.0, 0.0], [1.0, -0.5], [2.0, 0.0]]
    """
    half = (high_v_mm - low_v_mm) / 2.0
    kept: list[tuple[float, float]] = []
    for level in levels:
        if kept and level.inward_mm >= half:
            inward, height = kept[-1]
            share = (half - inward) / (level.inward_mm - inward)
            kept.append((half, height + share * (level.height_mm - height)))
            break
        kept.append((level.inward_mm, level.height_mm))
    left = [(low_v_mm + inward, height) for inward, height in kept]
    right = [(high_v_mm - inward, height) for inward, height in kept if inward < half]
    first, last = (_divided(a, b, step_mm) for a, b in ((left[0], right[0]), (left[-1], right[-1])))
    is_ridge = kept[-1][0] >= half
    corners = np.array([*left, *([] if is_ridge else last), *right[::-1], *first[::-1]])
    # Downward levels run anticlockwise so, upward ones clockwise.
    return corners if kept[-1][1] < kept[0][1] else corners[::-1]


def _divided(
    start: tuple[float, float], end: tuple[float, float], step_mm: float
) -> list[tuple[float, float]]:
    """Places between two, so that no step is longer than asked."""
    width = abs(end[0] - start[0])
    count = 1 if math.isinf(step_mm) else max(1, math.ceil(width / step_mm))
    inner = np.linspace(start, end, count + 1)[1:-1]
    return [(float(v), float(h)) for v, h in inner]


def _close_enough(columns_mm: FloatArray, period_mm: float, step_mm: float) -> FloatArray:
    """Columns with more between them, so that no step all the way round is longer than asked."""
    columns_mm = columns_mm if len(columns_mm) else np.zeros(1)
    gaps = np.diff(np.append(columns_mm, columns_mm[0] + period_mm))
    # Those of a body are as far apart as the tolerance allows, but for rounding.
    counts = np.maximum(1, np.ceil(gaps / step_mm - 1e-6)).astype(int)
    shares = (np.arange(count) / count for count in counts)
    return np.concatenate(
        [low + gap * share for low, gap, share in zip(columns_mm, gaps, shares, strict=True)]
    )


def turned_ring(
    low_v_mm: float,
    high_v_mm: float,
    levels: Sequence[Level],
    surface: Surface,
    *,
    columns_mm: FloatArray,
    sagitta_mm: float,
    pull: FloatArray | None = None,
) -> m3.Manifold:
    """A strip between two levels v that goes once round a surface and closes on itself.

    Parameters
    ----------
    columns_mm : (n,) the u of some of its corners, in order, within one period; more are put between them
        where the tolerance asks for it
    pull : see `kizami.solids.lettering_solid.lay_on`

    Raises
    ------
    SolidError : it could not be built
    """
    period = surface.period_mm
    assert period is not None
    heights = [level.height_mm for level in levels]
    step_u, step_v = steps_mm(surface, sagitta_mm=sagitta_mm, span_mm=(min(heights), max(heights)))
    columns_mm = _close_enough(columns_mm, period, step_u)
    corners = section(low_v_mm, high_v_mm, levels, step_mm=step_v)
    many, around = len(corners), len(columns_mm)
    uv = np.column_stack((np.repeat(columns_mm, many), np.tile(corners[:, 0], around)))
    h = np.tile(corners[:, 1], around)
    points = surface.place(uv, h) if pull is None else surface.place(uv, 0.0 * h) + np.outer(h, pull)
    here = np.arange(many * around).reshape(around, many)
    ahead, beyond = np.roll(here, -1, axis=1), np.roll(here, -1, axis=0)
    across = np.roll(beyond, -1, axis=1)
    faces = np.stack((here, ahead, across, here, across, beyond), axis=-1).reshape(-1, 3)
    ring = m3.Manifold(m3.Mesh64(np.ascontiguousarray(points), faces.astype(np.uint64)))
    if ring.status() != m3.Error.NoError:
        raise SolidError("What goes right round could not be built.")
    return ring

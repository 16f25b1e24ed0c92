"""Flat relief: outlines that shrink from level to level, as one closed solid in unrolled mm.

Slanted walls, softened edges and pointed floors come out without steps and with no more triangles than
their corners ask for.
"""

from __future__ import annotations

from collections.abc import Sequence

import manifold3d as m3
import numpy as np
import shapely

from kizami.dividing.chains import Cut, Stood, chains_of, cut_along, stood
from kizami.dividing.pencils import Pencil
from kizami.errors import SolidError
from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray, directed_edges
from kizami.outlines.shrinking import Level

__all__ = ["relief", "relief_mesh"]


def relief(outlines: shapely.MultiPolygon, levels: Sequence[Level]) -> m3.Manifold:
    """The solid between the first level and the last, see `relief_mesh`.

    >>> frame = shapely.box(0, 0, 3, 3).difference(shapely.box(1, 1, 2, 2))
    >>> levels = [Level(inward_mm=0, height_mm=-0.5), Level(inward_mm=0, height_mm=0.5)]
    >>> solid = relief(shapely.MultiPolygon([shapely.orient_polygons(frame)]), levels)
    >>> round(solid.volume(), 9), solid.num_tri(), solid.genus()
    (8.0, 32, 1)

    Raises
    ------
    SolidError : outlines touch each other
    """
    found = relief_mesh(outlines, levels)
    if found is None:
        raise SolidError("Outlines that touch each other can't be built.")
    corners, faces = found
    return m3.Manifold(m3.Mesh64(np.ascontiguousarray(corners), faces.astype(np.uint64)))


def relief_mesh(
    outlines: shapely.MultiPolygon, levels: Sequence[Level], lines: Sequence[Pencil] = ()
) -> tuple[FloatArray, IntArray] | None:
    """Corners (n, 3) in (u, v, h) and faces (m, 3) of the closed solid between the first level and the last.

    Parameters
    ----------
    outlines : bodies with holes, unrolled mm
    levels : inward offsets that never decrease, the first of them 0; heights all upward or all downward
    lines : along which its faces are cut

    Returns
    -------
    None where outlines touch each other
    """
    chains = chains_of(outlines, levels)
    cut = cut_along(chains, lines) if chains else None
    letters = None if cut is None else stood(cut, chains)
    if cut is None or letters is None:
        return None
    foot = chains[0].outside_mm
    base_uv, base = _base(cut, letters, cut_along(chains[:1], lines) if len(chains) > 1 else None)
    faces = np.concatenate((letters.triangles, base[:, ::-1]))
    uvh = np.vstack(
        (
            np.column_stack((letters.corners, letters.heights)),
            np.column_stack((base_uv, np.full(len(base_uv), foot))),
        )
    )
    if chains[-1].inside_mm < foot:
        faces = faces[:, ::-1]
    used = np.zeros(len(uvh), dtype=bool)
    used[faces.ravel()] = True
    return uvh.compress(used, axis=0), (np.cumsum(used) - 1).take(faces)


def _base(cut: Cut, letters: Stood, own: Cut | None) -> tuple[FloatArray, IntArray]:
    """What all chains go round, as a level face that shares the corners at the letters' feet.

    Parameters
    ----------
    own : a division of it that knows of no inner chains, and so has fewer triangles, if there is one

    Returns
    -------
    New corners (k, 2), and triangles (m, 3) whose corners count from the letters' own
    """
    count, feet = len(letters.corners), np.flatnonzero(letters.is_foot)
    if own is not None:
        edges, other, _ = directed_edges(own.triangles)
        border = np.unique(edges[other < 0])
        # Both in order of their places; where lines and chains met otherwise without the inner ones, the
        # two would not close.
        feet_at, border_at = (
            np.ascontiguousarray(at).view(np.complex128)[:, 0]
            for at in (letters.corners.take(feet, axis=0), own.corners.take(border, axis=0))
        )
        by_foot, by_border = np.argsort(feet_at), np.argsort(border_at)
        if np.array_equal(feet_at[by_foot], border_at[by_border]):
            numbers = count + np.arange(len(own.corners))
            numbers[border[by_border]] = feet[by_foot]
            return own.corners, numbers.take(own.triangles)
    numbers = count + np.arange(len(cut.corners))
    numbers[letters.corner_of[feet]] = feet
    return cut.corners, numbers.take(cut.triangles)

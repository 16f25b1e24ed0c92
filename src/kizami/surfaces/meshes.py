"""Meshes for patches. The library takes 50 MB in every process, and only supplied shapes need it."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from kizami.surfaces.protocol import FloatArray

if TYPE_CHECKING:
    import trimesh

__all__ = ["mesh_of", "nearest_point"]


def mesh_of(points: FloatArray, faces: npt.NDArray[np.integer]) -> trimesh.Trimesh:
    """A mesh of exactly these points (n, 3) and facets (m, 3)."""
    import trimesh  # loaded on first use, see above

    return trimesh.Trimesh(points, faces, process=False)


def nearest_point(mesh: trimesh.Trimesh, point: FloatArray) -> tuple[FloatArray, int]:
    """The point of a mesh that is nearest to another, and the facet that it lies on."""
    import trimesh  # loaded on first use, see above

    everywhere = np.broadcast_to(point, (len(mesh.faces), 3))
    nearest: FloatArray = trimesh.triangles.closest_point(mesh.triangles, everywhere)  # type: ignore[no-untyped-call]
    facet = int(np.argmin(np.linalg.norm(nearest - point, axis=1)))
    return nearest[facet], facet

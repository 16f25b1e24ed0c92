"""A closed body as arrays: what manifold3d gives out and takes in, without the cost of either."""

from __future__ import annotations

from dataclasses import dataclass

import manifold3d as m3
import numpy as np
import numpy.typing as npt

from kizami.outlines.curves import FloatArray
from kizami.outlines.edges import IntArray

__all__ = ["BodyMesh"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class BodyMesh:
    """Triangles of a body.

    Attributes
    ----------
    points : corners (n, 3), mm
    triangles : (m, 3), anticlockwise seen from outside
    runs : (m,) of which solid each came, as manifold3d numbers them
    """

    points: FloatArray
    triangles: IntArray
    runs: npt.NDArray[np.uint32]

    @classmethod
    def of(cls, body: m3.Manifold) -> BodyMesh:
        """The triangles of a manifold."""
        mesh = body.to_mesh64()
        return cls(
            points=np.array(mesh.vert_properties)[:, :3],
            triangles=np.array(mesh.tri_verts).astype(np.int64),
            runs=np.repeat(np.asarray(mesh.run_original_id), np.diff(np.asarray(mesh.run_index)) // 3),
        )

    def manifold(self) -> m3.Manifold:
        """The same body for work with other solids; it still knows where its triangles came from."""
        by_run = np.argsort(self.runs, kind="stable")
        numbers, starts = np.unique(self.runs[by_run], return_index=True)
        mesh = m3.Mesh64(
            np.ascontiguousarray(self.points),
            np.ascontiguousarray(self.triangles[by_run].astype(np.uint64)),
            run_index=np.append(3 * starts, 3 * len(by_run)).astype(np.uint64),
            run_original_id=numbers.astype(np.uint32),
        )
        return m3.Manifold(mesh)

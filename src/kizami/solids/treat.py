"""A body with its lettering: the one place where a treatment becomes a solid."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import manifold3d as m3
import numpy as np
import numpy.typing as npt

from kizami.errors import SolidError
from kizami.lettering.outlines import FloatArray
from kizami.solids.lettering_solid import lettering_solid
from kizami.solids.treatment import Engraved, Treatment
from kizami.surfaces.protocol import Surface

__all__ = ["OVERSHOOT_MM", "Solid", "cutter_span", "solid_of", "treat"]

#: A cutter stands proud of the surface by this much, so that it never shares a face with the
#: body; it must exceed the chord error of both.
OVERSHOOT_MM = 0.05


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Solid:
    """A finished body as a mesh with its measures.

    Attributes
    ----------
    vertices : (n, 3) float32, mm
    triangles : (m, 3) uint32, anticlockwise seen from outside
    volume_mm3 : volume
    bounds_mm : (x low, y low, z low, x high, y high, z high)
    bodies : number of connected bodies
    genus : number of through holes of the whole
    """

    vertices: npt.NDArray[np.float32]
    triangles: npt.NDArray[np.uint32]
    volume_mm3: float
    bounds_mm: tuple[float, float, float, float, float, float]
    bodies: int
    genus: int

    @property
    def size_mm(self) -> tuple[float, float, float]:
        """Overall size x, y, z."""
        b = self.bounds_mm
        return (b[3] - b[0], b[4] - b[1], b[5] - b[2])


def cutter_span(treatment: Treatment) -> tuple[float, float]:
    """Heights between which the lettering solid stands, mm along the outward normal."""
    if isinstance(treatment, Engraved):
        return (-treatment.depth_mm, OVERSHOOT_MM)
    return (-treatment.root_mm, treatment.height_mm)


def treat(
    body: m3.Manifold,
    contours: Sequence[FloatArray],
    *,
    surface: Surface,
    treatment: Treatment,
    sagitta_mm: float,
) -> m3.Manifold:
    """Engrave or raise lettering on a body.

    Raises
    ------
    SolidError : nothing is left of the body
    """
    low, high = cutter_span(treatment)
    letters = lettering_solid(contours, surface=surface, low_mm=low, high_mm=high, sagitta_mm=sagitta_mm)
    result = body - letters if isinstance(treatment, Engraved) else body + letters
    if result.status() != m3.Error.NoError:
        raise SolidError(f"The solid could not be built: {result.status().name}.")
    if result.is_empty():
        raise SolidError("Nothing is left of the body.")
    return result


#: Edges are closed up to this length when single precision can no longer tell their ends apart.
_SHORTEST_EDGE_MM = 1e-4


def solid_of(manifold: m3.Manifold) -> Solid:
    """A manifold as a mesh in single precision, the precision of every file that we write.

    A file would hold triangles without area, and so open seams, where two vertices fall onto the
    same single-precision point. That is rare and simplifying costs as much as the rest of the
    reading-out, so it is done only then.
    """
    solid = _read_out(manifold)
    if _has_twin_vertices(solid.vertices):
        solid = _read_out(manifold.simplify(_SHORTEST_EDGE_MM))
    return solid


def _read_out(manifold: m3.Manifold) -> Solid:
    mesh = manifold.to_mesh()
    return Solid(
        vertices=np.ascontiguousarray(mesh.vert_properties[:, :3], dtype=np.float32),
        triangles=np.ascontiguousarray(mesh.tri_verts, dtype=np.uint32),
        volume_mm3=float(manifold.volume()),
        bounds_mm=tuple(float(x) for x in manifold.bounding_box()),  # type: ignore[arg-type]
        bodies=len(manifold.decompose()),
        genus=int(manifold.genus()),
    )


def _has_twin_vertices(vertices: npt.NDArray[np.float32]) -> bool:
    # Adding zero turns -0.0 into 0.0, which would otherwise differ byte by byte.
    rows = np.ascontiguousarray(vertices + np.float32(0.0)).view(np.dtype((np.void, 12))).ravel()
    return len(np.unique(rows)) < len(rows)

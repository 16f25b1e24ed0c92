"""Binary STL: an 80-byte header, a count, 50 bytes a facet, outward by the right-hand rule."""

from __future__ import annotations

import struct

import numpy as np
import numpy.typing as npt

from kizami.errors import RunError
from kizami.solids.solid import Solid

__all__ = ["FACET", "facets_of", "stl_bytes"]

#: A facet as the file holds it.
FACET = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def stl_bytes(solid: Solid, *, title: str) -> bytes:
    """The solid as binary STL in mm.

    Parameters
    ----------
    title : goes into the header, cut to 80 bytes; must not begin with "solid", which readers
        take for the text form
    """
    facets = np.empty(len(solid.triangles), dtype=FACET)
    corners = solid.vertices.take(solid.triangles, axis=0)
    # Column by column, which is several times quicker than row by row.
    (x, y, z), (u, v, w) = (corners[:, 1] - corners[:, 0]).T, (corners[:, 2] - corners[:, 0]).T
    normals = np.stack((y * w - z * v, z * u - x * w, x * v - y * u))
    lengths = np.sqrt((normals**2).sum(axis=0))
    np.divide(normals, lengths, out=normals, where=lengths > 0)
    facets["normal"], facets["corners"], facets["attribute"] = normals.T, corners, 0
    header = f"Kizami {title}".encode("ascii", "replace")[:80].ljust(80, b" ")
    return b"".join((header, struct.pack("<I", len(facets)), facets.tobytes()))


def facets_of(data: bytes) -> npt.NDArray[np.float64]:
    """The corners of the facets of a binary STL that we wrote, shape (n, 3, 3), mm.

    Raises
    ------
    RunError : it is no whole binary STL
    """
    count = int.from_bytes(data[80:84], "little") if len(data) >= 84 else -1
    if count < 4 or len(data) != 84 + 50 * count:
        raise RunError("A piece's STL is damaged or not whole. Make the piece again.")
    corners = np.frombuffer(data, dtype=FACET, offset=84)["corners"].astype(np.float64)
    if not np.isfinite(corners).all():
        raise RunError("A piece's STL holds a corner that is no number. Make the piece again.")
    return corners

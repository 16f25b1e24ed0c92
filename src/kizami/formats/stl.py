"""Binary STL: an 80-byte header, a count, 50 bytes a facet, outward by the right-hand rule."""

from __future__ import annotations

import struct

import numpy as np

from kizami.solids.solid import Solid

__all__ = ["stl_bytes"]

_FACET = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])


def stl_bytes(solid: Solid, *, title: str) -> bytes:
    """The solid as binary STL in mm.

    Parameters
    ----------
    title : goes into the header, cut to 80 bytes; must not begin with "solid", which readers
        take for the text form
    """
    corners = solid.vertices[solid.triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    lengths = np.linalg.norm(normals, axis=1, keepdims=True)
    np.divide(normals, lengths, out=normals, where=lengths > 0)
    facets = np.zeros(len(corners), dtype=_FACET)
    facets["normal"], facets["corners"] = normals, corners
    header = f"Kizami {title}".encode("ascii", "replace")[:80].ljust(80, b" ")
    return b"".join((header, struct.pack("<I", len(facets)), facets.tobytes()))

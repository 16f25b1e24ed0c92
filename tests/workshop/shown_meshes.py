"""A solid as pages get it, read by itself: counts, places, normals with a flag, facets."""

from __future__ import annotations

import numpy as np
import trimesh

__all__ = ["shown_mesh"]


def shown_mesh(content: bytes) -> trimesh.Trimesh:
    """As another library has it, its corners at one place made one again."""
    corners, facets = np.frombuffer(content, "<u4", 2).tolist()
    points = np.frombuffer(content, "<f4", 3 * corners, 8).reshape(-1, 3)
    triangles = np.frombuffer(content, "<u4", 3 * facets, 8 + 16 * corners).reshape(-1, 3)
    mesh = trimesh.Trimesh(points, triangles)
    mesh.merge_vertices()
    return mesh

"""The files of a casting tree: the whole as one body in STL, 3MF and GLB, and their reading back."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import lib3mf
import manifold3d as m3
import numpy as np
import trimesh
from scipy.spatial import cKDTree

from kizami.formats.glb import glb_bytes
from kizami.formats.stl import facets_of, stl_bytes
from kizami.formats.three_mf import three_mf_bytes
from kizami.runs.body import moved
from kizami.runs.laid_piece import LaidPiece
from kizami.runs.reading_back import Difference, facets_of_mesh
from kizami.solids.solid import solid_of

__all__ = ["differences_tree", "tree_files"]

#: A corner of a piece may lie so far from one of the tree's, mm.
_OFF_MM = 2e-3
#: So much of a piece's skin the feed and the sprue may take in.
_MOST_HIDDEN = 0.35
#: Corners of each piece that are looked for.
_LOOKED_FOR = 400


def tree_files(body: m3.Manifold, *, title: str, colour: str) -> dict[str, bytes]:
    """By extension; all of the same body."""
    solid = solid_of(body)
    return {
        "stl": stl_bytes(solid, title=title),
        "3mf": three_mf_bytes(solid, title=title),
        "glb": glb_bytes(solid, title=title, body=colour, lettering=colour),
    }


def differences_tree(path: Path, pieces: Sequence[LaidPiece], *, volume_mm3: float) -> list[Difference]:
    """Read a tree's file with a library that had no part in writing it: one closed body of the volume that
    was built, with every piece in its place.

    Parameters
    ----------
    volume_mm3 : of sprue, feeds and pieces together, as it was reckoned from its parts
    """
    said: list[Difference] = []

    def differs(key: str, message: str) -> None:
        said.append(Difference(file=path.name, key=key, message=message))

    try:
        mesh = _read(path)
    except (ValueError, KeyError, OSError, AttributeError, lib3mf.ELib3MFException) as error:
        return [Difference(file=path.name, key="", message=f"it can't be read: {error}")]
    if not mesh.is_watertight or not mesh.is_winding_consistent:
        differs("", "its skin is not closed")
    bodies = mesh.body_count
    if bodies != 1:
        differs("", f"it is {bodies} bodies instead of one")
    if abs(mesh.volume - volume_mm3) > 1e-3 * volume_mm3:
        differs("", f"it has {mesh.volume:.1f} mm3 instead of {volume_mm3:.1f} mm3")
    tree = cKDTree(np.asarray(mesh.vertices))
    for piece in pieces:
        turn, shift = piece.to_bed
        points = np.unique(facets_of(piece.read("stl")).reshape(-1, 3), axis=0)
        placed = moved(points[:: max(1, len(points) // _LOOKED_FOR)], turn, shift)
        share = float((tree.query(placed, distance_upper_bound=1.0)[0] <= _OFF_MM).mean())
        if share < 1.0 - _MOST_HIDDEN:
            differs(piece.key, f"only {share * 100:.0f} % of it is where it should be")
    return said


def _read(path: Path) -> trimesh.Trimesh:
    if path.suffix == ".3mf":
        wrapper = lib3mf.get_wrapper()
        model = wrapper.CreateModel()
        reader = model.QueryReader("3mf")
        reader.SetStrictModeActive(True)
        reader.ReadFromFile(str(path))
        meshes = model.GetMeshObjects()
        meshes.MoveNext()
        points, faces = facets_of_mesh(meshes.GetCurrentMeshObject())
        return trimesh.Trimesh(points, faces, process=False)
    with path.open("rb") as file:
        mesh = trimesh.load_mesh(file, file_type=path.suffix[1:])
    if path.suffix == ".glb":
        # glTF counts in metres with y up.
        upright = np.array([[1000.0, 0, 0, 0], [0, 0, -1000.0, 0], [0, 1000.0, 0, 0], [0, 0, 0, 1]])
        mesh.apply_transform(upright)
        mesh.merge_vertices()
    return mesh

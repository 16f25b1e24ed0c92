"""A run as it lies just now, to be looked at in space while it is still changed: not proven, not kept."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from kizami.formats.stl import facets_of
from kizami.runs.plate_files import placed_facets
from kizami.runs.release import Run
from kizami.runs.tree import place_on_tree, sprue_and_feeds

__all__ = ["look_at"]

_HEAD = b"Kizami, a run as it lies".ljust(80, b" ") + b"\0\0\0\0"


def look_at(run: Run) -> Iterator[bytes]:
    """A binary STL in parts, piece after piece, so that neither memory nor the wait grows with their number.

    How many facets there are is known at its end only: the count in its head is 0, and its length tells. A
    tree is not joined: its feeds go on into its pieces.

    Raises
    ------
    RunError : a piece's own file is damaged
    """
    yield _HEAD
    if run.tree is None:
        for piece in run.pieces:
            yield placed_facets(facets_of(piece.read("stl")), *piece.to_bed).tobytes()
        return
    for hung, piece in zip(run.tree.hung, run.pieces, strict=True):
        yield placed_facets(facets_of(piece.read("stl")), *place_on_tree(hung)).tobytes()
    for part in sprue_and_feeds(run.tree, run.machine):
        mesh = part.to_mesh()
        corners = np.asarray(mesh.vert_properties, dtype=np.float64)[mesh.tri_verts, :3]
        yield placed_facets(corners, np.eye(3), np.zeros(3)).tobytes()

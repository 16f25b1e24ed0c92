"""From a made piece and its facts to what runs are laid out of."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from scipy.spatial import ConvexHull

from kizami.processes import shipped_processes
from kizami.runs.body import body_of
from kizami.runs.flat_piece import flat_shape
from kizami.runs.laying import Shape
from kizami.runs.machine import Kind
from kizami.runs.mould import mould_of
from kizami.runs.poses import Laid, lay, stable_poses
from kizami.runs.ready import Ready
from kizami.runs.tree import OnTree
from kizami.solids.feeding import Feed

__all__ = ["on_tree", "shape_of"]


def shape_of(
    mark: str, data: bytes, record: Mapping[str, Any], kind: Kind
) -> tuple[Shape, Laid | None, float]:
    """What a piece covers of a bed, how it lies there, and how thick it is.

    Parameters
    ----------
    mark : tells the file from others
    data : the piece's STL, or its cut SVG for a sheet
    record : its facts: size_mm, lettering_mm2 and process
    """
    if kind is Kind.SHEET:
        return Shape(mark, flat_shape(data)), None, float(min(record["size_mm"]))
    body = body_of(data, record.get("lettering_mm2") or (0.0, 0.0, 0.0))
    process = shipped_processes().get(str(record.get("process", "")))
    if process is None or process.limits.of("draft") <= 0.0:
        laid = lay(body)
        return Shape(mark, laid.outline, laid.height_mm), laid, laid.height_mm
    # A pattern for sand lies as the mould comes off it, the better poses first.
    poses = [(pose, mould_of(body, pose.turn)) for pose in stable_poses(body)]
    pose, mould = min(poses, key=lambda row: 0.0 if row[1].lets_go else row[1].undercut_mm2)
    laid = lay(body, pose=pose)
    return Shape(mark, laid.outline, laid.height_mm, mould), laid, laid.height_mm


def on_tree(ready: Ready, read: Callable[[str], bytes], record: Mapping[str, Any]) -> OnTree:
    """A piece that is to hang on a tree."""
    body = body_of(read("stl"))
    return OnTree(
        key=ready.key,
        shape_key=ready.shape.key,
        hull=body.points[ConvexHull(body.points).vertices],
        volume_mm3=body.volume_mm3,
        feeds=tuple(Feed.from_table(row) for row in record.get("feeds") or ()),
        load=lambda: body_of(read("stl")),
    )

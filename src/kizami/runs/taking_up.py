"""From a made piece and its facts to what runs are laid out of."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

import manifold3d as m3
import numpy as np
import shapely
from scipy.spatial import ConvexHull

from kizami.outlines.moving import shifted
from kizami.runs.body import body_of, moved
from kizami.runs.coding import CodeOn, Tab, tab_for, tab_length_mm, tab_outline
from kizami.runs.flat_piece import flat_shape
from kizami.runs.held_to import limits_of
from kizami.runs.laying import Shape
from kizami.runs.machine import Kind
from kizami.runs.mould import Mould, mould_of
from kizami.runs.poses import Laid, lay, stable_poses
from kizami.runs.ready import Ready
from kizami.runs.tree import OnTree
from kizami.solids.feeding import Feed
from kizami.standards import shipped_standards

__all__ = ["lying_mark", "on_tree", "shape_of"]


def lying_mark(digest: str, record: Mapping[str, Any], code: str, kind: Kind) -> str:
    """What tells a shape from others: its file, the way its lettering looks, and its tab's length.

    Parameters
    ----------
    digest : SHA-256 of the file
    code : the piece's ticket code
    """
    if kind is Kind.SHEET:
        return digest
    looks = ",".join(f"{x:.0f}" for x in record.get("lettering_mm2") or ())
    limits = limits_of(record)
    tab = ""
    if limits is not None and _code_on(record) is CodeOn.TAB:
        tab = f"{tab_length_mm(code, limits):g}"
    return hashlib.sha256(f"{digest} {looks} {tab}".encode()).hexdigest()


def shape_of(
    mark: str, data: bytes, record: Mapping[str, Any], kind: Kind, code: str = ""
) -> tuple[Shape, Laid | None, float]:
    """What a piece covers of a bed, how it lies there, and how thick it is.

    Parameters
    ----------
    mark : see `lying_mark`
    data : the piece's STL, or its cut SVG for a sheet
    record : its facts: size_mm, lettering_mm2, process and code_on
    code : its ticket code, for those that carry it on a tab
    """
    if kind is Kind.SHEET:
        return Shape(mark, flat_shape(data)), None, float(min(record["size_mm"]))
    body = body_of(data, record.get("lettering_mm2") or (0.0, 0.0, 0.0))
    limits = limits_of(record)
    mould: Mould | None = None
    if limits is None or limits.of("draft") <= 0.0:
        laid = lay(body)
    else:
        # A pattern for sand lies as the mould comes off it, the better poses first.
        poses = [(pose, mould_of(body, pose.turn)) for pose in stable_poses(body)]
        pose, mould = min(poses, key=lambda row: 0.0 if row[1].lets_go else row[1].undercut_mm2)
        laid = lay(body, pose=pose)
    tab: Tab | None = None
    if limits is not None and _code_on(record) is CodeOn.TAB:
        lying = moved(body.points, laid.turn, laid.shift).astype(np.float32)
        solid = m3.Manifold(m3.Mesh(lying, body.faces.astype(np.uint32)))
        tab = tab_for(solid, laid.outline, code, limits)
    if tab is not None:
        # Where the foot lies within the outline the neck bridges nothing that could stay open.
        whole = shapely.union(laid.outline, tab_outline(tab))
        low_x, low_y, _, _ = whole.bounds
        tab = replace(tab, x_mm=tab.x_mm - low_x, y_mm=tab.y_mm - low_y)
        outline = shifted(whole, -low_x, -low_y)
        laid = replace(
            laid,
            shift=laid.shift - np.array([low_x, low_y, 0.0]),
            outline=shapely.Polygon(outline.exterior)
            if outline.geom_type == "Polygon"
            else outline.convex_hull,
        )
    return Shape(mark, laid.outline, laid.height_mm, mould, tab), laid, laid.height_mm


def _code_on(record: Mapping[str, Any]) -> CodeOn:
    return CodeOn(record.get("code_on") or "")


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
        flagged=_code_on(record) is CodeOn.TAB,
        limits=limits_of(record) or shipped_standards().processes[ready.process].limits,
    )

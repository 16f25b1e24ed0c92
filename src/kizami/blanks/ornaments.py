"""Closed shapes beside the letters: a border along the area's edge, slots, ovals and panels.

They get the treatment that the letters get, and the letters keep clear of them.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
import shapely

from kizami.blanks.area import Area, KeepOut

__all__ = ["Border", "Figure", "Ornament", "goes_round", "ornament_outlines", "with_ornaments"]

_FINE = 32


@dataclass(frozen=True, kw_only=True, slots=True)
class Border:
    """A line along the edge of the area; on a full turn without a seam a line along either edge.

    Attributes
    ----------
    inset_mm : from the edge to the line
    line_mm : width of the line
    """

    inset_mm: float
    line_mm: float
    kind: Literal["border"] = field(default="border", init=False)


@dataclass(frozen=True, kw_only=True, slots=True)
class Figure:
    """A slot, an oval or a panel.

    Attributes
    ----------
    shape : a slot has round ends, a panel rounded corners
    length_mm, height_mm : overall
    corner_mm : of a panel
    line_mm : width of its outline; 0 fills it
    right_mm, up_mm : of its middle from the area's anchor
    """

    shape: Literal["slot", "oval", "panel"]
    length_mm: float
    height_mm: float
    corner_mm: float = 0.0
    line_mm: float = 0.0
    right_mm: float = 0.0
    up_mm: float = 0.0
    kind: Literal["figure"] = field(default="figure", init=False)


Ornament = Border | Figure


def ornament_outlines(area: Area, ornament: Ornament) -> shapely.Geometry:
    """Its outline in unrolled mm; empty where the area has no room for it."""
    if isinstance(ornament, Border):
        if goes_round(area):
            # Drawn with what lies beyond both ends, a line along either edge meets itself there.
            turns = area.clear_turns(ornament.inset_mm)
            return turns.difference(turns.buffer(-ornament.line_mm, quad_segs=_FINE)).intersection(
                area.outline
            )
        outer = area.clear_region(ornament.inset_mm)
        return outer.difference(outer.buffer(-ornament.line_mm, quad_segs=_FINE))
    whole = _figure(ornament)
    if ornament.line_mm:
        whole = whole.difference(whole.buffer(-ornament.line_mm, quad_segs=_FINE))
    shift = np.array([area.anchor[0] + ornament.right_mm, area.anchor[1] + ornament.up_mm])
    return shapely.transform(whole, lambda uv: uv + shift)


def goes_round(area: Area) -> bool:
    """A border of it has no ends: the area closes on itself and nothing parts it."""
    return area.is_closed and not area.keep_outs


def _figure(figure: Figure) -> shapely.Polygon:
    half_u, half_v = figure.length_mm / 2.0, figure.height_mm / 2.0
    if figure.shape == "oval":
        disc = shapely.Point(0.0, 0.0).buffer(1.0, quad_segs=_FINE * 2)
        return shapely.transform(disc, lambda uv: uv * (half_u, half_v))
    round_mm = min(half_u, half_v) if figure.shape == "slot" else figure.corner_mm
    # Never shrunk to nothing: a slot's middle line keeps a hair.
    inner = shapely.box(
        -max(half_u - round_mm, 1e-6), -max(half_v - round_mm, 1e-6),
        max(half_u - round_mm, 1e-6), max(half_v - round_mm, 1e-6),
    )  # fmt: skip
    return inner.buffer(round_mm, quad_segs=_FINE) if round_mm else inner


def with_ornaments(area: Area, ornaments: Sequence[Ornament]) -> Area:
    """The area with its ornaments to keep clear of, and their outlines."""
    if not ornaments:
        return area
    shapes = [(ornament, ornament_outlines(area, ornament)) for ornament in ornaments]
    keep_outs = tuple(
        KeepOut(
            name=ornament.kind if isinstance(ornament, Border) else ornament.shape,
            outline=part,
            is_ornament=True,
        )
        for ornament, shape in shapes
        for part in shapely.get_parts(shape)
    )
    drawn = shapely.union_all([shape for _, shape in shapes])
    return replace(area, keep_outs=(*area.keep_outs, *keep_outs), ornaments=drawn)

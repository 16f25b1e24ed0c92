"""A piece's code on the piece itself: raised on a tab that is broken off, or cut into the face it lies on.

Everything here is in the axes of the piece as it lies, with its lowest corner at x = y = z = 0.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum

import manifold3d as m3
import numpy as np
import shapely

from kizami.outlines.curves import polygons_from_contours
from kizami.outlines.moving import rotated, shifted
from kizami.processes import Limits
from kizami.runs.labels import label, label_width

__all__ = [
    "CodeOn",
    "Coded",
    "Tab",
    "extruded",
    "flag_letters",
    "flag_size_mm",
    "hidden_code",
    "tab_field",
    "tab_for",
    "tab_length_mm",
    "tab_letters",
    "tab_outline",
    "tab_solid",
    "tab_text",
]


class CodeOn(StrEnum):
    """Where a product's pieces carry their code."""

    NOWHERE = ""
    TAB = "tab"
    HIDDEN_FACE = "hidden face"


#: The thinnest stroke of the labels' bold typeface, as a share of its capitals (measured).
_THINNEST = 0.125
#: Smaller nobody reads, larger is not needed, mm.
_SMALLEST_MM, _LARGEST_MM = 1.4, 3.0
#: About a code on its tab, and between the tab and the piece, mm; a flag is as small as it can be.
_RIM_MM, _AWAY_MM = 0.6, 1.0
_FLAG_RIM_MM = 0.4
#: The neck goes so far into the piece, mm, and is so wide at least.
_ROOT_MM, _NECK_MM = 0.6, 1.0
#: Letters are sunk so far into what they stand on, mm.
_SUNK_MM = 0.1
#: Raised by less they do not read at a glance, mm.
_PROUD_MM = 0.3
#: A longer tab costs too much of a bed, mm: the place in the run is written on it instead of the whole code.
_LONGEST_MM = 22.0
#: What may be missing of a floor by rounding, mm3.
_LOST_MM3 = 1e-3
_SKIN_MM = 0.01


@dataclass(frozen=True, kw_only=True, slots=True)
class Tab:
    """A tab beside a piece.

    Attributes
    ----------
    x_mm, y_mm : where its neck meets the piece
    turn_deg : 0 when it lies below (towards -y), anticlockwise
    neck_mm : from there to the tab
    length_mm, width_mm, thick_mm : of the tab, along its code, across it, and upward
    """

    x_mm: float
    y_mm: float
    turn_deg: float
    neck_mm: float
    length_mm: float
    width_mm: float
    thick_mm: float


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Coded:
    """What stands on a piece.

    Attributes
    ----------
    text : what it says; "" where no code has room
    letters : its outlines, seen from above; those of a hidden face are mirrored
    low_mm, high_mm : they go from one height to the other
    """

    text: str
    letters: shapely.MultiPolygon
    low_mm: float
    high_mm: float


def _cap_mm(limits: Limits, *, sunk: bool) -> float:
    return max(_SMALLEST_MM, limits.of("stroke-width", sunk=sunk) / _THINNEST)


def _thick_mm(limits: Limits) -> float:
    return max(0.8, limits.of("floor-left"))


def tab_text(code: str, number: int, limits: Limits) -> str:
    """The whole code, or where that is too long the place in the run.

    >>> from kizami.standards import shipped_standards
    >>> tab_text("E-2112-3-1", 17, shipped_standards().processes["resin"].limits)
    'E-2112-3-1'
    >>> tab_text("E-2112-3-1", 17, shipped_standards().processes["filament"].limits)
    '17'
    """
    cap = _cap_mm(limits, sunk=False)
    return code if _room_mm(code, cap) <= _LONGEST_MM else str(number)


def _room_mm(text: str, cap_mm: float) -> float:
    """Length of a tab for a text, in whole mm: most equal pieces have equal tabs."""
    return math.ceil(label_width(text, height_mm=cap_mm, bold=True) + 2.0 * _RIM_MM)


def tab_length_mm(code: str, limits: Limits) -> float:
    """How long the tab of a piece is: for its code, or where that is too long for its place in any run."""
    return _room_mm(tab_text(code, 8888, limits), _cap_mm(limits, sunk=False))


def tab_for(body: m3.Manifold, outline: shapely.Polygon, code: str, limits: Limits) -> Tab | None:
    """The tab of a piece, on the side where it takes least of the bed; None where nothing low can hold it.

    Parameters
    ----------
    body : as it lies
    outline : what it covers of the bed
    """
    cap, thick = _cap_mm(limits, sunk=False), _thick_mm(limits)
    length, width = tab_length_mm(code, limits), cap + 2.0 * _RIM_MM
    foot = _slice(body, thick / 2.0)
    if foot.is_empty:
        return None
    found: list[tuple[float, Tab]] = []
    for turn in (0.0, 90.0, 180.0, 270.0):
        x, y = _lowest(rotated(foot, -turn))
        neck = y - rotated(outline, -turn).bounds[1] + _AWAY_MM
        a = math.radians(turn)
        tab = Tab(
            x_mm=round(x * math.cos(a) - y * math.sin(a), 4),
            y_mm=round(x * math.sin(a) + y * math.cos(a), 4),
            turn_deg=turn,
            neck_mm=round(neck, 4),
            length_mm=round(length, 4),
            width_mm=round(width, 4),
            thick_mm=thick,
        )
        low_x, low_y, high_x, high_y = shapely.union(outline, tab_outline(tab)).bounds
        found.append(((high_x - low_x) * (high_y - low_y), tab))
    return min(found, key=lambda row: row[0])[1]


def _lowest(shape: shapely.Geometry) -> tuple[float, float]:
    """The middle of what lies lowest of a shape."""
    low_x, low_y, high_x, _ = shape.bounds
    edge = shape.intersection(shapely.box(low_x - 1, low_y - 1, high_x + 1, low_y + 0.05))
    # Of several feet the first one.
    part = min(shapely.get_parts(edge), key=lambda p: p.bounds[0])
    return (float(part.bounds[0] + part.bounds[2]) / 2.0, float(low_y))


def _parts(tab: Tab) -> tuple[shapely.Polygon, shapely.Polygon]:
    """Neck and tab as they lie below the place where they meet the piece, which is at 0, 0."""
    half = _NECK_MM / 2.0
    neck = shapely.box(-half, -tab.neck_mm - _RIM_MM / 2.0, half, _ROOT_MM)
    field = shapely.box(-tab.length_mm / 2.0, -tab.neck_mm - tab.width_mm, tab.length_mm / 2.0, -tab.neck_mm)
    return neck, field


def _placed(shape: shapely.Geometry, tab: Tab) -> shapely.Geometry:
    return shifted(rotated(shape, tab.turn_deg), tab.x_mm, tab.y_mm)


def tab_outline(tab: Tab) -> shapely.Polygon:
    """What a tab with its neck covers of the bed."""
    return _placed(shapely.union_all(_parts(tab)), tab)


def tab_field(tab: Tab) -> shapely.Polygon:
    """What a tab covers without its neck: where its code stands."""
    return _placed(_parts(tab)[1], tab)


def tab_letters(tab: Tab, text: str, limits: Limits) -> Coded:
    """The code on a tab, in its middle."""
    cap = _cap_mm(limits, sunk=False)
    width = label_width(text, height_mm=cap, bold=True)
    y = -tab.neck_mm - tab.width_mm / 2.0 - cap / 2.0
    letters = label(text, height_mm=cap, x_mm=-width / 2.0, y_mm=y, bold=True)
    return Coded(
        text=text,
        letters=_placed(letters, tab),
        low_mm=tab.thick_mm - _SUNK_MM,
        high_mm=tab.thick_mm + max(_PROUD_MM, limits.of("lettering-depth", sunk=False)),
    )


def tab_solid(tab: Tab, coded: Coded) -> m3.Manifold:
    """Neck, tab and code as one body."""
    plate = extruded(tab_outline(tab), 0.0, tab.thick_mm)
    return plate + extruded(coded.letters, coded.low_mm, coded.high_mm)


def hidden_code(body: m3.Manifold, code: str, number: int, limits: Limits) -> Coded:
    """The code cut into the face that a piece lies on, as large as it has room for: whole, or where there is
    none for it the place in the run. Nothing where neither has room over a floor that is thick enough.

    Parameters
    ----------
    body : as it lies
    """
    deep, edge = limits.of("lettering-depth", sunk=True), limits.of("edge-gap")
    floor = deep + limits.of("floor-left")
    face = shapely.intersection(_slice(body, _SKIN_MM), _slice(body, floor - _SKIN_MM)).buffer(-edge)
    for text in (code, str(number)):
        for part in sorted(shapely.get_parts(face), key=lambda p: -p.area):
            for letters in _tries(part, text, _cap_mm(limits, sunk=True)):
                room = shapely.box(*letters.bounds)
                if part.covers(room) and _is_whole(body, room.buffer(edge), floor):
                    return Coded(text=text, letters=letters, low_mm=-1.0, high_mm=deep)
    return Coded(text="", letters=shapely.MultiPolygon(), low_mm=0.0, high_mm=0.0)


def _tries(part: shapely.Polygon, text: str, least_mm: float) -> Iterator[shapely.MultiPolygon]:
    """A text about the middle of a face, the largest first, along the face and across it."""
    if part.area < 1e-6:
        return
    widest = shapely.maximum_inscribed_circle(part, tolerance=0.1)
    middles = (shapely.Point(widest.coords[0]), part.centroid)
    for cap in np.linspace(max(_LARGEST_MM, least_mm), least_mm, 6):
        width = label_width(text, height_mm=float(cap), bold=True)
        drawn = label(text, height_mm=float(cap), x_mm=-width / 2.0, y_mm=-float(cap) / 2.0, bold=True)
        # Read from below, the right is at the left.
        mirrored = shapely.transform(drawn, lambda xy: xy * [-1.0, 1.0])
        for turn in (0.0, 90.0):
            for middle in middles:
                yield shifted(rotated(mirrored, turn), middle.x, middle.y)


def _is_whole(body: m3.Manifold, room: shapely.Polygon, floor_mm: float) -> bool:
    """Whether a body fills all above a room up to a height."""
    column = extruded(room, _SKIN_MM, floor_mm - _SKIN_MM)
    return float((column - body).volume()) < _LOST_MM3


def flag_size_mm(digits: int, limits: Limits) -> tuple[float, float]:
    """Length and width of a flag on a tree's feed."""
    cap = _cap_mm(limits, sunk=False)
    return label_width("8" * digits, height_mm=cap, bold=True) + 2.0 * _FLAG_RIM_MM, cap + 2.0 * _FLAG_RIM_MM


def flag_letters(text: str, limits: Limits) -> shapely.MultiPolygon:
    """A text in the middle of its flag, which is at 0, 0."""
    cap = _cap_mm(limits, sunk=False)
    width = label_width(text, height_mm=cap, bold=True)
    return label(text, height_mm=cap, x_mm=-width / 2.0, y_mm=-cap / 2.0, bold=True)


def _slice(body: m3.Manifold, z_mm: float) -> shapely.Geometry:
    return polygons_from_contours([np.asarray(c) for c in body.slice(z_mm).to_polygons()])


def extruded(shape: shapely.Geometry, low_mm: float, high_mm: float) -> m3.Manifold:
    """A flat shape from one height to another."""
    rings: list[Sequence[Sequence[float]]] = []
    for part in shapely.get_parts(shape):
        rings += [np.asarray(ring.coords)[:-1].tolist() for ring in (part.exterior, *part.interiors)]
    section = m3.CrossSection(rings, m3.FillRule.EvenOdd)
    return m3.Manifold.extrude(section, high_mm - low_mm).translate((0.0, 0.0, low_mm))

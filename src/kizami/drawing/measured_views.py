"""Views of a body with its measures, each with room for a figure where it stands.

A view is a shape in millimetres with the lengths and places that have a name. Drawn, every measure gets a
line or a pointer and an empty place for its figure, so that whoever shows the drawing can put a figure there,
or a field to type it in. Places never meet: they stand in columns beside the shape, in rows below and above.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import shapely

from kizami.drawing.paths import number, path_data
from kizami.drawing.unrolled import Drawing

__all__ = ["PLACE_PX", "Pointed", "Span", "View", "view_drawing"]

Point = tuple[float, float]
Side = Literal["below", "above", "right", "left"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Span:
    """A measure from one point to another, along the axis that its side asks for.

    Attributes
    ----------
    key : name of the measure, as its table has it
    start, end : mm in the view
    side : of the shape, where its line and its figure stand
    """

    key: str
    start: Point
    end: Point
    side: Side

    @property
    def mm(self) -> float:
        """Its length along its axis."""
        axis = 0 if self.side in ("below", "above") else 1
        return abs(self.end[axis] - self.start[axis])


@dataclass(frozen=True, kw_only=True, slots=True)
class Pointed:
    """A measure too small for a line of its own, or a radius: its figure stands aside and points at it."""

    key: str
    at: Point
    side: Literal["left", "right"] = "left"


_NONE = shapely.MultiLineString()


@dataclass(frozen=True, kw_only=True, slots=True)
class View:
    """One view.

    Attributes
    ----------
    title : how it is looked at
    shape : polygons, mm
    lines : edges that are seen within it
    is_cut : the shape is what a cut meets
    """

    title: str
    shape: shapely.Geometry
    measures: tuple[Span | Pointed, ...]
    lines: shapely.Geometry = _NONE
    is_cut: bool = False


#: Room for a figure with its name above it.
PLACE_PX = (98.0, 40.0)
#: From the shape to the first line, and from line to line.
_OFF_PX, _LANE_PX, _GAP_PX = 10.0, 16.0, 4.0
_TICK_PX = 7.0


def view_drawing(view: View, *, px: tuple[float, float]) -> Drawing:
    """A view as large as goes into so many pixels with the places of all its figures, one unit a pixel.

    What is flat takes less of the height than there is.

    Every place is an empty rectangle of the class k-place that names its measure.
    """
    found = [m for m in view.measures if isinstance(m, Pointed) or m.mm > 1e-9]
    spans = {
        side: [m for m in found if isinstance(m, Span) and m.side == side]
        for side in ("below", "above", "right", "left")
    }
    aside = {
        side: [m for m in found if isinstance(m, Pointed) and m.side == side] for side in ("left", "right")
    }
    wide, high = PLACE_PX
    # Columns are as wide as a place and a line for every span; rows as high.
    columns = {
        side: (wide + 2.0 * _OFF_PX + _LANE_PX * len(spans[side])) if spans[side] or aside[side] else _OFF_PX
        for side in ("left", "right")
    }
    rows = {side: (high + _OFF_PX) * len(spans[side]) + _OFF_PX for side in ("below", "above")}
    low_x, low_y, high_x, high_y = view.shape.bounds
    size = max(high_x - low_x, 1e-6), max(high_y - low_y, 1e-6)
    # Rows need a place between the columns too.
    width = max(px[0], columns["left"] + columns["right"] + wide)
    room = width - columns["left"] - columns["right"], px[1] - rows["below"] - rows["above"]
    scale = max(1e-3, min(room[0] / size[0], room[1] / size[1]))
    places = max(len(spans[side]) + len(aside[side]) for side in ("left", "right"))
    down = max(scale * size[1] + rows["below"] + rows["above"], places * (high + _GAP_PX))
    # What is left over goes to both sides alike.
    sheet = _Sheet(
        left=columns["left"] + (room[0] - scale * size[0]) / 2.0,
        top=rows["above"] + (down - rows["below"] - rows["above"] - scale * size[1]) / 2.0,
        low_x=low_x, high_y=high_y, scale=scale, right=scale * size[0], down=scale * size[1],
        high=down,
    )  # fmt: skip
    parts = [_shape(view, sheet)]
    parts += [_rows(spans[side], side == "below", sheet) for side in ("below", "above")]
    parts += [_column(spans[side], aside[side], side == "right", sheet) for side in ("left", "right")]
    return Drawing(view_box=(0.0, 0.0, width, math.ceil(down)), content="".join(parts))


@dataclass(frozen=True, kw_only=True, slots=True)
class _Sheet:
    """Where a view stands among its figures.

    Attributes
    ----------
    left, top : of the shape, px
    low_x, high_y : the same corner of it, mm
    scale : px a mm
    right, down : how far the shape reaches from there, px
    high : all of it, px
    """

    left: float
    top: float
    low_x: float
    high_y: float
    scale: float
    right: float
    down: float
    high: float

    @property
    def inner(self) -> Point:
        """Between the columns: as wide as the shape, and as a place, px."""
        middle, half = self.left + self.right / 2.0, max(self.right, PLACE_PX[0]) / 2.0
        return (middle - half, middle + half)

    def at(self, point: Point) -> Point:
        """A place of the view, px."""
        return (
            self.left + (point[0] - self.low_x) * self.scale,
            self.top + (self.high_y - point[1]) * self.scale,
        )

    def moved(self, geometry: shapely.Geometry) -> shapely.Geometry:
        """A shape of the view, px."""
        at = np.array([self.left, self.top])
        return shapely.transform(
            geometry, lambda xy: at + (xy - (self.low_x, self.high_y)) * (self.scale, -self.scale)
        )


def _shape(view: View, sheet: _Sheet) -> str:
    # Path data turns v up; pixels run down already.
    kind = "k-cut" if view.is_cut else "k-body"
    shape = shapely.transform(sheet.moved(view.shape), lambda xy: xy * (1.0, -1.0))
    drawn = f'<path class="{kind}" fill-rule="evenodd" d="{path_data(shape, top_mm=0.0, decimals=1)}"/>'
    seen = "".join(_run(line) for line in shapely.get_parts(sheet.moved(view.lines)) if not line.is_empty)
    return drawn + (f'<path class="k-seen" fill="none" d="{seen}"/>' if seen else "")


def _run(line: shapely.Geometry) -> str:
    words = [f"{number(x, 1)} {number(y, 1)}" for x, y in shapely.get_coordinates(line)]
    return f"M{words[0]}L{' '.join(words[1:])}"


def _rows(spans: Sequence[Span], is_below: bool, sheet: _Sheet) -> str:
    """Spans along the shape, a row each, the shortest nearest to it."""
    out, (wide, high) = [], PLACE_PX
    sign, edge = (1.0, sheet.top + sheet.down) if is_below else (-1.0, sheet.top)
    for row, span in enumerate(sorted(spans, key=lambda s: s.mm)):
        y = edge + sign * (_OFF_PX + row * (high + _OFF_PX))
        (a, from_y), (b, to_y) = sheet.at(span.start), sheet.at(span.end)
        out.append(
            f'<path class="k-reach" fill="none" d="M{number(a, 1)} {number(from_y, 1)}V{number(y, 1)}'
            f'M{number(b, 1)} {number(to_y, 1)}V{number(y, 1)}"/>'
            f'<path class="k-rule" fill="none" d="M{number(a, 1)} {number(y, 1)}H{number(b, 1)}'
            f"M{number(a, 1)} {number(y - _TICK_PX / 2, 1)}v{number(_TICK_PX)}"
            f'M{number(b, 1)} {number(y - _TICK_PX / 2, 1)}v{number(_TICK_PX)}"/>'
        )
        # Beside the columns, whose places may reach as far down.
        left = min(max((a + b - wide) / 2.0, sheet.inner[0]), sheet.inner[1] - wide)
        out.append(_place(span.key, left, y + _GAP_PX if is_below else y - _GAP_PX - high))
    return "".join(out)


def _column(spans: Sequence[Span], aside: Sequence[Pointed], is_right: bool, sheet: _Sheet) -> str:
    """What stands upright and what points, in a column beside the shape."""
    out, (wide, high) = [], PLACE_PX
    sign, edge = (1.0, sheet.left + sheet.right) if is_right else (-1.0, sheet.left)
    wanted: list[tuple[float, str, Point, bool]] = []
    for lane, span in enumerate(sorted(spans, key=lambda s: s.mm)):
        x = edge + sign * (_OFF_PX + lane * _LANE_PX)
        (from_x, a), (to_x, b) = sheet.at(span.start), sheet.at(span.end)
        out.append(
            f'<path class="k-reach" fill="none" d="M{number(from_x, 1)} {number(a, 1)}H{number(x, 1)}'
            f'M{number(to_x, 1)} {number(b, 1)}H{number(x, 1)}"/>'
            f'<path class="k-rule" fill="none" d="M{number(x, 1)} {number(a, 1)}V{number(b, 1)}'
            f"M{number(x - _TICK_PX / 2, 1)} {number(a, 1)}h{number(_TICK_PX)}"
            f'M{number(x - _TICK_PX / 2, 1)} {number(b, 1)}h{number(_TICK_PX)}"/>'
        )
        wanted.append(((a + b) / 2.0, span.key, (x, (a + b) / 2.0), False))
    wanted += [(sheet.at(one.at)[1], one.key, sheet.at(one.at), True) for one in aside]
    wanted.sort()
    x = sheet.inner[1 if is_right else 0] + sign * (2.0 * _OFF_PX + _LANE_PX * len(spans))
    for middle, (_, key, target, is_pointed) in zip(
        _apart([y for y, *_ in wanted], high + _GAP_PX, sheet.high), wanted, strict=True
    ):
        out.append(
            f'<path class="k-reach" fill="none" d="M{number(x, 1)} {number(middle, 1)}'
            f'L{number(target[0], 1)} {number(target[1], 1)}"/>'
        )
        if is_pointed:
            out.append(
                f'<circle class="k-spot" cx="{number(target[0], 1)}" cy="{number(target[1], 1)}" r="2"/>'
            )
        out.append(_place(key, x if is_right else x - wide, middle - high / 2.0))
    return "".join(out)


def _apart(middles: Sequence[float], step: float, room: float) -> list[float]:
    """Places in their order, as near to where they are wanted as so much room allows, none upon another.

    >>> _apart([50, 52, 54], 10, 100)
    [42.0, 52.0, 62.0]
    >>> _apart([1, 99], 10, 100)
    [5.0, 95.0]
    """
    # Each run of places that would meet is set about its own middle; runs that then meet become one.
    runs: list[tuple[float, int]] = []
    for wanted in middles:
        runs.append((wanted, 1))
        while len(runs) > 1 and _reaches(runs[-2], step)[1] > _reaches(runs[-1], step)[0]:
            (a, n), (b, m) = runs.pop(-2), runs.pop()
            runs.append(((a * n + b * m) / (n + m), n + m))
    out: list[float] = [mid + (i - (count - 1) / 2.0) * step for mid, count in runs for i in range(count)]
    # Pushed back from the far end, each as far as the one after it asks.
    limit = room - step / 2.0
    for index in range(len(out) - 1, -1, -1):
        out[index] = min(out[index], limit)
        limit = out[index] - step
    low = step / 2.0
    for index, value in enumerate(out):
        out[index] = max(value, low)
        low = out[index] + step
    return out


def _reaches(run: tuple[float, int], step: float) -> tuple[float, float]:
    return run[0] - run[1] * step / 2.0, run[0] + run[1] * step / 2.0


def _place(key: str, x: float, y: float) -> str:
    wide, high = PLACE_PX
    return (
        f'<rect class="k-place" data-place="{key}" x="{number(x, 1)}" y="{number(y, 1)}" '
        f'width="{number(wide)}" height="{number(high)}" fill="none"/>'
    )

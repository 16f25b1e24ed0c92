"""What of a blank is drawn with its measures: from above or from the side, and cut through.

Shapes are taken from the body itself, so that a drawing shows what is made. Only where a measure stands is
said here, kind by kind; a measure of 0, such as that of a tray that there is not, is left out.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import manifold3d as m3
import numpy as np
import shapely

from kizami.blanks.band_ring import BandRing
from kizami.blanks.name_piece import NamePiece
from kizami.blanks.plate import Plate
from kizami.blanks.ring_frame import RingFrame
from kizami.blanks.round_things import BallBead, Coin, DomedDisc, Sleeve
from kizami.blanks.signet import Signet
from kizami.blanks.supplied import SuppliedShape
from kizami.drawing.measured_views import Pointed, Span, View
from kizami.remembering import remembered
from kizami.tolerance import SAGITTA_MM

__all__ = ["blank_views"]

#: Curves of a drawing are this true, mm. Bodies are made as pieces are measured on: there is one of each.
_DRAWN_SAGITTA_MM = 0.02
_X, _Y, _Z = (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0)
_Vector = tuple[float, float, float]


@remembered
def blank_views(blank: Any) -> tuple[View, ...]:
    """The views of a blank; of rings in a size.

    Parameters
    ----------
    blank : any of `kizami.products.product.Blank`
    """
    return _VIEWS[type(blank)](blank)


def _turned(body: m3.Manifold, right: _Vector, up: _Vector, origin: _Vector = (0.0, 0.0, 0.0)) -> m3.Manifold:
    """A body with `right` and `up` as x and y, looked at against z."""
    rows = np.array([right, up, np.cross(right, up)])
    return body.transform(np.column_stack((rows, -rows @ np.array(origin))))


def _polygons(section: m3.CrossSection) -> shapely.Geometry:
    """Contours as an even-odd area."""
    area: shapely.Geometry = shapely.MultiPolygon()
    for contour in section.to_polygons():
        if len(contour) >= 3:
            area = area.symmetric_difference(shapely.Polygon(contour).buffer(0))
    return area.simplify(_DRAWN_SAGITTA_MM - SAGITTA_MM)


def _seen(body: m3.Manifold, right: _Vector, up: _Vector) -> shapely.Geometry:
    return _polygons(_turned(body, right, up).project())


def _cut(
    body: m3.Manifold, right: _Vector, up: _Vector, origin: _Vector = (0.0, 0.0, 0.0)
) -> shapely.Geometry:
    return _polygons(_turned(body, right, up, origin).slice(0.0))


def _plate(of: Plate) -> tuple[View, ...]:
    body = of.body(SAGITTA_MM)
    length, height, thick = of.length_mm, of.height_mm, of.thickness_mm
    shape = _seen(body, _X, _Y)
    measures: list[Span | Pointed] = [
        Span(key="length_mm", start=(0.0, 0.0), end=(length, 0.0), side="below"),
        Span(key="height_mm", start=(length, 0.0), end=(length, height), side="right"),
    ]
    if of.corner_mm and of.outline in ("rounded", "ticket"):
        # The middle of the round at the upper right.
        off = of.corner_mm * (1.0 - math.sqrt(0.5) if of.outline == "rounded" else math.sqrt(0.5))
        measures.append(Pointed(key="corner_mm", at=(length - off, height - off), side="right"))
    centre = of.hole_centre
    if centre is not None:
        r, web = of.hole_mm / 2.0, of.web_mm
        measures.append(
            Pointed(key="hole_mm", at=(centre[0], centre[1] + (-r if of.hang == "hole left" else 0)))
        )
        to_web = (-r - web / 2.0, 0.0) if of.hang == "hole left" else (0.0, r + web / 2.0)
        measures.append(Pointed(key="web_mm", at=(centre[0] + to_web[0], centre[1] + to_web[1])))
        if of.fillet_mm and of.hang == "ear top":
            foot = shape.intersection(shapely.LineString([(0.0, height), (centre[0], height)]))
            at = foot.bounds[0] if not foot.is_empty else centre[0] - r - web
            measures.append(Pointed(key="fillet_mm", at=(at, height), side="right"))
    lines: shapely.Geometry = shapely.MultiLineString()
    if of.tray_mm:
        measures.append(Pointed(key="rim_mm", at=(of.rim_mm / 2.0, height * 0.4)))
        top = _polygons(_turned(body, _X, _Y).slice(thick - 1e-3))
        lines = top.boundary.difference(shape.boundary.buffer(1e-2))
    at_u = of.areas[0].anchor[0]
    through = _cut(body, _Y, _Z, (at_u, 0.0, 0.0))
    own: list[Span | Pointed] = [
        Span(key="thickness_mm", start=(height, 0.0), end=(height, thick), side="right"),
        Span(key="tray_mm", start=(height / 2.0, thick - of.tray_mm), end=(height / 2.0, thick), side="left"),
    ]
    if of.tray_mm and of.fillet_mm:
        own.append(Pointed(key="fillet_mm", at=(height - of.rim_mm, thick - of.tray_mm), side="right"))
    return (
        View(title="from above", shape=shape, lines=lines, measures=tuple(measures)),
        View(title="cut through", shape=through, measures=tuple(own), is_cut=True),
    )


def _band(of: BandRing) -> tuple[View, ...]:
    body = of.body(SAGITTA_MM)
    bore, width, outer = of.bore_mm / 2.0, of.width_mm, of.outer_radius_mm
    whole = _cut(body, _Z, _X)
    shape = whole.intersection(shapely.box(-1.0, 0.0, width + 1.0, 4.0 * outer))
    middle = width / 2.0
    measures: list[Span | Pointed] = [
        Span(key="width_mm", start=(0.0, bore), end=(width, bore), side="below"),
        Span(key="wall_mm", start=(middle, bore), end=(middle, outer), side="right"),
    ]
    rises = {
        "domed": ((0.0, outer - of.rise_mm), (middle, outer)),
        "tapered": ((width, outer - of.rise_mm / 2.0), (0.0, outer + of.rise_mm / 2.0)),
        "channel": ((middle, outer), (0.0, outer + of.rise_mm)),
    }
    if of.outer in rises:
        start, end = rises[of.outer]
        measures.append(Span(key="rise_mm", start=start, end=end, side="left"))
    if of.outer == "channel":
        top = outer + of.rise_mm
        measures.append(Span(key="rim_mm", start=(0.0, top), end=(of.rim_mm, top), side="above"))
        if of.fillet_mm:
            measures.append(Pointed(key="fillet_mm", at=(width - of.rim_mm, outer), side="right"))
    if of.inner == "comfort":
        measures.append(Span(key="ease_mm", start=(middle, bore), end=(0.0, bore + of.ease_mm), side="left"))
    return (
        _from_the_side(of, body),
        View(title="cut through", shape=shape, measures=tuple(measures), is_cut=True),
    )


def _from_the_side(of: BandRing, body: m3.Manifold) -> View:
    """A ring along its axis, with the seam that is kept clear at its back."""
    measures: tuple[Pointed, ...] = ()
    lines: shapely.Geometry = shapely.MultiLineString()
    if of.seam_mm:
        # The back is where the outside's reading begins; of a taper it is opposite to the front.
        area = of.areas[0]
        u, v = area.anchor
        front = area.surface.place(np.array([[u, v]]), np.zeros(1))[0, :2]
        back = -front / np.linalg.norm(front)
        half = of.seam_mm / 2.0 / of.outer_radius_mm
        turn = math.atan2(back[1], back[0])
        radii = (of.bore_mm / 2.0, of.outer_radius_mm)
        lines = shapely.MultiLineString(
            [
                [(r * math.cos(turn + side), r * math.sin(turn + side)) for r in radii]
                for side in (-half, half)
            ]
        )
        at = (of.outer_radius_mm * float(back[0]), of.outer_radius_mm * float(back[1]))
        measures = (Pointed(key="seam_mm", at=at, side="left" if back[0] < 1e-6 else "right"),)
    return View(title="from the side", shape=_seen(body, _X, _Y), lines=lines, measures=measures)


def _signet(of: Signet) -> tuple[View, ...]:
    body = of.body(SAGITTA_MM)
    a, b, shank = of.head_length_mm / 2.0, of.head_width_mm / 2.0, of.shank_mm / 2.0
    outer = of.bore_mm / 2.0 + of.wall_mm
    above: list[Span | Pointed] = [
        Span(key="head_length_mm", start=(-a, 0.0), end=(a, 0.0), side="below"),
        Span(key="head_width_mm", start=(a, -b), end=(a, b), side="right"),
        Span(key="shank_mm", start=(-outer, -shank), end=(-outer, shank), side="left"),
    ]
    if of.head == "rounded" and of.corner_mm:
        off = of.corner_mm * (1.0 - math.sqrt(0.5))
        above.append(Pointed(key="corner_mm", at=(a - off, b - off), side="right"))
    face = of.face_mm
    through: tuple[Span | Pointed, ...] = (
        Span(key="wall_mm", start=(0.0, -outer), end=(0.0, -of.bore_mm / 2.0), side="left"),
        Span(key="rise_mm", start=(0.0, face - of.rise_mm), end=(a, face), side="right"),
        Span(key="dome_mm", start=(a, face), end=(0.0, face + of.dome_mm), side="right"),
    )
    # Where the shank would run on within the head: what the head rises above.
    shank_line = shapely.Point(0.0, 0.0).buffer(outer, quad_segs=64).boundary
    # Just under the face, where a flat one ends and a domed one leaves its edge.
    head = _polygons(_turned(body, _X, _Y).slice(face - 1e-3)).boundary
    return (
        View(title="from above", shape=_seen(body, _X, _Y), lines=head, measures=tuple(above)),
        View(title="cut through", shape=_cut(body, _X, _Z), lines=shank_line, measures=through, is_cut=True),
    )


def _bead(of: BallBead) -> tuple[View, ...]:
    radius, hole = of.diameter_mm / 2.0, of.hole_mm / 2.0
    top = math.sqrt(radius**2 - hole**2)
    measures = (
        Span(key="diameter_mm", start=(-radius, 0.0), end=(radius, 0.0), side="below"),
        Span(key="hole_mm", start=(-hole, top), end=(hole, top), side="above"),
    )
    return (
        View(title="cut through", shape=_cut(of.body(SAGITTA_MM), _X, _Z), measures=measures, is_cut=True),
    )


def _domed(of: DomedDisc) -> tuple[View, ...]:
    body, radius = of.body(SAGITTA_MM), of.diameter_mm / 2.0
    hole = radius - of.web_mm - of.hole_mm / 2.0
    above = (
        Span(key="diameter_mm", start=(-radius, 0.0), end=(radius, 0.0), side="below"),
        Pointed(key="hole_mm", at=(0.0, hole)),
        Pointed(key="web_mm", at=(0.0, radius - of.web_mm / 2.0)),
    )
    edge = of.edge_mm
    through = (
        Span(key="edge_mm", start=(radius, 0.0), end=(radius, edge), side="right"),
        Span(key="rise_mm", start=(-radius, edge), end=(0.0, edge + of.rise_mm), side="left"),
    )
    return (
        View(title="from above", shape=_seen(body, _X, _Y), measures=above),
        View(title="cut through", shape=_cut(body, _X, _Z), measures=through, is_cut=True),
    )


def _coin(of: Coin) -> tuple[View, ...]:
    body, radius, thick = of.body(SAGITTA_MM), of.diameter_mm / 2.0, of.thickness_mm
    above = (Span(key="diameter_mm", start=(-radius, 0.0), end=(radius, 0.0), side="below"),)
    through: list[Span | Pointed] = [
        Span(key="thickness_mm", start=(radius, 0.0), end=(radius, thick), side="right")
    ]
    if of.round_mm:
        off = of.round_mm * (1.0 - math.sqrt(0.5))
        through.append(Pointed(key="round_mm", at=(-radius + off, thick - off)))
    return (
        View(title="from above", shape=_seen(body, _X, _Y), measures=above),
        View(title="cut through", shape=_cut(body, _X, _Z), measures=tuple(through), is_cut=True),
    )


def _sleeve(of: Sleeve) -> tuple[View, ...]:
    """Lying, its lower end to the left."""
    low, high, bore, length = of.low_mm / 2.0, of.high_mm / 2.0, of.bore_mm / 2.0, of.length_mm
    measures = (
        Span(key="length_mm", start=(0.0, -low), end=(length, -high), side="below"),
        Span(key="low_mm", start=(0.0, -low), end=(0.0, low), side="left"),
        Span(key="bore_mm", start=(0.0, -bore), end=(0.0, bore), side="left"),
        Span(key="high_mm", start=(length, -high), end=(length, high), side="right"),
    )
    return (
        View(title="cut through", shape=_cut(of.body(SAGITTA_MM), _Z, _X), measures=measures, is_cut=True),
    )


def _frame(of: RingFrame) -> tuple[View, ...]:
    body, across, thick = of.body(SAGITTA_MM), of.diameter_mm, of.thickness_mm
    middle = across / 2.0
    above: list[Span | Pointed] = [
        Span(key="diameter_mm", start=(0.0, 0.0), end=(across, 0.0), side="below"),
        Pointed(key="frame_mm", at=(of.frame_mm / 2.0, middle)),
    ]
    if of.hole_mm:
        centre = across + of.hole_mm / 2.0 + of.web_mm / 2.0
        above += [
            Pointed(key="hole_mm", at=(middle, centre)),
            Pointed(key="web_mm", at=(middle, centre + (of.hole_mm + of.web_mm) / 2.0), side="right"),
        ]
        if of.fillet_mm:
            foot = middle + of.hole_mm / 2.0 + of.web_mm
            above.append(Pointed(key="fillet_mm", at=(foot, across), side="right"))
    through = (Span(key="thickness_mm", start=(across, 0.0), end=(across, thick), side="right"),)
    return (
        View(title="from above", shape=_seen(body, _X, _Y), measures=tuple(above)),
        View(
            title="cut through",
            shape=_cut(body, _Y, _Z, (middle, 0.0, 0.0)).intersection(shapely.box(0, -1, across, thick + 1)),
            measures=through,
            is_cut=True,
        ),
    )


def _name(of: NamePiece) -> tuple[View, ...]:
    """Nothing stands there yet: the room that a name may take, and the wall that it is bent to."""
    length, height, radius = of.length_mm, of.height_mm, of.curve_mm
    measures = (
        Span(key="length_mm", start=(0.0, 0.0), end=(length, 0.0), side="below"),
        Span(key="height_mm", start=(length, 0.0), end=(length, height), side="right"),
    )
    room = View(title="room for the name", shape=shapely.box(0.0, 0.0, length, height), measures=measures)
    if not radius:
        return (room,)
    half = length / radius / 2.0
    turn = np.linspace(math.pi / 2.0 - half, math.pi / 2.0 + half, 97)
    arc = np.column_stack((radius * np.cos(turn), radius * np.sin(turn)))
    bent = shapely.LineString(arc).buffer(max(0.4, length / 150.0), cap_style="flat")
    at = (float(arc[48, 0]), float(arc[48, 1]))
    return (
        room,
        View(title="from above", shape=bent, measures=(Pointed(key="curve_mm", at=at),), is_cut=True),
    )


def _supplied(of: SuppliedShape) -> tuple[View, ...]:
    """The body seen against the picked place, with how far the lettering may reach."""
    surface = of.areas[0].surface
    uv = np.array([[0.0, 0.0], [0.0, 1e-2], [0.0, 0.0]])
    foot, over, head = surface.place(uv, np.array([0.0, 0.0, 1.0]))
    outward = (head - foot) / np.linalg.norm(head - foot)
    up = over - foot - outward * float((over - foot) @ outward)
    up = up / np.linalg.norm(up)
    right = np.cross(up, outward)
    rows = np.array([right, up, outward])
    body = of.body(SAGITTA_MM).transform(np.column_stack((rows, -rows @ foot)))
    reach = shapely.Point(0.0, 0.0).buffer(of.radius_mm, quad_segs=32).boundary
    measures = (Span(key="radius_mm", start=(0.0, 0.0), end=(of.radius_mm, 0.0), side="below"),)
    shape = _polygons(body.project())
    return (View(title="towards the picked place", shape=shape, lines=reach, measures=measures),)


_VIEWS: dict[type, Callable[[Any], tuple[View, ...]]] = {
    Plate: _plate, BandRing: _band, Signet: _signet, BallBead: _bead, DomedDisc: _domed, Coin: _coin,
    Sleeve: _sleeve, RingFrame: _frame, NamePiece: _name, SuppliedShape: _supplied,
}  # fmt: skip

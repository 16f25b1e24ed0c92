"""Places where parts join by less than the process holds, drawn again with a pen that holds."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.fineness import Fine
from kizami.lettering.layout import Added, FitStep
from kizami.outlines.clean import without_repeats
from kizami.outlines.curves import bodies_of
from kizami.outlines.touching import blends

__all__ = ["with_necks"]

#: What is looked at about a neck, and how far a stroke goes through it to either side, in strokes.
_LOOKED_AT, _FURTHEST, _STEPS = 4.0, 2.0, 17
#: Radius of the rounded corners beside what is drawn, in strokes.
_BLEND = 0.5
#: Radius of a pen as wide as asked, in strokes, and chords of a quarter of it.
_PEN, _ARC = 0.505, 16
#: A pen is so much wider than asked, so that what is measured anew is not below by a hair.
_SPARE = 1.005
#: Points nearer than this are one.
_ONE_POINT_MM = 1e-5


def with_necks(made: AsMade, necks: Sequence[Fine], stroke_mm: float) -> AsMade:
    """Necks drawn as strong as the finest stroke that holds, corners rounded; the same where there are none.

    Parameters
    ----------
    necks : places that are too fine, see `kizami.as_made.fineness`
    stroke_mm : the finest stroke that holds, true mm
    """
    layout = made.layout
    drawn: list[shapely.Geometry] = []
    for fine in necks:
        # Where the surface is stretched, what is asked for is another length unrolled.
        asked = stroke_mm * _SPARE * fine.flat_mm / max(fine.width_mm, 1e-9)
        window = shapely.Point(fine.u_mm, fine.v_mm).buffer(_LOOKED_AT * asked, quad_segs=4)
        here = bodies_of(shapely.intersection(layout.outlines, window))
        pen = _through(fine, here, asked)
        drawn += [pen, *blends(bodies_of(here, pen), [pen], radius=_BLEND * asked)]
    # The whole of each stroke: of what it adds alone, edges would all but coincide with those that it is
    # added to. What was cut free stays so.
    joins = bodies_of(*drawn)
    if layout.opened and not joins.is_empty:
        joins = bodies_of(joins.difference(shapely.union_all(list(layout.opened))))
    if joins.is_empty:
        return made
    many = "neck was" if len(necks) == 1 else "necks were"
    said = f"{len(necks)} {many} drawn {stroke_mm:.2f} mm strong"
    step = FitStep(name="necks", said=said, height_mm=layout.height_mm)
    changed = replace(
        layout,
        outlines=without_repeats(_joined(layout.outlines, joins, stroke_mm), _ONE_POINT_MM),
        added=(*layout.added, *(Added(kind="join", outline=bodies_of(one)) for one in joins.geoms)),
        steps=(*layout.steps, step),
    )
    return replace(made, layout=changed)


def _joined(
    outlines: shapely.MultiPolygon, joins: shapely.MultiPolygon, stroke_mm: float
) -> shapely.MultiPolygon:
    """The two together, without the hairs that are left open where their edges all but coincide."""
    whole = bodies_of(outlines, joins)
    hairs = [
        hole.buffer(_ONE_POINT_MM, join_style="mitre")
        for body in whole.geoms
        for hole in map(shapely.Polygon, body.interiors)
        if hole.area < (_HAIR * stroke_mm) ** 2 and shapely.dwithin(hole, joins, _ONE_POINT_MM)
    ]
    return bodies_of(whole, *hairs) if hairs else whole


#: An opening beside a join that has less than the square of this, in strokes, is none.
_HAIR = 0.1


def _through(fine: Fine, here: shapely.MultiPolygon, asked: float) -> shapely.Geometry:
    """A stroke of a round pen straight through a neck, from where it is hidden on one side to where it is on
    the other: nothing is seen of it but what it adds between the two."""
    at = np.array([fine.u_mm, fine.v_mm])
    flow = np.array([-fine.across[1], fine.across[0]])
    radius = _PEN * asked
    away = np.linspace(0.0, _FURTHEST * asked, _STEPS)
    ends = []
    for way in (-flow, flow):
        places = shapely.points(at + away[:, None] * way)
        room = np.where(shapely.covers(here, places), shapely.distance(here.boundary, places), 0.0)
        hidden = np.flatnonzero(room >= _HIDDEN * radius)
        last = int(hidden[0]) if len(hidden) else int(np.argmax(room))
        ends.append(at + away[last] * way)
    return shapely.LineString([ends[0], ends[1]]).buffer(radius, quad_segs=_ARC)


#: A pen that has so much of its radius all round is hidden.
_HIDDEN = 0.98

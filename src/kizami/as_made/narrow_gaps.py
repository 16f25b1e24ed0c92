"""Slits that are narrower than a process keeps open, made wider or filled: never a change of other places."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.fineness import Fine, fineness
from kizami.lettering.layout import Added, FitStep
from kizami.outlines.curves import FloatArray, bodies_of
from kizami.outlines.touching import moved

__all__ = ["with_gaps"]

#: A slit is made wider than asked by this share, so that what is measured anew is not below by a hair.
_SPARE = 1.02
#: Of one part only the narrowest slit is told at a time; an outline with more than this is no letter's.
_MOST_ROUNDS = 4
#: Wider by this share on each side is what is taken from one side alone.
_BEND_SHARE = 0.015
#: A slit lies within this of where it was measured, mm.
_BESIDE_MM = 0.02


def with_gaps(
    made: AsMade, how: Literal["opened", "closed"], limit_mm: float, *, stroke_mm: float = 0.0
) -> AsMade:
    """Slits within letters and beside joints, opened until the process keeps them open, or closed.

    What is opened is taken from both sides alike, or from the sturdier one where the other would become too
    fine; what is closed is filled up to where it is wide enough. Letters that stand apart are left alone, as
    their distance is the spacing's to say.

    Parameters
    ----------
    limit_mm : the narrowest gap that is kept open, true mm
    stroke_mm : the finest stroke that holds, true mm
    """
    before = made.layout
    widest = 0.0
    for _ in range(_MOST_ROUNDS):
        found = _slits(made, limit_mm)
        if not found:
            break
        changed, most = _changed(made, found, how, limit_mm, stroke_mm)
        if changed is made:
            break
        made, widest = changed, max(widest, most)
    if made.layout is before:
        return made
    layout = made.layout
    new = [*layout.opened[len(before.opened) :], *(a.outline for a in layout.added[len(before.added) :])]
    # A long slit may have been worked on in several places.
    slits = len(shapely.get_parts(shapely.union_all(new)))
    many = "slit was" if slits == 1 else "slits were"
    said = f"{slits} {many} {how}, as less than {limit_mm:.2f} mm would fill in"
    step = FitStep(name="slits", said=said, height_mm=layout.height_mm)
    return replace(
        made,
        layout=replace(layout, steps=(*layout.steps, step), departure_mm=max(layout.departure_mm, widest)),
    )


def _slits(made: AsMade, limit_mm: float) -> list[Fine]:
    """Places of gaps that are too narrow, within a part or between two of one body."""
    layout = made.layout
    if layout.is_empty:
        return []
    parts = made.parts
    found = []
    for fine in fineness(made, reach_mm=limit_mm * _SPARE).gaps:
        if fine.width_mm >= limit_mm - 1e-6 or any(n < 0 or parts[n].kind == "frame" for n in fine.parts):
            continue
        if len(fine.parts) > 1 and not _are_joined(made, fine):
            continue
        found.append(fine)
    return found


def _are_joined(made: AsMade, fine: Fine) -> bool:
    one, other = (made.parts[n].outline for n in fine.parts[:2])
    return any(
        bool(shapely.intersects(body, one)) and bool(shapely.intersects(body, other))
        for body in made.outlines.geoms
    )


def _changed(
    made: AsMade, found: list[Fine], how: Literal["opened", "closed"], limit_mm: float, stroke_mm: float
) -> tuple[AsMade, float]:
    """With these slits opened or closed, and how far an outline moved at most."""
    layout = made.layout
    fillings: list[shapely.Polygon] = []
    openings: list[shapely.Polygon] = []
    widest = 0.0
    for fine in found:
        # Where the surface is stretched, what is asked for is another length unrolled.
        unrolled = fine.flat_mm / max(fine.width_mm, 1e-9)
        asked = limit_mm * _SPARE * unrolled
        slit = _slit(made, fine, asked)
        if how == "opened":
            aside = (asked - fine.flat_mm) / 2.0
            at = shapely.Point(fine.u_mm, fine.v_mm)
            sturdier = _sturdier(made, fine, aside, stroke_mm * unrolled)
            if sturdier.any():
                # Where a slit bends it is moved less than straight across.
                aside += _BEND_SHARE * asked
            # Two tips near each other have no ground between them that a disc can't reach from either side.
            ground = at.buffer(fine.flat_mm / 2.0) if slit is None else slit
            move = aside * sturdier
            ground = moved(ground.buffer(aside, quad_segs=16), move)
            openings.append(shapely.Polygon(ground.exterior))
            widest = max(widest, aside + float(np.hypot(*move)))
        elif slit is not None:
            fillings.append(slit)
            widest = max(widest, fine.flat_mm / 2.0)
    if not fillings and not openings:
        return made, 0.0
    # What is known of each letter holds on: where something was added or taken away it is measured anew.
    marks = tuple(
        mark if mark.facts is not None or shape.is_empty else replace(mark, facts=facts)
        for mark, shape, facts in zip(layout.marks, layout.shapes, layout.narrow, strict=True)
    )
    outlines = layout.outlines
    if fillings:
        outlines = bodies_of(shapely.union_all([outlines, *fillings]))
    if openings:
        outlines = bodies_of(outlines.difference(shapely.union_all(openings)))
    changed = replace(
        layout,
        marks=marks,
        outlines=outlines,
        added=(*layout.added, *(Added(kind="filling", outline=bodies_of(one)) for one in fillings)),
        opened=(*layout.opened, *openings),
    )
    return replace(made, layout=changed), widest


def _sturdier(made: AsMade, fine: Fine, aside: float, stroke: float) -> FloatArray:
    """The unit direction from a slit to its sturdier side where the other can spare nothing; else (0, 0)."""
    across = np.array(fine.across)
    widths = [_stroke_beyond(made, fine, way * across) for way in (-1.0, 1.0)]
    weak = [width - aside < stroke * _SPARE for width in widths]
    if weak[0] == weak[1] or max(widths) - 2.0 * aside < stroke * _SPARE:
        return np.zeros(2)
    return across if weak[0] else -across


def _stroke_beyond(made: AsMade, fine: Fine, way: FloatArray) -> float:
    """How wide the stroke beside a slit is, straight across from it."""
    at = np.array([fine.u_mm, fine.v_mm])
    far = at + way * (fine.flat_mm / 2.0 + _LOOKED_MM)
    run = shapely.LineString([at, far]).intersection(made.outlines)
    parts = [part for part in shapely.get_parts(run) if part.length > _BESIDE_MM]
    return min(parts, key=lambda part: float(part.distance(shapely.Point(at)))).length if parts else 0.0


#: As far as a stroke is looked at; what is wider has enough to spare.
_LOOKED_MM = 10.0


def _slit(made: AsMade, fine: Fine, asked_mm: float) -> shapely.Polygon | None:
    """The ground around a place that is narrower than asked: what no disc so wide can reach."""
    around = shapely.union_all([made.parts[n].outline for n in fine.parts])
    half = asked_mm / 2.0
    reached = around.buffer(half, quad_segs=16).buffer(-half, quad_segs=16)
    at = shapely.Point(fine.u_mm, fine.v_mm)
    ground = [g for g in shapely.get_parts(reached.difference(around)) if g.area > 0]
    return min(
        (g for g in ground if g.distance(at) <= _BESIDE_MM), key=lambda g: g.distance(at), default=None
    )

"""Slits that are narrower than a process keeps open, made wider or filled: never a change of other places."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.fineness import Fine, Fineness, finest, reach_unrolled
from kizami.as_made.narrow_places import after_opening, narrow_places
from kizami.as_made.slit_opening import opening_of
from kizami.lettering.layout import Added, FitStep
from kizami.outlines.boxed import boxed
from kizami.outlines.curves import FloatArray, bodies_of

__all__ = ["OPENED_SPARE", "Mended", "with_gaps"]

#: A slit is made wider than asked by this share, so that what is measured anew is not below by a hair.
OPENED_SPARE = 1.02
#: Of one part only the narrowest slit is told at a time; an outline with more than this is no letter's.
_MOST_ROUNDS = 4
#: A slit lies within this of where it was measured, mm.
_BESIDE_MM = 0.02


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Mended:
    """An area with its slits opened or closed, and its finest places."""

    made: AsMade
    fineness: Fineness


def with_gaps(
    made: AsMade,
    how: Literal["opened", "closed"],
    limit_mm: float,
    *,
    reach_mm: float = 0.0,
    stroke_mm: float = 0.0,
    departure_mm: float = math.inf,
) -> Mended:
    """Slits within letters and beside joints, opened until the process keeps them open, or closed.

    What is opened is taken from both sides alike, or from the far sturdier one: the end of a stroke that
    comes to a stem, a stem beside a hairline. What is closed is filled up to where it is wide enough. Letters
    that stand apart are left alone, as their distance is the spacing's to say.

    Parameters
    ----------
    limit_mm : the narrowest gap that is kept open, true mm
    reach_mm : how wide places are looked at beyond that, as whoever asks for the finest of them next will
    stroke_mm : the finest stroke that holds, true mm
    departure_mm : an outline moves by no more for the sake of looks
    """
    before = made.layout
    bounds = _Bounds(gap_mm=limit_mm, stroke_mm=stroke_mm, departure_mm=departure_mm)
    reach_mm = max(reach_mm, limit_mm * OPENED_SPARE)
    reach = reach_unrolled(made, reach_mm)
    widest = 0.0
    places = narrow_places(made, reach)
    known = finest(made, places, reach_mm=reach_mm)
    for _ in range(_MOST_ROUNDS):
        found = _slits(made, known, limit_mm)
        if not found:
            break
        changed, most = _changed(made, found, how, bounds)
        if changed is made:
            break
        if how == "opened":
            fresh = changed.layout.opened[len(made.layout.opened) :]
            places = after_opening(places, changed, fresh, reach)
        else:
            places = narrow_places(changed, reach)
        made, widest = changed, max(widest, most)
        known = finest(made, places, reach_mm=reach_mm)
    if made.layout is before:
        return Mended(made=made, fineness=known)
    layout = made.layout
    new = [*layout.opened[len(before.opened) :], *(a.outline for a in layout.added[len(before.added) :])]
    # A long slit may have been worked on in several places.
    slits = len(shapely.get_parts(shapely.union_all(new)))
    many = "slit was" if slits == 1 else "slits were"
    said = f"{slits} {many} {how}, as less than {limit_mm:.2f} mm would fill in"
    step = FitStep(name="slits", said=said, height_mm=layout.height_mm)
    layout = replace(layout, steps=(*layout.steps, step), departure_mm=max(layout.departure_mm, widest))
    return Mended(made=replace(made, layout=layout), fineness=known)


@dataclass(frozen=True, kw_only=True, slots=True)
class _Bounds:
    """What of a slit is asked for and what of its surroundings is kept, true mm.

    Attributes
    ----------
    gap_mm : the narrowest gap that is kept open
    stroke_mm : the finest stroke that holds
    departure_mm : an outline moves by no more for the sake of looks
    """

    gap_mm: float
    stroke_mm: float
    departure_mm: float


def _slits(made: AsMade, known: Fineness, limit_mm: float) -> list[Fine]:
    """Places of gaps that are too narrow, within a part or between two of one body."""
    parts = made.parts
    found = []
    for fine in known.gaps:
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
    made: AsMade,
    found: list[Fine],
    how: Literal["opened", "closed"],
    bounds: _Bounds,
) -> tuple[AsMade, float]:
    """With these slits opened or closed, and how far an outline moved at most."""
    layout = made.layout
    fillings: list[shapely.Polygon] = []
    openings: list[shapely.Geometry] = []
    widest = 0.0
    for fine in found:
        # Where the surface is stretched, what is asked for is another length unrolled.
        unrolled = fine.flat_mm / max(fine.width_mm, 1e-9)
        asked = bounds.gap_mm * OPENED_SPARE * unrolled
        slit = _slit(made, fine, asked)
        if how == "opened":
            aside = (asked - fine.flat_mm) / 2.0
            sturdier = _sturdier(made, fine, aside, bounds, unrolled)
            openings.append(opening_of(made, fine, slit, asked, sturdier))
            widest = max(widest, aside * (2.0 if sturdier.any() else 1.0))
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


def _sturdier(made: AsMade, fine: Fine, aside: float, bounds: _Bounds, unrolled: float) -> FloatArray:
    """The unit direction from a slit to the side that everything is taken from; (0, 0) where both give alike.

    That is the sturdier side where the other can spare nothing, and one that goes on straight across by more
    than twice as much: the end of a stroke that comes to a stem, or a stem beside a hairline. A shorter end
    is not seen, a dent in a stem is, and a hairline that is thinned is another stroke.

    Parameters
    ----------
    aside : what is taken from either side where both give alike, unrolled mm
    unrolled : length of a true mm there
    """
    stroke = bounds.stroke_mm * unrolled
    across = np.array(fine.across)
    widths = _strokes_beyond(made, fine)
    weak = [width - aside < stroke * OPENED_SPARE for width in widths]
    if max(widths) - 2.0 * aside < stroke * OPENED_SPARE:
        return np.zeros(2)
    if max(widths) > _AN_END * min(widths) and 2.0 * aside <= bounds.departure_mm * unrolled:
        return across if widths[1] > widths[0] else -across
    if weak[0] == weak[1]:
        return np.zeros(2)
    return across if weak[0] else -across


def _strokes_beyond(made: AsMade, fine: Fine) -> tuple[float, float]:
    """How wide the strokes beside a slit are, straight across from it, against `fine.across` and with it.

    Looked at from several places along it: one of them may be at the corner of an end.
    """
    at, across = np.array([fine.u_mm, fine.v_mm]), np.array(fine.across)
    along = np.array([-across[1], across[0]])
    seen = [
        tuple(_stroke_beyond(made, place, way * across, fine.flat_mm) for way in (-1.0, 1.0))
        for place in at + np.linspace(-1.0, 1.0, _LOOKS)[:, None] * fine.flat_mm * along
    ]
    # Where it has no other side it is over.
    between = [widths for widths in seen if all(widths)] or [(0.0, 0.0)]
    before, after = np.median(between, axis=0).tolist()
    return before, after


def _stroke_beyond(made: AsMade, at: FloatArray, way: FloatArray, slit_mm: float) -> float:
    """How wide the stroke is that a slit has on one side; 0 where none bounds it there."""
    line = shapely.LineString([at, at + way * (slit_mm + _LOOKED_MM)])
    run = line.intersection(boxed(made.outlines, line, room=_BESIDE_MM))
    from_at = shapely.Point(at)
    parts = [part for part in shapely.get_parts(run) if part.length > _BESIDE_MM]
    parts.sort(key=lambda part: float(part.distance(from_at)))
    return float(parts[0].length) if parts and parts[0].distance(from_at) < slit_mm else 0.0


#: Places along a slit from which the strokes beside it are looked at.
_LOOKS = 5
#: What goes on straight across by so many times more is the end of a stroke, or far the sturdier one.
_AN_END = 2.0
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

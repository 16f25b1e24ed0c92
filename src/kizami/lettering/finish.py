"""The last steps of a layout: strokes that hold, parts that hang together, clean outlines."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import shapely

from kizami.artwork.artwork import Artwork
from kizami.lettering.layout import Added, FitStep, Layout, PlacedMark
from kizami.lettering.typeface import Typeface, glyph_in_mm, join_shapes
from kizami.outlines.curves import bodies_of
from kizami.outlines.joining import Tied, base_bar, hold_middles, loop, rim, tie
from kizami.outlines.soundness import Soundness
from kizami.outlines.weight import Weighed, thicken_all_over, thicken_where_needed
from kizami.remembering import remembered

__all__ = ["finished", "ornamented", "room_taken_mm"]


def room_taken_mm(soundness: Soundness) -> float:
    """Room that thickening takes outside the drawn outlines, mm."""
    return max(soundness.thicken_by_mm, 0.0) if soundness.thicken == "all over" else 0.0


def finished(
    layout: Layout, soundness: Soundness, *, stroke_mm: float, sagitta_mm: float, gap_mm: float = 0.0
) -> Layout:
    """Make a layout sound as its product asks.

    Parameters
    ----------
    stroke_mm : thinnest stroke that the process holds
    gap_mm : narrowest gap that it keeps open: where parts are tied, openings between them that are smaller
        are closed, as they would fill in
    """
    if layout.is_empty:
        return layout
    layout = _weighed(layout, soundness, stroke_mm, sagitta_mm)
    return _in_one_piece(layout, soundness, gap_mm)


def ornamented(layout: Layout, ornaments: shapely.Geometry | None) -> Layout:
    """A layout with its area's ornaments among its outlines."""
    if layout.is_empty or ornaments is None:
        return layout
    drawn = bodies_of(ornaments)
    return replace(
        layout,
        outlines=bodies_of(layout.outlines, drawn),
        added=(*layout.added, *(Added(kind="ornament", outline=bodies_of(body)) for body in drawn.geoms)),
        ornaments=drawn,
    )


def _weighed(layout: Layout, soundness: Soundness, stroke_mm: float, sagitta_mm: float) -> Layout:
    if soundness.thicken == "never":
        return layout
    weighed: list[Weighed | None] = []
    for mark, shape, facts in zip(layout.marks, layout.shapes, layout.narrow, strict=True):
        if shape.is_empty:
            weighed.append(None)
        elif soundness.thicken == "all over":
            weighed.append(thicken_all_over(shape, soundness.thicken_by_mm, sagitta=sagitta_mm))
        elif facts.stroke is not None and facts.stroke.width < stroke_mm:
            weighed.append(_thickened(mark, shape, stroke_mm, sagitta_mm))
        else:
            weighed.append(None)
    changed = [w for w in weighed if w is not None]
    if not changed:
        return layout
    shapes = tuple(shape if w is None else w.shape for shape, w in zip(layout.shapes, weighed, strict=True))
    outlines = join_shapes([s for s in shapes if not s.is_empty])
    departure = max(w.departure for w in changed)
    grown = outlines.area / layout.outlines.area - 1.0
    closed = sum(w.closed_middles for w in changed) + _run_together(layout.shapes, shapes)
    word = "thinned" if grown < 0 else "thickened"
    said = (
        f"{len(changed)} letters {word} by up to {departure:.2f} mm, {abs(grown) * 100:.0f} % "
        f"{'less' if grown < 0 else 'more'} area"
    )
    if closed:
        said += f"; {closed} openings closed by it"
    marks = tuple(
        mark if w is None else replace(mark, plain=False, facts=w.facts)
        for mark, w in zip(layout.marks, weighed, strict=True)
    )
    return replace(
        layout,
        marks=marks,
        shapes=shapes,
        outlines=outlines,
        departure_mm=departure,
        closed=closed,
        steps=(*layout.steps, FitStep(name="weight", said=said, height_mm=layout.height_mm)),
    )


def _thickened(mark: PlacedMark, shape: shapely.MultiPolygon, stroke_mm: float, sagitta_mm: float) -> Weighed:
    if isinstance(mark.source, Artwork) or not mark.plain:
        return thicken_where_needed(shape, stroke_mm, cap_height=mark.scale_mm, sagitta=sagitta_mm)
    weighed = _thickened_glyph(mark.source, mark.glyph, mark.scale_mm, stroke_mm, sagitta_mm)
    facts = weighed.facts and mark.place_facts(weighed.facts)
    return replace(weighed, shape=mark.place(weighed.shape), facts=facts)


@remembered
def _thickened_glyph(
    typeface: Typeface, glyph: int, scale_mm: float, stroke_mm: float, sagitta_mm: float
) -> Weighed:
    """A glyph about its origin, thickened: the letters of a list come again and again at few heights."""
    drawn = glyph_in_mm(typeface, glyph, scale_mm=scale_mm, sagitta_mm=sagitta_mm)
    axis = typeface.axis(glyph)
    return thicken_where_needed(
        drawn,
        stroke_mm,
        cap_height=scale_mm,
        sagitta=sagitta_mm,
        axis=None if axis is None else axis.scaled(scale_mm / typeface.cap_height_upem),
    )


def _run_together(before: tuple[shapely.MultiPolygon, ...], after: tuple[shapely.MultiPolygon, ...]) -> int:
    """Neighbours that were apart and now touch."""
    inked = [i for i, shape in enumerate(before) if not shape.is_empty]
    if len(inked) < 2:
        return 0
    old, new = np.array(before, dtype=object)[inked], np.array(after, dtype=object)[inked]
    apart = ~shapely.intersects(old[:-1], old[1:])
    return int((apart & shapely.intersects(new[:-1], new[1:])).sum())


def _in_one_piece(layout: Layout, soundness: Soundness, gap_mm: float) -> Layout:
    outlines = layout.outlines
    added: list[Added] = []
    opened: list[shapely.Polygon] = []
    loose_before = max(0, len(outlines.geoms) - 1)
    letters = [mark for mark in layout.marks if not isinstance(mark.source, Artwork)]
    baseline = min(mark.v_mm for mark in letters or layout.marks)
    said: list[str] = []
    if soundness.middle_bridges:
        held = hold_middles(outlines, width=soundness.bridge_mm)
        # Bridges as wide as the letters are high would leave nothing of them: the middles stay, and are told.
        if held.spots and not held.shape.is_empty:
            said.append(f"{held.loose_before} closed middles held by {len(held.spots)} bridges")
            outlines = held.shape
            opened.extend(held.ties)
    if soundness.one_piece in ("base bar", "underline"):
        below = 0.12 * layout.height_mm if soundness.one_piece == "underline" else 0.0
        bar = base_bar(outlines, baseline=baseline, width=soundness.bridge_mm, below=below)
        outlines = bodies_of(outlines, bar)
        added.append(_added(soundness.one_piece, bar))
        said.append(f"{soundness.one_piece} {soundness.bridge_mm:.2f} mm high")
    if soundness.rim_mm:
        around = rim(outlines, width=soundness.rim_mm, reach=layout.height_mm * 0.35)
        outlines = bodies_of(outlines, around)
        added.append(_added("rim", around))
        said.append(f"rim {soundness.rim_mm:.2f} mm wide")
    if soundness.one_piece != "no":
        tied: Tied = tie(outlines, width=soundness.bridge_mm)
        if tied.spots:
            said.append(f"{tied.loose_before} loose parts tied by {len(tied.spots)} bridges")
        outlines = tied.shape
        added.extend(_added("bridge", bridge) for bridge in tied.ties)
    loops = {"none": (), "left": ("left",), "ends": ("left", "right"), "balanced": ("balanced",)}
    openings = []
    for place in loops[soundness.loop]:
        ring, opening = loop(
            outlines,
            place=place,
            hole=soundness.loop_hole_mm,
            wall=soundness.loop_wall_mm,
            baseline=baseline,
        )
        outlines = bodies_of(outlines, ring)
        added.append(_added("loop", ring))
        openings.append(opening)
        said.append(f"loop {soundness.loop_hole_mm:.2f} mm, {place}")
    if openings:
        outlines = bodies_of(outlines.difference(shapely.union_all(openings)))
        opened.extend(openings)
    if soundness.one_piece != "no" or soundness.overlap_mm:
        specks = _specks(layout, outlines, gap_mm)
        if specks:
            outlines = bodies_of(outlines, *specks)
            added.extend(_added("filling", speck) for speck in specks)
            said.append(f"{len(specks)} openings between parts closed that are too small to stay open")
    if not said:
        return replace(layout, loose_before=loose_before)
    step = FitStep(name="one piece", said="; ".join(said), height_mm=layout.height_mm)
    return replace(
        layout,
        outlines=outlines,
        added=tuple(added),
        opened=tuple(opened),
        loose_before=loose_before,
        steps=(*layout.steps, step),
    )


def _specks(layout: Layout, outlines: shapely.MultiPolygon, gap_mm: float) -> list[shapely.Polygon]:
    """Openings that no letter has by itself and that are nowhere so wide that they stay open."""
    holes = [shapely.Polygon(hole) for body in outlines.geoms for hole in body.interiors]
    small = [hole for hole in holes if hole.buffer(-gap_mm / 2.0).is_empty]
    if not small:
        return []
    own = [shapely.Polygon(hole) for s in layout.shapes for body in s.geoms for hole in body.interiors]
    # A hair more, so that what is filled and what is around it are one.
    return [hole.buffer(1e-6, join_style="mitre") for hole in small if not any(o.covers(hole) for o in own)]


def _added(kind: str, shape: shapely.Geometry) -> Added:
    return Added(kind=kind, outline=bodies_of(shape))

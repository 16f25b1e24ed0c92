"""The last steps of a layout: strokes that hold, parts that hang together, clean outlines."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
import shapely

from kizami.artwork.artwork import Artwork
from kizami.counting import so_many
from kizami.lettering.layout import Added, FitStep, Layout, PlacedMark
from kizami.lettering.one_piece import in_one_piece
from kizami.lettering.typeface import Typeface, glyph_in_mm, join_shapes
from kizami.outlines.curves import bodies_of
from kizami.outlines.narrow import MedialAxis
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
    layout = layout.measured() if soundness.thicken != "all over" else layout
    layout = _weighed(layout, soundness, stroke_mm, sagitta_mm, gap_mm)
    return in_one_piece(layout, soundness, gap_mm=gap_mm, stroke_mm=stroke_mm)


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


def _weighed(
    layout: Layout, soundness: Soundness, stroke_mm: float, sagitta_mm: float, gap_mm: float
) -> Layout:
    if soundness.thicken == "never":
        return layout
    wanted = _Wanted(
        stroke_mm=stroke_mm, gap_mm=gap_mm, most_mm=soundness.most_departure_mm, sagitta_mm=sagitta_mm
    )
    weighed: list[Weighed | None] = []
    for mark, shape, facts in zip(layout.marks, layout.shapes, layout.narrow, strict=True):
        if shape.is_empty:
            weighed.append(None)
        elif soundness.thicken == "all over":
            weighed.append(thicken_all_over(shape, soundness.thicken_by_mm, sagitta=sagitta_mm))
        elif facts.stroke is not None and facts.stroke.width < stroke_mm:
            weighed.append(_thickened(mark, shape, wanted))
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
        f"{so_many(len(changed), 'letter')} {word} by up to {departure:.2f} mm, {abs(grown) * 100:.0f} % "
        f"{'less' if grown < 0 else 'more'} area"
    )
    if closed:
        said += f"; {so_many(closed, 'opening')} closed by it"
    marks = tuple(
        mark if w is None else replace(mark, plain=False, condensed=0.0, facts=w.facts)
        for mark, w in zip(layout.marks, weighed, strict=True)
    )
    return replace(
        layout,
        marks=marks,
        shapes=shapes,
        outlines=outlines,
        departure_mm=departure,
        area_change=grown,
        closed=closed,
        steps=(*layout.steps, FitStep(name="weight", said=said, height_mm=layout.height_mm)),
    )


@dataclass(frozen=True, kw_only=True, slots=True)
class _Wanted:
    """What strokes and gaps must be, by how much an outline may move for it, and how fine it is drawn."""

    stroke_mm: float
    gap_mm: float
    most_mm: float
    sagitta_mm: float

    def thickened(
        self, shape: shapely.MultiPolygon, *, cap_height_mm: float, axis: MedialAxis | None = None
    ) -> Weighed:
        return thicken_where_needed(
            shape,
            self.stroke_mm,
            cap_height=cap_height_mm,
            sagitta=self.sagitta_mm,
            axis=axis,
            gap=self.gap_mm,
            most=self.most_mm,
        )


def _thickened(mark: PlacedMark, shape: shapely.MultiPolygon, wanted: _Wanted) -> Weighed:
    if isinstance(mark.source, Artwork) or not (mark.plain or mark.condensed):
        return wanted.thickened(shape, cap_height_mm=mark.scale_mm)
    weighed = _thickened_glyph(
        mark.source,
        mark.glyph,
        share=1.0 if mark.plain else mark.condensed,
        scale_mm=mark.scale_mm,
        wanted=wanted,
    )
    facts = weighed.facts and mark.place_facts(weighed.facts)
    return replace(weighed, shape=mark.place(weighed.shape), facts=facts)


@remembered
def _thickened_glyph(
    typeface: Typeface,
    glyph: int,
    *,
    share: float,
    scale_mm: float,
    wanted: _Wanted,
) -> Weighed:
    """A glyph about its origin, with a share of its width, thickened: the letters of a list come again at few
    heights."""
    drawn = glyph_in_mm(typeface, glyph, scale_mm=scale_mm, sagitta_mm=wanted.sagitta_mm)
    axis = typeface.axis(glyph)
    if share != 1.0:
        drawn, axis = shapely.transform(drawn, lambda xy: xy * (share, 1.0)), None
    scaled = None if axis is None else axis.scaled(scale_mm / typeface.cap_height_upem)
    return wanted.thickened(drawn, cap_height_mm=scale_mm, axis=scaled)


def _run_together(before: tuple[shapely.MultiPolygon, ...], after: tuple[shapely.MultiPolygon, ...]) -> int:
    """Neighbours that were apart and now touch."""
    inked = [i for i, shape in enumerate(before) if not shape.is_empty]
    if len(inked) < 2:
        return 0
    old, new = np.array(before, dtype=object)[inked], np.array(after, dtype=object)[inked]
    apart = ~shapely.intersects(old[:-1], old[1:])
    return int((apart & shapely.intersects(new[:-1], new[1:])).sum())

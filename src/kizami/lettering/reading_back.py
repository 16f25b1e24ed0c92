"""Lettering read back: whether every letter still is the letter that was set.

What holds a piece together changes its outline, and may change its words: a stroke across makes F of T and H
of two l, a dot that has melted into its stem makes l of i, a middle that has filled makes a blot of e. Here
the outline as it stands is compared with the drawing of each letter, part by part.
"""

from __future__ import annotations

import itertools
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from kizami.lettering.gathering import is_dotted, width_of
from kizami.lettering.layout import Layout, PlacedMark
from kizami.lettering.signs import is_sign
from kizami.lettering.typeface import Typeface, join_shapes
from kizami.lettering.units import units_of
from kizami.outlines.boxed import boxed
from kizami.outlines.curves import bodies_of
from kizami.remembering import remembered

__all__ = ["Changed", "Parts", "changed_letters", "crossed_letters", "parts_of"]

#: An opening as wide as this somewhere, in capitals' heights, is a middle: that of the finest e is (measured
#: over the shipped typefaces and twelve others). One that is narrower is a mere eyelet where a pen turned;
#: below the second it is nothing at all.
_MIDDLE, _SLIT = 0.08, 0.04
#: A middle that is narrower than this is as good as filled; how narrow it may be cast is for other checks.
_FILLED = 0.012
#: Of a closed middle so much at least must stay open.
_OPEN_SHARE = 0.35
#: A mark stands by itself when what holds it is narrower than this share of its own width.
_NECK_SHARE = 0.8
#: Of its width: what an edge may be moved by while that is found out.
_SAME_SHARE = 0.002
#: ... or, where it is a stroke, when so much of it stands out of its letter.
_LONG, _OUT_SHARE = 1.6, 0.6
#: A stroke within a letter's own box is read as one of its strokes from this length on, in capitals' heights.
_OWN_STROKE = 0.24
#: Strokes from letter to letter are read as such at the feet, and at the left of a letter, where a pen comes
#: from. Higher up, from this length on, they are read as the stroke across of another letter.
_FEET, _LEFT_SHARE, _ACROSS = 0.3, 0.25, 0.5


@dataclass(frozen=True, kw_only=True, slots=True)
class Changed:
    """A letter that no longer is what was set.

    Attributes
    ----------
    cluster : index of its first character in the wording
    how : “mark”, “middle”, “opening”, “stroke”, “sign” or “crossed”
    u_mm, v_mm : where
    """

    cluster: int
    how: str
    u_mm: float
    v_mm: float


@dataclass(frozen=True, kw_only=True, slots=True)
class Parts:
    """What a letter consists of: bodies that stand apart, middles, and all openings that are enclosed."""

    bodies: int
    middles: int
    openings: int


def changed_letters(layout: Layout) -> tuple[Changed, ...]:
    """Every letter of a layout whose outline reads otherwise than it was drawn, from left to right.

    Each is told once, by the gravest of what was found. Of stops and their like it is read whether they can
    still be told from what stands about them.

    >>> changed_letters(Layout(text="", height_mm=1, lowest_height_mm=1, marks=(), shapes=(), steps=(),
    ...     outlines=shapely.MultiPolygon(), fits=True, missing=()))
    ()
    """
    found: list[Changed] = []
    strokes = _strokes(layout)
    for cluster, numbers in itertools.groupby(
        range(len(layout.marks)), key=lambda n: layout.marks[n].cluster
    ):
        inked = [n for n in numbers if not layout.shapes[n].is_empty and not layout.marks[n].is_artwork]
        if inked and cluster < len(layout.text):
            changes = (
                _hidden_signs(layout, cluster, inked)
                if is_sign(layout.letters(cluster))
                else _changes(layout, cluster, inked, strokes)
            )
            found.extend(itertools.islice(changes, 1))
    return tuple(found)


def crossed_letters(layout: Layout) -> tuple[Changed, ...]:
    """Letters that lie on one before them, where neither a hand nor their script joins them.

    Nothing that is set on a straight line does; on a bent one, or set too near, letters may.
    """
    inked = [
        n
        for n, (mark, shape) in enumerate(zip(layout.marks, layout.shapes, strict=True))
        if not shape.is_empty and isinstance(mark.source, Typeface) and mark.cluster < len(layout.text)
    ]
    faces = {source for n in inked if isinstance(source := layout.marks[n].source, Typeface)}
    if any(face.hand_joins for face in faces):
        return ()
    units = units_of(layout.text)
    shapes = np.array([layout.shapes[n] for n in inked], dtype=object)
    one, other = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    found: dict[int, Changed] = {}
    for a, b in zip(one.tolist(), other.tolist(), strict=True):
        first, second = layout.marks[inked[a]], layout.marks[inked[b]]
        if first.cluster >= second.cluster or units[first.cluster] == units[second.cluster]:
            continue
        both = shapes[a].intersection(shapes[b])
        share = both.area / second.scale_mm**2
        if share > _CROSSED and share > _MORE * _drawn_crossing(layout.text, first, second):
            at = both.representative_point()
            found.setdefault(
                second.cluster,
                Changed(cluster=second.cluster, how="crossed", u_mm=float(at.x), v_mm=float(at.y)),
            )
    return tuple(found[cluster] for cluster in sorted(found))


#: Of a squared cap height: letters share no more but by rounding.
_CROSSED = 0.0005
#: Some capitals are drawn with a stroke under the next letter: no more of it than so many times is meant.
_MORE = 1.5


def _drawn_crossing(text: str, first: PlacedMark, second: PlacedMark) -> float:
    """What two letters share as their typeface sets them on a straight line, of a squared cap height."""
    face = first.source
    if not isinstance(face, Typeface) or second.source != face:
        return 0.0
    set_plainly: dict[int, list[shapely.Geometry]] = {}
    for glyph in face.shape(text[first.cluster : second.cluster + 1]):
        shape = face.outline(glyph.glyph, sagitta_upem=face.cap_height_upem / 1000).polygons
        moved = shapely.transform(shape, lambda xy, at=(glyph.x, glyph.y): xy + np.array(at))
        set_plainly.setdefault(glyph.cluster, []).append(moved)
    one, other = (
        shapely.union_all(set_plainly.get(cluster, [])) for cluster in (0, second.cluster - first.cluster)
    )
    return float(one.intersection(other).area) / face.cap_height_upem**2


def _changes(
    layout: Layout, cluster: int, inked: Sequence[int], strokes: Sequence[shapely.Geometry]
) -> Iterator[Changed]:
    marks = [layout.marks[n] for n in inked]
    own = bodies_of(*(layout.shapes[n] for n in inked))
    first = marks[0]
    lowered = [mark for at, mark in layout.lowered if at == cluster]
    drawn = _drawn_parts(layout, inked)
    middles = _middles(own, _MIDDLE * first.scale_mm)
    dotted = is_dotted(layout.letters(cluster))
    bodies = len(own.geoms) + len(lowered)

    def told(how: str, where: shapely.Geometry) -> Changed:
        at = where.representative_point()
        return Changed(cluster=cluster, how=how, u_mm=float(at.x), v_mm=float(at.y))

    if drawn.middles and len(_middles(own, _FILLED * first.scale_mm)) < drawn.middles:
        yield told("middle", own)
    if len(middles) > drawn.openings:
        yield told("opening", max(middles, key=lambda m: m.area))
    if dotted and bodies < drawn.bodies:
        yield told("mark", own)
    if not strokes and not lowered and not layout.added and not layout.opened:
        return
    for middle in middles:
        left = middle.difference(_about(middle, layout.outlines)).area
        if left < _OPEN_SHARE * middle.area and not _is_loop(layout, middle):
            yield told("middle", middle)
    base, *loose = sorted(own.geoms, key=lambda body: -float(body.area))
    apart = loose if dotted else []
    for mark in (*lowered, *apart):
        if _is_lost(mark, base, layout.outlines):
            yield told("mark", mark)
    for stroke in strokes if len(apart) > 1 else ():
        # Two dots on one bar are another mark.
        if sum(shapely.dwithin(mark, stroke, 1e-6) for mark in apart) > 1:
            yield told("mark", stroke)
    if strokes:
        yield from _crossed(layout, first, own, strokes)
    closed = _middles_with(own, strokes, _MIDDLE * first.scale_mm)
    if len(closed) > len(middles):
        yield told("opening", max(closed, key=lambda m: m.area))


def _hidden_signs(layout: Layout, cluster: int, inked: Sequence[int]) -> Iterator[Changed]:
    """A stop or its like that can no longer be told from what stands about it."""
    own = bodies_of(*(layout.shapes[n] for n in inked))
    # What lies further off cannot hide it; mostly nothing is nearer at all.
    room = 2.0 * _extent(own)
    window = shapely.box(*(own.bounds + np.array([-room, -room, room, room])))
    added = [one for one in layout.added if one.outline.intersects(window)]
    beside = [shape for n, shape in enumerate(layout.shapes) if n not in inked and shape.intersects(window)]
    if not added and not any(shape.intersects(own) for shape in beside):
        return
    others = shapely.union_all(beside)
    over = shapely.union_all(
        [others, *(boxed(one.outline, own, room=room) for one in added if one.kind not in _HOLDS_ONLY)]
    )
    outlines = boxed(layout.outlines, own, room=room)
    for sign in own.geoms:
        is_covered = sign.difference(over).area < _CLEAR_SHARE * sign.area
        # What it stands on is left out: it is judged by what stands clear, and by what else holds it.
        about = outlines.difference(over.difference(sign).difference(others))
        if is_covered or (beside and _is_lost(sign, others, about)):
            at = sign.representative_point()
            yield Changed(cluster=cluster, how="sign", u_mm=float(at.x), v_mm=float(at.y))


#: Of a stop so much at least must stand clear of bars, rims, loops and other letters; what only holds it is
#: judged by how wide it is.
_CLEAR_SHARE, _HOLDS_ONLY = 0.6, ("bridge", "stalk", "join", "filling")


def _crossed(
    layout: Layout, first: PlacedMark, own: shapely.MultiPolygon, strokes: Sequence[shapely.Polygon]
) -> Iterator[Changed]:
    """Added strokes that read as strokes of the letter itself, or that make another of two."""
    box = shapely.box(*_upright(own, first).bounds)
    left, _, right, _ = box.bounds
    feet = float((np.array([first.u_mm, first.v_mm]) @ first.turn.T)[1])
    for stroke in strokes:
        stands = _upright(stroke, first)
        if shapely.distance(box, stands) > 0:
            continue
        low_x, low, _, high = stands.bounds
        within = _extent(stands.intersection(box)) / first.scale_mm
        at_feet = ((low + high) / 2.0 - feet) / first.scale_mm <= _FEET
        from_left = low_x < left + _LEFT_SHARE * (right - left)
        too_long = within > _OWN_STROKE and not (at_feet and from_left)
        across = not at_feet and _extent(stands) / first.scale_mm > _ACROSS
        if too_long or (across and not _at_a_space(layout, first.cluster, to_left=low_x < left)):
            at = stroke.representative_point()
            yield Changed(cluster=first.cluster, how="stroke", u_mm=float(at.x), v_mm=float(at.y))


def _upright(shape: shapely.Geometry, mark: PlacedMark) -> shapely.Geometry:
    """A shape as it is when its letter is not turned."""
    return shapely.transform(shape, lambda xy: xy @ mark.turn.T) if mark.angle_rad else shape


def _at_a_space(layout: Layout, cluster: int, *, to_left: bool) -> bool:
    """Whether a word begins or ends there: what leads over to the next is drawn as a sweep."""
    before, after = layout.text[:cluster], layout.text[cluster + 1 :]
    return before[-1:].isspace() if to_left else after[:1].isspace()


def _strokes(layout: Layout) -> list[shapely.Polygon]:
    """What was added to join, without what of it lies in letters."""
    joining = [one.outline for one in layout.added if one.kind == "bridge"]
    if not joining:
        return []
    letters = shapely.union_all([shape for shape in layout.shapes if not shape.is_empty])
    return [part for outline in joining for part in bodies_of(outline.difference(letters)).geoms]


def _drawn_parts(layout: Layout, inked: Sequence[int]) -> Parts:
    """What the typeface draws there."""
    first = layout.marks[inked[0]]
    placed = []
    for number in inked:
        mark = layout.marks[number]
        assert isinstance(mark.source, Typeface)
        away = np.array([mark.u_mm - first.u_mm, mark.v_mm - first.v_mm]) @ first.turn.T / first.scale_mm
        placed.append((mark.source, mark.glyph, round(float(away[0]), 2), round(float(away[1]), 2)))
    return parts_of(tuple(placed))


@remembered
def parts_of(placed: tuple[tuple[Typeface, int, float, float], ...]) -> Parts:
    """What a letter consists of as its typeface draws it.

    Parameters
    ----------
    placed : typeface, glyph and place in capitals' heights of each glyph of it
    """
    shapes = []
    for typeface, glyph, x, y in placed:
        unit = 1.0 / typeface.cap_height_upem
        outline = typeface.outline(glyph, sagitta_upem=typeface.cap_height_upem / 1000).polygons
        shapes.append(shapely.transform(outline, lambda xy, u=unit, at=(x, y): xy * u + at))
    whole = join_shapes(shapes)
    return Parts(
        bodies=len(whole.geoms), middles=len(_middles(whole, _MIDDLE)), openings=len(_middles(whole, _SLIT))
    )


def _middles(shape: shapely.MultiPolygon, tiny: float) -> list[shapely.Polygon]:
    """Closed middles that are wider somewhere than an eyelet.

    A middle of area A and edge L holds a disc of more than A / L in radius: A <= r L - pi r^2 (Osserman,
    Bonnesen-style isoperimetric inequalities, 1979; from memory). So only small ones need a closer look.
    """
    holes = (shapely.Polygon(hole) for body in shape.geoms for hole in body.interiors)
    return [
        hole
        for hole in holes
        if 2.0 * hole.area > tiny * hole.length or not hole.buffer(-tiny / 2.0, quad_segs=2).is_empty
    ]


def _middles_with(
    own: shapely.MultiPolygon, strokes: Sequence[shapely.Geometry], tiny: float
) -> list[shapely.Polygon]:
    """Closed middles of a letter and the strokes that touch it; none are told where none does."""
    touching = [stroke for stroke in strokes if stroke.intersects(own)]
    return _middles(bodies_of(own, *touching), tiny) if touching else []


def _about(shape: shapely.Geometry, outlines: shapely.MultiPolygon) -> shapely.Geometry:
    """What of the lettering lies in the box of a shape, and a little more: no corner lies on the box."""
    return boxed(outlines, shape, room=0.02 * _extent(shape))


def _is_loop(layout: Layout, middle: shapely.Polygon) -> bool:
    return any(loop.opening.intersects(middle) for loop in layout.loops)


def _is_lost(mark: shapely.Polygon, base: shapely.Polygon, outlines: shapely.MultiPolygon) -> bool:
    """Whether a mark can no longer be told from its letter, as it stands in the finished outline."""
    # A letter that holds its mark already is known without it.
    alone = base.difference(mark)
    if alone.is_empty:
        return True
    width, size = width_of(mark), _extent(mark)
    if size >= _LONG * width:
        return bool(mark.difference(alone).area < _OUT_SHARE * mark.area)
    around = mark.buffer(size, quad_segs=4)
    # Moved so far inward, corners a hair apart cross each other all over: without them it takes a tenth.
    here = _about(around, outlines).intersection(around).simplify(_SAME_SHARE * width)
    worn = here.buffer(-_NECK_SHARE * width / 2.0, quad_segs=8)
    near = mark.buffer(0.02 * width, quad_segs=4)
    core = [part for part in shapely.get_parts(worn) if part.intersects(mark)]
    if not core:
        return True
    return all(not near.buffer(0.5 * width).covers(part) for part in core)


def _extent(shape: shapely.Geometry) -> float:
    if shape.is_empty:
        return 0.0
    low_x, low_y, high_x, high_y = shape.bounds
    return float(max(high_x - low_x, high_y - low_y))

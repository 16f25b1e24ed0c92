"""Lettering that hangs together: marks on their letters, strokes where letters stay apart, loops."""

from __future__ import annotations

import itertools
import unicodedata
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import shapely

from kizami.artwork.artwork import Artwork
from kizami.counting import so_many
from kizami.lettering.gathering import gathered_at, is_dotted, stands_apart, travel_of, width_of
from kizami.lettering.layout import Added, FitStep, Layout, PlacedMark
from kizami.lettering.signs import hosts_of, is_sign
from kizami.lettering.typeface import join_shapes
from kizami.outlines.clean import without_repeats
from kizami.outlines.curves import bodies_of
from kizami.outlines.hanging import Loop, held_by, hung
from kizami.outlines.joining import base_bar, hold_middles, own_stroke, rim, tie
from kizami.outlines.soundness import Soundness
from kizami.outlines.touching import blends, meetings
from kizami.outlines.weight import pen_over_thin

__all__ = ["in_one_piece"]

#: Points nearer than this are one.
_ONE_POINT_MM = 1e-5
#: Letters whose necks are narrower than so many bridges have their notches rounded out.
_BLENDED_BRIDGES = 1.6
#: Radius by which notches are rounded, as a share of the width of bridges.
_BLEND_SHARE, _MARK_BLEND_SHARE = 0.4, 0.15


@dataclass(eq=False, kw_only=True, slots=True)
class _Work:
    """A layout on its way; what is added is kept one by one.

    Attributes
    ----------
    outlines : everything so far
    added, opened, said : see `kizami.lettering.layout.Layout`
    joints : where something was joined that the typeface does not join
    held_marks : where marks were brought to their letters
    holds_no_loop : marks and strokes, which are too slim
    kept_open : closed middles of letters, which nothing that is added may fill
    bars : under all letters
    loops : that it hangs by
    """

    outlines: shapely.MultiPolygon
    added: list[Added] = field(default_factory=list)
    opened: list[shapely.Polygon] = field(default_factory=list)
    said: list[str] = field(default_factory=list)
    joints: list[shapely.Geometry] = field(default_factory=list)
    held_marks: list[shapely.Geometry] = field(default_factory=list)
    holds_no_loop: list[shapely.Geometry] = field(default_factory=list)
    kept_open: shapely.Geometry = field(default_factory=shapely.MultiPolygon)
    bars: list[shapely.Geometry] = field(default_factory=list)
    loops: tuple[Loop, ...] = ()

    def add(self, kind: str, *shapes: shapely.Geometry) -> None:
        """Join shapes to everything, each told as one thing that was added."""
        self.add_all((kind, shape) for shape in shapes)

    def add_all(self, several: Iterable[tuple[str, shapely.Geometry]]) -> None:
        """The same with shapes of several kinds at once."""
        several = list(several)
        if several:
            self.outlines = bodies_of(self.outlines, *(shape for _, shape in several))
            self.added.extend(Added(kind=kind, outline=bodies_of(shape)) for kind, shape in several)


def in_one_piece(layout: Layout, soundness: Soundness, *, gap_mm: float, stroke_mm: float) -> Layout:
    """Join what must hang together, as the product asks.

    Parameters
    ----------
    gap_mm : narrowest gap that the process keeps open: openings between parts that are smaller are closed,
        as they would fill in
    stroke_mm : thinnest stroke that it holds
    """
    loose_before = max(0, len(layout.outlines.geoms) - 1)
    gathers = soundness.one_piece != "no"
    bridge_mm = _tie_mm(layout, soundness, stroke_mm)
    said: list[str] = []
    joints: list[shapely.Geometry] = []
    marks: list[shapely.Polygon] = []
    if gathers:
        layout, marks, joints = _marks_gathered(layout, bridge_mm, stroke_mm, gap_mm)
        if marks:
            its = "its letter" if len(marks) == 1 else "their letters"
            said.append(f"{so_many(len(marks), 'dot or accent', 'dots and accents')} brought to {its}")
    work = _Work(outlines=layout.outlines, said=said, held_marks=joints, holds_no_loop=list(marks))
    _hold_middles(work, soundness)
    _bars(work, layout, soundness)
    signs: list[shapely.Polygon] = []
    if gathers:
        _carry_marks(work, layout, stroke_mm)
        signs = _carry_signs(work, layout, stroke_mm)
        _strengthen_meetings(work, layout, bridge_mm, stroke_mm)
    if soundness.one_piece != "no":
        dots = shapely.union_all([*marks, *signs]) if marks or signs else None
        tied = tie(work.outlines, width=bridge_mm, avoid=dots)
        if tied.spots:
            work.said.append(
                f"{so_many(tied.loose_before, 'loose part')} tied by {so_many(len(tied.spots), 'stroke')}"
            )
        work.outlines = tied.shape
        work.added.extend(Added(kind="bridge", outline=bodies_of(one)) for one in tied.ties)
        work.joints.extend(tied.ties)
        work.holds_no_loop.extend(tied.ties)
    if work.joints or marks or soundness.loop != "none":
        work.kept_open = _own_middles(layout, gap_mm)
    _round_out(work, bridge_mm, marks)
    _loops(work, layout, soundness, gap_mm, stroke_mm)
    if soundness.one_piece != "no" or soundness.overlap_mm:
        specks = _specks(layout, work.outlines, gap_mm)
        if specks:
            work.add("filling", *specks)
            work.said.append(f"{so_many(len(specks), 'opening')} closed, too small to stay open")
    if not work.said:
        return replace(layout, loose_before=loose_before)
    step = FitStep(name="one piece", said="; ".join(work.said), height_mm=layout.height_mm)
    return replace(
        layout,
        # Where edges all but coincide, points do: an edge between them would have no length.
        outlines=without_repeats(work.outlines, _ONE_POINT_MM),
        added=tuple(work.added),
        opened=tuple(work.opened),
        loops=work.loops,
        loose_before=loose_before,
        steps=(*layout.steps, step),
    )


def _tie_mm(layout: Layout, soundness: Soundness, stroke_mm: float) -> float:
    """Width of what is added to join: as wide as the lettering's own thin strokes, as the face would draw it,
    but never wider than the product says nor finer than the process holds."""
    own = [facts.stroke.width for facts in layout.narrow if facts.stroke is not None]
    if soundness.one_piece == "no" or not own:
        return soundness.bridge_mm
    return min(soundness.bridge_mm, max(float(np.median(own)), _SAFE_SHARE * stroke_mm))


#: So much wider than the process just holds is what is added, as nothing else holds it.
_SAFE_SHARE = 1.25


def _marks_gathered(
    layout: Layout, wanted_mm: float, stroke_mm: float, gap_mm: float
) -> tuple[Layout, list[shapely.Polygon], list[shapely.Geometry]]:
    """Dots and accents brought to their letters, letter by letter."""
    shapes, placed = list(layout.shapes), list(layout.marks)
    marks: list[tuple[int, shapely.Polygon]] = []
    joints: list[shapely.Geometry] = []
    for cluster, numbers in itertools.groupby(range(len(placed)), key=lambda n: placed[n].cluster):
        of_letter = [n for n in numbers if not shapes[n].is_empty]
        if not of_letter or not _has_marks(layout.text, cluster, placed[of_letter[0]]):
            continue
        if stands_apart(layout.text[cluster]):
            # Its strokes are carried where they stand.
            continue
        first = placed[of_letter[0]]
        dotted = is_dotted(layout.letters(cluster))
        found = gathered_at(
            [shapes[n] for n in of_letter],
            np.array([first.u_mm, first.v_mm]),
            cap_height=first.scale_mm,
            wanted=wanted_mm,
            least=stroke_mm,
            gap=gap_mm,
            travel=travel_of(layout.text[cluster]),
            # A stroke of the letter's own may meet a neighbour as the rest of it does.
            beside=_beside(shapes, of_letter) if dotted else None,
        )
        if found is None:
            continue
        if dotted:
            marks.extend((cluster, mark) for mark in found.marks)
        joints.extend(found.joints)
        for n, shape, facts in zip(of_letter, found.shapes, found.facts, strict=True):
            shapes[n], placed[n] = shape, replace(placed[n], plain=False, condensed=0.0, facts=facts)
    if not joints:
        return layout, [], []
    outlines = join_shapes([s for s in shapes if not s.is_empty])
    layout = replace(
        layout, shapes=tuple(shapes), marks=tuple(placed), outlines=outlines, lowered=tuple(marks)
    )
    return layout, [mark for _, mark in marks], joints


def _carry_marks(work: _Work, layout: Layout, stroke_mm: float) -> None:
    """Marks that no place holds are carried by a slim stroke, each by its own: two dots on one bar would read
    as another mark."""
    for cluster, numbers in itertools.groupby(
        range(len(layout.marks)), key=lambda n: layout.marks[n].cluster
    ):
        of_letter = [n for n in numbers if not layout.shapes[n].is_empty]
        if not of_letter or not _has_marks(layout.text, cluster, layout.marks[of_letter[0]]):
            continue
        base, *loose = sorted(
            bodies_of(*(layout.shapes[n] for n in of_letter)).geoms, key=lambda body: -float(body.area)
        )
        work.holds_no_loop.extend(loose)
        share = _APART_SHARE if stands_apart(layout.text[cluster]) else _STALK_SHARE
        for mark in loose:
            if any(mark.intersects(bar) and base.intersects(bar) for bar in work.bars):
                continue
            stroke = own_stroke(mark, base, width=max(stroke_mm, share * width_of(mark)))
            work.add("stalk", stroke)
            work.held_marks.append(stroke)
            work.holds_no_loop.append(stroke)


def _signs(layout: Layout) -> Iterator[tuple[int, shapely.MultiPolygon]]:
    """Stops, commas and their like, each with the index of its first character."""
    for cluster, numbers in itertools.groupby(
        range(len(layout.marks)), key=lambda n: layout.marks[n].cluster
    ):
        shapes = [layout.shapes[n] for n in numbers if not layout.marks[n].is_artwork]
        if is_sign(layout.letters(cluster)) and not all(shape.is_empty for shape in shapes):
            yield cluster, bodies_of(*shapes)


def _carry_signs(work: _Work, layout: Layout, stroke_mm: float) -> list[shapely.Polygon]:
    """Stops and their like are carried by the letter that they go with, if no bar holds them; all of them."""
    signs = dict(_signs(layout))
    if not signs:
        return []
    bodies: dict[int, list[shapely.Geometry]] = {}
    for mark, shape in zip(layout.marks, layout.shapes, strict=True):
        if not shape.is_empty:
            bodies.setdefault(mark.cluster, []).append(shape)
    clusters = list(bodies)
    hosts = hosts_of([layout.letters(cluster) for cluster in clusters])
    carried: list[shapely.Polygon] = []
    strokes: list[shapely.Geometry] = []
    for cluster, place in zip(clusters, hosts, strict=True):
        between = layout.text[clusters[place] : cluster]
        # One that begins a word is not carried by the word before.
        if cluster not in signs or clusters[place] == cluster or any(map(str.isspace, between)):
            continue
        # What holds it is the letter's largest body: its dots are no place for another.
        host = max(bodies_of(*bodies[clusters[place]]).geoms, key=lambda body: float(body.area))
        for sign in signs[cluster].geoms:
            carried.append(sign)
            work.holds_no_loop.append(sign)
            if sign.intersects(host) or any(sign.intersects(bar) for bar in work.bars):
                continue
            stroke = own_stroke(sign, host, width=max(stroke_mm, _STALK_SHARE * width_of(sign)))
            strokes.append(stroke)
    if strokes:
        work.add_all(("stalk", stroke) for stroke in strokes)
        work.held_marks.extend(strokes)
        work.holds_no_loop.extend(strokes)
        its = "its letter" if len(strokes) == 1 else "their letters"
        work.said.append(f"{so_many(len(strokes), 'stop or the like', 'stops or the like')} carried by {its}")
    return carried


#: Width of the stroke that carries a mark, as a share of the mark's, and of one that holds a letter's stroke
#: of its own: so slim that the two are still seen apart.
_STALK_SHARE, _APART_SHARE = 0.45, 0.25


def _beside(shapes: Sequence[shapely.MultiPolygon], own: Sequence[int]) -> shapely.Geometry | None:
    """The outlines that stand next to those of one letter."""
    before = [n for n in range(own[0]) if not shapes[n].is_empty][-1:]
    after = [n for n in range(own[-1] + 1, len(shapes)) if not shapes[n].is_empty][:1]
    return shapely.union_all([shapes[n] for n in (*before, *after)]) if before or after else None


#: Scripts whose signs have several bodies that are no marks on a letter.
_MANY_BODIES = ("CJK", "HIRAGANA", "KATAKANA", "HANGUL")


def _has_marks(text: str, cluster: int, mark: PlacedMark) -> bool:
    """Whether what stands there is a letter with dots or accents."""
    if isinstance(mark.source, Artwork) or cluster >= len(text):
        return False
    letter = text[cluster]
    is_mark = unicodedata.category(letter)[0] in "LM" or letter in "!?;"
    return is_mark and not unicodedata.name(letter, "").startswith(_MANY_BODIES)


def _hold_middles(work: _Work, soundness: Soundness) -> None:
    if not soundness.middle_bridges:
        return
    held = hold_middles(work.outlines, width=soundness.bridge_mm)
    # Bridges as wide as the letters are high would leave nothing of them: the middles stay, and are told.
    if held.spots and not held.shape.is_empty:
        work.said.append(
            f"{so_many(held.loose_before, 'closed middle')} held by {so_many(len(held.spots), 'bridge')}"
        )
        work.outlines = held.shape
        work.opened.extend(held.ties)


def _bars(work: _Work, layout: Layout, soundness: Soundness) -> None:
    """A bar under all letters, and a rim around them."""
    if soundness.one_piece in ("base bar", "underline"):
        letters = [mark for mark in layout.marks if not isinstance(mark.source, Artwork)]
        baseline = min(mark.v_mm for mark in letters or layout.marks)
        below = 0.12 * layout.height_mm if soundness.one_piece == "underline" else 0.0
        signs = [shape for _, shape in _signs(layout)]
        bar = base_bar(work.outlines, baseline=baseline, width=soundness.bridge_mm, below=below, seen=signs)
        work.add(soundness.one_piece, bar)
        work.bars.append(bar)
        work.said.append(f"{soundness.one_piece} {soundness.bridge_mm:.2f} mm high")
    if soundness.rim_mm:
        work.add("rim", rim(work.outlines, width=soundness.rim_mm, reach=layout.height_mm * 0.35))
        work.said.append(f"rim {soundness.rim_mm:.2f} mm wide")


def _strengthen_meetings(work: _Work, layout: Layout, bridge_mm: float, stroke_mm: float) -> None:
    """Where neighbouring letters meet by less than a good bridge: notches are rounded out, and the fine ends
    of two strokes that run into each other are drawn as one stroke that holds."""
    shapes = np.array([s for s in layout.shapes if not s.is_empty], dtype=object)
    one, other = shapely.STRtree(shapes).query(shapes, predicate="intersects")
    for a, b in zip(one.tolist(), other.tolist(), strict=True):
        if a >= b:
            continue
        # Letters that meet in several places are held by all of them, and each must hold by itself.
        for meeting, width in meetings(shapes[a], shapes[b]):
            if width >= _BLENDED_BRIDGES * bridge_mm:
                continue
            work.joints.append(meeting)
            if width < _SURE_SHARE * stroke_mm:
                _drawn_over(work, (shapes[a], shapes[b]), meeting, stroke_mm)


def _drawn_over(
    work: _Work, pair: tuple[shapely.Geometry, shapely.Geometry], meeting: shapely.Geometry, stroke_mm: float
) -> None:
    """What is too fine about a meeting of two letters drawn again with a pen that holds."""
    # What the wider box cuts off ends at its edge, which is no end of a stroke: that is left out again. Where
    # two letters only touch there is no box to be grown, but its sides can be moved.
    low_x, low_y, high_x, high_y = meeting.bounds
    around, near = (
        shapely.box(low_x - room, low_y - room, high_x + room, high_y + room)
        for room in (2.5 * stroke_mm, 1.5 * stroke_mm)
    )
    both = bodies_of(*(shapely.intersection(one, around) for one in pair))
    pen = pen_over_thin(both, stroke_mm, cap_height=_STROKES_HIGH * stroke_mm, sagitta=0.02 * stroke_mm)
    fresh = bodies_of(shapely.intersection(pen, near).difference(both))
    if not fresh.is_empty:
        work.add("join", fresh)


#: A meeting that is narrower than so many strokes is looked at, as what leads to it may be finer still.
_SURE_SHARE = 1.3
#: A letter is about so many strokes high (common practice, no source).
_STROKES_HIGH = 8.0


def _own_middles(layout: Layout, gap_mm: float) -> shapely.Geometry:
    """The closed middles of the letters that stay open, which nothing that is added may fill."""
    middles = _middles(layout.shapes)
    return shapely.union_all([hole for hole in middles if not hole.buffer(-gap_mm / 2.0).is_empty])


def _without(shapes: Sequence[shapely.Geometry], middles: shapely.Geometry) -> list[shapely.Geometry]:
    """Shapes without what of them would fill middles."""
    return [
        part
        for shape in shapes
        for part in (bodies_of(shape.difference(middles)).geoms if shape.intersects(middles) else [shape])
    ]


def _round_out(work: _Work, bridge_mm: float, marks: Sequence[shapely.Polygon]) -> None:
    """Round the notches beside every joint; beside marks only their own, a little, and never between two of
    them: a dot that melts into a neighbour is none."""
    joints = blends(work.outlines, work.joints, radius=_BLEND_SHARE * bridge_mm)
    about_marks = blends(work.outlines, work.held_marks, radius=_MARK_BLEND_SHARE * bridge_mm)
    fresh = [
        notch
        for most, notches in ((0, joints), (1, about_marks))
        for notch in notches
        if sum(shapely.intersects(notch, mark) for mark in marks) <= most
    ]
    if fresh:
        work.add("join", *_without(fresh, work.kept_open))


def _loops(work: _Work, layout: Layout, soundness: Soundness, gap_mm: float, stroke_mm: float) -> None:
    if soundness.loop == "none":
        return
    slim = shapely.union_all(work.holds_no_loop) if work.holds_no_loop else None
    found = hung(
        work.outlines,
        place=soundness.loop,
        hole=soundness.loop_hole_mm,
        wall=soundness.loop_wall_mm,
        gap=_LOOP_GAP_SHARE * gap_mm,
        stroke=stroke_mm,
        ends=_first_and_last(layout, slim),
        avoid=slim,
        bar=shapely.union_all(work.bars) if work.bars else None,
    )
    before = work.outlines
    fresh: list[tuple[str, shapely.Geometry]] = []
    for one in found:
        if one.carrier is not None:
            fresh.extend(("carrier", part) for part in _without([one.carrier], work.kept_open))
        fresh.append(("loop", one.ring))
    work.add_all(fresh)
    openings = shapely.union_all([one.opening for one in found])
    corners: list[shapely.Geometry] = []
    for one in found:
        meetings = [shapely.intersection(one.ring, before)]
        if one.carrier is not None:
            meetings.append(shapely.intersection(one.carrier, before))
            meetings.append(shapely.intersection(one.ring, one.carrier))
        # Where the stroke is finer than the ring, the corners beside it make up for it.
        lacking = max(soundness.loop_wall_mm - one.hold, 0.0)
        radius = _LOOP_BLEND_SHARE * soundness.loop_wall_mm + lacking / 2.0
        notches = blends(work.outlines, meetings, radius=radius)
        # What is larger is no corner beside the ring but a hollow of the letter: it stays, if the rest holds.
        if any(notch.area > _CORNER_SHARE * radius**2 for notch in notches):
            smaller = blends(work.outlines, meetings, radius=radius / 2.0)
            if held_by(one, shapely.union_all([work.outlines, *smaller])) >= soundness.loop_wall_mm:
                notches = smaller
        kept = (bodies_of(notch.difference(openings).difference(work.kept_open)) for notch in notches)
        corners.extend(part for several in kept for part in several.geoms)
    work.add("join", *corners)
    work.outlines = bodies_of(work.outlines.difference(openings))
    work.opened.extend(one.opening for one in found)
    work.loops = tuple(replace(one, hold=held_by(one, work.outlines)) for one in found)
    work.said.extend(_said_of(work.loops, soundness))


def _said_of(loops: Sequence[Loop], soundness: Soundness) -> Iterator[str]:
    """How a piece hangs, for people."""
    where = {
        "ends": "near either end",
        "balanced": "over the centre of its weight",
        "left": "at the left end",
    }
    what = f"{'two loops' if len(loops) == 2 else 'a loop'} of {soundness.loop_hole_mm:.2f} mm"
    carried = sum(one.carrier is not None for one in loops)
    own = {0: "", 1: ", on a stroke of its own", 2: ", on strokes of their own"}[carried]
    if len(loops) == 2 and carried == 1:
        own = ", one on a stroke of its own"
    yield f"{what} {where[soundness.loop]}{own}"


def _first_and_last(
    layout: Layout, slim: shapely.Geometry | None
) -> tuple[shapely.Geometry, shapely.Geometry] | None:
    """The letters at either end, without their accents and without signs that are no letters."""
    letters = [
        (shape.bounds, shape)
        for mark, shape in zip(layout.marks, layout.shapes, strict=True)
        if not shape.is_empty and (mark.is_artwork or layout.text[mark.cluster : mark.cluster + 1].isalnum())
    ]
    if not letters:
        return None
    first = min(letters, key=lambda one: one[0][0])[1]
    last = max(letters, key=lambda one: one[0][2])[1]
    if slim is None:
        return first, last
    bare = first.difference(slim), last.difference(slim)
    return (first, last) if bare[0].is_empty or bare[1].is_empty else bare


#: A loop keeps so many gaps from what does not hold it: corners beside it are rounded out afterwards.
_LOOP_GAP_SHARE = 1.25
#: Radius of the rounded corners beside a loop, as a share of its wall, and their area at most, as a share of
#: that radius squared.
_LOOP_BLEND_SHARE, _CORNER_SHARE = 0.6, 1.0


def _specks(layout: Layout, outlines: shapely.MultiPolygon, gap_mm: float) -> list[shapely.Polygon]:
    """Openings that are nowhere so wide that they stay open, and that no letter has by itself, unless it is a
    mere eyelet where a pen turned."""
    holes = [shapely.Polygon(hole) for body in outlines.geoms for hole in body.interiors]
    small = [hole for hole in holes if hole.buffer(-gap_mm / 2.0).is_empty]
    if not small:
        return []
    tiny = _EYELET_SHARE * layout.height_mm**2
    own = [middle for middle in _middles(layout.shapes) if middle.area > tiny]
    # A hair more, so that what is filled and what is around it are one.
    return [hole.buffer(1e-6, join_style="mitre") for hole in small if not any(o.covers(hole) for o in own)]


#: Area of an eyelet, as a share of a capital's height squared: that of the finest e is several times larger.
_EYELET_SHARE = 0.002


def _middles(shapes: Sequence[shapely.MultiPolygon]) -> list[shapely.Polygon]:
    return [shapely.Polygon(hole) for s in shapes for body in s.geoms for hole in body.interiors]

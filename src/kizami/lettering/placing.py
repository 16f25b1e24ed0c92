"""Placing a setting on an area: its outlines at any height, and whether they keep their clearance."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely

from kizami.artwork.artwork import Artwork
from kizami.blanks.area import Area
from kizami.lettering.arrangement import arrange
from kizami.lettering.block import Block, Mark, draw, lines_of_mark, scaled
from kizami.lettering.drawing_together import drawn_together
from kizami.lettering.fit_plan import HEIGHT_STEP_MM, FitPlan, Step
from kizami.lettering.layout import PlacedMark
from kizami.lettering.level import Level
from kizami.lettering.request import Recess, Request, Setting, Values, whole_steps
from kizami.lettering.round_about import (
    ONCE,
    Filling,
    OneTurn,
    Repeated,
    Sector,
    Spread,
    Turn,
    ornament_of,
    set_round,
)
from kizami.lettering.shapes import (
    STRAIGHT,
    Filled,
    Letter,
    LetterShape,
    Shaped,
    Straight,
    is_scale_free,
    shape_letters,
    turned_about_middle,
)
from kizami.lettering.typeface import join_shapes
from kizami.lettering.unit_drawings import Drawing, Outlines, Unit, array_of, middle_of, placed_marks
from kizami.lettering.units import has_joined_units
from kizami.prepared import prepared

__all__ = ["Placing"]

#: A gap is wider than it may be by more than this, cap heights.
_HARDLY_WIDER = 1e-9
#: Wording that comes round to itself is parted as words are, cap heights: 6/10 of the height (ISO 3098-1,
#: type B, from memory of it). Several words are parted by more than they are from each other (common
#: practice, no source).
_PARTED, _PARTED_WORDS = 0.6, 0.9


class Placing:
    """One request on one area: settings are drawn once and tried at many heights."""

    def __init__(
        self,
        request: Request,
        area: Area,
        plan: FitPlan,
        *,
        sagitta_mm: float,
        thicker_mm: float,
        recess: Recess | None = None,
    ) -> None:
        self.request, self.area, self.plan, self.sagitta_mm = request, area, plan, sagitta_mm
        self.recess = recess
        self._clearance_mm = round(plan.clearance_mm + thicker_mm, 4)
        self.region = area.clear_region(self._clearance_mm)
        arrangement = request.arrangement
        self._moved = np.array([arrangement.along_mm, arrangement.across_mm])
        self.anchor = np.array(area.anchor) + self._moved
        straight = isinstance(request.arrangement.shape, Straight) and request.arrangement.level
        self.level = Level.of(area) if straight else None
        self._turn_region()
        self._units: dict[tuple[Setting, float, float], Unit] = {}
        self._drawings: dict[tuple[Setting, float, float, str], Drawing] = {}
        self._turns: dict[tuple[Setting, Filling], Turn] = {}
        self._turn_middles: dict[Setting, float] = {}
        self._blocks: dict[tuple[Setting, Values], Block] = {}
        self._readings: dict[tuple[Setting, float], Block] = {}
        self._found: dict[tuple[Setting, Values], bool] = {}
        self._tries: dict[tuple[Setting, Values], list[Outlines]] = {}

    def _turn_region(self) -> None:
        turn, period = self.request.arrangement.turn, self.area.surface.period_mm
        if isinstance(turn, Sector) and self.level is not None:
            wedge = self.area.wedge(turn.angle_deg / 720.0 * self.level.apex.turn_rad)
            self.region = self.region.intersection(self.area.turned(wedge, turn.direction_deg / 360.0))
        elif isinstance(turn, Sector) and period is not None:
            self.anchor = self.anchor + np.array([turn.direction_deg / 360.0 * period, 0.0])
            half = turn.angle_deg / 720.0 * period
            sector = shapely.box(self.anchor[0] - half, -1e6, self.anchor[0] + half, 1e6)
            self.region = self.region.intersection(sector)
        self.region = prepared(self.region)

    @property
    def is_spread(self) -> bool:
        return isinstance(self.request.arrangement.turn, Spread) and self.area.is_closed

    @property
    def is_turned(self) -> bool:
        """The outlines change with the height by more than their size."""
        bent = self.level is not None or not is_scale_free(self.request.arrangement.shape)
        return self.is_spread or bool(self.request.overlap_mm) or bent

    def fits(self, candidate: Setting, values: Values) -> bool:
        """Whether a setting keeps its clearance."""
        known = self._found.get((candidate, values))
        if known is None:
            known = self._found[candidate, values] = self._fits(candidate, values)
        return known

    def _fits(self, candidate: Setting, values: Values) -> bool:
        if self.is_spread:
            if self.spread_tracking(candidate, values) < self._least_tracking - 1e-9:
                return False
        elif not self.is_turned:
            unit = self.unit(candidate, values)
            if unit.outlines.is_empty:
                return False
            scale = values.height * HEIGHT_STEP_MM
            placed = [
                shapely.transform(unit.outlines, lambda xy, a=anchor: (xy - unit.centre) * scale + a)
                for anchor in self._anchors()
            ]
            return (
                all(bool(shapely.covers(self.region, outlines)) for outlines in placed)
                and self._copies_apart(unit, values)
                and self._recess_has_room(placed)
            )
        copies = self._tried(candidate, values)
        return (
            bool(copies)
            and all(self._covered(inked) for inked in copies)
            and self._apart(copies, values)
            and self._recess_has_room([outline for inked in copies for outline in inked])
        )

    def _recess_has_room(self, outlines: Sequence[shapely.MultiPolygon]) -> bool:
        """Whether the recess around all of the lettering keeps away from edges and keep-outs."""
        if self.recess is None:
            return True
        around = self.recess.around(*shapely.total_bounds(outlines).tolist())
        return bool(shapely.covers(prepared(self.area.clear_region(self.recess.clear_mm)), around))

    def beyond_mm(self, outlines: shapely.MultiPolygon) -> float:
        """How far outlines, with their recess, reach beyond the room that they have; 0 when they do not."""
        region, whole = self.region, outlines
        if shapely.covers(region, whole) and self.recess is not None:
            region = prepared(self.area.clear_region(self.recess.clear_mm))
            whole = self.recess.around(*outlines.bounds)
        if region.is_empty:
            low_u, low_v, high_u, high_v = whole.bounds
            return float(max(high_u - low_u, high_v - low_v) / 2.0)
        if shapely.covers(region, whole):
            return 0.0
        return float(shapely.distance(region, shapely.points(shapely.get_coordinates(whole))).max())

    def height_in_the_box(self, candidate: Setting, values: Values) -> int:
        """The height at which outlines as they are at another one would keep to the box of their room.

        It is near the greatest that fits, and decides nothing; 0 where nothing is to be seen of it.
        """
        copies = self._tried(candidate, values)
        if not copies or self.region.is_empty:
            return 0
        low_u, low_v, high_u, high_v = shapely.total_bounds(copies[0])
        middle = np.array([low_u + high_u, low_v + high_v]) / 2.0
        half = np.array([high_u - low_u, high_v - low_v]) / 2.0
        bounds = np.array(self.region.bounds)
        room = np.minimum(middle - bounds[:2], bounds[2:] - middle)
        return max(0, math.floor(values.height * float(np.min(room / np.maximum(half, 1e-9))) + 1e-9))

    def _tried(self, candidate: Setting, values: Values) -> list[Outlines]:
        """The inked outlines of a setting in place, copy by copy, as fine as the greatest height asks."""
        tried = self._tries.get((candidate, values))
        if tried is None:
            tried = self._tries[candidate, values] = self._tried_once(candidate, values)
        return tried

    def _tried_once(self, candidate: Setting, values: Values) -> list[Outlines]:
        block, height = self.block(candidate, values), values.height_mm
        flat, inked = self._drawn(candidate, values, block)
        if not len(flat):
            return []
        flat = shapely.transform(flat, lambda xy: xy * height)
        letters = self._letters([block.marks[i] for i in inked], flat, height)
        if self.level is not None:
            level = self.level
            middle = middle_of(flat)[1]
            shaped = shape_letters(
                letters,
                level.arc(middle),
                height_mm=height,
                sagitta_mm=self.sagitta_mm,
                joined=self._joined(block),
                as_spaced=self.is_spread,
            )
            stood = shapely.transform(array_of(shaped.outlines), lambda xy: xy + self._level_offset(middle))
            return [
                shapely.transform(stood, lambda uv, w=share: level.turned(uv, w))
                for share in self._level_shares()
            ]
        shaped = self._shaped(letters, block, height, self.sagitta_mm)
        outlines = array_of(shaped.outlines)
        centre = middle_of(outlines)
        return [shapely.transform(outlines, lambda xy, a=a: xy - centre + a) for a in self._anchors()]

    def _drawn(self, candidate: Setting, values: Values, block: Block) -> tuple[Outlines, np.ndarray]:
        """The inked outlines of a block at a cap height of 1, and the places of their marks.

        Between two heights letters only move against each other, so they are drawn once.
        """
        # Right round, the height says how often the wording stands.
        key = (candidate, values.tracking, values.width, block.text)
        known = self._drawings.get(key)
        if known is None:
            every = array_of(draw(block, sagitta=self.sagitta_mm / self.plan.greatest_height_mm))
            inked = np.flatnonzero(~shapely.is_empty(every))
            known = self._drawings[key] = Drawing(marks=block.marks, outlines=every[inked], inked=inked)
        moves = np.array([(m.x - b.x, m.y - b.y) for m, b in zip(block.marks, known.marks, strict=True)])
        if not moves.any():
            return known.outlines, known.inked
        points, owner = shapely.get_coordinates(known.outlines, return_index=True)
        moved = shapely.set_coordinates(known.outlines.copy(), points + moves[known.inked][owner])
        return moved, known.inked

    def parted_mm(self, values: Values) -> float | None:
        """How far the wording stands from where it begins again; None where it does not come round.

        Nearer than words are to each other the end would be read on into the beginning.
        """
        turn = self.request.arrangement.turn
        if not (isinstance(turn, Repeated) or (isinstance(turn, OneTurn) and self.area.is_closed)):
            return None
        words = self.request.text.split()
        # A logo is read by itself.
        parted = 0.0 if not words else _PARTED if len(words) == 1 else _PARTED_WORDS
        spaced = max(values.tracking, 0.0) if words else 0.0
        return max(self.plan.clearance_mm, (parted + spaced) * values.height_mm)

    def _apart(self, copies: list[Outlines], values: Values) -> bool:
        """Whether outlines keep their distance from where they stand again."""
        parted_mm = self.parted_mm(values)
        if parted_mm is None:
            return True
        first = shapely.MultiPolygon([body for shape in copies[0] for body in shape.geoms])
        if len(copies) > 1:
            again = shapely.MultiPolygon([body for shape in copies[1] for body in shape.geoms])
        elif self.area.is_closed:
            again = self.area.turned(first, 1.0)
        else:
            return True
        return bool(shapely.distance(first, again) >= parted_mm)

    def _covered(self, inked: Outlines) -> bool:
        if self.is_spread:
            # A letter may stand across the line at which the turn is cut open.
            period = self.area.surface.period_mm
            if period is not None:
                low = self.area.outline.bounds[0]
                inked = array_of([self.area.turned(s, -_turns_from(s, low, period)) for s in inked])
            return bool(shapely.covers(self.area.clear_turns(self._clearance_mm), inked).all())
        return bool(shapely.covers(self.region, inked).all())

    def _copies_apart(self, unit: Unit, values: Values) -> bool:
        turn, period = self.request.arrangement.turn, self.area.surface.period_mm
        parted_mm = self.parted_mm(values)
        if parted_mm is None or period is None:
            return True
        times = turn.times if isinstance(turn, Repeated) else 1
        gap = period / times - 2.0 * unit.half_box[0] * values.height * HEIGHT_STEP_MM
        return bool(gap >= parted_mm)

    def _anchors(self) -> list[np.ndarray]:
        turn, period = self.request.arrangement.turn, self.area.surface.period_mm
        if not isinstance(turn, Repeated) or period is None:
            return [self.anchor]
        low = self.area.outline.bounds[0]
        shares = [(place - (turn.times - 1) / 2.0) / turn.times for place in range(turn.times)]
        out = []
        for share in shares:
            u = low + (self.anchor[0] + share * period - low) % period
            out.append(np.array([u, self.anchor[1]]))
        return sorted(out, key=lambda a: float(a[0]))

    @property
    def _least_tracking(self) -> float:
        return self.plan.tightest if Step.TIGHTEN in self.plan.steps else min(self.plan.tracking, 0.0)

    def spread_tracking(self, candidate: Setting, values: Values) -> float:
        """What is added to every gap so that the wording fills the turn, cap heights."""
        return self._filled(candidate, values).tracking_for(self._period(candidate, values))

    def is_too_far_apart(self, candidate: Setting, values: Values) -> bool:
        """Whether letters that are spread stand further apart than they may."""
        return self.is_spread and (
            self.spread_tracking(candidate, values) > self._spread.widest_gap + _HARDLY_WIDER
        )

    def times(self, candidate: Setting, values: Values) -> int:
        """How often the wording stands around."""
        if self.is_spread:
            return self.filling(candidate, values).times
        turn = self.request.arrangement.turn
        return turn.times if isinstance(turn, Repeated) else 1

    def _period(self, candidate: Setting, values: Values) -> float:
        """Length of the turn in cap heights of letters as wide as they were drawn."""
        height_mm = values.height * HEIGHT_STEP_MM
        period_mm = self.area.surface.period_mm
        if self.level is not None:
            # The baseline is shorter the nearer it runs to the apex.
            middle = self._turn_middle(candidate) * height_mm
            period_mm = self.level.apex.turn_rad * self.level.baseline_mm(middle)
        assert period_mm is not None
        return period_mm / height_mm / values.width

    def _turn_middle(self, candidate: Setting) -> float:
        """How high the middle of spread letters stands above their baseline, cap heights."""
        middle = self._turn_middles.get(candidate)
        if middle is None:
            shapes = draw(self._turn(candidate).block, sagitta=1e-3)
            inked = [s for s in shapes if not s.is_empty]
            middle = self._turn_middles[candidate] = float(middle_of(array_of(inked))[1]) if inked else 0.5
        return middle

    @property
    def _spread(self) -> Spread:
        spread = self.request.arrangement.turn
        assert isinstance(spread, Spread)
        return spread

    def _turn(self, candidate: Setting, filling: Filling = ONCE) -> Turn:
        turn = self._turns.get((candidate, filling))
        if turn is None:
            style = self.request.arrangement.style(0.0)
            turn = set_round(candidate.text, candidate.typeface, style, self._spread, filling)
            self._turns[candidate, filling] = turn
        return turn

    def filling(self, candidate: Setting, values: Values) -> Filling:
        """What the turn is filled with at these values."""
        style = self.request.arrangement.style(0.0)
        run = candidate.typeface.shape(ornament_of(self._spread), style)
        ornament = sum(candidate.typeface.advance(g.glyph) for g in run) / candidate.typeface.cap_height_upem
        period = self._period(candidate, values)
        return self._turn(candidate).filling_for(period, self._spread, ornament=ornament)

    def _filled(self, candidate: Setting, values: Values) -> Turn:
        return self._turn(candidate, self.filling(candidate, values))

    def _letters(
        self, marks: Sequence[Mark], outlines: Sequence[shapely.MultiPolygon] | Outlines, height_mm: float
    ) -> list[Letter]:
        """Marks as a shape takes them; with the middles of their strokes where they are drawn anew."""
        filled = isinstance(self.request.arrangement.shape, Filled)
        # Lines under each other are bent together.
        anew = filled and len({round(m.y, 6) for m in marks if not isinstance(m.source, Artwork)}) < 2
        return [
            Letter(
                outline=s,
                cluster=m.cluster,
                lines=lines_of_mark(m) if anew else None,
                line_mm=m.line_y * height_mm,
            )
            for s, m in zip(outlines, marks, strict=True)
        ]

    def _shaped(self, letters: list[Letter], block: Block, height_mm: float, sagitta_mm: float) -> Shaped:
        """Letters on their shape, turned as asked."""
        arrangement = self.request.arrangement
        shape: LetterShape = arrangement.shape
        joined = self._joined(block)
        shaped = shape_letters(letters, shape, height_mm=height_mm, sagitta_mm=sagitta_mm, joined=joined)
        # What goes right round an area has no middle to be turned about.
        return shaped if self.is_spread else turned_about_middle(shaped, arrangement.turned_deg)

    def _joined(self, block: Block) -> bool:
        """Whether letters of it run into each other, so that a bent line bends them."""
        faces = {mark.source for mark in block.marks if not isinstance(mark.source, Artwork)}
        return any(has_joined_units(block.text, face.hand_joins) for face in faces)

    def box_bound(self, candidate: Setting, values: Values) -> int:
        """A bound on the height from the boxes alone: it saves tests, it never decides."""
        if self.region.is_empty:
            return 0
        half_box = self.unit(candidate, values).half_box
        low_u, low_v, high_u, high_v = self.region.bounds
        bound = math.inf
        for anchor in self._anchors():
            room = np.minimum(anchor - (low_u, low_v), (high_u, high_v) - anchor)
            heights = np.divide(room, half_box, out=np.full(2, np.inf), where=half_box > 0)
            bound = min(bound, float(heights.min()))
        return whole_steps(max(0.0, min(bound, 1e6)))

    def block(self, candidate: Setting, values: Values) -> Block:
        """The block of a setting, condensed and turned as asked."""
        known = self._blocks.get((candidate, values))
        if known is None:
            known = self._blocks[candidate, values] = self._block(candidate, values)
        return known

    def _block(self, candidate: Setting, values: Values) -> Block:
        block = self._reading(candidate, values)
        if self.request.overlap_mm:
            height_mm = values.height_mm
            block = drawn_together(block).joined(
                wanted=self.request.joined_by_mm / height_mm,
                depth=self.request.overlap_mm / height_mm,
                gap=self.request.open_mm / height_mm,
            )
        arrangement = self.request.arrangement
        if values.width != 1.0:
            block = scaled(block, values.width, 1.0)
        if arrangement.upside_down:
            block = scaled(block, -1.0)
        return scaled(block, -1.0, 1.0) if arrangement.mirrored else block

    def _reading(self, candidate: Setting, values: Values) -> Block:
        """The block of a setting as it reads."""
        request, plan = self.request, self.plan
        if self.is_spread:
            return self._filled(candidate, values).spread_over(self._period(candidate, values))
        known = self._readings.get((candidate, values.tracking))
        if known is None:
            known = self._readings[candidate, values.tracking] = arrange(
                candidate.lines,
                candidate.typeface,
                request.arrangement,
                text=candidate.text,
                tracking=values.tracking,
                leading=plan.leading,
                artwork=request.artwork,
            )
        return known

    def unit(self, candidate: Setting, values: Values) -> Unit:
        """The outlines of a candidate at a cap height of 1, as fine as the greatest height asks."""
        key = (candidate, values.tracking, values.width)
        unit = self._units.get(key)
        if unit is None:
            block = self.block(candidate, values)
            # Outlines as fine as the greatest height asks are good for every height that is tried,
            # and a shape that grows with the letters is bent once.
            sagitta = self.sagitta_mm / self.plan.greatest_height_mm
            letters = self._letters(block.marks, draw(block, sagitta=sagitta), 1.0)
            shaped = self._shaped(letters, block, 1.0, sagitta)
            unit = self._units[key] = Unit.of(join_shapes(shaped.outlines))
        return unit

    def missing(self, candidate: Setting) -> tuple[int, ...]:
        """Characters that the typeface lacks."""
        values = Values(
            tracking=self.plan.tracking, width=1.0, height=whole_steps(self.plan.greatest_height_mm)
        )
        return self._reading(candidate, values).missing

    def placed(
        self, candidate: Setting, values: Values
    ) -> tuple[list[shapely.MultiPolygon], list[PlacedMark], tuple[float, ...]]:
        """Outlines, marks and stretch of a setting in place on the area, as fine as its height asks."""
        height = values.height_mm
        block = self.block(candidate, values)
        flat = [
            s if s.is_empty else shapely.transform(s, lambda xy: xy * height)
            for s in draw(block, sagitta=self.sagitta_mm / height)
        ]
        if self.level is not None:
            return self._placed_level(block, flat, height, self.level)
        letters = self._letters(block.marks, flat, height)
        shaped = self._shaped(letters, block, height, self.sagitta_mm)
        inked = [s for s in shaped.outlines if not s.is_empty]
        if not inked:
            return list(shaped.outlines), placed_marks(block, shaped, height, np.zeros(2)), shaped.stretch
        centre = middle_of(array_of(inked))
        shapes: list[shapely.MultiPolygon] = []
        marks: list[PlacedMark] = []
        for anchor in self._anchors():
            offset = anchor - centre
            shapes.extend(
                s if s.is_empty else shapely.transform(s, lambda uv, o=offset: uv + o)
                for s in shaped.outlines
            )
            marks.extend(placed_marks(block, shaped, height, offset))
        return shapes, marks, shaped.stretch * len(self._anchors())

    def _placed_level(
        self, block: Block, flat: list[shapely.MultiPolygon], height: float, level: Level
    ) -> tuple[list[shapely.MultiPolygon], list[PlacedMark], tuple[float, ...]]:
        """Outlines, marks and stretch of letters set along level lines about an apex."""
        inked = [s for s in flat if not s.is_empty]
        if not inked:
            straight = shape_letters(
                self._letters(block.marks, flat, height),
                STRAIGHT, height_mm=height, sagitta_mm=self.sagitta_mm,
            )  # fmt: skip
            return flat, placed_marks(block, straight, height, np.zeros(2)), straight.stretch
        middle = middle_of(array_of(inked))[1]
        letters = self._letters(block.marks, flat, height)
        shaped = shape_letters(
            letters,
            level.arc(middle),
            height_mm=height,
            sagitta_mm=self.sagitta_mm,
            joined=self._joined(block),
            as_spaced=self.is_spread,
        )
        offset = self._level_offset(middle)
        shapes: list[shapely.MultiPolygon] = []
        marks: list[PlacedMark] = []
        for share in self._level_shares():
            shapes.extend(
                s if s.is_empty else shapely.transform(s, lambda uv, w=share: level.turned(uv + offset, w))
                for s in shaped.outlines
            )
            for mark in placed_marks(block, shaped, height, offset):
                ((u, v),) = level.turned(np.array([[mark.u_mm, mark.v_mm]]), share)
                turned = mark.angle_rad + level.angle(share)
                marks.append(replace(mark, u_mm=float(u), v_mm=float(v), angle_rad=turned))
        return shapes, marks, shaped.stretch * len(self._level_shares())

    def _level_shares(self) -> list[float]:
        """By what shares of the turn the wording is moved along the level line, once for each copy."""
        turn = self.request.arrangement.turn
        shares = [0.0]
        if isinstance(turn, Repeated):
            shares = [(place - (turn.times - 1) / 2.0) / turn.times for place in range(turn.times)]
        elif isinstance(turn, Sector):
            shares = [turn.direction_deg / 360.0]
        assert self.level is not None
        moved = float(self._moved[0]) / (self.level.reach_mm * self.level.apex.turn_rad)
        return [share + moved for share in shares]

    def _level_offset(self, middle_mm: float) -> np.ndarray:
        """Where the middle of a level baseline stands, (u, v)."""
        assert self.level is not None
        offset: np.ndarray = self.level.offset(middle_mm) + np.array([0.0, self._moved[1]])
        return offset


def _turns_from(part: shapely.Geometry, low: float, period: float) -> int:
    """How many turns the middle of a part lies from the one that begins at `low`."""
    left, _, right, _ = part.bounds
    turns: int = math.floor(((left + right) / 2.0 - low) / period)
    return turns

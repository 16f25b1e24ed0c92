"""A layout: wording set as outlines in the unrolled millimetres of an area."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
import shapely

from kizami.artwork.artwork import Artwork
from kizami.lettering.gathering import letters_at
from kizami.lettering.typeface import Typeface, condensed_facts
from kizami.outlines.alike import measure_alike
from kizami.outlines.curves import FloatArray, bodies_of, snapped
from kizami.outlines.hanging import Loop
from kizami.outlines.narrow import Places, ShapeFacts

__all__ = ["Added", "FitStep", "Layout", "PlacedMark"]


@dataclass(frozen=True, kw_only=True, slots=True)
class PlacedMark:
    """One glyph, or a logo, in place.

    Attributes
    ----------
    source : what it is drawn from
    glyph : number in the typeface; 0 for a logo
    cluster : index of its first character in the wording
    u_mm, v_mm : origin, unrolled mm
    scale_mm : mm a cap height of the source
    angle_rad : how far it is turned about its origin, anticlockwise
    plain : its outline is the source's own, only scaled, turned and moved
    condensed : share of its width, where its outline is the source's own but for that; 0 where it is neither
    facts : thinnest stroke and narrowest gap in place, where another outline has been measured already
    """

    source: Typeface | Artwork
    glyph: int
    cluster: int
    u_mm: float
    v_mm: float
    scale_mm: float
    plain: bool
    angle_rad: float = 0.0
    condensed: float = 0.0
    facts: ShapeFacts | None = None

    @property
    def is_artwork(self) -> bool:
        """It is a logo or a code, no letter."""
        return isinstance(self.source, Artwork)

    @property
    def turn(self) -> FloatArray:
        """What points about its origin are multiplied by, (2, 2)."""
        cos, sin = math.cos(self.angle_rad), math.sin(self.angle_rad)
        return np.array([[cos, sin], [-sin, cos]])

    def place(self, shape: shapely.MultiPolygon) -> shapely.MultiPolygon:
        """A shape about the origin where the mark stands.

        One that is not turned keeps its form to the last bit, see `kizami.outlines.curves.snapped`.
        """
        origin, turn = snapped(np.array([self.u_mm, self.v_mm])), self.turn
        if not self.angle_rad:
            return shapely.transform(shape, lambda xy: snapped(xy) + origin)
        return shapely.transform(shape, lambda xy: xy @ turn + origin)

    def place_facts(self, facts: ShapeFacts, unit: float = 1.0) -> ShapeFacts:
        """What was measured about the origin, in `unit` mm, where the mark stands."""
        return facts.placed(self.turn, unit, (self.u_mm, self.v_mm))


@dataclass(frozen=True, kw_only=True, slots=True)
class FitStep:
    """One step of the fit plan that was taken, in words, with the cap height after it."""

    name: str
    said: str
    height_mm: float


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Added:
    """What was drawn besides the letters, to hold them or to hang them by.

    Attributes
    ----------
    kind : “bridge”, “stalk” of a dot, “carrier” of a loop, “join” for what only rounds out a corner or
        strengthens a meeting, “filling”, “base bar”, “underline”, “rim”, “loop”, or “ornament”
    outline : unrolled mm
    """

    kind: str
    outline: shapely.MultiPolygon


@dataclass(frozen=True, eq=False, kw_only=True)
class Layout:
    """Wording in place.

    Attributes
    ----------
    text : what was set
    height_mm : cap height; of a logo that stands alone its own height
    lowest_height_mm : lowest height that the plan allows for the cut that was used
    marks : in visual order
    shapes : one outline a mark, unrolled mm; empty for a space
    outlines : all of them as one geometry, with what ties them together
    steps : what the fit plan did
    fits : the clearance is kept at this height
    beyond_mm, beyond_said : where it does not fit, by how much, and what that means
    missing : indices of characters that the typeface lacks
    stretch : how much each mark was bent, see `kizami.lettering.shapes.Shaped`
    added : bridges, bars, loops, rims and ornaments, one by one
    opened : what was taken out of the letters again: bridges of pierced middles, openings of loops
    loops : that it hangs by, from left to right
    lowered : dots and accents that were brought to their letters, with the index of the letter
    loose_before : parts that nothing held before they were tied
    departure_mm : how far thickening moved an outline at most, each letter on its own origin
    area_change : by which share it made the area of the letters larger, below 0 smaller
    closed : closed middles and gaps between letters that thickening closed
    ornaments : closed shapes among the outlines that are no letters
    tracking, width : that it came to: added between letters, cap heights, and the share of their width
    turn_gap : what is added to every gap of wording that is spread over a turn, cap heights; None of other
    times : so often it stands around
    """

    text: str
    height_mm: float
    lowest_height_mm: float
    marks: tuple[PlacedMark, ...]
    shapes: tuple[shapely.MultiPolygon, ...]
    outlines: shapely.MultiPolygon
    steps: tuple[FitStep, ...]
    fits: bool
    missing: tuple[int, ...]
    beyond_mm: float = 0.0
    beyond_said: str = ""
    stretch: tuple[float, ...] = ()
    added: tuple[Added, ...] = ()
    opened: tuple[shapely.Polygon, ...] = ()
    loops: tuple[Loop, ...] = ()
    lowered: tuple[tuple[int, shapely.Polygon], ...] = ()
    loose_before: int = 0
    departure_mm: float = 0.0
    area_change: float = 0.0
    closed: int = 0
    ornaments: shapely.MultiPolygon = field(default_factory=shapely.MultiPolygon)
    tracking: float = 0.0
    width: float = 1.0
    turn_gap: float | None = None
    times: int = 1

    @property
    def is_empty(self) -> bool:
        """Nothing to make: no wording, or none of it in the typeface."""
        return bool(self.outlines.is_empty)

    @property
    def lettering(self) -> shapely.MultiPolygon:
        """The outlines without ornaments."""
        if self.ornaments.is_empty:
            return self.outlines
        return bodies_of(self.outlines.difference(self.ornaments))

    @property
    def ties(self) -> shapely.MultiPolygon:
        """All that was added, as one geometry."""
        return bodies_of(*(one.outline for one in self.added)) if self.added else shapely.MultiPolygon()

    @property
    def ink_bounds(self) -> tuple[float, float, float, float]:
        """(u low, v low, u high, v high) of the outlines, mm."""
        low_u, low_v, high_u, high_v = self.outlines.bounds
        return (low_u, low_v, high_u, high_v)

    @cached_property
    def contours(self) -> tuple[FloatArray, ...]:
        """Closed outlines, arrays of shape (n, 2); bodies anticlockwise, holes clockwise."""
        return tuple(
            np.asarray(ring.coords)[:-1]
            for body in self.outlines.geoms
            for ring in (body.exterior, *body.interiors)
        )

    @cached_property
    def narrow(self) -> tuple[ShapeFacts, ...]:
        """Thinnest stroke and narrowest gap of every mark, in place, mm.

        A glyph that is only scaled is measured once for its typeface; one that was bent, condensed
        or thickened is measured as it is.
        """
        return tuple(self._narrow(mark, shape) for mark, shape in zip(self.marks, self.shapes, strict=True))

    def _narrow(self, mark: PlacedMark, shape: shapely.MultiPolygon) -> ShapeFacts:
        if shape.is_empty:
            return ShapeFacts.of_nothing()
        if mark.facts is not None:
            return mark.facts
        if isinstance(mark.source, Artwork) and mark.source.modules:
            # The squares of a code meet at corners; what must hold is one square.
            module = mark.scale_mm / mark.source.modules
            square = Places.discs([(shape.centroid.x, shape.centroid.y, module)])
            return ShapeFacts(strokes=square, gaps=square, middles=Places.none())
        if isinstance(mark.source, Artwork) or not (mark.plain or mark.condensed):
            return measure_alike(shape, cap_height=mark.scale_mm)
        unit = mark.scale_mm / mark.source.cap_height_upem
        if not mark.plain:
            return mark.place_facts(condensed_facts(mark.source, mark.glyph, mark.condensed), unit)
        return mark.place_facts(mark.source.facts(mark.glyph), unit)

    def measured(self) -> Layout:
        """The same with what is narrow kept with its marks: the next change measures only what it changed."""
        kept = (
            mark if mark.plain or mark.facts is not None or shape.is_empty else replace(mark, facts=facts)
            for mark, shape, facts in zip(self.marks, self.shapes, self.narrow, strict=True)
        )
        return replace(self, marks=tuple(kept))

    def letter(self, cluster: int) -> str:
        """What stands at a place of the wording, for people."""
        return self.text[cluster] if cluster < len(self.text) else "the logo"

    def letters(self, cluster: int) -> str:
        """All characters that are drawn together from a place of the wording on; "" for a logo."""
        return letters_at(self.text, cluster, (mark.cluster for mark in self.marks))

"""One area as it will be made: every part that stands or is cut, at its face and at its floor or top.

A drawing says what was meant. What is made has walls that slant, edges that are softened, a recess around
the letters, bridges and loops, and lies at a height above a surface that stretches. Builder, checks,
drawings and files take all of that from here, so that none of them can speak of something else.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely

from kizami.as_made.scale import Scale
from kizami.as_made.treatment import CutOut, Engraved, InRecess, Pierced, Raised, Scored, Treatment
from kizami.blanks.area import Area
from kizami.dividing.chains import Chain, chains_of
from kizami.lettering.layout import Layout
from kizami.outlines.curves import FloatArray
from kizami.outlines.shrinking import Level, thinnest_half_mm
from kizami.remembering import remembered

__all__ = ["AsMade", "End", "Part", "pull_of", "recess_outline"]

#: Share of half the thinnest stroke that softened edges and slanted walls may take; the rest stays face.
_INWARD_SHARE = 0.7
#: The thinnest half is found in steps of this, so no edge is told to be narrower than asked by less.
_FOUND_MM = 0.02


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class Part:
    """Something that stands, or is cut, by itself or as part of a larger body.

    Attributes
    ----------
    kind : “letter”, “logo”, “frame”, or the kind of what was added, see `kizami.lettering.layout.Added`
    outline : at the face, unrolled mm
    mark : number of the mark that it was drawn from, or None
    cluster : index of its first character in the wording, or None
    """

    kind: str
    outline: shapely.MultiPolygon
    mark: int | None = None
    cluster: int | None = None


@dataclass(frozen=True, kw_only=True, slots=True)
class End:
    """Where walls begin or end.

    Attributes
    ----------
    name : “face”, “floor”, “top” or “back”
    inward_mm : how far outlines have moved inward there
    height_mm : along the normal or the pull
    """

    name: str
    inward_mm: float
    height_mm: float


@dataclass(frozen=True, eq=False, kw_only=True)
class AsMade:
    """What is made on one area.

    Attributes
    ----------
    area : where
    layout : the wording with all that ties it
    treatment : how it meets the body
    pull : unit direction along which heights run, or None for the normal
    """

    area: Area
    layout: Layout
    treatment: Treatment
    pull: FloatArray | None = None

    @property
    def outlines(self) -> shapely.MultiPolygon:
        """All that stands or is cut at the face, letters, ties and ornaments, as bodies with holes."""
        return self.layout.outlines

    @cached_property
    def parts(self) -> tuple[Part, ...]:
        """What it consists of: letters in visual order, then what was added, then what stood there before."""
        layout, artwork = self.layout, "logo"
        letters = [
            Part(
                kind=artwork if mark.is_artwork else "letter",
                outline=shape,
                mark=number,
                cluster=None if mark.is_artwork else mark.cluster,
            )
            for number, (mark, shape) in enumerate(zip(layout.marks, layout.shapes, strict=True))
            if not shape.is_empty
        ]
        added = [Part(kind=one.kind, outline=one.outline) for one in layout.added if not one.outline.is_empty]
        frame = self.area.standing
        standing = [] if frame is None else [Part(kind="frame", outline=shapely.MultiPolygon([frame]))]
        return (*letters, *added, *standing)

    @cached_property
    def most_inward_mm(self) -> float:
        """How far softened edges and slanted walls may move inward, so that no stroke loses its face.

        No more is said than the treatment asks for: that is found with one look.
        """
        treatment = self.treatment
        asked = treatment.inward_mm if isinstance(treatment, Engraved | Raised) else 0.0
        if not asked:
            return 0.0
        return _INWARD_SHARE * thinnest_half_mm(self.outlines, enough_mm=asked / _INWARD_SHARE)

    @cached_property
    def levels(self) -> tuple[Level, ...]:
        """From the mouth down, or from the root up: what stands between."""
        treatment = self.treatment
        if isinstance(treatment, Engraved | Raised):
            return treatment.levels(self.most_inward_mm)
        if isinstance(treatment, InRecess):
            low, high = treatment.layer
            heights = (low - treatment.root_mm, high)
        elif isinstance(treatment, CutOut):
            heights = treatment.layer
        elif isinstance(treatment, Pierced):
            heights = (0.0, -self.area.through_mm)
        else:
            heights = (0.0, 0.0)
        return tuple(Level(inward_mm=0.0, height_mm=height) for height in heights)

    @property
    def asked_edge_mm(self) -> float:
        """Width of the softened edge that is asked for; 0 where edges are sharp."""
        treatment = self.treatment
        return treatment.edge_mm if isinstance(treatment, Raised) and treatment.edge != "sharp" else 0.0

    @cached_property
    def made_edge_mm(self) -> float:
        """Width of the softened edge that goes onto the thinnest stroke."""
        asked, treatment = self.asked_edge_mm, self.treatment
        if not asked or not isinstance(treatment, Raised):
            return 0.0
        made = min(asked, self.most_inward_mm, treatment.height_mm)
        return asked if asked - made < _FOUND_MM and self.most_inward_mm + _FOUND_MM >= asked else made

    @property
    def asked_draft_deg(self) -> float:
        """Slope of the walls that is asked for."""
        treatment = self.treatment
        if isinstance(treatment, Raised) or (isinstance(treatment, Engraved) and treatment.floor == "flat"):
            return treatment.draft_deg
        return 0.0

    @cached_property
    def made_draft_deg(self) -> float:
        """Slope of the walls that goes onto the thinnest stroke."""
        asked, treatment = self.asked_draft_deg, self.treatment
        if not asked or not isinstance(treatment, Engraved | Raised):
            return 0.0
        low, high = treatment.layer
        soft = self.made_edge_mm
        rise, room = high - low - soft, self.most_inward_mm - soft
        if rise <= 0 or room + _FOUND_MM >= rise * float(np.tan(np.radians(asked))):
            return asked
        return float(np.degrees(np.arctan(max(room, 0.0) / rise)))

    @cached_property
    def ends(self) -> tuple[End, ...]:
        """Face, and floor, top or back: between them walls are straight, so one of the two is narrowest.

        A pointed or rounded floor narrows by design; there only the face counts.
        """
        treatment = self.treatment
        if isinstance(treatment, InRecess):
            low, high = treatment.layer
            return (
                End(name="floor", inward_mm=0.0, height_mm=low),
                End(name="top", inward_mm=0.0, height_mm=high),
            )
        face = End(name="face", inward_mm=0.0, height_mm=0.0)
        if isinstance(treatment, Scored) or (isinstance(treatment, Engraved) and treatment.floor != "flat"):
            return (face,)
        last = self.levels[-1]
        names = {"engraved": "floor", "raised": "top", "pierced": "back", "cut-out": "top"}
        return (
            face,
            End(name=names[treatment.kind], inward_mm=last.inward_mm, height_mm=last.height_mm),
        )

    @cached_property
    def panel(self) -> shapely.Polygon | None:
        """The recess that is cut around the lettering, or None."""
        if not isinstance(self.treatment, InRecess) or self.outlines.is_empty:
            return None
        return recess_outline(self.outlines, self.treatment.margin_mm)

    @property
    def opening(self) -> shapely.Geometry:
        """All of the face that is changed: the recess where there is one, else the lettering itself."""
        return self.outlines if self.panel is None else self.panel

    @cached_property
    def chains(self) -> tuple[Chain, ...] | None:
        """Outlines at their heights from the face inward, see `kizami.dividing.chains`.

        None for what does not start on the face, has no floor or a pointed one.
        """
        treatment = self.treatment
        if isinstance(treatment, InRecess):
            panel = self.panel
            assert panel is not None
            floor, top = treatment.layer
            return (
                Chain(outlines=shapely.MultiPolygon([panel]), inward_mm=0.0, outside_mm=0.0, inside_mm=floor),
                Chain(outlines=self.outlines, inward_mm=treatment.margin_mm, outside_mm=floor, inside_mm=top),
            )
        if not isinstance(treatment, Engraved | Raised) or self.is_pointed:
            return None
        return tuple(chains_of(self.outlines, self.face_levels))

    @property
    def is_pointed(self) -> bool:
        """Its floor is a ridge where strokes are narrow, see `kizami.outlines.roof`."""
        return isinstance(self.treatment, Engraved) and self.treatment.floor == "pointed"

    def chains_around(self, outlines: shapely.MultiPolygon) -> tuple[Chain, ...] | None:
        """The chains of a part of the lettering; its walls and edges are those of the whole."""
        if outlines is self.outlines or not isinstance(self.treatment, Engraved | Raised) or self.is_pointed:
            return self.chains
        return tuple(chains_of(outlines, self.face_levels))

    @cached_property
    def face_levels(self) -> tuple[Level, ...]:
        """Levels from the face on, the outlines standing on the face as they are drawn."""
        way = -1.0 if self.treatment.sinks else 1.0
        beyond = [level for level in self.levels if level.height_mm * way > 0]
        return (Level(inward_mm=0.0, height_mm=0.0), *beyond)

    def place(self, uv: FloatArray, h: FloatArray) -> FloatArray:
        """Where unrolled places (n, 2) at heights (n,) are in space, (n, 3)."""
        if self.pull is None:
            return self.area.surface.place(uv, h)
        placed: FloatArray = self.area.surface.place(uv, np.zeros(len(uv))) + np.outer(h, self.pull)
        return placed

    @cached_property
    def scale(self) -> Scale:
        """How long things really are here."""
        return _scale(self.area, None if self.pull is None else tuple(self.pull.tolist()))


@remembered
def _scale(area: Area, pull: tuple[float, ...] | None) -> Scale:
    return Scale(area.surface, None if pull is None else np.array(pull))


def pull_of(area: Area) -> FloatArray:
    """The direction in which a mould is drawn off: the normal at the area's anchor, a unit vector."""
    at = np.array([area.anchor, area.anchor])
    foot, head = area.surface.place(at, np.array([0.0, 1.0]))
    pull: FloatArray = head - foot
    return pull / np.linalg.norm(pull)


def recess_outline(outlines: shapely.MultiPolygon, margin_mm: float) -> shapely.Polygon:
    """The recess around lettering: its box with rounded corners, the margin wide."""
    low_u, low_v, high_u, high_v = outlines.bounds
    return shapely.orient_polygons(shapely.box(low_u, low_v, high_u, high_v).buffer(margin_mm, quad_segs=16))

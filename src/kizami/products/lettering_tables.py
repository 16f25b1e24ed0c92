"""The tables of what is done with wording: how it is treated, arranged, fitted, made sound, adorned."""

from __future__ import annotations

import re
from typing import Annotated, Any, Literal, Self

import shapely
from pydantic import AfterValidator, Field, StrictBool, StrictInt, model_validator

from kizami.as_made.treatment import CutOut, Engraved, InRecess, Pierced, Raised, Scored
from kizami.blanks.ornaments import Border, Figure
from kizami.lettering.arrangement import Arrangement, LogoPlace, MonogramForm
from kizami.lettering.fit_plan import SMALLEST_TRIED_MM, FitPlan, Step, check_fit_plan
from kizami.lettering.round_about import WIDEST_GAP, OneTurn, Repeated, Sector, Spread, WhenWide
from kizami.lettering.shapes import MOST_STRETCH_FILLED, Arc, Arched, Filled, Path, Straight
from kizami.outlines.soundness import Soundness
from kizami.products.values import Points, Table, Within, written, wrong
from kizami.wording.dates import DATE_FORMS
from kizami.wording.names import FamilyPlace
from kizami.wording.plan import WordingKind, WordingPlan

__all__ = [
    "KINDS",
    "TREATMENT_TABLES",
    "AnyTreatment",
    "ArrangementTable",
    "FitTable",
    "OrnamentTable",
    "SoundnessTable",
    "WordingTable",
]


class EngravedTable(Table):
    """Cut into the body."""

    kind: Literal["engraved"]
    depth_mm: Annotated[float, Within(0.01, 50)]
    floor: Literal["flat", "pointed", "rounded"] = "flat"
    draft_deg: Annotated[float, Within(0, 45)] = 0.0
    makes = Engraved


class RaisedTable(Table):
    """Standing on the body."""

    kind: Literal["raised"]
    height_mm: Annotated[float, Within(0.01, 50)]
    root_mm: Annotated[float, Within(0.05, 50)]
    edge: Literal["sharp", "chamfer", "rounded"] = "sharp"
    edge_mm: Annotated[float, Within(0, 5)] = 0.0
    draft_deg: Annotated[float, Within(0, 45)] = 0.0
    makes = Raised

    @model_validator(mode="after")
    def _says_how_much(self) -> Self:
        if self.edge != "sharp" and not self.edge_mm:
            raise wrong("edge_mm must say how much is taken off the edges")
        return self


class InRecessTable(Table):
    """Standing in a recess of its own."""

    kind: Literal["in recess"]
    depth_mm: Annotated[float, Within(0.05, 20)]
    height_mm: Annotated[float, Within(0.05, 20)]
    margin_mm: Annotated[float, Within(0.1, 20)]
    root_mm: Annotated[float, Within(0.05, 10)] = 0.3
    makes = InRecess


class PiercedTable(Table):
    """Cut right through."""

    kind: Literal["pierced"]
    makes = Pierced


class ScoredTable(Table):
    """Drawn with a beam."""

    kind: Literal["scored"]
    makes = Scored


class CutOutTable(Table):
    """The lettering is the piece."""

    kind: Literal["cut-out"]
    thickness_mm: Annotated[float, Within(0.3, 30)]
    makes = CutOut


AnyTreatment = Annotated[
    EngravedTable | RaisedTable | InRecessTable | PiercedTable | ScoredTable | CutOutTable,
    Field(discriminator="kind"),
]
#: Every treatment by its name.
TREATMENT_TABLES: dict[str, type[Table]] = {
    "engraved": EngravedTable, "raised": RaisedTable, "in recess": InRecessTable, "pierced": PiercedTable,
    "scored": ScoredTable, "cut-out": CutOutTable,
}  # fmt: skip


class StraightTable(Table):
    """On a straight line."""

    kind: Literal["straight"]
    makes = Straight


class ArcTable(Table):
    """On an arc."""

    kind: Literal["arc"]
    radius_mm: Annotated[float, Within(0, 1000)] = 0.0
    angle_deg: Annotated[float, Within(0, 360)] = 0.0
    hollow: StrictBool = False
    bent: StrictBool = False
    makes = Arc

    @model_validator(mode="after")
    def _has_one_measure(self) -> Self:
        if bool(self.radius_mm) == bool(self.angle_deg):
            raise wrong("an arc needs either radius_mm or angle_deg")
        return self


class PathTable(Table):
    """Along a drawn line."""

    kind: Literal["path"]
    points: Annotated[tuple[Any, ...], Points(2)]
    makes = Path


class ArchedTable(Table):
    """Tops along an arch."""

    kind: Literal["arched"]
    rise: Annotated[float, Within(-0.9, 3)]
    makes = Arched


class FilledTable(Table):
    """Filling a shape."""

    kind: Literal["filled"]
    outline: Literal["round", "oval", "diamond", "heart", "free"]
    width: Annotated[float, Within(0.3, 4)] = 1.0
    points: Annotated[tuple[Any, ...], Points(2, may_be_empty=True)] = ()
    most_stretch: Annotated[float, Within(1, 12)] = MOST_STRETCH_FILLED
    capitals: StrictBool = True
    makes = Filled

    @model_validator(mode="after")
    def _encloses_something(self) -> Self:
        if (self.outline == "free") != bool(self.points):
            raise wrong("points belong to an outline that is free, and it needs them")
        if self.points and not shapely.Polygon([*self.points, self.points[0]]).buffer(0).area > 0:
            raise wrong("the points of the outline enclose nothing")
        return self


class OnceTable(Table):
    """Once, where it stands."""

    kind: Literal["once"]
    makes = OneTurn


class SpreadTable(Table):
    """Evenly all the way round."""

    kind: Literal["spread"]
    separator: str = ""
    share_end: StrictBool = False
    widest_gap: Annotated[float, Within(0.1, 20)] = WIDEST_GAP
    when_wide: WhenWide = WhenWide.REPEAT
    makes = Spread


class RepeatedTable(Table):
    """Several times around."""

    kind: Literal["repeated"]
    times: Annotated[int, Within(2, 24)]
    makes = Repeated


class SectorTable(Table):
    """Within a part of the turn."""

    kind: Literal["sector"]
    angle_deg: Annotated[float, Within(0, 360)]
    direction_deg: Annotated[float, Within(-360, 360)] = 0.0
    makes = Sector


_FEATURE = re.compile(r"[a-z0-9]{4}")
_Language = Annotated[
    str, written(r"|[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8})*", "must be a tag such as “tr” or “ja”")
]


def _features(features: dict[str, int]) -> dict[str, int]:
    if not all(_FEATURE.fullmatch(tag) for tag in features):
        raise wrong("must be a table of four-letter tags with numbers")
    return features


class ArrangementTable(Table):
    """How the parts of a wording stand to each other."""

    monogram: MonogramForm = MonogramForm.IN_LINE
    logo: LogoPlace = LogoPlace.ALONE
    features: Annotated[dict[str, StrictInt], AfterValidator(_features)] = Field(default_factory=dict)
    language: _Language = ""
    vertical: StrictBool = False
    direction: Literal["", "left to right", "right to left"] = ""
    word_space: Annotated[float, Within(-0.5, 3)] = 0.0
    level: StrictBool = True
    upside_down: StrictBool = False
    mirrored: StrictBool = False
    even_spacing: StrictBool = True
    along_mm: Annotated[float, Within(-500, 500)] = 0.0
    across_mm: Annotated[float, Within(-500, 500)] = 0.0
    turned_deg: Annotated[float, Within(-180, 180)] = 0.0
    shape: Annotated[
        StraightTable | ArcTable | PathTable | ArchedTable | FilledTable, Field(discriminator="kind")
    ] = StraightTable(kind="straight")
    turn: Annotated[OnceTable | SpreadTable | RepeatedTable | SectorTable, Field(discriminator="kind")] = (
        OnceTable(kind="once")
    )

    def made(self) -> Arrangement:
        """With features as the shaper takes them."""
        return Arrangement(**{**self.given(), "features": tuple(sorted(self.features.items()))})


#: What a product may have done to a piece that would be held: the parts of a departure, by their names.
RemedyKind = Literal[
    "slits", "spacing", "width", "strokes", "height", "lines", "typeface", "loose parts", "depth"
]


class FitTable(Table):
    """What may be tried to make wording fit."""

    greatest_height_mm: Annotated[float, Within(SMALLEST_TRIED_MM, 100)]
    lowest_height_mm: Annotated[float, Within(SMALLEST_TRIED_MM, 100)]
    clearance_mm: Annotated[float, Within(0, 50)]
    tracking: Annotated[float, Within(0, 1)] = 0.0
    steps: tuple[Step, ...] = (Step.LOWER, Step.LEAVE_OUT)
    tightest: Annotated[float, Within(-0.2, 1)] = 0.0
    narrowest: Annotated[float, Within(0.5, 1)] = 1.0
    most_lines: Annotated[int, Within(1, 6)] = 1
    leading: Annotated[float, Within(0.8, 4)] = 1.5
    bolder_lowest_height_mm: Annotated[float, Within(0, 100)] = 0.0
    exact_width_mm: Annotated[float, Within(0, 500)] = 0.0
    exact_height_mm: Annotated[float, Within(0, 500)] = 0.0
    remedies: tuple[RemedyKind, ...] = ()
    most_departure: Annotated[float, Within(0, 5)] = 0.0
    makes = FitPlan

    @model_validator(mode="after")
    def _can_be_followed(self) -> Self:
        said = check_fit_plan(self.made())
        if said:
            raise wrong(said)
        return self


class WordingTable(Table):
    """What may stand on a product."""

    kind: WordingKind = WordingKind.AS_WRITTEN
    most: Annotated[int, Within(1, 4)] = 3
    family: FamilyPlace = FamilyPlace.BY_SCRIPT
    family_in_middle: StrictBool = True
    date_form: str = "2026-05-04"
    day_first: StrictBool | None = None
    title_case: StrictBool = False
    second_after: str = ""
    two_people: Literal["asked", "joined"] = "asked"
    digraphs: tuple[Literal["nl", "cs", "sk", "hu", "hr", "cy"], ...] = ()
    line_breaks: Literal["kept", "wish", "undone"] = "kept"
    longest: Annotated[int, Within(1, 500)] = 60
    decimals: Annotated[int, Within(0, 6)] | None = 4

    @model_validator(mode="after")
    def _has_a_form(self) -> Self:
        if self.date_form not in DATE_FORMS:
            raise wrong(f"date_form must be one of {', '.join(DATE_FORMS)}")
        return self

    def made(self) -> WordingPlan:
        """Its kind is a value like any other here."""
        return WordingPlan(kind=self.kind, **self.given())


class SoundnessTable(Table):
    """What is done to strokes and loose parts."""

    thicken: Literal["never", "where needed", "all over"] = "never"
    thicken_by_mm: Annotated[float, Within(-1, 3)] = 0.0
    most_departure_mm: Annotated[float, Within(0, 3)] = 0.15
    one_piece: Literal["no", "bridges", "base bar", "underline"] = "no"
    bridge_mm: Annotated[float, Within(0.2, 10)] = 1.0
    overlap_mm: Annotated[float, Within(0, 5)] = 0.0
    middle_bridges: StrictBool = False
    loop: Literal["none", "left", "ends", "balanced"] = "none"
    loop_hole_mm: Annotated[float, Within(0.5, 30)] = 3.0
    loop_wall_mm: Annotated[float, Within(0.2, 20)] = 1.2
    rim_mm: Annotated[float, Within(0, 20)] = 0.0
    gaps: Literal["as drawn", "opened", "closed"] = "as drawn"
    makes = Soundness

    @model_validator(mode="after")
    def _says_how_much(self) -> Self:
        if self.thicken == "all over" and not self.thicken_by_mm:
            raise wrong("thicken_by_mm must say how much")
        return self


class BorderTable(Table):
    """A line along the edge of the area."""

    kind: Literal["border"]
    inset_mm: Annotated[float, Within(0, 50)]
    line_mm: Annotated[float, Within(0.05, 20)]
    makes = Border


class FigureTable(Table):
    """A slot, an oval or a panel."""

    kind: Literal["slot", "oval", "panel"]
    length_mm: Annotated[float, Within(0.2, 300)]
    height_mm: Annotated[float, Within(0.2, 300)]
    corner_mm: Annotated[float, Within(0, 100)] = 0.0
    line_mm: Annotated[float, Within(0, 20)] = 0.0
    right_mm: Annotated[float, Within(-300, 300)] = 0.0
    up_mm: Annotated[float, Within(-300, 300)] = 0.0

    def made(self) -> Figure:
        """Its kind is its shape."""
        return Figure(shape=self.kind, **self.given())


OrnamentTable = Annotated[BorderTable | FigureTable, Field(discriminator="kind")]

#: The keys whose tables are of several kinds, with the names of these.
KINDS: dict[str, tuple[str, ...]] = {
    "treatment": tuple(TREATMENT_TABLES),
    "shape": ("straight", "arc", "path", "arched", "filled"),
    "turn": ("once", "spread", "repeated", "sector"),
    "ornaments": ("border", "slot", "oval", "panel"),
}

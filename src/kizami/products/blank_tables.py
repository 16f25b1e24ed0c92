"""The tables of blanks: every kind with its keys and their bounds."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any, ClassVar, Literal, Self

from pydantic import Field, PrivateAttr, StrictBool, ValidationInfo, model_validator

from kizami.blanks.band_ring import BandRingSpec
from kizami.blanks.name_piece import NamePiece
from kizami.blanks.plate import Plate
from kizami.blanks.ring_frame import RingFrame
from kizami.blanks.round_things import BallBead, Coin, DomedDisc, Sleeve
from kizami.blanks.signet import SignetSpec
from kizami.blanks.supplied import SuppliedShape
from kizami.blanks.supplied_body import SuppliedBody
from kizami.errors import SurfaceError
from kizami.products.blank_rules import (
    wrong_band,
    wrong_bead,
    wrong_coin,
    wrong_dome,
    wrong_frame,
    wrong_name_piece,
    wrong_plate,
    wrong_signet,
    wrong_sleeve,
    wrong_supplied,
)  # fmt: skip
from kizami.products.product import FixedBlank, SizedBlank
from kizami.products.values import Outlines, Points, Table, Vector, Within, wrong

__all__ = ["BLANK_TABLES", "BlankTable", "Bodies", "no_bodies"]

#: Gives the body of a file by its name and unit; raises SurfaceError when it can't be used.
Bodies = Callable[[str, str], SuppliedBody]


def no_bodies(name: str, _unit: str) -> SuppliedBody:
    """There are no supplied bodies here."""
    raise SurfaceError(f"There is no file “{name}”.")


class BlankTable(Table):
    """A blank.

    Attributes
    ----------
    areas : names of its areas, the usual one first
    rule : what is wrong with a blank of this kind, or ""
    """

    areas: ClassVar[tuple[str, ...]]
    rule: ClassVar[Callable[[Any], str]]
    _blank: Any = PrivateAttr(default=None)

    @model_validator(mode="after")
    def _can_be(self, info: ValidationInfo) -> Self:
        self._blank = self._built((info.context or {}).get("bodies", no_bodies))
        said = type(self).rule(self._blank)
        if said:
            raise wrong(said)
        return self

    def _built(self, _bodies: Bodies) -> SizedBlank | FixedBlank:
        blank: SizedBlank | FixedBlank = type(self).makes(**self.given())
        return blank

    def made(self) -> Any:
        """The blank; a ring still lacks its size."""
        return self._blank


class BandRingTable(BlankTable):
    """A band."""

    kind: Literal["band ring"]
    outer: Literal["flat", "domed", "tapered", "channel"] = "flat"
    inner: Literal["flat", "comfort"] = "flat"
    width_mm: Annotated[float, Within(1, 30)]
    wall_mm: Annotated[float, Within(0.5, 8)]
    seam_mm: Annotated[float, Within(0, 30)]
    rise_mm: Annotated[float, Within(0, 10)] = 0.0
    rim_mm: Annotated[float, Within(0, 10)] = 0.0
    ease_mm: Annotated[float, Within(0, 5)] = 0.0
    fillet_mm: Annotated[float, Within(0, 5)] = 0.0
    makes, areas, rule = BandRingSpec, ("outside", "inside"), wrong_band


class SignetRingTable(BlankTable):
    """A ring with a head."""

    kind: Literal["signet ring"]
    head: Literal["oval", "rounded"] = "oval"
    head_length_mm: Annotated[float, Within(4, 40)]
    head_width_mm: Annotated[float, Within(4, 40)]
    rise_mm: Annotated[float, Within(0.2, 10)]
    shank_mm: Annotated[float, Within(1, 20)]
    wall_mm: Annotated[float, Within(0.5, 8)]
    corner_mm: Annotated[float, Within(0, 20)] = 0.0
    dome_mm: Annotated[float, Within(0, 10)] = 0.0
    makes, areas, rule = SignetSpec, ("face", "inside"), wrong_signet


class PlateTable(BlankTable):
    """A flat plate."""

    kind: Literal["plate"]
    outline: Literal["rounded", "oval", "heart", "leaf", "ticket", "free"] = "rounded"
    hang: Literal["none", "hole left", "hole top", "ear top"] = "none"
    length_mm: Annotated[float, Within(5, 300)]
    height_mm: Annotated[float, Within(3, 200)]
    thickness_mm: Annotated[float, Within(0.5, 30)]
    corner_mm: Annotated[float, Within(0, 100)] = 0.0
    hole_mm: Annotated[float, Within(0, 50)] = 0.0
    web_mm: Annotated[float, Within(0, 50)] = 0.0
    tray_mm: Annotated[float, Within(0, 20)] = 0.0
    rim_mm: Annotated[float, Within(0, 50)] = 0.0
    fillet_mm: Annotated[float, Within(0, 20)] = 0.0
    points: Annotated[tuple[Any, ...], Points(3, reach=10_000, may_be_empty=True)] = ()
    openings: Annotated[tuple[Any, ...], Outlines(40, Points(3, reach=10_000))] = ()
    makes, areas, rule = Plate, ("face", "back"), wrong_plate


class BeadTable(BlankTable):
    """A ball."""

    kind: Literal["bead"]
    diameter_mm: Annotated[float, Within(4, 400)]
    hole_mm: Annotated[float, Within(0, 200)]
    makes, areas, rule = BallBead, ("band",), wrong_bead


class DomedDiscTable(BlankTable):
    """A disc with a domed face."""

    kind: Literal["domed disc"]
    diameter_mm: Annotated[float, Within(6, 200)]
    edge_mm: Annotated[float, Within(0.5, 20)]
    rise_mm: Annotated[float, Within(0.2, 50)]
    hole_mm: Annotated[float, Within(0.5, 30)]
    web_mm: Annotated[float, Within(0.5, 30)]
    makes, areas, rule = DomedDisc, ("face",), wrong_dome


class CoinTable(BlankTable):
    """A coin."""

    kind: Literal["coin"]
    diameter_mm: Annotated[float, Within(8, 200)]
    thickness_mm: Annotated[float, Within(1, 40)]
    round_mm: Annotated[float, Within(0, 20)] = 0.0
    makes, areas, rule = Coin, ("edge", "face"), wrong_coin


class SleeveTable(BlankTable):
    """A sleeve, straight or tapered."""

    kind: Literal["sleeve"]
    low_mm: Annotated[float, Within(3, 300)]
    high_mm: Annotated[float, Within(3, 300)]
    length_mm: Annotated[float, Within(3, 300)]
    bore_mm: Annotated[float, Within(0, 290)] = 0.0
    sectors: Annotated[float, Within(0, 3)] = 0.0
    makes, areas, rule = Sleeve, ("outside", "sector 1", "sector 2", "sector 3"), wrong_sleeve


class RingFrameTable(BlankTable):
    """A round frame that a name fills."""

    kind: Literal["ring frame"]
    diameter_mm: Annotated[float, Within(10, 300)]
    frame_mm: Annotated[float, Within(0.5, 50)]
    thickness_mm: Annotated[float, Within(0.3, 30)]
    hole_mm: Annotated[float, Within(0, 30)] = 0.0
    web_mm: Annotated[float, Within(0, 20)] = 0.0
    fillet_mm: Annotated[float, Within(0, 20)] = 0.0
    makes, areas, rule = RingFrame, ("inside",), wrong_frame


class SuppliedShapeTable(BlankTable):
    """A body that a customer sent, lettered about a place on it."""

    kind: Literal["supplied shape"]
    radius_mm: Annotated[float, Within(1, 300)]
    point: Annotated[tuple[float, ...], Vector()]
    up: Annotated[tuple[float, ...], Vector()] = (0.0, 0.0, 1.0)
    follow_edges: StrictBool = False
    file: str
    unit: str = ""
    makes, areas, rule = SuppliedShape, ("picked place",), wrong_supplied

    def _built(self, bodies: Bodies) -> SizedBlank | FixedBlank:
        values = self.given()
        try:
            body = bodies(values.pop("file"), values.pop("unit"))
        except SurfaceError as error:
            raise wrong(str(error).rstrip(".")) from error
        return SuppliedShape(body_file=body, **values)


class NamePieceTable(BlankTable):
    """Nothing but the lettering."""

    kind: Literal["name piece"]
    length_mm: Annotated[float, Within(5, 600)]
    height_mm: Annotated[float, Within(3, 300)]
    curve_mm: Annotated[float, Within(0, 500)] = 0.0
    makes, areas, rule = NamePiece, ("piece",), wrong_name_piece


AnyBlank = Annotated[
    BandRingTable | PlateTable | BeadTable | DomedDiscTable | CoinTable | SleeveTable | SignetRingTable
    | RingFrameTable | SuppliedShapeTable | NamePieceTable,
    Field(discriminator="kind"),
]  # fmt: skip

#: Every kind by its name.
BLANK_TABLES: dict[str, type[BlankTable]] = {
    "band ring": BandRingTable, "plate": PlateTable, "bead": BeadTable, "domed disc": DomedDiscTable,
    "coin": CoinTable, "sleeve": SleeveTable, "signet ring": SignetRingTable, "ring frame": RingFrameTable,
    "supplied shape": SuppliedShapeTable, "name piece": NamePieceTable,
}  # fmt: skip

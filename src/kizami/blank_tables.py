"""Blanks from the tables of products files: every kind, its keys, their bounds, and what can't be."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import shapely

from kizami.blanks.band_ring import BandRingSpec
from kizami.blanks.name_piece import NamePiece
from kizami.blanks.outlines import PLATE_OUTLINES
from kizami.blanks.plate import Plate
from kizami.blanks.plate_tag import PlateTag
from kizami.blanks.ring_frame import RingFrame
from kizami.blanks.round_things import BallBead, Coin, DomedDisc, Sleeve
from kizami.blanks.signet import SignetSpec
from kizami.blanks.supplied import SuppliedShape
from kizami.blanks.supplied_body import SuppliedBody
from kizami.errors import CatalogueError, SurfaceError
from kizami.products import FixedBlank, SizedBlank

__all__ = ["BLANK_KINDS", "BlankKind", "Bodies", "blank_from_table", "no_bodies"]

_Bounds = tuple[float, float]
#: Gives the body of a file by its name and unit; raises SurfaceError when it can't be used.
Bodies = Callable[[str, str], SuppliedBody]


def no_bodies(name: str, _unit: str) -> SuppliedBody:
    """There are no supplied bodies here."""
    raise SurfaceError(f"There is no file “{name}”.")


@dataclass(frozen=True, kw_only=True, slots=True)
class BlankKind:
    """One kind of blank.

    Attributes
    ----------
    make : its class
    areas : names of its areas, the usual one first
    needed, optional : numbers with their bounds, mm; optional ones are 0 when left out
    words : keys with their valid words, the usual one first
    vectors : keys with three numbers, and what they are when left out; None is needed
    flags : keys that are true or false, false when left out
    points : the key `points` may hold the corners of an outline
    from_file : the body comes from the keys `file` and `unit`
    wrong : what is wrong with a blank of this kind, or ""
    """

    make: Callable[..., Any]
    areas: tuple[str, ...]
    needed: Mapping[str, _Bounds]
    optional: Mapping[str, _Bounds] = field(default_factory=dict)
    words: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    vectors: Mapping[str, tuple[float, ...] | None] = field(default_factory=dict)
    flags: tuple[str, ...] = ()
    points: bool = False
    from_file: bool = False
    wrong: Callable[[Any], str] = lambda _: ""


def _wrong_band(band: BandRingSpec) -> str:
    if band.outer == "channel" and not 0 < 2 * band.rim_mm < band.width_mm:
        return "rim_mm must be above 0 and leave a channel between the rims"
    if band.fillet_mm and band.outer != "channel":
        return "fillet_mm belongs to an outside that is a channel"
    if band.fillet_mm > min(band.rise_mm, (band.width_mm - 2 * band.rim_mm) / 3.0):
        return "fillet_mm may be at most the height of the rims and a third of the channel"
    if band.outer in ("domed", "tapered", "channel") and band.rise_mm <= 0:
        return f"rise_mm must be above 0 for an outside that is {band.outer}"
    if band.inner == "comfort" and band.ease_mm <= 0:
        return "ease_mm must be above 0 for a comfort fit"
    if max(band.rise_mm, band.ease_mm) > band.width_mm / 2.0:
        return "rise_mm and ease_mm may be at most half of the width"
    taken = band.rise_mm if band.outer == "domed" else band.rise_mm / 2.0 if band.outer == "tapered" else 0.0
    left = band.wall_mm - taken - band.ease_mm
    if left < 0.2:
        return f"the wall is {left:.2f} mm at its edges; make wall_mm larger, or rise_mm or ease_mm smaller"
    return ""


def _wrong_tag(tag: PlateTag) -> str:
    shorter = min(tag.length_mm, tag.height_mm)
    if tag.corner_mm > shorter / 2:
        return "corner_mm is more than half of the shorter side"
    if tag.hole_mm + 2 * tag.hole_web_mm > shorter:
        return "the hole with its web does not go into the plate"
    return ""


def _wrong_outline(plate: Plate) -> str:
    if (plate.outline == "free") != bool(plate.points):
        return "points belong to an outline that is free, and it needs them"
    if not plate.points:
        return ""
    if np.ptp(np.array(plate.points), axis=0).min() <= 0:
        return "the points of the outline enclose nothing"
    outline = shapely.Polygon(plate.points)
    if not outline.is_valid:
        why = shapely.is_valid_reason(outline)
        return f"the outline crosses or touches itself ({why.replace('[', ' at ').rstrip(']').lower()})"
    return ""


def _wrong_plate(plate: Plate) -> str:
    wrong = _wrong_outline(plate)
    if wrong:
        return wrong
    shorter = min(plate.length_mm, plate.height_mm)
    if plate.corner_mm > shorter / 2:
        return "corner_mm is more than half of the shorter side"
    if plate.outline == "ticket" and plate.corner_mm > shorter / 3:
        return "corner_mm bites out more than a third of the shorter side"
    if plate.hang != "none" and (plate.hole_mm <= 0 or plate.web_mm <= 0):
        return f"hole_mm and web_mm must be above 0 for “{plate.hang}”"
    if plate.tray_mm >= plate.thickness_mm:
        return f"a tray {plate.tray_mm:g} mm deep goes through a plate {plate.thickness_mm:g} mm thick"
    if plate.tray_mm and not 0 < 2 * plate.rim_mm < shorter - 1:
        return "rim_mm must be above 0 and leave room for a tray"
    if plate.fillet_mm and plate.hang != "ear top" and not plate.tray_mm:
        return "fillet_mm needs an ear or a tray: elsewhere nothing meets in an inside corner"
    if plate.tray_mm and plate.fillet_mm > min(plate.tray_mm, (shorter / 2.0 - plate.rim_mm) / 2.0):
        return "fillet_mm may be at most the depth of the tray and a quarter of its width"
    if plate.hang == "ear top" and plate.fillet_mm > plate.hole_mm + plate.web_mm:
        return "fillet_mm is larger than the ear"
    if plate.outline == "heart" and plate.height_mm < plate.length_mm / 2.0:
        return "a heart must be at least half as high as it is wide"
    hole = plate.hole_centre
    if hole is not None and plate.hang != "ear top":
        spot = shapely.Point(hole).buffer(plate.hole_mm / 2.0)
        whole = plate.areas[1].outline
        mirrored = shapely.transform(whole, lambda xy: xy * (-1.0, 1.0) + (plate.length_mm, 0.0))
        if not mirrored.contains(spot):
            return "the hole does not go into the plate"
    return ""


def _wrong_bead(bead: BallBead) -> str:
    return "the hole is as wide as the bead" if bead.hole_mm > 0.8 * bead.diameter_mm else ""


def _wrong_dome(disc: DomedDisc) -> str:
    if disc.rise_mm > disc.diameter_mm / 4.0:
        return "rise_mm may be at most a quarter of the diameter"
    return "the hole does not go into the disc" if disc.hole_mm + disc.web_mm > disc.diameter_mm / 3.0 else ""


def _wrong_coin(coin: Coin) -> str:
    if 2 * coin.round_mm > coin.thickness_mm + 1e-9:
        return "round_mm may be at most half of the thickness"
    return "round_mm is too large for the diameter" if coin.round_mm > coin.diameter_mm / 4.0 else ""


def _wrong_signet(ring: SignetSpec) -> str:
    if ring.head == "rounded" and ring.corner_mm > min(ring.head_length_mm, ring.head_width_mm) / 2.0:
        return "corner_mm is more than half of the head's shorter side"
    if ring.dome_mm > max(ring.head_length_mm, ring.head_width_mm) / 4.0:
        return "dome_mm may be at most a quarter of the head's longer side"
    return "the head is narrower than the shank" if ring.head_width_mm < ring.shank_mm else ""


def _wrong_frame(frame: RingFrame) -> str:
    if 2.0 * frame.frame_mm > 0.6 * frame.diameter_mm:
        return "frame_mm leaves too little room for a name"
    if frame.fillet_mm > frame.hole_mm + frame.web_mm:
        return "fillet_mm is larger than the loop"
    return "web_mm must be above 0 for a loop" if frame.hole_mm and not frame.web_mm else ""


def _wrong_sleeve(sleeve: Sleeve) -> str:
    if sleeve.sectors not in (0, 2, 3):
        return "sectors must be 0, 2 or 3"
    wall = (min(sleeve.low_mm, sleeve.high_mm) - sleeve.bore_mm) / 2.0
    if wall < 0.3:
        return f"a bore of {sleeve.bore_mm:g} mm leaves a wall of {wall:.2f} mm"
    if sleeve.low_mm != sleeve.high_mm and abs(sleeve.low_mm - sleeve.high_mm) < 0.02 * sleeve.length_mm:
        return "a taper so slight can't be told from a straight sleeve; make both ends equal"
    return ""


def _wrong_supplied(shape: SuppliedShape) -> str:
    if not any(shape.up):
        return "up must point somewhere"
    try:
        shape.areas  # noqa: B018 - laid out now, so that what can't be is said while it can be changed
    except SurfaceError as error:
        return str(error).rstrip(".")
    return ""


BLANK_KINDS: dict[str, BlankKind] = {
    "band ring": BlankKind(
        make=BandRingSpec,
        areas=("outside", "inside"),
        needed={"width_mm": (1, 30), "wall_mm": (0.5, 8), "seam_mm": (0, 30)},
        optional={"rise_mm": (0, 10), "rim_mm": (0, 10), "ease_mm": (0, 5), "fillet_mm": (0, 5)},
        words={"outer": ("flat", "domed", "tapered", "channel"), "inner": ("flat", "comfort")},
        wrong=_wrong_band,
    ),
    "plate tag": BlankKind(
        make=PlateTag,
        areas=("face",),
        needed={
            "length_mm": (5, 300), "height_mm": (3, 200), "thickness_mm": (0.5, 30), "corner_mm": (0, 100),
            "hole_mm": (0.5, 50), "hole_web_mm": (0.5, 50),
        },
        wrong=_wrong_tag,
    ),
    "plate": BlankKind(
        make=Plate,
        areas=("face", "back"),
        needed={"length_mm": (5, 300), "height_mm": (3, 200), "thickness_mm": (0.5, 30)},
        optional={
            "corner_mm": (0, 100), "hole_mm": (0, 50), "web_mm": (0, 50), "tray_mm": (0, 20),
            "rim_mm": (0, 50), "fillet_mm": (0, 20),
        },
        words={
            "outline": (*PLATE_OUTLINES, "free"),
            "hang": ("none", "hole left", "hole top", "ear top"),
        },
        points=True,
        wrong=_wrong_plate,
    ),
    "bead": BlankKind(
        make=BallBead,
        areas=("band",),
        needed={"diameter_mm": (4, 400), "hole_mm": (0, 200)},
        wrong=_wrong_bead,
    ),
    "domed disc": BlankKind(
        make=DomedDisc,
        areas=("face",),
        needed={
            "diameter_mm": (6, 200), "edge_mm": (0.5, 20), "rise_mm": (0.2, 50), "hole_mm": (0.5, 30),
            "web_mm": (0.5, 30),
        },
        wrong=_wrong_dome,
    ),
    "coin": BlankKind(
        make=Coin,
        areas=("edge", "face"),
        needed={"diameter_mm": (8, 200), "thickness_mm": (1, 40)},
        optional={"round_mm": (0, 20)},
        wrong=_wrong_coin,
    ),
    "sleeve": BlankKind(
        make=Sleeve,
        areas=("outside", "sector 1", "sector 2", "sector 3"),
        needed={"low_mm": (3, 300), "high_mm": (3, 300), "length_mm": (3, 300)},
        optional={"bore_mm": (0, 290), "sectors": (0, 3)},
        wrong=_wrong_sleeve,
    ),
    "signet ring": BlankKind(
        make=SignetSpec,
        areas=("face", "inside"),
        needed={
            "head_length_mm": (4, 40), "head_width_mm": (4, 40), "rise_mm": (0.2, 10), "shank_mm": (1, 20),
            "wall_mm": (0.5, 8),
        },
        optional={"corner_mm": (0, 20), "dome_mm": (0, 10)},
        words={"head": ("oval", "rounded")},
        wrong=_wrong_signet,
    ),
    "ring frame": BlankKind(
        make=RingFrame,
        areas=("inside",),
        needed={"diameter_mm": (10, 300), "frame_mm": (0.5, 50), "thickness_mm": (0.3, 30)},
        optional={"hole_mm": (0, 30), "web_mm": (0, 20), "fillet_mm": (0, 20)},
        wrong=_wrong_frame,
    ),
    "supplied shape": BlankKind(
        make=SuppliedShape,
        areas=("patch",),
        needed={"radius_mm": (1, 300)},
        vectors={"point": None, "up": (0.0, 0.0, 1.0)},
        flags=("follow_edges",),
        from_file=True,
        wrong=_wrong_supplied,
    ),
    "name piece": BlankKind(
        make=NamePiece,
        areas=("piece",),
        needed={"length_mm": (5, 600), "height_mm": (3, 300)},
        optional={"curve_mm": (0, 500)},
        wrong=lambda piece: (
            "curve_mm is so small that the name would go all the way round"
            if piece.curve_mm and piece.length_mm > 5.0 * piece.curve_mm
            else ""
        ),
    ),
}  # fmt: skip


def blank_from_table(
    table: Mapping[str, Any], *, where: str, bodies: Bodies = no_bodies
) -> tuple[SizedBlank | FixedBlank, BlankKind]:
    """A blank and its kind.

    Raises
    ------
    CatalogueError : a key is missing, unknown or out of bounds, or the whole can't be; begins with `where`
    """
    kind = BLANK_KINDS.get(str(table.get("kind", "")))
    if kind is None:
        raise CatalogueError(
            f"{where}: kind must be one of {', '.join(BLANK_KINDS)}, not {table.get('kind')!r}."
        )
    given = {key: value for key, value in table.items() if key != "kind"}
    needed = set(kind.needed) | {key for key, usual in kind.vectors.items() if usual is None}
    known = {*kind.needed, *kind.optional, *kind.words, *kind.vectors, *kind.flags}
    known |= {"points"} if kind.points else set()
    if kind.from_file:
        needed, known = needed | {"file"}, known | {"file", "unit"}
    wrong = (set(given) - known) | (needed - set(given))
    if wrong:
        raise CatalogueError(f"{where}: missing or unknown {', '.join(sorted(wrong))}.")
    try:
        made: SizedBlank | FixedBlank = kind.make(**_values(kind, given, bodies))
    except (CatalogueError, SurfaceError) as error:
        raise CatalogueError(f"{where}: {error}") from error
    said = kind.wrong(made)
    if said:
        raise CatalogueError(f"{where}: {said}.")
    return made, kind


def _values(kind: BlankKind, given: dict[str, Any], bodies: Bodies) -> dict[str, Any]:
    """Every value of a blank, looked at one by one."""
    values: dict[str, Any] = {}
    if kind.from_file:
        values["body_file"] = bodies(str(given.pop("file")), str(given.pop("unit", "")))
    for key, valid in kind.words.items():
        values[key] = given.pop(key, valid[0])
        if values[key] not in valid:
            raise CatalogueError(f"{key} must be one of {', '.join(valid)}, not {values[key]!r}.")
    for key, usual in kind.vectors.items():
        values[key] = _vector(given.pop(key, usual), key)
    if kind.points:
        values["points"] = outline_points(given.pop("points", []))
    for key in kind.flags:
        values[key] = given.pop(key, False)
        if not isinstance(values[key], bool):
            raise CatalogueError(f"{key} must be true or false.")
    for key, value in given.items():
        low, high = kind.needed.get(key) or kind.optional[key]
        if not _is_number(value) or not low <= value <= high:
            raise CatalogueError(f"{key} must be a number from {low:g} to {high:g}, not {value!r}.")
        values[key] = float(value)
    return values


def _is_number(value: object) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)


def _vector(value: object, key: str) -> tuple[float, float, float]:
    if (
        not isinstance(value, list | tuple)
        or len(value) != 3
        or not all(_is_number(c) and abs(c) <= 10_000 for c in value)
    ):
        raise CatalogueError(f"{key} must be three numbers from -10000 to 10000, not {value!r}.")
    x, y, z = (float(c) for c in value)
    return (x, y, z)


_MOST_POINTS = 2000


def outline_points(value: object) -> tuple[tuple[float, float], ...]:
    """Corners of an outline from a table; none is allowed.

    Raises
    ------
    CatalogueError : they are no pairs of numbers, or too many
    """
    if not isinstance(value, list | tuple) or len(value) > _MOST_POINTS or len(value) in (1, 2):
        raise CatalogueError(f"points must be 3 to {_MOST_POINTS} pairs of numbers")
    for point in value:
        if not isinstance(point, list | tuple) or len(point) != 2 or not all(_is_number(c) for c in point):
            raise CatalogueError("points must be pairs of numbers")
        if not all(abs(c) <= 10_000 for c in point):
            raise CatalogueError("points must be pairs of numbers from -10000 to 10000")
    return tuple((float(x), float(y)) for x, y in value)

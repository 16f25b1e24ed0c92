"""What can't be, of every kind of blank: each rule says what is wrong, or nothing."""

from __future__ import annotations

import numpy as np
import shapely

from kizami.blanks.band_ring import BandRingSpec
from kizami.blanks.name_piece import NamePiece
from kizami.blanks.plate import Plate
from kizami.blanks.ring_frame import RingFrame
from kizami.blanks.round_things import BallBead, Coin, DomedDisc, Sleeve
from kizami.blanks.signet import SignetSpec
from kizami.blanks.supplied import SuppliedShape
from kizami.errors import SurfaceError

__all__ = [
    "wrong_band", "wrong_bead", "wrong_coin", "wrong_dome", "wrong_frame", "wrong_name_piece", "wrong_plate",
    "wrong_signet", "wrong_sleeve", "wrong_supplied",
]  # fmt: skip


def wrong_band(band: BandRingSpec) -> str:
    """Rims, a rise and an ease leave a wall."""
    if band.outer == "channel" and not 0 < 2 * band.rim_mm < band.width_mm:
        return f"rim_mm must be above 0 and below {band.width_mm / 2:.2f} mm, to leave a channel between"
    if band.fillet_mm and band.outer != "channel":
        return "fillet_mm belongs to an outside that is a channel"
    most = min(band.rise_mm, (band.width_mm - 2 * band.rim_mm) / 3.0)
    if band.fillet_mm > most:
        return f"fillet_mm may be at most {most:.2f} mm: the height of the rims, or a third of the channel"
    if band.outer in ("domed", "tapered", "channel") and band.rise_mm <= 0:
        return f"rise_mm must be above 0 for an outside that is {band.outer}"
    if band.inner == "comfort" and band.ease_mm <= 0:
        return "ease_mm must be above 0 for a comfort fit"
    if max(band.rise_mm, band.ease_mm) > band.width_mm / 2.0:
        return f"rise_mm and ease_mm may be at most half of the width, {band.width_mm / 2:.2f} mm"
    taken = band.rise_mm if band.outer == "domed" else band.rise_mm / 2.0 if band.outer == "tapered" else 0.0
    left = band.wall_mm - taken - band.ease_mm
    if left < 0.2:
        return f"the wall is {left:.2f} mm at its edges; make wall_mm larger, or rise_mm or ease_mm smaller"
    return ""


def _wrong_outline(plate: Plate) -> str:
    if (plate.outline == "free") != bool(plate.points):
        return "points belong to an outline that is free, and it needs them"
    if not plate.points:
        return "openings belong to an outline that is free" if plate.openings else ""
    if np.ptp(np.array(plate.points), axis=0).min() <= 0:
        return "the points of the outline enclose nothing"
    outline = shapely.Polygon(plate.points)
    if not outline.is_valid:
        why = shapely.is_valid_reason(outline)
        return f"the outline crosses or touches itself ({why.replace('[', ' at ').rstrip(']').lower()})"
    return _wrong_openings(plate, outline)


def _wrong_openings(plate: Plate, outline: shapely.Polygon) -> str:
    openings = [shapely.Polygon(corners) for corners in plate.openings]
    for number, opening in enumerate(openings, start=1):
        if not opening.is_valid or opening.area <= 0:
            return f"opening {number} crosses itself or encloses nothing"
        if not outline.contains_properly(opening):
            return f"opening {number} does not lie within the outline"
        if any(opening.intersects(other) for other in openings[: number - 1]):
            return f"opening {number} meets another one"
    return ""


def wrong_plate(plate: Plate) -> str:
    """Corners, a hole, a tray and an ear go into the plate."""
    wrong = _wrong_outline(plate)
    if wrong:
        return wrong
    shorter = min(plate.length_mm, plate.height_mm)
    if plate.corner_mm > shorter / 2:
        return f"corner_mm is more than half of the shorter side: {shorter / 2:.2f} mm at most"
    if plate.outline == "ticket" and plate.corner_mm > shorter / 3:
        return f"corner_mm bites out more than a third of the shorter side: {shorter / 3:.2f} mm at most"
    if plate.hang != "none" and (plate.hole_mm <= 0 or plate.web_mm <= 0):
        return f"hole_mm and web_mm must be above 0 for “{plate.hang}”"
    if plate.tray_mm >= plate.thickness_mm:
        return f"a tray {plate.tray_mm:g} mm deep goes through a plate {plate.thickness_mm:g} mm thick"
    if plate.tray_mm and not 0 < 2 * plate.rim_mm < shorter - 1:
        return f"rim_mm must be above 0 and below {(shorter - 1) / 2:.2f} mm, to leave room for a tray"
    if plate.fillet_mm and plate.hang != "ear top" and not plate.tray_mm:
        return "fillet_mm needs an ear or a tray: elsewhere nothing meets in an inside corner"
    if plate.tray_mm and plate.fillet_mm > min(plate.tray_mm, (shorter / 2.0 - plate.rim_mm) / 2.0):
        return "fillet_mm may be at most the depth of the tray and a quarter of its width"
    if plate.hang == "ear top" and plate.fillet_mm > plate.hole_mm + plate.web_mm:
        return "fillet_mm is larger than the ear"
    if plate.outline == "heart" and plate.height_mm < plate.length_mm / 2.0:
        return f"a heart must be at least half as high as it is wide: {plate.length_mm / 2:.2f} mm"
    return _wrong_hole(plate)


def _wrong_hole(plate: Plate) -> str:
    hole = plate.hole_centre
    if hole is not None and plate.hang != "ear top":
        across = plate.height_mm if plate.hang == "hole left" else plate.length_mm
        if plate.hole_mm + 2.0 * plate.web_mm > across:
            return (
                f"hole_mm with web_mm on both sides needs {plate.hole_mm + 2 * plate.web_mm:.2f} mm; "
                f"the plate is {across:.2f} mm across there"
            )
        spot = shapely.Point(hole).buffer(plate.hole_mm / 2.0)
        whole = plate.areas[1].outline
        mirrored = shapely.transform(whole, lambda xy: xy * (-1.0, 1.0) + (plate.length_mm, 0.0))
        if not mirrored.contains(spot):
            return "the hole does not go into the plate"
    return ""


def wrong_bead(bead: BallBead) -> str:
    """A hole leaves a bead."""
    return (
        f"the hole is as wide as the bead: {0.8 * bead.diameter_mm:.2f} mm at most"
        if bead.hole_mm > 0.8 * bead.diameter_mm
        else ""
    )


def wrong_dome(disc: DomedDisc) -> str:
    """A rise and a hole leave a disc."""
    if disc.rise_mm > disc.diameter_mm / 4.0:
        return f"rise_mm may be at most a quarter of the diameter, {disc.diameter_mm / 4:.2f} mm"
    return "the hole does not go into the disc" if disc.hole_mm + disc.web_mm > disc.diameter_mm / 3.0 else ""


def wrong_coin(coin: Coin) -> str:
    """Rounded edges leave a coin."""
    if 2 * coin.round_mm > coin.thickness_mm + 1e-9:
        return f"round_mm may be at most half of the thickness, {coin.thickness_mm / 2:.2f} mm"
    return "round_mm is too large for the diameter" if coin.round_mm > coin.diameter_mm / 4.0 else ""


def wrong_signet(ring: SignetSpec) -> str:
    """Corners and a dome leave a head, wider than its shank."""
    if ring.head == "rounded" and ring.corner_mm > min(ring.head_length_mm, ring.head_width_mm) / 2.0:
        return (
            "corner_mm is more than half of the head's shorter side: "
            f"{min(ring.head_length_mm, ring.head_width_mm) / 2:.2f} mm at most"
        )
    if ring.dome_mm > max(ring.head_length_mm, ring.head_width_mm) / 4.0:
        return "dome_mm may be at most a quarter of the head's longer side"
    return (
        f"the head is narrower than the shank, which is {ring.shank_mm:.2f} mm wide"
        if ring.head_width_mm < ring.shank_mm
        else ""
    )


def wrong_frame(frame: RingFrame) -> str:
    """A frame leaves room for a name."""
    if 2.0 * frame.frame_mm > 0.6 * frame.diameter_mm:
        return f"frame_mm leaves too little room for a name: {0.3 * frame.diameter_mm:.2f} mm at most"
    if frame.fillet_mm > frame.hole_mm + frame.web_mm:
        return "fillet_mm is larger than the loop"
    return "web_mm must be above 0 for a loop" if frame.hole_mm and not frame.web_mm else ""


def wrong_sleeve(sleeve: Sleeve) -> str:
    """A bore leaves a wall, and a taper is one."""
    if sleeve.sectors not in (0, 2, 3):
        return "sectors must be 0, 2 or 3"
    wall = (min(sleeve.low_mm, sleeve.high_mm) - sleeve.bore_mm) / 2.0
    if wall < 0.3:
        return f"a bore of {sleeve.bore_mm:g} mm leaves a wall of {wall:.2f} mm"
    if sleeve.low_mm != sleeve.high_mm and abs(sleeve.low_mm - sleeve.high_mm) < 0.02 * sleeve.length_mm:
        return "a taper so slight can't be told from a straight sleeve; make both ends equal"
    return ""


def wrong_supplied(shape: SuppliedShape) -> str:
    """The patch can be laid out."""
    if not any(shape.up):
        return "up must point somewhere"
    try:
        shape.areas  # noqa: B018 - laid out now, so that what can't be is said while it can be changed
    except SurfaceError as error:
        return str(error).rstrip(".")
    return ""


def wrong_name_piece(piece: NamePiece) -> str:
    """A curve leaves room between both ends of a name."""
    if piece.curve_mm and piece.length_mm > 5.0 * piece.curve_mm:
        return "curve_mm is so small that the name would go all the way round"
    return ""

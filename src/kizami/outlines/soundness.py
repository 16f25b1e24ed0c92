"""What a product does to make its lettering sound: strokes that hold, and no loose part."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["LOOPS", "ONE_PIECE", "THICKEN", "Soundness", "check_soundness"]

THICKEN = ("never", "where needed", "all over")
ONE_PIECE = ("no", "bridges", "base bar", "underline")
LOOPS = ("none", "left", "ends", "balanced")


@dataclass(frozen=True, kw_only=True, slots=True)
class Soundness:
    """A product's remedies that are taken without asking.

    Attributes
    ----------
    thicken : never, only strokes that are below the process minimum, or all strokes alike
    thicken_by_mm : for “all over”: how far outlines move outward on each side
    most_departure_mm : how far an outline may depart from the drawn one before it is another letter
    one_piece : how loose parts are tied to the rest
    bridge_mm : width of bridges and bars
    overlap_mm : how far neighbouring letters are drawn into each other
    middle_bridges : closed middles of pierced letters are held by bridges
    loop : where a loop to hang the piece by is put
    loop_hole_mm, loop_wall_mm : its hole and the material around it
    rim_mm : a rim of this width around everything; 0 is none
    """

    thicken: str = "never"
    thicken_by_mm: float = 0.0
    most_departure_mm: float = 0.15
    one_piece: str = "no"
    bridge_mm: float = 1.0
    overlap_mm: float = 0.0
    middle_bridges: bool = False
    loop: str = "none"
    loop_hole_mm: float = 3.0
    loop_wall_mm: float = 1.2
    rim_mm: float = 0.0


def check_soundness(soundness: Soundness) -> str:
    """What is wrong, or ""."""
    for name, value, known in (
        ("thicken", soundness.thicken, THICKEN),
        ("one_piece", soundness.one_piece, ONE_PIECE),
        ("loop", soundness.loop, LOOPS),
    ):
        if value not in known:
            return f"{name} must be one of {', '.join(known)}"
    bounds = {
        "thicken_by_mm": (-1.0, 3.0),
        "most_departure_mm": (0.0, 3.0),
        "bridge_mm": (0.2, 10.0),
        "overlap_mm": (0.0, 5.0),
        "loop_hole_mm": (0.5, 30.0),
        "loop_wall_mm": (0.2, 20.0),
        "rim_mm": (0.0, 20.0),
    }
    for name, (low, high) in bounds.items():
        if not low <= getattr(soundness, name) <= high:
            return f"{name} must be from {low:g} to {high:g}"
    if soundness.thicken == "all over" and not soundness.thicken_by_mm:
        return "thicken_by_mm must say how much"
    return ""

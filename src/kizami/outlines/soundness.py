"""What a product does to make its lettering sound: strokes that hold, and no loose part."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

__all__ = ["Soundness"]


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
    gaps : slits within letters and beside joints that are narrower than the process keeps open stay as drawn,
        are opened until it does, or are closed
    """

    thicken: Literal["never", "where needed", "all over"] = "never"
    thicken_by_mm: float = 0.0
    most_departure_mm: float = 0.15
    one_piece: Literal["no", "bridges", "base bar", "underline"] = "no"
    bridge_mm: float = 1.0
    overlap_mm: float = 0.0
    middle_bridges: bool = False
    loop: Literal["none", "left", "ends", "balanced"] = "none"
    loop_hole_mm: float = 3.0
    loop_wall_mm: float = 1.2
    rim_mm: float = 0.0
    gaps: Literal["as drawn", "opened", "closed"] = "as drawn"

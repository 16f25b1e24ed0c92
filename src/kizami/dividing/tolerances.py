"""What counts as the same place, as flat, or as nothing, while the plane is divided."""

from __future__ import annotations

import math
from dataclasses import dataclass

__all__ = ["TOLERANCES", "Tolerances"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Tolerances:
    """Each named for what it measures; none of them is a matter of taste.

    Coordinates of lettering are up to some 300 mm, and a double tells 5e-14 mm apart there: all that is
    told apart here lies far above rounding and far below what any file writes.

    Attributes
    ----------
    on_line_mm : what is no further from a line lies on it
    same_way_rad : lines whose directions differ by more are not parallel
    through_mm : lines that miss a point by less go through it
    no_area_mm2 : a contour of less area is a line that leads nowhere, there and back
    flat_share : a triangle is flat when its height is less than this share of its longest side
    even_share : a strip is no wider in one place than so many times its width in another; mitred corners are
    same_area_share : areas before and after dividing agree to this share, or something was lost
    creased_rad : slopes are creased where an outline turns by more than so much; less is a curve in chords
    """

    on_line_mm: float = 1e-8
    same_way_rad: float = 1e-9
    through_mm: float = 1e-7
    no_area_mm2: float = 1e-15
    flat_share: float = 1e-6
    even_share: float = 6.0
    same_area_share: float = 1e-9
    creased_rad: float = math.radians(12.0)

    @property
    def same_place_mm(self) -> float:
        """Places that each lie on a line by rounding alone, and are no further apart, are one."""
        return 10.0 * self.on_line_mm


TOLERANCES = Tolerances()

"""What is to be set on an area, and one way of setting it: what a search for the largest that fits turns."""

from __future__ import annotations

import math
from dataclasses import dataclass, field

import shapely

from kizami.artwork.artwork import Artwork
from kizami.lettering.arrangement import Arrangement
from kizami.lettering.fit_plan import HEIGHT_STEP_MM
from kizami.lettering.typeface import Typeface

__all__ = ["Recess", "Request", "Setting", "Values", "whole_steps"]


@dataclass(frozen=True, kw_only=True, slots=True)
class Request:
    """What is to be set.

    Attributes
    ----------
    text : cleaned wording; line breaks in it are kept, or with `may_rejoin` only tried first
    typeface : what it is set in
    second : an optional second part, left out when there is no room
    joint : what joins the second part to the first
    bolder : the typeface's bolder cut, or None
    artwork : a logo, or None
    arrangement : how the parts stand to each other
    overlap_mm : how far neighbouring letters may be drawn into each other until they hold; 0 leaves their
        spacing
    joined_by_mm, open_mm : width of the necks by which they then hold each other, and of the narrowest slit
        that may be left beside one
    """

    text: str
    typeface: Typeface
    second: str = ""
    joint: str = ""
    bolder: Typeface | None = None
    artwork: Artwork | None = None
    arrangement: Arrangement = field(default_factory=Arrangement)
    overlap_mm: float = 0.0
    joined_by_mm: float = 0.0
    open_mm: float = 0.0
    may_rejoin: bool = False


@dataclass(frozen=True, kw_only=True, slots=True)
class Recess:
    """A recess that is cut around lettering, as a box with rounded corners.

    Attributes
    ----------
    margin_mm : around the lettering
    clear_mm : that it keeps from edges and keep-outs
    """

    margin_mm: float
    clear_mm: float

    def around(self, low_u: float, low_v: float, high_u: float, high_v: float) -> shapely.Polygon:
        """Its outline around the bounds of lettering."""
        return shapely.box(low_u, low_v, high_u, high_v).buffer(self.margin_mm, quad_segs=16)


@dataclass(frozen=True, kw_only=True, slots=True)
class Setting:
    """One way of setting the wording; `said` tells what was given up for it."""

    text: str
    lines: tuple[tuple[int, str], ...]
    typeface: Typeface
    lowest_mm: float
    said: tuple[tuple[str, str], ...] = ()


@dataclass(frozen=True, kw_only=True, slots=True)
class Values:
    """The gradual values. Heights are counted in steps of 0.05 mm, so that they compare exactly."""

    tracking: float
    width: float
    height: float

    @property
    def height_mm(self) -> float:
        return round(self.height * HEIGHT_STEP_MM, 4)


def whole_steps(height_mm: float) -> int:
    """Steps of height in a height, what is left over dropped."""
    return math.floor(height_mm / HEIGHT_STEP_MM + 1e-9)

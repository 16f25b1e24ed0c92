"""Conversions into the units used everywhere inside: mm, grams, radians. Exact factors only."""

from __future__ import annotations

import math

__all__ = ["MM_PER_CSS_PX", "MM_PER_IN", "MM_PER_PT", "mm_from_in", "mm_from_pt", "rad_from_deg"]

#: International inch, exact by definition (1959).
MM_PER_IN = 25.4
#: The typographic point of CSS and PDF: 1/72 in.
MM_PER_PT = 25.4 / 72.0
#: The CSS pixel: 1/96 in.
MM_PER_CSS_PX = 25.4 / 96.0


def mm_from_in(length_in: float) -> float:
    """Inches to mm.

    >>> mm_from_in(0.6)
    15.239999999999998
    """
    return length_in * MM_PER_IN


def mm_from_pt(length_pt: float) -> float:
    """Typographic points to mm.

    >>> round(mm_from_pt(3), 4)
    1.0583
    """
    return length_pt * MM_PER_PT


def rad_from_deg(angle_deg: float) -> float:
    """Degrees to radians."""
    return math.radians(angle_deg)

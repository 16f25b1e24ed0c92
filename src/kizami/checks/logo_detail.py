"""A logo from a picture with too few pixels for the size that it is made at."""

from __future__ import annotations

from kizami.artwork.artwork import Artwork
from kizami.checks.finding import Finding, Level, Sense, Spot, judge
from kizami.checks.registry import FlatCase, flat_check

__all__ = ["logo_detail"]

#: An edge that wanders by more is seen on a polished piece (common practice, no source).
MOST_WANDER_MM = 0.05


@flat_check("logo-detail")
def logo_detail(case: FlatCase) -> Finding | None:
    """How far an edge of the logo may wander, for the pixels that it was followed from."""
    for mark, shape in zip(case.layout.marks, case.layout.shapes, strict=True):
        source = mark.source
        if not isinstance(source, Artwork) or not source.pixels_high or shape.is_empty:
            continue
        pixel_mm = mark.scale_mm / source.pixels_high
        wander = source.wander_pixels * pixel_mm
        level = judge(wander, MOST_WANDER_MM, Sense.AT_MOST)
        needed = source.pixels_high * wander / MOST_WANDER_MM
        return Finding(
            code="logo-detail",
            title="Logo, edge true to",
            level=level,
            measured=wander,
            limit=MOST_WANDER_MM,
            unit="mm",
            sense=Sense.AT_MOST,
            message=f"At {mark.scale_mm:.1f} mm a pixel of “{source.name}” is {pixel_mm:.2f} mm, "
            f"so its edges wander by up to {wander:.3f} mm; {MOST_WANDER_MM:.2f} mm is seen.",
            hint=f"Ask for an SVG, or for a picture at least {needed:.0f} pixels high."
            if level is Level.FAILS
            else "",
            spot=Spot(u_mm=shape.centroid.x, v_mm=shape.centroid.y),
        )
    return None

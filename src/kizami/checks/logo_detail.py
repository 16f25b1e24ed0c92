"""A logo whose picture has too few pixels for its size, or whose file shows what is not made."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.artwork.artwork import Artwork
from kizami.checks.cases import FlatCase, finding, spot_at
from kizami.checks.finding import Cause, Finding

__all__ = ["logo_as_sent", "logo_detail"]

#: An edge that wanders by more is seen on a polished piece (common practice, no source).
MOST_WANDER_MM = 0.05


def logo_detail(case: FlatCase) -> Iterator[Finding]:
    """How far an edge of the logo may wander, for the pixels that it was followed from."""
    for mark, shape in zip(case.layout.marks, case.layout.shapes, strict=True):
        source = mark.source
        if not isinstance(source, Artwork) or not source.pixels_high or shape.is_empty:
            continue
        pixel_mm = mark.scale_mm / source.pixels_high
        wander = source.wander_pixels * pixel_mm
        yield finding(
            "logo-detail",
            wander,
            MOST_WANDER_MM,
            spot=spot_at(case.made, shape.centroid.x, shape.centroid.y),
            cause=(Cause(kind="logo"),),
            name=source.name,
            high_mm=mark.scale_mm,
            pixel_mm=pixel_mm,
            needed_pixels=source.pixels_high * wander / MOST_WANDER_MM,
        )


def logo_as_sent(case: FlatCase) -> Iterator[Finding]:
    """What the file of a logo shows that is not made; nothing may be left out in silence."""
    for mark, shape in zip(case.layout.marks, case.layout.shapes, strict=True):
        source = mark.source
        if not isinstance(source, Artwork) or not source.changed or shape.is_empty:
            continue
        yield finding(
            "logo-as-sent",
            float(len(source.changed)),
            0.0,
            spot=spot_at(case.made, shape.centroid.x, shape.centroid.y),
            cause=(Cause(kind="logo"),),
            name=source.name,
            changed=source.changed,
        )
        return

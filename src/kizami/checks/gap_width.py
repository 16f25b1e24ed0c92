"""Gaps so fine that they fill in, within letters and between them."""

from __future__ import annotations

import numpy as np
import shapely

from kizami.checks.finding import Finding, Level, Sense, Spot, judge
from kizami.checks.registry import FlatCase, flat_check

__all__ = ["gap_width"]


@flat_check("gap-width")
def gap_width(case: FlatCase) -> Finding | None:
    """Narrowest gap within a letter or between neighbours against the process.

    Letters that touch are joined, which is no gap.
    """
    candidates = [*_within(case), *_between(case)]
    if not candidates:
        return None
    width, spot, where = min(candidates, key=lambda c: c[0])
    limit = case.process.limits.gap_mm
    level = judge(width, limit, Sense.AT_LEAST)
    return Finding(
        code="gap-width",
        title="Narrowest gap",
        level=level,
        measured=width,
        limit=limit,
        unit="mm",
        sense=Sense.AT_LEAST,
        message=f"The narrowest gap, {where}, is {width:.2f} mm; "
        f"{case.process.name} keeps {limit:.2f} mm open.",
        hint="Set it higher or wider apart, or make the wording shorter." if level is Level.FAILS else "",
        spot=spot,
    )


def _within(case: FlatCase) -> list[tuple[float, Spot, str]]:
    layout = case.layout
    found = []
    for placed, shape in zip(layout.glyphs, layout.shapes, strict=True):
        narrow = case.typeface.facts(placed.glyph).gap if not shape.is_empty else None
        if narrow is not None:
            spot = Spot(
                u_mm=placed.u_mm + narrow.x * layout.scale_mm,
                v_mm=placed.v_mm + narrow.y * layout.scale_mm,
                cluster=placed.cluster,
            )
            found.append((narrow.width * layout.scale_mm, spot, f"within “{layout.text[placed.cluster]}”"))
    return found


def _between(case: FlatCase) -> list[tuple[float, Spot, str]]:
    layout = case.layout
    inked = [i for i, shape in enumerate(layout.shapes) if not shape.is_empty]
    if len(inked) < 2:
        return []
    shapes = np.array([layout.shapes[i] for i in inked], dtype=object)
    # A mark stands over its neighbour, so a letter may be nearest to the one after next.
    pairs = [(i, i + 1) for i in range(len(inked) - 1)] + [(i, i + 2) for i in range(len(inked) - 2)]
    left, right = np.array(pairs).T
    distances = shapely.distance(shapes[left], shapes[right])
    distances[distances <= 0.0] = np.inf
    best = int(np.argmin(distances))
    if not np.isfinite(distances[best]):
        return []
    line = shapely.shortest_line(shapes[left[best]], shapes[right[best]])
    middle = line.interpolate(0.5, normalized=True)
    one, other = layout.glyphs[inked[left[best]]].cluster, layout.glyphs[inked[right[best]]].cluster
    spot = Spot(u_mm=middle.x, v_mm=middle.y, cluster=one)
    where = f"between “{layout.text[one]}” and “{layout.text[other]}”"
    return [(float(distances[best]), spot, where)]

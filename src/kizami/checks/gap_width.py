"""Gaps so fine that they fill in, within letters and between them."""

from __future__ import annotations

import numpy as np
import shapely

from kizami.checks.finding import Finding, Level, Sense, Spot, judge, said
from kizami.checks.registry import FlatCase, flat_check
from kizami.solids.treatment import Pierced

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
    # Where lettering is cut right through, a gap is a web that must hold.
    limits = case.process.limits
    limit = max(limits.gap_mm, limits.web_mm) if isinstance(case.treatment, Pierced) else limits.gap_mm
    level = judge(width, limit, Sense.AT_LEAST)
    return Finding(
        code="gap-width",
        title="Narrowest gap",
        level=level,
        measured=width,
        limit=limit,
        unit="mm",
        sense=Sense.AT_LEAST,
        message=f"The narrowest gap, {where}, is {said(width, limit)} mm; "
        f"{case.process.name} keeps {limit:.2f} mm open.",
        hint="Set it higher or wider apart, or make the wording shorter." if level is Level.FAILS else "",
        spot=spot,
    )


def _within(case: FlatCase) -> list[tuple[float, Spot, str]]:
    layout = case.layout
    return [
        (
            facts.gap.width,
            Spot(u_mm=facts.gap.x, v_mm=facts.gap.y, cluster=mark.cluster),
            f"within “{layout.letter(mark.cluster)}”",
        )
        for mark, facts in zip(layout.marks, layout.narrow, strict=True)
        if facts.gap is not None
    ]


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
    one, other = layout.marks[inked[left[best]]].cluster, layout.marks[inked[right[best]]].cluster
    spot = Spot(u_mm=middle.x, v_mm=middle.y, cluster=one)
    where = f"between “{layout.letter(one)}” and “{layout.letter(other)}”"
    return [(float(distances[best]), spot, where)]

"""Parts that nothing holds: of lettering that must be one piece, and the middles of what is pierced."""

from __future__ import annotations

from collections.abc import Iterator

import shapely

from kizami.as_made.treatment import Pierced
from kizami.checks.cases import FlatCase, finding, spot_at
from kizami.checks.finding import Finding
from kizami.outlines.curves import bodies_of
from kizami.outlines.joining import loose_parts

__all__ = ["closed_middles", "parts_loose"]


def parts_loose(case: FlatCase) -> Iterator[Finding]:
    """Parts that are not attached to the largest one, after tying; none may be left."""
    standing = case.area.standing
    if case.layout.is_empty or (case.soundness.one_piece == "no" and standing is None):
        return
    # Letters in a frame are held by it.
    whole = case.made.outlines if standing is None else bodies_of(case.made.outlines, standing)
    loose = loose_parts(whole)
    first = loose[0].representative_point() if loose else None
    yield finding(
        "loose-parts",
        float(len(loose)),
        0.0,
        spot=None if first is None else spot_at(case.made, first.x, first.y),
        before=case.layout.loose_before,
    )


def closed_middles(case: FlatCase) -> Iterator[Finding]:
    """Middles of pierced lettering that nothing holds; none may be."""
    if not isinstance(case.treatment, Pierced) or case.layout.is_empty:
        return
    holes = [shapely.Polygon(hole) for body in case.made.outlines.geoms for hole in body.interiors]
    first = holes[0].representative_point() if holes else None
    yield finding(
        "closed-middles",
        float(len(holes)),
        0.0,
        spot=None if first is None else spot_at(case.made, first.x, first.y),
    )

"""Too little material left under the lettering; a pocket deeper than the body is thick."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from kizami.as_made.treatment import CutOut, InRecess, Pierced, Raised, Scored
from kizami.checks.cases import FlatCase, finding, spot_at
from kizami.checks.finding import Finding

__all__ = ["floor_left"]

_CHORDS_MM = 0.0065
#: So many corners of the outlines are enough to find where the wall under them is thinnest.
_ENOUGH = 240


def floor_left(case: FlatCase) -> Iterator[Finding]:
    """Wall under the lettering, measured on the bare body, less what is cut; or less a root."""
    made, treatment = case.made, case.treatment
    if isinstance(treatment, Pierced | Scored | CutOut) or made.outlines.is_empty:
        return
    raised = isinstance(treatment, Raised)
    # A root is filled again with the same metal: it only must not come out at the back.
    cut = treatment.depth_mm if isinstance(treatment, InRecess) else treatment.floor_below_mm
    places = shapely.get_coordinates(made.opening)
    places = places[:: max(1, len(places) // _ENOUGH)]
    wall, at = case.area.wall_mm, places[0]
    if case.walls is not None:
        thick = case.walls(places)
        thinnest = int(np.argmin(thick))
        wall, at = float(thick[thinnest]), places[thinnest]
    behind = 0.0 if raised else case.behind_mm
    left = wall - behind - cut
    if isinstance(treatment, InRecess) and left <= treatment.root_mm:
        left = min(left, wall - behind - treatment.floor_below_mm)
    limit = 0.0 if raised else case.limits.of("floor-left")
    # Chords of the bare body make a wall thinner by no more than they may.
    left = limit if 0.0 < limit - left < _CHORDS_MM else left
    yield finding(
        "floor-left",
        left,
        limit,
        spot=spot_at(made, at[0], at[1], -cut) if case.walls is not None else None,
        title="Wall behind the root" if raised else "",
        wall_mm=wall,
        reach_mm=cut,
        behind_mm=behind,
        sunk=not raised,
    )

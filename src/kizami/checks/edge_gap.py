"""Lettering too near an edge, a hole or the sizing seam, or running off the area."""

from __future__ import annotations

import shapely

from kizami.checks.finding import Finding, Level, Sense, Spot, judge, said
from kizami.checks.registry import FlatCase, flat_check
from kizami.solids.treatment import CutOut

__all__ = ["edge_gap"]


@flat_check("edge-gap")
def edge_gap(case: FlatCase) -> Finding | None:
    """Least distance from the lettering to an edge or keep-out; negative when it runs over it."""
    outlines = case.layout.lettering
    # A name with nothing behind it has no edge but its own.
    if outlines.is_empty or isinstance(case.treatment, CutOut):
        return None
    edges = case.area.edges()
    inside = shapely.covers(case.area.clear_region(0.0), outlines)
    if inside:
        line = shapely.shortest_line(outlines, edges)
        gap = float(line.length)
        spot = line.interpolate(0.5, normalized=True)
    else:
        beyond = outlines.difference(case.area.clear_region(0.0))
        points = shapely.points(shapely.get_coordinates(beyond))
        reach = shapely.distance(points, edges)
        furthest = int(reach.argmax())
        gap, spot = -float(reach[furthest]), points[furthest]
    limit = case.process.limits.edge_gap_mm
    level = judge(gap, limit, Sense.AT_LEAST)
    nearest = _nearest_name(case, spot)
    over = f"The lettering runs {-gap:.2f} mm over the {nearest}"
    near = f"The lettering comes within {said(gap, limit)} mm of the {nearest}"
    return Finding(
        code="edge-gap",
        title="Gap to the edge",
        level=level,
        measured=gap,
        limit=limit,
        unit="mm",
        sense=Sense.AT_LEAST,
        message=f"{near if inside else over}; {limit:.2f} mm must stay clear.",
        hint="Make the wording shorter or the lettering lower." if level is Level.FAILS else "",
        spot=Spot(u_mm=float(spot.x), v_mm=float(spot.y)),
    )


def _nearest_name(case: FlatCase, spot: shapely.Point) -> str:
    named = [(k.outline.distance(spot), k.name) for k in case.area.keep_outs]
    named.append((case.area.outline.boundary.distance(spot), "edge"))
    return min(named)[1]

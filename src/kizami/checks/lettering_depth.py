"""Lettering too shallow to show after the process."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.as_made.depths import depths
from kizami.checks.cases import FlatCase, causes_of, finding, spot_at, worst_few
from kizami.checks.finding import Finding

__all__ = ["lettering_depth"]


def lettering_depth(case: FlatCase) -> Iterator[Finding]:
    """The shallowest place of every part against what the process still shows."""
    made, sunk = case.made, case.treatment.sinks
    limit = case.limits.of("lettering-depth", sunk=sunk)
    found = depths(made)
    # Where all is as deep as it was asked to be, it is a fact of the whole.
    if found and not any(depth.why for depth in found):
        yield finding(
            "lettering-depth", found[0].depth_mm, limit, title="" if sunk else "Raised by", sunk=sunk
        )
        return
    for depth in worst_few(found, lambda depth: depth.depth_mm < limit):
        cluster = made.parts[depth.part].cluster
        yield finding(
            "lettering-depth",
            depth.depth_mm,
            limit,
            title="" if sunk else "Raised by",
            spot=spot_at(made, depth.u_mm, depth.v_mm, cluster=cluster),
            cause=causes_of(made, [depth.part]),
            sunk=sunk,
            why=depth.why,
        )

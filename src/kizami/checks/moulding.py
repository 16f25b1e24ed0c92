"""What a mould or sand needs: nothing that holds it back, and walls with enough slope."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from kizami.as_made.as_made import pull_of
from kizami.checks.cases import finding
from kizami.checks.finding import Finding, Spot
from kizami.checks.solid_case import SolidCase

__all__ = ["draft_held", "undercut"]

#: Upright walls in single precision may look away by so much.
_UPRIGHT = 2e-3
#: So much lettering may look away, mm2: the ends of facets.
_SPECK_MM2 = 0.01


def undercut(case: SolidCase) -> Iterator[Finding]:
    """Area of the lettering that looks away from the pull, where a mould must be drawn off along it."""
    for flat in case.flats:
        if flat.made.pull is None and not case.limits.of("draft"):
            continue
        pull = pull_of(flat.area) if flat.made.pull is None else flat.made.pull
        own = np.flatnonzero(case.solid.is_lettering)
        away = own[case.measured.normals[own] @ pull < -_UPRIGHT]
        areas = case.measured.areas_mm2[away]
        worst = case.measured.middles[away[np.argmax(areas)]] if len(away) else None
        area = float(areas.sum())
        yield finding(
            "undercut",
            area if area > _SPECK_MM2 else 0.0,
            0.0,
            spot=None if worst is None else Spot(xyz_mm=(float(worst[0]), float(worst[1]), float(worst[2]))),
        )


def draft_held(case: SolidCase) -> Iterator[Finding]:
    """The steepest wall of the lettering against the slope that the process needs."""
    limit = case.limits.of("draft")
    if not limit or not case.solid.is_lettering.any():
        return
    for flat in case.flats:
        pull = pull_of(flat.area) if flat.made.pull is None else flat.made.pull
        own = np.flatnonzero(case.solid.is_lettering)
        facing = case.measured.normals[own] @ pull
        walls = own[facing < math.cos(math.radians(60.0))]
        if not len(walls):
            continue
        slopes = np.degrees(np.arcsin(np.clip(case.measured.normals[walls] @ pull, -1.0, 1.0)))
        steepest = int(np.argmin(slopes))
        at = case.measured.middles[walls[steepest]]
        yield finding(
            "draft-held",
            float(slopes[steepest]),
            limit,
            spot=Spot(xyz_mm=(float(at[0]), float(at[1]), float(at[2]))),
            process=case.process_name,
        )

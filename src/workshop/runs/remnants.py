"""What is left of used sheets: kept when a sheet was made, laid on before a new one is begun."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
import shapely

from workshop.runs.models import Placement, Remnant, Run, Standing
from workshop.runs.rows import outline_on_map
from workshop.stations.models import Station

__all__ = ["LEAST_SHARE", "free_remnants", "keep_remnant"]

#: Less of a sheet is not worth keeping (common practice, no source).
LEAST_SHARE = 0.15
_TOLERANCE_MM = 0.2


def keep_remnant(run: Run, rows: Iterable[Placement]) -> Remnant | None:
    """Keep what a made run has left of its sheet; None where that is too little. The used remnant is gone."""
    ground = run.to_ground()
    used = [outline_on_map(run, row) for row in rows]
    before = [ground.taken] if ground.taken is not None else []
    # Only whole outlines: what lies within a piece's openings is offcut.
    gone = shapely.union_all([*used, *before]).buffer(2.0 * _TOLERANCE_MM).simplify(_TOLERANCE_MM)
    if run.remnant is not None:
        run.remnant.gone = True
        run.remnant.save(update_fields=["gone"])
    room = shapely.box(*ground.room)
    share = float(room.difference(gone.buffer(ground.gap_mm)).area / room.area)
    if share < LEAST_SHARE:
        return None
    rings = [np.round(np.asarray(part.exterior.coords)[:-1], 2).tolist() for part in shapely.get_parts(gone)]
    return Remnant.objects.create(
        station=run.station,
        material=run.material,
        thickness_mm=run.thickness_mm,
        taken=rings,
        free_share=round(share, 4),
        made_from=run.code,
    )


def free_remnants(station: Station, material: str, thickness_mm: float) -> list[Remnant]:
    """Remnants that may be laid on: in stock and in no run that somebody has taken, the oldest first."""
    in_use = Run.objects.filter(standing__in=(Standing.OPEN, Standing.LOCKED)).exclude(remnant=None)
    rows = Remnant.objects.in_stock().filter(station=station, material=material)
    fitting = rows.filter(thickness_mm__gt=thickness_mm - 0.01, thickness_mm__lt=thickness_mm + 0.01)
    return list(fitting.exclude(pk__in=in_use.values("remnant")))

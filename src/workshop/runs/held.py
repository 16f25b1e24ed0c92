"""A run held while it is changed: nobody else changes it meanwhile, and it is kept with a new edition."""

from __future__ import annotations

from collections.abc import Sequence

from kizami.runs.laying import Place, Shape
from kizami.runs.spacing import faults_of
from workshop.runs.models import Placement, Run
from workshop.runs.rows import place_of
from workshop.runs.taking_up import core_shape

__all__ = ["RunChangeError", "changed_run", "prove", "save"]


class RunChangeError(Exception):
    """Nothing was changed; the message says why and what to do."""


def changed_run(code: str, edition: int, *, also_locked: bool = False) -> Run:
    """A run that may be changed now, locked against others. Call in a transaction.

    Raises
    ------
    RunChangeError : it is locked already, or somebody changed it meanwhile
    """
    run = (
        Run.objects.select_for_update(of=("self",))
        .select_related("station", "remnant")
        .filter(code=code)
        .first()
    )
    if run is None:
        raise RunChangeError("The run is gone: new proposals took its place. Look at the list of runs.")
    if not also_locked and not run.can_be_changed:
        raise RunChangeError(f"{run.code} is {run.get_standing_display()} and stays as it is.")
    if run.edition != edition:
        raise RunChangeError(
            f"Somebody changed {run.code} while you had it open. Nothing of yours was kept; it is shown as "
            "it stands now."
        )
    return run


def save(run: Run) -> None:
    """Keep it; what anybody else has open is of an older edition now."""
    run.edition += 1
    run.save()


def prove(run: Run, rows: Sequence[Placement]) -> None:
    """Whether the pieces lie as they may, by the core's own proof, layer by layer.

    Raises
    ------
    RunChangeError : two lie too near to each other, or one beyond the bed
    """
    ground = run.to_ground()
    layers: dict[float, list[tuple[Shape, Place]]] = {}
    shapes: dict[str, Shape] = {}
    for row in rows:
        shape = shapes.setdefault(row.shape_id, core_shape(row.shape))
        layers.setdefault(row.z_mm, []).append((shape, place_of(row)))
    for lying in layers.values():
        faults = faults_of(lying, ground)
        if faults:
            more = f" {len(faults) - 1} more like it." if len(faults) > 1 else ""
            raise RunChangeError(f"{faults[0].message}{more} It was put back.")

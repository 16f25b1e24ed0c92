"""From a batch to runs: laid out, stacked where the machine builds in layers, each bed with its totals'
parts."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import shapely

from kizami.counting import so_many
from kizami.runs.lay_out import lay_out
from kizami.runs.laying import Ground, Item, Place, Shape, fill, ground_of
from kizami.runs.machine import Machine
from kizami.runs.ready import Batch, Ready, Waits
from kizami.runs.rows import lay_in_rows
from kizami.runs.telling import Told, tell_nobody

__all__ = ["BedOf", "assemble", "spoken_beds"]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class BedOf:
    """What lies in one run.

    Attributes
    ----------
    pieces, places : side by side, from the lower left of the lowest layer on
    fill : share of the bed that is covered, in the mean of its layers
    rows : how many of them plain rows would hold on one layer
    layers : how many
    how : what laid it
    """

    pieces: tuple[Ready, ...]
    places: tuple[Place, ...]
    fill: float
    rows: int
    layers: int = 1
    how: str = ""


def assemble(
    batch: Batch,
    *,
    seconds: float = 0.0,
    seed: int = 0,
    taken: shapely.Geometry | None = None,
    most_beds: int = 0,
    told: Told = tell_nobody,
) -> tuple[list[BedOf], list[Waits]]:
    """Lay a batch on as many beds as it needs.

    Parameters
    ----------
    taken : what is used up of the (first) sheet

    Returns
    -------
    the beds in the order in which they are to be made, and what fits on none with the reason
    """
    machine = batch.machine
    ground = ground_of(machine, taken=taken)
    by_key = {piece.key: piece for piece in batch.pieces}
    items = [Item(key=piece.key, shape=piece.shape) for piece in batch.pieces]
    laid = lay_out(items, ground, seconds=seconds, seed=seed, most_beds=most_beds, told=told)
    beds = [_bed([by_key[p.key] for p in bed.places], bed.places, ground, bed.how) for bed in laid.beds]
    waits = [Waits(key=key, why=_too_large(by_key[key].shape, machine)) for key in laid.too_large]
    return (_stacked(beds, machine) if machine.layers_gap_mm > 0.0 else beds), waits


def _bed(pieces: Sequence[Ready], places: Sequence[Place], ground: Ground, how: str) -> BedOf:
    order = sorted(range(len(places)), key=lambda n: (places[n].x_mm, places[n].y_mm))
    pieces, places = [pieces[n] for n in order], [places[n] for n in order]
    shapes = [piece.shape for piece in pieces]
    items = [Item(key=piece.key, shape=piece.shape) for piece in pieces]
    return BedOf(
        pieces=tuple(pieces),
        places=tuple(places),
        fill=fill(shapes, ground),
        rows=len(lay_in_rows(items, ground)),
        how=how,
    )


def _stacked(beds: Sequence[BedOf], machine: Machine) -> list[BedOf]:
    """Beds above each other while the machine's height lasts; powder holds the upper ones."""
    runs: list[list[BedOf]] = []
    high = 0.0
    for bed in beds:
        tallest = max(piece.shape.height_mm for piece in bed.pieces)
        if not runs or high + tallest > machine.bed_mm[2]:
            runs.append([])
            high = 0.0
        places = tuple(replace(place, z_mm=high) for place in bed.places)
        runs[-1].append(replace(bed, places=places))
        high += tallest + machine.layers_gap_mm
    return [
        BedOf(
            pieces=tuple(piece for bed in layers for piece in bed.pieces),
            places=tuple(place for bed in layers for place in bed.places),
            fill=sum(bed.fill for bed in layers) / len(layers),
            rows=sum(bed.rows for bed in layers),
            layers=len(layers),
            how=layers[0].how,
        )
        for layers in runs
    ]


def _too_large(shape: Shape, machine: Machine) -> str:
    low_x, low_y, high_x, high_y = shape.outline.bounds
    width, depth = machine.room_mm
    return (
        f"It covers {high_x - low_x:.1f} by {high_y - low_y:.1f} mm; {machine.name} has "
        f"{width:g} by {depth:g} mm within its margins."
    )


def spoken_beds(machine: Machine, count: int) -> str:
    """How many beds, in the word of their kind.

    >>> from kizami.runs.machine import shipped_machines
    >>> spoken_beds(shipped_machines()["LASER-1"], 2)
    '2 sheets'
    """
    plural = "sand boxes" if machine.kind == "sand box" else f"{machine.kind}s"
    return so_many(count, machine.kind, plural)

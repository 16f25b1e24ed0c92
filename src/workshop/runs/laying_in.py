"""Putting pieces into a run that lies already, and its sums after a change."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from django.db import IntegrityError, transaction

from kizami.runs.assemble import BedOf
from kizami.runs.cells import lay_by_cells
from kizami.runs.lay_down import LaidDown, down_of, lay_down
from kizami.runs.laying import Item, fill
from kizami.runs.ready import Batch, Ready
from kizami.runs.rows import lay_in_rows
from kizami.runs.spacing import faults_of
from workshop.orders.models import Piece
from workshop.runs.held import RunChangeError, save
from workshop.runs.models import Placement, Run
from workshop.runs.rows import place_of, placements_of, run_facts
from workshop.runs.taking_up import TakenUp, core_shape, for_runs, take_up

__all__ = ["hang_anew", "lay_beside", "summed"]


def lay_beside(run: Run, rows: Sequence[Placement], fitting: Sequence[Ready], taken: TakenUp) -> int:
    """Lay pieces where there is room on the lowest layer; returns how many found some.

    Raises
    ------
    RunChangeError : one of them is in another run by now
    """
    ground = run.to_ground()
    low = min((row.z_mm for row in rows), default=0.0)
    lying = [(core_shape(row.shape), place_of(row)) for row in rows if row.z_mm == low]
    machine = run.to_machine()
    above = min((row.z_mm for row in rows if row.z_mm > low), default=None)
    high = machine.bed_mm[2] if above is None else above - machine.layers_gap_mm
    # Nothing reaches into the layer above, or out of the machine.
    low_enough = [piece for piece in fitting if low + piece.shape.height_mm <= high + 1e-6]
    places = lay_by_cells([Item(key=p.key, shape=p.shape) for p in low_enough], ground, lying=lying)
    shapes = {piece.key: piece.shape for piece in low_enough}
    faults = faults_of([*lying, *((shapes[place.key], place) for place in places)], ground)
    if faults:
        raise RunChangeError(f"{faults[0].message} Nothing was put in.")
    try:
        with transaction.atomic():
            Placement.objects.bulk_create(
                Placement(
                    run=run,
                    piece_id=taken.of_piece[place.key],
                    revision_id=taken.of_revision[place.key],
                    shape_id=taken.of_shape[place.key],
                    key=place.key,
                    place=len(rows) + number,
                    x_mm=round(place.x_mm, 4),
                    y_mm=round(place.y_mm, 4),
                    z_mm=low,
                    turn_deg=place.turn_deg,
                )
                for number, place in enumerate(places, start=1)
            )
    except IntegrityError as error:
        raise RunChangeError("One of them is in another run by now. Look again.") from error
    return len(places)


def hang_anew(run: Run, pieces: Sequence[int], *, keep: Iterable[int] = ()) -> int:
    """Hang a tree again from these pieces; returns how many more than those of before found a place.

    Raises
    ------
    RunChangeError : one of those that are to stay finds none
    """
    run.placements.live().delete()
    taken = take_up(for_runs(Piece.objects.filter(pk__in=pieces)))
    kept = set(keep)
    ordered = sorted(taken.pieces, key=lambda piece: taken.of_piece[piece.key] not in kept)
    downs, _ = lay_down(_batch(run, ordered), taken.sources, most_beds=1)
    if not downs:
        raise RunChangeError("None of these hangs on the tree.")
    down = downs[0]
    on = {taken.of_piece[piece.key] for piece in down.pieces}
    if not kept <= on:
        raise RunChangeError("With these the tree has no room for all that hang on it. Split it first.")
    now = dict(Piece.objects.filter(pk__in=on).values_list("pk", "revision_id"))
    rows = placements_of(down, taken, now)
    for row in rows:
        row.run = run
    Placement.objects.bulk_create(rows)
    run.facts = run_facts(down)
    return len(on) - len(kept)


def _batch(run: Run, pieces: Sequence[Ready]) -> Batch:
    return Batch(
        machine=run.to_machine(),
        material=run.material,
        thickness_mm=run.thickness_mm,
        pieces=tuple(pieces),
        why=run.why,
    )


def summed(run: Run) -> None:
    """Work the sums out anew, and keep the run."""
    if not run.is_tree:
        run.facts = run_facts(_down(run))
    save(run)


def _down(run: Run) -> LaidDown:
    rows = list(run.placements.live().with_pieces().select_related("revision"))
    taken = take_up(for_runs(Piece.objects.filter(pk__in=[row.piece_id for row in rows])))
    by_piece = {pk: key for key, pk in taken.of_piece.items()}
    ready = {piece.key: piece for piece in taken.pieces}
    kept = [row for row in rows if row.piece_id in by_piece]
    pieces = tuple(ready[by_piece[row.piece_id]] for row in kept)
    ground = run.to_ground()
    layers = len({row.z_mm for row in kept}) or 1
    bed = BedOf(
        pieces=pieces,
        places=tuple(place_of(row) for row in kept),
        fill=fill([piece.shape for piece in pieces], ground) / layers,
        rows=len(lay_in_rows([Item(key=p.key, shape=p.shape) for p in pieces], ground)),
        layers=layers,
        how="by hand",
    )
    return down_of(_batch(run, pieces), bed, taken.sources)

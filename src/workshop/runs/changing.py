"""What a person does to a run: take it, change how it lies, lock it, mark off what came of it. Every change
of how it lies can be taken back until it is locked."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from django.contrib.auth.models import User
from django.db import IntegrityError, transaction
from django.utils import timezone
from procrastinate.contrib.django import app

from kizami.runs.assemble import BedOf
from kizami.runs.cells import lay_by_cells
from kizami.runs.lay_down import LaidDown, down_of, lay_down
from kizami.runs.laying import Item, Place, Shape, fill
from kizami.runs.ready import Batch, Ready
from kizami.runs.rows import lay_in_rows
from kizami.runs.spacing import faults_of
from workshop.orders.models import Event, Piece
from workshop.orders.stages import Stage
from workshop.runs.models import Placement, Run, RunStep, Standing
from workshop.runs.remnants import keep_remnant
from workshop.runs.rows import place_of, placements_of, run_facts
from workshop.runs.taking_up import TakenUp, core_shape, for_runs, take_up

__all__ = [
    "RunChangeError",
    "add",
    "changed_run",
    "lock",
    "mark_off",
    "merge",
    "move",
    "split",
    "take",
    "take_back",
    "take_out",
    "unlock",
    "withdraw",
]

#: Changes that are remembered of a run.
_STEPS_KEPT = 50


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


def take(run: Run, *, user: User) -> None:
    """Take a proposal: it stays when new ones are made."""
    if run.standing == Standing.PROPOSED:
        run.standing, run.made_by = Standing.OPEN, user
        _save(run)


def withdraw(run: Run, *, user: User) -> None:
    """Give a run up: its pieces are free for others."""
    Event.objects.create(who=user, what=f"Gave up run {run.code}")
    run.delete()


def move(run: Run, places: Mapping[int, tuple[float, float, float]], *, user: User) -> None:
    """Put pieces elsewhere on their bed.

    Parameters
    ----------
    places : x, y in mm and turn in degrees by placement

    Raises
    ------
    RunChangeError : pieces would overlap, come too near or leave the bed
    """
    if run.is_tree:
        raise RunChangeError("On a tree pieces hang by its rules. Take them out or put them in.")
    rows = list(run.placements.live().with_pieces())
    moved = [row for row in rows if row.pk in places]
    if not moved:
        raise RunChangeError("The piece is no longer in this run.")
    before = _snapshot(rows)
    for row in moved:
        x, y, turn = places[row.pk]
        row.x_mm, row.y_mm, row.turn_deg = round(x, 4), round(y, 4), round(turn % 360.0, 4)
    _prove(run, rows)
    _remember(run, before, said=f"moved {_named(moved)}", user=user)
    Placement.objects.bulk_update(moved, ["x_mm", "y_mm", "turn_deg"])
    _summed(run)


def take_out(run: Run, chosen: Iterable[int], *, user: User) -> None:
    """Take pieces out of a run; they wait for another one."""
    rows = list(run.placements.live().with_pieces())
    wanted = set(chosen)
    gone = [row for row in rows if row.pk in wanted]
    if not gone:
        raise RunChangeError("Choose the pieces first.")
    if len(gone) == len(rows):
        raise RunChangeError("That would leave nothing in the run. Give the run up instead.")
    _remember(run, _snapshot(rows), said=f"took out {_named(gone)}", user=user)
    Placement.objects.filter(pk__in=[row.pk for row in gone]).delete()
    if run.is_tree:
        _hang_anew(run, [row.piece_id for row in rows if row.pk not in wanted])
    _summed(run)


def add(run: Run, pieces: Iterable[int], *, user: User) -> tuple[int, int]:
    """Put waiting pieces into a run, as many as find room.

    Returns
    -------
    how many went in, and how many found no room

    Raises
    ------
    RunChangeError : none of them may, or none finds room
    """
    rows = list(run.placements.live().with_pieces())
    there = {row.piece_id for row in rows}
    wanted = [pk for pk in dict.fromkeys(pieces) if pk not in there]
    taken = take_up(for_runs(Piece.objects.filter(pk__in=wanted, stage=Stage.READY)))
    machine = run.to_machine()
    fitting = [piece for piece in taken.pieces if _belongs(piece, run)]
    if not fitting:
        raise RunChangeError(f"None of these is ready for {machine.name} in this material.")
    before = _snapshot(rows)
    # Proposals give way to what a person decides.
    _free([taken.of_piece[piece.key] for piece in fitting])
    if run.is_tree:
        went_in = _hang_anew(run, [*there, *(taken.of_piece[piece.key] for piece in fitting)], keep=there)
    else:
        went_in = _lay_beside(run, rows, fitting, taken)
    if not went_in:
        raise RunChangeError("There is no room left for any of these. They wait for another run.")
    _remember(run, before, said=f"put in {went_in} piece{'s' * (went_in != 1)}", user=user)
    _summed(run)
    return went_in, len(wanted) - went_in


def split(run: Run, chosen: Iterable[int], *, user: User) -> Run:
    """Make a run of its own of some pieces; they keep their places."""
    rows = list(run.placements.live().with_pieces())
    wanted = set(chosen)
    apart = [row for row in rows if row.pk in wanted]
    if not apart or len(apart) == len(rows):
        raise RunChangeError("Choose some of the pieces, not all: the others stay.")
    _remember(run, _snapshot(rows), said=f"split off {_named(apart)}", user=user)
    code = Run.objects.next_code(run.station)
    other = Run.objects.create(
        code=code,
        number=int(code.rpartition("-")[2]),
        station=run.station,
        machine=run.machine,
        material=run.material,
        thickness_mm=run.thickness_mm,
        standing=Standing.OPEN,
        why=f"Split off {run.code} by {user.get_username()}.",
        facts=run.facts,
        made_by=user,
    )
    Placement.objects.filter(pk__in=[row.pk for row in apart]).update(run=other)
    for each, kept in ((run, [r for r in rows if r.pk not in wanted]), (other, apart)):
        if each.is_tree:
            _hang_anew(each, [row.piece_id for row in kept])
        _summed(each)
    return other


def merge(run: Run, other: Run, *, user: User) -> tuple[int, int]:
    """Put the pieces of another run into this one, as many as find room; the rest stay where they are.

    Returns
    -------
    how many came over, and how many did not
    """
    if (run.station_id, run.material, run.thickness_mm) != (
        other.station_id,
        other.material,
        other.thickness_mm,
    ):
        raise RunChangeError("Only runs of one station and one material go together.")
    theirs = list(other.placements.live().with_pieces())
    pieces = [row.piece_id for row in theirs]
    with transaction.atomic():
        Placement.objects.filter(pk__in=[row.pk for row in theirs]).delete()
        came, stayed = add(run, pieces, user=user)
        left = [pk for pk in pieces if not run.placements.live().filter(piece=pk).exists()]
        if not left:
            other.delete()
        else:
            _put_back(other, [row for row in _snapshot(theirs) if row["piece"] in set(left)])
            if other.is_tree:
                _hang_anew(other, left)
            _summed(other)
    return came, stayed


def take_back(run: Run, *, user: User) -> str:
    """Take the last change back.

    Returns
    -------
    what was taken back, in words

    Raises
    ------
    RunChangeError : there is nothing to take back
    """
    step = run.steps.first()
    if step is None:
        raise RunChangeError("There is nothing to take back.")
    run.placements.live().delete()
    lost = _put_back(run, step.before)
    said = step.said
    step.delete()
    _summed(run)
    return said + (f"; {lost} of them were changed or are in another run meanwhile" if lost else "")


def lock(run: Run, *, user: User) -> None:
    """Lock a run: its pieces are on their way, its files are written.

    Raises
    ------
    RunChangeError : a piece may not go, or pieces lie wrongly
    """
    rows = list(run.placements.live().with_pieces())
    if not rows:
        raise RunChangeError("There is nothing in the run. Put pieces in, or give it up.")
    if not run.is_tree:
        _prove(run, rows)
    pieces = list(
        Piece.objects.select_for_update(no_key=True)
        .filter(pk__in=[row.piece_id for row in rows])
        .order_by("pk")
    )
    stands_on = {row.piece_id: row.revision_id for row in rows}
    odd = [p for p in pieces if p.stage != Stage.READY or p.revision_id != stands_on[p.pk]]
    if odd or len(pieces) != len(rows):
        raise RunChangeError("A piece of it was changed meanwhile. It left the run; look again and lock.")
    run.standing, run.locked_at, run.attempts = Standing.LOCKED, timezone.now(), 0
    run.files_state, run.files_said, run.done, run.total = Run.Files.WAITING, "", 0, 0
    _save(run)
    Piece.objects.filter(pk__in=stands_on).update(stage=Stage.IN_RUN)
    Event.objects.create(who=user, what=f"Locked run {run.code} with {len(rows)} pieces")
    _write_files(run)


def unlock(run: Run, *, user: User) -> None:
    """Open a locked run again: its files are no longer offered, its pieces can be changed."""
    if run.standing != Standing.LOCKED:
        raise RunChangeError(f"{run.code} is {run.get_standing_display()}; only a locked run can be opened.")
    pieces = list(run.placements.live().values_list("piece", flat=True))
    run.standing, run.files_state = Standing.OPEN, Run.Files.NONE
    run.file, run.contents, run.files_said = None, [], ""
    _save(run)
    Piece.objects.filter(pk__in=pieces, stage=Stage.IN_RUN).update(stage=Stage.READY)
    Event.objects.create(who=user, what=f"Opened run {run.code} again")


def mark_off(run: Run, failed: Mapping[int, str], *, user: User) -> tuple[int, int]:
    """Mark off what was made; what failed is ready again, for another run.

    Parameters
    ----------
    failed : why, by placement

    Returns
    -------
    how many were made, how many failed
    """
    if run.standing != Standing.LOCKED or run.files_state != Run.Files.RELEASED:
        raise RunChangeError("Only a run whose files were released can be marked off.")
    rows = list(run.placements.live().select_related("piece__line"))
    good = [row for row in rows if row.pk not in failed]
    bad = [row for row in rows if row.pk in failed]
    for row in rows:
        row.live = False
        row.outcome = Placement.Outcome.FAILED if row.pk in failed else Placement.Outcome.MADE
        row.why = failed.get(row.pk, "")[:200]
    Placement.objects.bulk_update(rows, ["live", "outcome", "why"])
    Piece.objects.filter(pk__in=[row.piece_id for row in good]).update(stage=Stage.MADE)
    Piece.objects.filter(pk__in=[row.piece_id for row in bad]).update(stage=Stage.READY)
    run.standing = Standing.MADE
    _save(run)
    if run.kind == "sheet":
        keep_remnant(run, rows)
    Event.objects.create(who=user, what=f"Marked off run {run.code}: {len(good)} made, {len(bad)} failed")
    Event.objects.bulk_create(
        Event(
            who=user,
            line=row.piece.line,
            what=f"{row.key} failed in run {run.code} and is ready again. {row.why}"[:300],
        )
        for row in bad
    )
    return len(good), len(bad)


def _write_files(run: Run) -> None:
    app.configure_task("release_run", queueing_lock=f"release-{run.pk}-{run.edition}", queue="making").defer(
        run_pk=run.pk
    )


def _save(run: Run) -> None:
    run.edition += 1
    run.save()


def _named(rows: Sequence[Placement]) -> str:
    return rows[0].key if len(rows) == 1 else f"{len(rows)} pieces"


def _belongs(piece: Ready, run: Run) -> bool:
    machine = run.to_machine()
    if not machine.takes(piece.process, piece.material) or piece.material != run.material:
        return False
    return not run.thickness_mm or abs(piece.thickness_mm - run.thickness_mm) < 0.01


def _prove(run: Run, rows: Sequence[Placement]) -> None:
    """By the core's own proof, layer by layer."""
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


def _snapshot(rows: Iterable[Placement]) -> list[dict[str, Any]]:
    return [
        {
            "piece": row.piece_id, "revision": row.revision_id, "shape": row.shape_id, "key": row.key,
            "place": row.place, "at": [row.x_mm, row.y_mm, row.z_mm, row.turn_deg], "hanging": row.hanging,
        }
        for row in rows
    ]  # fmt: skip


def _remember(run: Run, before: list[dict[str, Any]], *, said: str, user: User) -> None:
    last = run.steps.first()
    number = (last.number if last else 0) + 1
    RunStep.objects.create(run=run, number=number, said=said[:200], before=before, who=user)
    run.steps.filter(number__lte=number - _STEPS_KEPT).delete()
    if run.standing == Standing.PROPOSED:
        # Whoever changes a proposal has taken it.
        run.standing, run.made_by = Standing.OPEN, user


def _put_back(run: Run, rows: Sequence[Mapping[str, Any]]) -> int:
    """Put pieces where they lay; returns how many are no longer to be had."""
    wanted = {row["piece"]: row for row in rows}
    _free(list(wanted))
    now = dict(
        Piece.objects.select_for_update(no_key=True)
        .filter(pk__in=wanted, stage=Stage.READY)
        .exclude(pk__in=Placement.objects.live().filter(piece__in=wanted).values("piece"))
        .order_by("pk")
        .values_list("pk", "revision_id")
    )
    kept = [row for piece, row in wanted.items() if now.get(piece) == row["revision"]]
    Placement.objects.bulk_create(
        Placement(
            run=run, piece_id=row["piece"], revision_id=row["revision"], shape_id=row["shape"],
            key=row["key"], place=row["place"], x_mm=row["at"][0], y_mm=row["at"][1], z_mm=row["at"][2],
            turn_deg=row["at"][3], hanging=row["hanging"],
        )
        for row in kept
    )  # fmt: skip
    return len(wanted) - len(kept)


def _free(pieces: Sequence[int]) -> None:
    """Take pieces out of proposals that nobody has taken."""
    Placement.objects.live().filter(piece__in=pieces, run__standing=Standing.PROPOSED).delete()
    Run.objects.proposed().filter(placements=None).delete()


def _lay_beside(run: Run, rows: Sequence[Placement], fitting: Sequence[Ready], taken: TakenUp) -> int:
    """Lay pieces where there is room on the lowest layer."""
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


def _hang_anew(run: Run, pieces: Sequence[int], *, keep: Iterable[int] = ()) -> int:
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


def _summed(run: Run) -> None:
    """Work the sums out anew, and keep the run."""
    if not run.is_tree:
        run.facts = run_facts(_down(run))
    _save(run)


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

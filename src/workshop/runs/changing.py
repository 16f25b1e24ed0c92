"""What a person does to a run before it is locked: take it, change how it lies, split it, give it up. Every
change of how it lies can be taken back."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models.functions import Greatest

from kizami.counting import so_many
from kizami.runs.ready import Ready
from workshop.orders.models import Event, Piece
from workshop.orders.stages import Stage
from workshop.runs.held import RunChangeError, prove, save
from workshop.runs.laying_in import hang_anew, lay_beside, summed
from workshop.runs.models import Placement, Run, RunStep, Standing
from workshop.runs.taking_up import for_runs, take_up
from workshop.stations.models import Station

__all__ = ["add", "merge", "move", "split", "take", "take_back", "take_out", "withdraw"]

#: Changes that are remembered of a run.
_STEPS_KEPT = 50


def take(run: Run, *, user: User) -> None:
    """Take a proposal: it stays when new ones are made."""
    if run.standing == Standing.PROPOSED:
        run.standing, run.made_by = Standing.OPEN, user
        save(run)


def withdraw(run: Run, *, user: User) -> None:
    """Give a run up: its pieces are free for others."""
    Event.objects.create(who=user, what=f"Gave up run {run.code}")
    _end(run)


def _end(run: Run) -> None:
    """Away with it; the number of a run that somebody took is not given again."""
    if run.standing != Standing.PROPOSED:
        Station.objects.filter(pk=run.station_id).update(last_run=Greatest("last_run", run.number))
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
    prove(run, rows)
    _remember(run, before, said=f"moved {_named(moved)}", user=user)
    Placement.objects.bulk_update(moved, ["x_mm", "y_mm", "turn_deg"])
    summed(run)


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
        hang_anew(run, [row.piece_id for row in rows if row.pk not in wanted])
    summed(run)


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
        went_in = hang_anew(run, [*there, *(taken.of_piece[piece.key] for piece in fitting)], keep=there)
    else:
        went_in = lay_beside(run, rows, fitting, taken)
    if not went_in:
        raise RunChangeError("There is no room left for any of these. They wait for another run.")
    _remember(run, before, said=f"put in {went_in} piece{'s' * (went_in != 1)}", user=user)
    summed(run)
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
            hang_anew(each, [row.piece_id for row in kept])
        summed(each)
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
            _end(other)
        else:
            _put_back(other, [row for row in _snapshot(theirs) if row["piece"] in set(left)])
            if other.is_tree:
                hang_anew(other, left)
            summed(other)
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
    summed(run)
    return said + (f"; {lost} of them were changed or are in another run meanwhile" if lost else "")


def _named(rows: Sequence[Placement]) -> str:
    return rows[0].key if len(rows) == 1 else so_many(len(rows), "piece")


def _belongs(piece: Ready, run: Run) -> bool:
    machine = run.to_machine()
    if not machine.takes(piece.process, piece.material) or piece.material != run.material:
        return False
    return not run.thickness_mm or abs(piece.thickness_mm - run.thickness_mm) < 0.01


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

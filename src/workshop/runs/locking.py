"""Locking a run, opening it again, and marking off what came of it."""

from __future__ import annotations

from collections.abc import Mapping

from django.contrib.auth.models import User
from django.utils import timezone
from procrastinate.contrib.django import app

from kizami.counting import so_many
from workshop.orders.models import Event, Piece
from workshop.orders.stages import Stage
from workshop.runs.held import RunChangeError, prove, save
from workshop.runs.models import Placement, Run, Standing
from workshop.runs.remnants import keep_remnant

__all__ = ["lock", "mark_off", "unlock"]


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
        prove(run, rows)
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
    save(run)
    Piece.objects.filter(pk__in=stands_on).update(stage=Stage.IN_RUN)
    Event.objects.create(who=user, what=f"Locked run {run.code} with {so_many(len(rows), 'piece')}")
    _write_files(run)


def unlock(run: Run, *, user: User) -> None:
    """Open a locked run again: its files are no longer offered, its pieces can be changed."""
    if run.standing != Standing.LOCKED:
        raise RunChangeError(f"{run.code} is {run.get_standing_display()}; only a locked run can be opened.")
    pieces = list(run.placements.live().values_list("piece", flat=True))
    run.standing, run.files_state = Standing.OPEN, Run.Files.NONE
    run.file, run.contents, run.files_said = None, [], ""
    save(run)
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
    save(run)
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

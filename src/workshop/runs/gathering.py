"""Proposing runs for all that is ready, in the background."""

from __future__ import annotations

import time
from collections.abc import Sequence
from dataclasses import replace

from django.contrib.auth.models import User
from django.db import IntegrityError, connection, transaction
from django.db.models import F, Q
from django.utils import timezone
from procrastinate.contrib.django import app

from kizami.errors import KizamiError, StoppedError
from kizami.runs.assemble import spoken_beds
from kizami.runs.lay_down import LaidDown, lay_down
from kizami.runs.machine import Kind
from kizami.runs.ready import Batch, gather, split_groups, spoken_group, why_of
from kizami.runs.telling import Seen, Told
from workshop.orders.models import Piece
from workshop.orders.stages import Stage
from workshop.runs.models import Gathering, Placement, Remnant, Run, Standing
from workshop.runs.remnants import free_remnants
from workshop.runs.rows import best_table, placements_of, run_facts
from workshop.runs.taking_up import TakenUp, for_runs, take_up
from workshop.standards.models import Standard
from workshop.stations.models import Station, table_of

__all__ = ["LONGEST_SEARCH_S", "MOST_READY", "ask_for_runs", "gather_runs", "ready_pieces"]

#: A search for denser beds takes no longer than this for all runs together.
LONGEST_SEARCH_S = 600
#: More are gathered in several goes, the most urgent first.
MOST_READY = 10_000
_MOST_ATTEMPTS = 3
_TELL_EVERY_S = 0.5
#: Runs are written one after the other: whoever proposes waits for whoever does just now.
_LOCK = 7_310_426


def ready_pieces(most: int = MOST_READY) -> list[Piece]:
    """Pieces that are ready and in no run that somebody has taken, the most urgent first, up to so many."""
    taken = Placement.objects.live().exclude(run__standing=Standing.PROPOSED).values("piece")
    rows = (
        for_runs(Piece.objects.filter(stage=Stage.READY))
        .exclude(pk__in=taken)
        .order_by(F("line__rush").desc(), F("line__due").asc(nulls_last=True), "pk")
    )
    return list(rows[:most])


def ask_for_runs(*, user: User | None, seconds: int = 0, seed: int = 0) -> Gathering:
    """Ask for runs to be proposed. Asking again while one waits changes nothing."""
    try:
        with transaction.atomic():
            asked = Gathering.objects.create(
                asked_by=user, seconds=min(max(0, seconds), LONGEST_SEARCH_S), seed=seed
            )
            app.configure_task("gather_runs", queueing_lock=f"gather-{asked.pk}", queue="making").defer(
                gathering_pk=asked.pk
            )
    except IntegrityError:
        # One waits already, perhaps since this very moment; the database lets no second one wait.
        return Gathering.objects.filter(state=Gathering.State.WAITING).first() or Gathering.objects.all()[0]
    return asked


def gather_runs(gathering_pk: int) -> None:
    """Look over all that is ready and propose runs. Killed at any moment it begins again; proposals of before
    stand until the new ones take their place."""
    going_on = Gathering.objects.filter(pk=gathering_pk, state__in=("waiting", "working"))
    if not going_on.update(
        attempts=F("attempts") + 1, state=Gathering.State.WORKING, done=0, total=0, best=None
    ):
        return
    asked = going_on.get()
    if asked.attempts > _MOST_ATTEMPTS:
        going_on.update(state=Gathering.State.FAILED, said="It broke off three times. Ask for less time.")
        return
    # What nobody foresaw is on record; here it must not look as if it were still at work.
    trouble = "Something went wrong; it is on record."
    try:
        waits = _propose(asked)
        trouble = ""
    except StoppedError:
        return
    except KizamiError as error:
        trouble = str(error)
        return
    finally:
        if trouble:
            going_on.update(state=Gathering.State.FAILED, said=trouble[:300])
    going_on.update(
        state=Gathering.State.DONE,
        said="",
        waits=[{"piece": piece, "why": why} for piece, why in waits.items()],
    )


def _propose(asked: Gathering) -> dict[int, str]:
    """Lay all that is ready and write the proposals; returns what waits, by piece, with the reason."""
    told = _teller(asked.pk)
    taken = take_up(ready_pieces(), told=told)
    stations = {station.code: station for station in Station.objects.in_use()}
    standards = Standard.objects.now()
    machines = [station.to_machine(standards) for station in stations.values()]
    gathered = gather(taken.pieces, machines, today=timezone.localdate())
    waits = {taken.of_piece[row.key]: row.why for row in gathered.waiting}
    laid: list[tuple[Batch, list[_OnSheet]]] = []
    for batch in gathered.batches:
        used, left = _on_remnants(batch, taken, stations[batch.machine.code], told)
        downs, rest = lay_down(
            left,
            taken.sources,
            seconds=asked.seconds / len(gathered.batches),
            seed=asked.seed,
            told=told,
        )
        waits |= {taken.of_piece[row.key]: row.why for row in rest}
        laid.append((batch, [*used, *((down, None) for down in downs)]))
    _write(laid, taken, stations, asked)
    return waits | dict(taken.lost)


#: What is laid, and the used sheet that it lies on.
_OnSheet = tuple[LaidDown, Remnant | None]


def _on_remnants(batch: Batch, taken: TakenUp, station: Station, told: Told) -> tuple[list[_OnSheet], Batch]:
    """Lay what fits on used sheets in stock, the oldest first; returns that and what is left of the batch."""
    found: list[_OnSheet] = []
    if batch.machine.kind is not Kind.SHEET:
        return found, batch
    for remnant in free_remnants(station, batch.material, batch.thickness_mm):
        if not batch.pieces:
            break
        downs, _ = lay_down(batch, taken.sources, taken=remnant.shape, most_beds=1, told=told)
        for down in downs:
            found.append((down, remnant))
            on = {piece.key for piece in down.pieces}
            batch = replace(batch, pieces=tuple(p for p in batch.pieces if p.key not in on))
    return found, batch


def _teller(gathering_pk: int) -> Told:
    """Writes down how far it is, not too often; ends the work where somebody has stopped it.

    Raises
    ------
    StoppedError : when it is called and the gathering goes on no more
    """
    last = 0.0

    def told(done: int, total: int, said: str, seen: Seen | None = None, /) -> None:
        nonlocal last
        if time.monotonic() - last < _TELL_EVERY_S and seen is None:
            return
        last = time.monotonic()
        going_on = Gathering.objects.filter(pk=gathering_pk, state=Gathering.State.WORKING)
        best = {} if seen is None else {"best": best_table(seen)}
        if not going_on.update(done=done, total=total, said=said[:300], **best):
            raise StoppedError("The gathering was stopped.")

    return told


def _write(
    laid: Sequence[tuple[Batch, Sequence[_OnSheet]]],
    taken: TakenUp,
    stations: dict[str, Station],
    asked: Gathering,
) -> None:
    """Put the new proposals in the place of the old ones; a piece that was changed meanwhile is left out."""
    with transaction.atomic():
        with connection.cursor() as cursor:
            cursor.execute("SELECT pg_advisory_xact_lock(%s)", [_LOCK])
        Run.objects.proposed().delete()
        for batch, downs in laid:
            station = stations[batch.machine.code]
            splits = split_groups([down.pieces for down, _ in downs])
            for number, (down, remnant) in enumerate(downs, start=1):
                why = why_of(
                    down.pieces, batch.machine, batch.material, batch.thickness_mm, today=timezone.localdate()
                )
                if len(downs) > 1:
                    why += f" {number} of {spoken_beds(batch.machine, len(downs))}."
                apart = [spoken_group(group) for group, numbers in splits.items() if number in numbers]
                if apart:
                    more = f" and {len(apart) - 3} more" if len(apart) > 3 else ""
                    why += f" Not all of {', '.join(apart[:3])}{more} lies here: it would take more room."
                if remnant is not None:
                    why += f" On what is left of the sheet of {remnant.made_from}."
                write_run(batch, down, taken, station, why=why, asked=asked, remnant=remnant)


def write_run(
    batch: Batch,
    down: LaidDown,
    taken: TakenUp,
    station: Station,
    *,
    why: str,
    asked: Gathering,
    remnant: Remnant | None = None,
) -> Run | None:
    """A run with its placements; None where all of it was changed meanwhile. Call in a transaction."""
    # In the order of their keys, so that nobody waits for another in a ring.
    still = Piece.objects.select_for_update(of=("self",), no_key=True).filter(
        pk__in=[taken.of_piece[piece.key] for piece in down.pieces], stage=Stage.READY
    )
    free = still.exclude(Q(placements__live=True) & ~Q(placements__run__standing=Standing.PROPOSED))
    now = dict(free.order_by("pk").values_list("pk", "revision_id"))
    code = Run.objects.next_code(station)
    rows = placements_of(down, taken, now)
    if not rows:
        return None
    run = Run.objects.create(
        code=code,
        number=int(code.rpartition("-")[2]),
        station=station,
        machine=table_of(batch.machine),
        material=batch.material,
        thickness_mm=batch.thickness_mm,
        why=why,
        seed=asked.seed,
        facts=run_facts(down),
        made_by=asked.asked_by,
        remnant=remnant,
    )
    for row in rows:
        row.run = run
    Placement.objects.bulk_create(rows)
    return run

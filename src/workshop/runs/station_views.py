"""What a station that is set otherwise would do to pieces that are ready, before it is kept."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render
from django.utils import timezone
from django.views.decorators.http import require_POST

from kizami.errors import RunError
from kizami.runs.machine import Machine, machine_from_table
from kizami.runs.ready import Ready, gather
from workshop.runs.gathering import ready_pieces
from workshop.runs.taking_up import take_up
from workshop.standards.models import Standard
from workshop.stations.models import Station
from workshop.stations.station_form import table_from

__all__ = ["Move", "moves_of", "would"]

#: So many ready pieces are looked at, the most urgent first: pieces nobody has laid yet are measured for it.
_MOST_LOOKED_AT = 100
_MOST_NAMED = 8


@dataclass(frozen=True, kw_only=True, slots=True)
class Move:
    """Ready pieces that would go elsewhere.

    Attributes
    ----------
    goes, would_go : the station's code now and then; empty where they wait
    why : they would wait
    pieces : their ticket codes
    """

    goes: str
    would_go: str
    why: str
    pieces: tuple[str, ...]


@require_POST
def would(request: HttpRequest, code: str) -> HttpResponse:
    """Which ready pieces would go elsewhere, or wait, with what is typed. Nothing is kept."""
    row = get_object_or_404(Station, code=code)
    now = Standard.objects.now()
    context: dict[str, object] = {"most": _MOST_LOOKED_AT}
    try:
        table = table_from(request.POST, row.table, now)
        typed = machine_from_table(row.code, table, standards=now)
    except (RunError, ValueError) as error:
        return render(request, "stations/_would.html", {**context, "refused": str(error)})
    stations = list(Station.objects.all())
    before = [station.to_machine(now) for station in stations if not station.retired]
    # Out of use is ticked as anything else is typed.
    stays = [station for station in stations if not station.retired or station.pk == row.pk]
    after = [typed if station.pk == row.pk else station.to_machine(now) for station in stays]
    if "retired" in request.POST:
        after = [machine for machine in after if machine.code != row.code]
    looked_at = ready_pieces(_MOST_LOOKED_AT)
    taken = take_up(looked_at)
    moves = moves_of(taken.pieces, before, after)
    context |= {"looked_at": len(taken.pieces), "moves": moves, "most_named": _MOST_NAMED}
    return render(request, "stations/_would.html", context)


def moves_of(pieces: Sequence[Ready], before: Sequence[Machine], after: Sequence[Machine]) -> list[Move]:
    """Pieces that would go elsewhere, together by where from, where to and why."""
    goes, _ = _stations_of(pieces, before)
    goes_then, why = _stations_of(pieces, after)
    found: dict[tuple[str, str, str], list[str]] = {}
    for piece in pieces:
        old, new = goes.get(piece.key, ""), goes_then.get(piece.key, "")
        if old != new:
            found.setdefault((old, new, why.get(piece.key, "")), []).append(piece.key)
    return [
        Move(goes=old, would_go=new, why=said, pieces=tuple(keys)) for (old, new, said), keys in found.items()
    ]


def _stations_of(
    pieces: Sequence[Ready], machines: Sequence[Machine]
) -> tuple[Mapping[str, str], Mapping[str, str]]:
    gathered = gather(pieces, machines, today=timezone.localdate())
    goes = {piece.key: batch.machine.code for batch in gathered.batches for piece in batch.pieces}
    return goes, {row.key: row.why for row in gathered.waiting}

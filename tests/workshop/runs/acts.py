"""What people do to runs, as their pages send it."""

from __future__ import annotations

from django.urls import reverse

from tests.workshop.lists import HEADER
from workshop.orders.models import Piece
from workshop.runs.models import Placement, Run

__all__ = ["LIST", "change", "lay", "move", "stages"]

LIST = HEADER + (
    "P1,1,BUOY-FRAME,,OWEN,2,2027-01-10,Pia\n"
    "P1,2,BUOY-FRAME,,TILLY,1,2027-01-10,Pia\n"
    "P2,1,SORREL-LEAF,,Rosa,3,2027-01-20,Quay\n"
    "P3,1,CREW-TAG,,Halloran,2,2027-02-01,Ferry\n"
    "P3,2,CREW-TAG,,Lind,1,,Ferry\n"
)


def change(client, run: Run, do: str, **sent: object):
    run.refresh_from_db()
    return client.post(reverse("runs:change", args=[run.code]), {"do": do, "edition": run.edition, **sent})


def lay(run: Run) -> list[Placement]:
    return list(run.placements.live().order_by("place"))


def stages(run: Run) -> set[str]:
    return set(Piece.objects.filter(placements__run=run).values_list("stage", flat=True))


def move(client, run: Run, rows: list[Placement], **by: object):
    run.refresh_from_db()
    sent = {"edition": run.edition, "piece": [row.pk for row in rows], **by}
    return client.post(reverse("runs:move", args=[run.code]), sent, headers={"HX-Request": "true"})

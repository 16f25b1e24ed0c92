"""What a form carries of the line that it was drawn from, and how pieces get on their way."""

from __future__ import annotations

from collections.abc import Mapping

from django.db.models import QuerySet

from workshop.orders.models import OrderLine, Piece
from workshop.orders.stages import Stage

__all__ = ["as_drawn", "send_on", "ticked"]


def as_drawn(line: OrderLine, sent: Mapping[str, object]) -> dict[str, object]:
    """A form of the bench, with the edition of now."""
    return {"edition": OrderLine.objects.values_list("edition", flat=True).get(pk=line.pk), **sent}


def ticked(line: OrderLine) -> str:
    """A line ticked in the Order book."""
    return f"{line.pk}.{line.edition}"


def send_on(lines: QuerySet[OrderLine], stage: Stage) -> None:
    """Bring pieces that are ready to a later stage, by the way that pieces go."""
    pieces = Piece.objects.filter(line__in=list(lines))
    for step in (Stage.IN_RUN, Stage.MADE, Stage.SENT):
        assert pieces.update(stage=step)
        if step == stage:
            return

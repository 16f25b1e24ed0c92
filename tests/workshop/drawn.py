"""What a form carries of the line that it was drawn from."""

from __future__ import annotations

from collections.abc import Mapping

from workshop.orders.models import OrderLine

__all__ = ["as_drawn", "ticked"]


def as_drawn(line: OrderLine, sent: Mapping[str, object]) -> dict[str, object]:
    """A form of the bench, with the edition of now."""
    return {"edition": OrderLine.objects.values_list("edition", flat=True).get(pk=line.pk), **sent}


def ticked(line: OrderLine) -> str:
    """A line ticked in the Order book."""
    return f"{line.pk}.{line.edition}"

"""What a run comes to: pieces, fill, weight, time, cost."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kizami.runs.machine import Kind, Machine

__all__ = ["Totals", "totals_of"]

#: An operator's minutes for a run whatever is in it: making ready and taking off (common practice, no
#: source).
_SET_UP_H = 0.25


_ROOMS = {Kind.SHEET: "sheet", Kind.TREE: "room around the sprue", Kind.SAND: "box"}


@dataclass(frozen=True, kw_only=True, slots=True)
class Totals:
    """Sums over a run.

    Attributes
    ----------
    pieces : how many
    fill : share of the bed that they cover
    rows : how many of them plain rows would hold; 0 where that was not asked
    weight_g : of the finished pieces
    melt_g : metal to melt, with sprue, button and loss; 0 for what is not cast
    hours, cost : on the machine; 0 where the station does not say
    room : what is filled, in a word
    """

    pieces: int
    fill: float
    weight_g: float
    rows: int = 0
    melt_g: float = 0.0
    hours: float = 0.0
    cost: float = 0.0
    room: str = "bed"

    def said(self) -> tuple[str, ...]:
        """In words, a few to a line."""
        first = (
            f"{self.pieces} piece{'s' * (self.pieces != 1)}, {self.fill * 100:.0f} % of the {self.room} taken"
        )
        if self.rows:
            first += f"; plain rows would hold {self.rows}"
        second = [f"pieces {self.weight_g:.1f} g"]
        if self.melt_g:
            second.append(f"metal to melt {self.melt_g:.1f} g")
        if self.hours:
            second.append(f"about {self.hours:.1f} h")
        if self.cost:
            second.append(f"about {self.cost:.2f} for the machine")
        return (first, ", ".join(second))


def totals_of(
    machine: Machine,
    material: str,
    *,
    volumes_mm3: Sequence[float],
    fill: float,
    rows: int = 0,
    hours: float | None = None,
    melt_g: float = 0.0,
    weights_g: Sequence[float] | None = None,
) -> Totals:
    """The sums of a run.

    Parameters
    ----------
    volumes_mm3 : of the bodies as they are built
    weights_g : of the finished pieces; from the volumes where it is not given
    hours : where it is known better than from volume and speed
    """
    density = machine.standards.material(material)
    total = float(sum(volumes_mm3))
    if hours is None:
        hours = _SET_UP_H + total / machine.speed_mm3_h if machine.speed_mm3_h else 0.0
    weight = density.weight_g(total) if weights_g is None else float(sum(weights_g))
    return Totals(
        pieces=len(volumes_mm3),
        fill=fill,
        rows=rows,
        weight_g=weight,
        melt_g=melt_g,
        hours=hours,
        cost=hours * machine.hour_cost,
        room=_ROOMS.get(machine.kind, "bed"),
    )

"""What would cure a held piece, as the Bench shows it: drawn beside the piece as it is, and what it moves."""

from __future__ import annotations

from dataclasses import dataclass

from kizami.pieces.make import Made
from kizami.remedies.remedy import Moved, Patient, Remedy
from kizami.remedies.search import search_remedies
from workshop.drawing.unrolled import UnrolledArea, unrolled_areas

__all__ = ["OfferedRemedy", "offered_remedies"]

_WIDTH_PX, _HEIGHT_PX = 200.0, 140.0
#: The page waits for no search longer than this.
_SECONDS = 0.8
_MOST_MOVED = 4


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class OfferedRemedy:
    """A remedy on the page.

    Attributes
    ----------
    said : what it does, in words
    fields : of the form, so that it is taken as if somebody had set it
    drawings : the piece as it would be, at the scale of the piece as it is
    moved : measures that change, the first few
    failing : what would still fail, of one that does not cure
    """

    said: str
    cost: float
    fields: dict[str, object]
    drawings: list[UnrolledArea]
    moved: tuple[Moved, ...]
    failing: tuple[str, ...]


def offered_remedies(
    patient: Patient, made: Made
) -> tuple[list[OfferedRemedy], OfferedRemedy | None, list[UnrolledArea]]:
    """Cures, or what comes nearest; and the piece as it is."""
    found = search_remedies(patient, made, seconds=_SECONDS)
    before = _drawn(made)
    nearest = None if found.nearest is None else _offered(found.nearest)
    return [_offered(remedy) for remedy in found.cures], nearest, before


def _offered(remedy: Remedy) -> OfferedRemedy:
    failing = dict.fromkeys(f.title for f in remedy.made.findings if f.level.value == "fails")
    return OfferedRemedy(
        said="; ".join(remedy.said),
        cost=remedy.cost,
        fields={k: "on" if v is True else v for k, v in remedy.setting.to_table().items()},
        drawings=_drawn(remedy.made),
        moved=remedy.moved[:_MOST_MOVED],
        failing=tuple(failing),
    )


def _drawn(made: Made) -> list[UnrolledArea]:
    """All at one scale, as their areas are the same; without spots, so that letters can be compared."""
    return unrolled_areas(made.laid_out, width_px=_WIDTH_PX, height_px=_HEIGHT_PX, with_spots=False)

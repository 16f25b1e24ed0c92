"""What would cure a held piece, as the Bench shows it: drawn beside the piece as it is, and what it moves."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum
from typing import Any

from kizami.pieces.inputs import Inputs
from kizami.pieces.make import Made
from kizami.remedies.remedy import Moved, Remedy
from kizami.remedies.search import search_remedies
from workshop.catalogue.models import retired_typefaces
from workshop.drawing.unrolled import UnrolledArea, unrolled_areas

__all__ = ["Looks", "OfferedRemedy", "offered_remedies"]

_WIDTH_PX, _HEIGHT_PX = 200.0, 140.0
#: The page waits for no search longer than this; where it found nothing it goes on by itself for longer.
_SECONDS, _LONGER = 0.8, 6.0
_MOST = 3
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
    outside : what of it is beyond what the product offers
    asks : what only the customer can say, ready to send
    """

    said: str
    cost: float
    fields: dict[str, object]
    drawings: list[UnrolledArea]
    moved: tuple[Moved, ...]
    failing: tuple[str, ...]
    outside: tuple[str, ...]
    asks: tuple[str, ...]


class Looks(Enum):
    """How far a search goes."""

    FIRST = "first"
    ALL = "all"
    LONGER = "longer"

    @classmethod
    def named(cls, name: str) -> Looks:
        """The one of this name; the first cure where there is none."""
        return next((looks for looks in cls if looks.value == name), cls.FIRST)


def offered_remedies(inputs: Inputs, made: Made, looks: Looks) -> dict[str, Any]:
    """Cures, or what comes nearest; the piece as it is; and whether more may be found in more time."""
    found = search_remedies(
        inputs,
        made,
        seconds=_LONGER if looks is Looks.LONGER else _SECONDS,
        most=1 if looks is Looks.FIRST else _MOST,
        passed_over=retired_typefaces(),
    )
    cures = [_offered(remedy) for remedy in found.cures]
    nearest = None if found.nearest is None else _offered(found.nearest)
    return {
        "cures": cures,
        "nearest": nearest,
        "shown": cures or ([nearest] if nearest is not None else []),
        "before": _drawn(made),
        "tried": found.tried,
        "is_over": found.is_over,
        "goes_longer": looks is Looks.FIRST and not cures and not found.is_over,
        "goes_on": looks is Looks.FIRST and bool(cures),
    }


def _offered(remedy: Remedy) -> OfferedRemedy:
    failing = dict.fromkeys(f.title for f in remedy.made.findings if f.level.value == "fails")
    return OfferedRemedy(
        said="; ".join(remedy.said),
        cost=remedy.cost,
        fields=remedy.setting.to_fields(),
        drawings=_drawn(remedy.made),
        moved=remedy.moved[:_MOST_MOVED],
        failing=tuple(failing),
        outside=remedy.outside,
        asks=remedy.asks,
    )


def _drawn(made: Made) -> list[UnrolledArea]:
    """All at one scale, as their areas are the same; without spots, so that letters can be compared."""
    return unrolled_areas(made.laid_out, width_px=_WIDTH_PX, height_px=_HEIGHT_PX, with_spots=False)

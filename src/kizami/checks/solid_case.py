"""What solid checks look at."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

from kizami.checks.cases import FlatCase
from kizami.processes import Limits
from kizami.solids.measured import Measured, measured_of
from kizami.solids.printing import Lain, best_lain
from kizami.solids.proof import Proved, prove
from kizami.solids.solid import Solid
from kizami.solids.thickness import Thinnest, thinnest

__all__ = ["SolidCase"]


#: Strokes and slots that are wider than their limits by more are sound.
_LOOKED_AT = 1.3


@dataclass(frozen=True, eq=False, kw_only=True)
class SolidCase:
    """The finished solid, a flat case for each lettered area, and what is known of the bare blank.

    Attributes
    ----------
    flats : in the order in which they were worked
    solid : the finished piece
    blank_volume_mm3, blank_genus : of the body before lettering
    hangs_at_mm : the places in space by which the piece hangs: none, one, or two at its ends
    hangs_by_side : it hangs with its reading direction downward
    is_supplied : its body is one that a customer sent
    """

    flats: tuple[FlatCase, ...]
    solid: Solid
    blank_volume_mm3: float
    blank_genus: int
    hangs_at_mm: tuple[tuple[float, float, float], ...] = ()
    hangs_by_side: bool = False
    is_supplied: bool = False

    @cached_property
    def measured(self) -> Measured:
        """The piece as its triangles alone tell of it."""
        return measured_of(self.solid)

    @cached_property
    def thinnest(self) -> Thinnest:
        """Its thinnest places."""
        limits = self.limits
        asked = [limits.of("stroke-width", sunk=sunk) for sunk in (True, False)]
        asked += [limits.of("gap-width"), limits.of("web-width")]
        return thinnest(
            self.measured,
            self.solid.is_lettering,
            [flat.made for flat in self.flats],
            look_mm=_LOOKED_AT * max(asked),
        )

    @cached_property
    def proved(self) -> tuple[tuple[Proved, ...], ...]:
        """Every part of every area, as it was found."""
        return tuple(prove(self.measured, flat.made) for flat in self.flats)

    @cached_property
    def lain(self) -> Lain:
        """As it is best printed."""
        return best_lain(self.measured)

    @property
    def limits(self) -> Limits:
        """What the process holds."""
        return self.flats[0].limits

    @property
    def process_name(self) -> str:
        """For messages."""
        return self.flats[0].process.name

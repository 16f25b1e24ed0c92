"""Processes with what they can hold, and materials with what they weigh."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping
from dataclasses import dataclass, replace

__all__ = ["LIMITS_ASKED", "LIMITS_AT_MOST", "LIMITS_KNOWN", "Limits", "Material", "Process", "is_looser"]


#: Where a process says nothing of a limit, that of another check holds, or a value of its own (common
#: practice, no source). So a new check breaks no older table.
_DEFAULTS: Mapping[str, str | float] = {
    "neck-width": "stroke-width.raised",
    "web-width": "gap-width",
    "middle-width": "gap-width",
    "wall-thickness": "floor-left",
    "standing-thickness": "stroke-width.raised",
    "slot-width": "gap-width",
    # Two loops that differ by more in height, mm, or stand further from their ends, %, look wrong.
    "loops-level": 0.1,
    "loop-place": 20.0,
    # A loop that hangs straighter than this looks straight.
    "tilt": 3.0,
    # A point blunter than this neither pricks nor stays empty.
    "sharp-point": 10.0,
    # The weight must hang below its loops by this, or the piece turns over, mm.
    "hangs-below": 0.5,
    "draft": 0.0,
    # Wax, resin and powder can't leave a closed cavity.
    "cavities": 0.0,
}
#: Asked only of processes that say so.
_MAY_ASK = ("islands", "overhang", "drain")
#: What a process must say.
LIMITS_ASKED = (
    "stroke-width.raised",
    "stroke-width.engraved",
    "lettering-depth.raised",
    "lettering-depth.engraved",
    "gap-width",
    "floor-left",
    "edge-gap",
)
#: Limits that are looser the larger they are; of all others as much is asked at least.
LIMITS_AT_MOST = frozenset({"overhang", "islands", "cavities", "loops-level", "loop-place", "tilt"})
#: Every limit that a process may name.
LIMITS_KNOWN = (*LIMITS_ASKED, *_DEFAULTS, *_MAY_ASK)


@dataclass(frozen=True, kw_only=True, slots=True)
class Limits:
    """What a process can hold, by check code.

    Attributes
    ----------
    table : pairs of a check's code and its limit, in the unit of the check. Where lettering that stands and
        lettering that is sunk have limits of their own, the code ends in “.raised” or “.engraved”
    size_mm : largest piece, x y z
    """

    table: tuple[tuple[str, float], ...]
    size_mm: tuple[float, float, float]

    def of(self, code: str, *, sunk: bool = False) -> float:
        """The limit of a check.

        >>> limits = Limits(table=(("gap-width", 0.3), ("stroke-width.raised", 0.35)), size_mm=(1, 1, 1))
        >>> limits.of("gap-width"), limits.of("middle-width"), limits.of("stroke-width", sunk=False)
        (0.3, 0.3, 0.35)

        Raises
        ------
        KeyError : there is no such limit
        """
        said = dict(self.table)
        for name in (f"{code}.{'engraved' if sunk else 'raised'}", code):
            if name in said:
                return said[name]
            fallback = _DEFAULTS.get(name)
            if fallback is not None:
                return self.of(fallback) if isinstance(fallback, str) else fallback
        raise KeyError(code)

    def get(self, code: str) -> float | None:
        """The limit of a check that is not asked of every process, or None."""
        return dict(self.table).get(code)

    def get_of(self, code: str) -> float | None:
        """As `of`, or None where there is no such limit."""
        try:
            return self.of(code)
        except KeyError:
            return None

    def without(self, codes: Collection[str]) -> Limits:
        """The same, saying nothing of some."""
        return replace(self, table=tuple(row for row in self.table if row[0] not in codes))

    def with_limits(self, other: Iterable[tuple[str, float]]) -> Limits:
        """The same with some other limits, as pairs of code and value."""
        return replace(self, table=tuple(sorted({**dict(self.table), **dict(other)}.items())))

    def to_table(self) -> dict[str, float]:
        """By code, as plain data."""
        return dict(self.table)


@dataclass(frozen=True, kw_only=True, slots=True)
class Process:
    """A way of making pieces; `is_flat` where they are cut from a flat sheet."""

    code: str
    name: str
    limits: Limits
    is_flat: bool = False


@dataclass(frozen=True, kw_only=True, slots=True)
class Material:
    """What pieces are made of; `colour` is its real colour for pictures, `#rrggbb`.

    Attributes
    ----------
    parts : of an alloy, its metals with their shares by weight
    melts_c : from where it begins to melt to where all of it is molten, °C
    """

    code: str
    name: str
    density_g_cm3: float
    colour: str
    parts: tuple[tuple[str, float], ...] = ()
    melts_c: tuple[float, float] | None = None

    def weight_g(self, volume_mm3: float) -> float:
        """Weight of a body; 1 cm3 is 1000 mm3."""
        return volume_mm3 * self.density_g_cm3 / 1000.0


def is_looser(code: str, value: float, than: float) -> bool:
    """Whether a limit lets more pass than another of the same code.

    >>> is_looser("gap-width", 0.25, than=0.3), is_looser("overhang", 100.0, than=150.0)
    (True, False)
    """
    return value > than if code in LIMITS_AT_MOST else value < than

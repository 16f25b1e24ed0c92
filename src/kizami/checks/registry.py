"""The registered checks, in two groups: flat ones need a layout, solid ones the finished body."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from dataclasses import dataclass, field

from kizami.blanks.area import Area
from kizami.checks.finding import Finding
from kizami.lettering.layout import Layout
from kizami.lettering.shapes import STRAIGHT, LetterShape
from kizami.lettering.typeface import Typeface
from kizami.outlines.curves import FloatArray
from kizami.outlines.soundness import Soundness
from kizami.processes import Process
from kizami.solids.solid import Solid
from kizami.solids.treatment import Treatment

__all__ = [
    "FlatCase",
    "SolidCase",
    "flat_check",
    "flat_checks",
    "run_flat",
    "run_solid",
    "solid_check",
    "solid_checks",
]


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class FlatCase:
    """What flat checks look at; `behind_mm` is how deep the wall is cut from its other side."""

    layout: Layout
    area: Area
    typeface: Typeface
    treatment: Treatment
    process: Process
    soundness: Soundness = field(default_factory=Soundness)
    shape: LetterShape = STRAIGHT
    open_question: str = ""
    pull: FloatArray | None = None
    behind_mm: float = 0.0


@dataclass(frozen=True, eq=False, kw_only=True, slots=True)
class SolidCase:
    """What solid checks look at: a flat case for each lettered area, the finished solid and the
    blank's volume."""

    flats: tuple[FlatCase, ...]
    solid: Solid
    blank_volume_mm3: float
    blank_genus: int


FlatCheck = Callable[[FlatCase], Finding | None]
SolidCheck = Callable[[SolidCase], Finding]
_flat: dict[str, FlatCheck] = {}
_solid: dict[str, SolidCheck] = {}


def flat_check(code: str) -> Callable[[FlatCheck], FlatCheck]:
    """Register a flat check under its permanent code. It returns None where it does not apply."""

    def add(check: FlatCheck) -> FlatCheck:
        _flat[code] = check
        return check

    return add


def solid_check(code: str) -> Callable[[SolidCheck], SolidCheck]:
    """Register a solid check under its permanent code."""

    def add(check: SolidCheck) -> SolidCheck:
        _solid[code] = check
        return check

    return add


def flat_checks() -> tuple[str, ...]:
    """Codes of the flat checks."""
    return tuple(_flat)


def solid_checks() -> tuple[str, ...]:
    """Codes of the solid checks."""
    return tuple(_solid)


def run_flat(case: FlatCase) -> tuple[Finding, ...]:
    """Every flat finding, worst first."""
    return _worst_first(check(case) for check in _flat.values())


def run_solid(case: SolidCase) -> tuple[Finding, ...]:
    """Every solid finding, worst first."""
    return _worst_first(check(case) for check in _solid.values())


def _worst_first(findings: Iterable[Finding | None]) -> tuple[Finding, ...]:
    return tuple(sorted((f for f in findings if f is not None), key=lambda f: (f.level.rank, -f.badness)))

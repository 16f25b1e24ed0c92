"""What an edition of a process or a material changes, in words."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import pairwise

from kizami.checks.limits_told import limit_told, value_told
from kizami.processes import LIMITS_KNOWN, Limits, Material, Process
from workshop.standards.models import Standard

__all__ = ["edition_told", "material_told", "process_told"]


def process_told(before: Process, after: Process) -> Iterator[str]:
    """What differs between two editions of a process.

    >>> from kizami.standards import shipped_standards
    >>> resin = shipped_standards().processes["resin"]
    >>> list(process_told(resin, resin))
    []
    """
    if before.name != after.name:
        yield f"called {after.name}"
    for code in LIMITS_KNOWN:
        old, new = before.limits.get_of(code), after.limits.get_of(code)
        if old == new:
            continue
        told = limit_told(code)
        now = "not asked for any more" if new is None else f"{told.word} {value_told(code, new)}"
        yield f"{told.title.lower()} {now}{'' if old is None else f' instead of {value_told(code, old)}'}"
    if before.limits.size_mm != after.limits.size_mm:
        yield f"pieces up to {_size(after.limits)} instead of {_size(before.limits)} mm"


def _size(limits: Limits) -> str:
    return " by ".join(f"{side:g}" for side in limits.size_mm)


def material_told(before: Material, after: Material) -> Iterator[str]:
    """What differs between two editions of a material."""
    if before.name != after.name:
        yield f"called {after.name}"
    if before.density_g_cm3 != after.density_g_cm3:
        yield f"{after.density_g_cm3:g} instead of {before.density_g_cm3:g} g/cm³"
    if before.colour != after.colour:
        yield f"colour {after.colour}"
    if before.parts != after.parts:
        yield ", ".join(f"{100 * share:g} % {metal}" for metal, share in after.parts) or "no parts said"
    if before.melts_c != after.melts_c:
        yield "melts at {:g} to {:g} °C".format(*after.melts_c) if after.melts_c else "no melting range said"


def edition_told(rows: list[Standard], ships: Process | Material | None) -> list[tuple[Standard, list[str]]]:
    """Editions, the newest first, each with what it changed; the first against what ships."""
    specs = [*(row.to_spec() for row in rows), ships]
    return [
        (row, list(_between(after, before)))
        for row, (after, before) in zip(rows, pairwise(specs), strict=True)
    ]


def _between(after: Process | Material | None, before: Process | Material | None) -> Iterator[str]:
    if isinstance(before, Process) and isinstance(after, Process):
        yield from process_told(before, after)
    elif isinstance(before, Material) and isinstance(after, Material):
        yield from material_told(before, after)
    else:
        yield "new"

"""What checks look at, and how they put what they found."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Any, TypeVar

import numpy as np

from kizami.as_made.as_made import AsMade
from kizami.as_made.fineness import Fine, Fineness, fineness
from kizami.as_made.treatment import Treatment
from kizami.blanks.area import Area
from kizami.checks.finding import Cause, Finding, Level, Spot, judge
from kizami.checks.kinds import kind_of
from kizami.checks.words import Said, words_for
from kizami.lettering.layout import Layout
from kizami.lettering.shapes import STRAIGHT, LetterShape
from kizami.lettering.typeface import Typeface
from kizami.outlines.soundness import Soundness
from kizami.processes import Limits, Process
from kizami.surfaces.protocol import FloatArray

__all__ = [
    "FlatCase",
    "FlatCheck",
    "Walls",
    "causes_of",
    "finding",
    "looked_at_mm",
    "spot_at",
    "spot_of",
    "told_of_fine",
    "worst_few",
]

#: Thickness of the bare body under places (n, 2), measured along the normal, mm, shape (n,).
Walls = Callable[[FloatArray], FloatArray]


@dataclass(frozen=True, eq=False, kw_only=True)
class FlatCase:
    """What flat checks look at: an area as it is made, and what its product asks.

    Attributes
    ----------
    made : the area as it is made
    typeface : that it is set in
    process : that it is made in
    soundness : what the product does to strokes and loose parts
    shape : that the letters are bent to
    open_question : why the wording is not settled yet, or ""
    behind_mm : how deep the wall is cut from its other side
    walls : measures the bare body, or None where its stated wall must do
    lowest_height_mm : that the product allows, whatever the bench has set; None for that of the layout
    greatest_height_mm : that the product allows
    widest_gap : the most that may be added between letters to fill a turn, cap heights; None where none is
    measured : its finest places where they are known already, as far as `looked_at_mm`
    """

    made: AsMade
    typeface: Typeface
    process: Process
    soundness: Soundness = field(default_factory=Soundness)
    shape: LetterShape = STRAIGHT
    open_question: str = ""
    behind_mm: float = 0.0
    walls: Walls | None = None
    lowest_height_mm: float | None = None
    greatest_height_mm: float = 0.0
    widest_gap: float | None = None
    measured: Fineness | None = None

    @property
    def layout(self) -> Layout:
        """The wording as it is set."""
        return self.made.layout

    @property
    def area(self) -> Area:
        """Where it is set."""
        return self.made.area

    @property
    def treatment(self) -> Treatment:
        """How it meets the body."""
        return self.made.treatment

    @property
    def limits(self) -> Limits:
        """What the process holds."""
        return self.process.limits

    @property
    def least_height_mm(self) -> float:
        """The lowest cap height that is allowed."""
        return self.layout.lowest_height_mm if self.lowest_height_mm is None else self.lowest_height_mm

    @cached_property
    def fineness(self) -> Fineness:
        """Its finest places."""
        if self.measured is not None:
            return self.measured
        return fineness(self.made, reach_mm=self.looked_at_mm)

    @property
    def looked_at_mm(self) -> float:
        """See the function of that name."""
        return looked_at_mm(self.limits, sunk=self.treatment.sinks)


def looked_at_mm(limits: Limits, *, sunk: bool) -> float:
    """What is wider than its limit by more is sound, and only the narrowest of it is told."""
    return _LOOKED_AT * max(
        limits.of("stroke-width", sunk=sunk),
        limits.of("neck-width"),
        limits.of("gap-width"),
        limits.of("web-width"),
    )


#: Share of the limits, see `looked_at_mm`.
_LOOKED_AT = 1.2

FlatCheck = Callable[[FlatCase], Iterator[Finding]]


def finding(
    code: str,
    measured: float,
    limit: float,
    *,
    spot: Spot | None = None,
    cause: Iterable[Cause] = (),
    title: str = "",
    **facts: Any,
) -> Finding:
    """A finding of a kind, judged and put into words.

    Parameters
    ----------
    facts : what its words speak of besides, see `kizami.checks.words`
    """
    kind = kind_of(code)
    level = judge(measured, limit, kind.sense, is_strict=kind.is_strict)
    cause = tuple(cause)
    said = Said(measured=measured, limit=limit, level=level, cause=cause, facts=facts)
    message, hint = words_for(code, said)
    return Finding(
        code=code,
        title=title or kind.title,
        level=level,
        measured=measured,
        limit=limit,
        unit=kind.unit,
        sense=kind.sense,
        severity=kind.severity,
        message=message,
        hint=hint if level is Level.FAILS else "",
        spot=spot,
        cause=cause,
        needed=abs(limit - measured) if level is Level.FAILS else 0.0,
    )


def causes_of(made: AsMade, parts: Iterable[int]) -> tuple[Cause, ...]:
    """Parts by number, as causes; -1 is the edge of a recess."""
    found = []
    for number in parts:
        if number < 0:
            found.append(Cause(kind="recess edge"))
            continue
        part = made.parts[number]
        text = made.layout.letter(part.cluster) if part.cluster is not None else ""
        found.append(Cause(kind=part.kind, text=text, cluster=part.cluster))
    return tuple(found)


def spot_of(made: AsMade, fine: Fine) -> Spot:
    """Where a fine place is, unrolled and in space."""
    clusters = [made.parts[n].cluster for n in fine.parts if n >= 0]
    cluster = next((c for c in clusters if c is not None), None)
    return spot_at(made, fine.u_mm, fine.v_mm, fine.height_mm, cluster=cluster)


def spot_at(
    made: AsMade, u_mm: float, v_mm: float, height_mm: float = 0.0, *, cluster: int | None = None
) -> Spot:
    """A place of an area, unrolled and in space."""
    at = made.place(np.array([[u_mm, v_mm]]), np.array([height_mm]))[0]
    return Spot(
        u_mm=float(u_mm),
        v_mm=float(v_mm),
        cluster=cluster,
        xyz_mm=(float(at[0]), float(at[1]), float(at[2])),
    )


#: Of places that fail so many are told, the worst first: more is no help.
_MOST_TOLD = 6
_Found = TypeVar("_Found")


def worst_few(found: Sequence[_Found], fails: Callable[[_Found], bool]) -> Sequence[_Found]:
    """Of what was found, the worst first: those that fail, but not too many; the worst where none does."""
    failing = [one for one in found if fails(one)]
    return failing[:_MOST_TOLD] or found[:1]


def told_of_fine(
    code: str, case: FlatCase, found: Sequence[Fine], limit: float, **facts: Any
) -> Iterator[Finding]:
    """Findings of fine places, the finest first."""
    for fine in worst_few(found, lambda fine: fine.width_mm < limit - 1e-6):
        yield finding(
            code,
            fine.width_mm,
            limit,
            spot=spot_of(case.made, fine),
            cause=causes_of(case.made, fine.parts),
            process=case.process.name,
            end=fine.end,
            **facts,
        )

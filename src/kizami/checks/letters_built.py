"""Letters that could not be built, or only by another method."""

from __future__ import annotations

from collections.abc import Sequence

from kizami.as_made.as_made import AsMade
from kizami.checks.cases import causes_of, finding, spot_at
from kizami.checks.finding import Finding
from kizami.solids.letter_by_letter import Outcome

__all__ = ["letters_built"]


def letters_built(made: AsMade, *, mended: Sequence[Outcome], lost: Sequence[Outcome]) -> Finding:
    """How many parts are lost; none may be. Stated only when the whole could not be built at once."""
    told = [f"{_named(made, one)} could not be built: {one.said}" for one in lost]
    told += [f"{_named(made, one)} was built {one.said}" for one in mended]
    first = next(iter((*lost, *mended)), None)
    spot = None
    if first is not None:
        part = made.parts[first.index]
        middle = part.outline.centroid
        spot = spot_at(made, middle.x, middle.y, cluster=part.cluster)
    return finding(
        "letters-built",
        float(len(lost)),
        0.0,
        spot=spot,
        cause=causes_of(made, [one.index for one in (*lost, *mended)]),
        told=told,
    )


def _named(made: AsMade, one: Outcome) -> str:
    (cause,) = causes_of(made, [one.index])
    place = "" if cause.cluster is None else f" at place {cause.cluster + 1}"
    return f"{cause.named}{place}"

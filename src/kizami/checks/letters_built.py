"""Letters that could not be built, or only by another method."""

from __future__ import annotations

from collections.abc import Sequence

from kizami.checks.finding import Finding, Level, Sense, Spot
from kizami.lettering.layout import Layout
from kizami.solids.letter_by_letter import Outcome

__all__ = ["letters_built"]


def letters_built(layout: Layout, *, mended: Sequence[Outcome], lost: Sequence[Outcome]) -> Finding:
    """How many letters are lost; none may be. Stated only when the whole could not be built at once."""
    said = [f"{_named(layout, one)} could not be built: {one.said}" for one in lost]
    said += [f"{_named(layout, one)} was built {one.said}" for one in mended]
    first = (*lost, *mended)[0] if said else None
    return Finding(
        code="letters-built",
        title="Letters not built",
        level=Level.FAILS if lost else Level.PASSES,
        measured=float(len(lost)),
        limit=0.0,
        unit="",
        sense=Sense.AT_MOST,
        message=("; ".join(said) or "Every letter was built by itself") + ".",
        hint="All others are there. Set this one higher, or in another typeface." if lost else "",
        spot=_spot(layout, first) if first is not None else None,
    )


def _named(layout: Layout, one: Outcome) -> str:
    if one.index >= len(layout.marks):
        return "What ties the letters"
    cluster = layout.marks[one.index].cluster
    return f"“{layout.letter(cluster)}” at place {cluster + 1}"


def _spot(layout: Layout, one: Outcome) -> Spot | None:
    if one.index >= len(layout.marks):
        return None
    middle = layout.shapes[one.index].centroid
    return Spot(u_mm=middle.x, v_mm=middle.y, cluster=layout.marks[one.index].cluster)

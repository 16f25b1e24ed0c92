"""Letters that no longer read as they were set, by what was done to hold them together."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import FlatCase, finding, spot_at
from kizami.checks.finding import Cause, Finding
from kizami.lettering.reading_back import changed_letters, crossed_letters

__all__ = ["read_back"]


def read_back(case: FlatCase) -> Iterator[Finding]:
    """The outline compared with the drawing of every letter; none where the letters are as drawn."""
    layout = case.layout
    if layout.is_empty:
        return
    as_drawn = all(mark.plain or mark.is_artwork for mark in layout.marks)
    is_changed = not as_drawn or layout.added or layout.opened or layout.lowered
    # Where a product draws its letters into each other, or a setting does, they are meant to cross.
    crossed = () if case.soundness.overlap_mm else crossed_letters(layout)
    if not is_changed and not crossed:
        return
    told = {one.cluster for one in crossed}
    others = changed_letters(layout) if is_changed else ()
    changed = (*crossed, *(one for one in others if one.cluster not in told))
    first = next(iter(changed), None)
    yield finding(
        "read-back",
        float(len(changed)),
        0.0,
        spot=None if first is None else spot_at(case.made, first.u_mm, first.v_mm, cluster=first.cluster),
        cause=(Cause(kind="letter", text=layout.letter(one.cluster), cluster=one.cluster) for one in changed),
        hows=tuple(one.how for one in changed),
    )

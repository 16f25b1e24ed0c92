"""Lettering bent or spread so far, or so many letters in an outline, that nobody can read it."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import FlatCase, finding, spot_at
from kizami.checks.finding import Cause, Finding
from kizami.lettering.shapes import MOST_LETTERS_FILLED, MOST_STRETCH, Filled

__all__ = ["letter_stretch", "letters_apart", "letters_in_shape"]


def letters_in_shape(case: FlatCase) -> Iterator[Finding]:
    """Letters in a filled outline: five to six can be read (common practice, no source)."""
    if not isinstance(case.shape, Filled) or case.layout.is_empty:
        return
    shapes = zip(case.layout.marks, case.layout.shapes, strict=True)
    count = len({mark.cluster for mark, shape in shapes if not shape.is_empty})
    yield finding("letters-in-shape", float(count), float(MOST_LETTERS_FILLED), outline=case.shape.outline)


def letters_apart(case: FlatCase) -> Iterator[Finding]:
    """What is added between letters that go right round, where filling the turn is all that it is for."""
    gap, as_wide_mm = case.layout.turn_gap, case.layout.height_mm * case.layout.width
    if gap is not None and case.widest_gap is not None and gap > 0.0:
        yield finding("letters-apart", gap * as_wide_mm, case.widest_gap * as_wide_mm)


def letter_stretch(case: FlatCase) -> Iterator[Finding]:
    """How much the most bent letter is longer one way than the other."""
    layout = case.layout
    stretched = [
        (stretch, mark, shape)
        for stretch, mark, shape in zip(layout.stretch, layout.marks, layout.shapes, strict=True)
        if stretch > 1.001 and not shape.is_empty
    ]
    if not stretched:
        return
    worst, mark, shape = max(stretched, key=lambda s: s[0])
    middle = shape.centroid
    yield finding(
        "letter-stretch",
        worst,
        case.shape.most_stretch if isinstance(case.shape, Filled) else MOST_STRETCH,
        spot=spot_at(case.made, middle.x, middle.y, cluster=mark.cluster),
        cause=(Cause(kind="letter", text=layout.letter(mark.cluster), cluster=mark.cluster),),
    )

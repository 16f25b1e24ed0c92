"""Lettering bent so far, or so many letters in an outline, that nobody can read it."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import FlatCase, finding, spot_at
from kizami.checks.finding import Cause, Finding
from kizami.lettering.shapes import MOST_LETTERS_FILLED, MOST_STRETCH, Filled

__all__ = ["letter_stretch", "letters_in_shape"]


def letters_in_shape(case: FlatCase) -> Iterator[Finding]:
    """Letters in a filled outline: five to six can be read (common practice, no source)."""
    if not isinstance(case.shape, Filled) or case.layout.is_empty:
        return
    shapes = zip(case.layout.marks, case.layout.shapes, strict=True)
    count = len({mark.cluster for mark, shape in shapes if not shape.is_empty})
    yield finding("letters-in-shape", float(count), float(MOST_LETTERS_FILLED), outline=case.shape.outline)


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

"""Lettering bent so far, or so many letters in an outline, that nobody can read it."""

from __future__ import annotations

from kizami.checks.finding import Finding, Level, Sense, Spot, judge, said
from kizami.checks.registry import FlatCase, flat_check
from kizami.lettering.shapes import MOST_LETTERS_FILLED, MOST_STRETCH, Filled

__all__ = ["letter_stretch", "letters_in_shape"]


@flat_check("letters-in-shape")
def letters_in_shape(case: FlatCase) -> Finding | None:
    """Letters in a filled outline: five to six can be read (common practice, no source)."""
    if not isinstance(case.shape, Filled) or case.layout.is_empty:
        return None
    shapes = zip(case.layout.marks, case.layout.shapes, strict=True)
    count = len({mark.cluster for mark, shape in shapes if not shape.is_empty})
    level = judge(float(count), float(MOST_LETTERS_FILLED), Sense.AT_MOST)
    return Finding(
        code="letters-in-shape",
        title="Letters in the outline",
        level=Level.PASSES if level is Level.CLOSE else level,
        measured=float(count),
        limit=float(MOST_LETTERS_FILLED),
        unit="",
        sense=Sense.AT_MOST,
        message=f"{count} letters fill the {case.shape.outline} outline; "
        f"beyond {MOST_LETTERS_FILLED} nobody can read them.",
        hint="Shorten the wording to initials or a short name." if level is Level.FAILS else "",
    )


@flat_check("letter-stretch")
def letter_stretch(case: FlatCase) -> Finding | None:
    """How much the most bent letter is longer one way than the other."""
    stretched = [
        (stretch, mark, shape)
        for stretch, mark, shape in zip(
            case.layout.stretch, case.layout.marks, case.layout.shapes, strict=True
        )
        if stretch > 1.001 and not shape.is_empty
    ]
    if not stretched:
        return None
    worst, mark, shape = max(stretched, key=lambda s: s[0])
    limit = case.shape.most_stretch if isinstance(case.shape, Filled) else MOST_STRETCH
    level = judge(worst, limit, Sense.AT_MOST)
    middle = shape.centroid
    return Finding(
        code="letter-stretch",
        title="Stretch of a letter",
        level=level,
        measured=worst,
        limit=limit,
        unit="",
        sense=Sense.AT_MOST,
        message=f"“{case.layout.letter(mark.cluster)}” is stretched to {said(worst, limit)} times "
        f"its own proportions; {limit:.1f} can still be read.",
        hint="Shorten or lengthen the wording, or choose another shape." if level is Level.FAILS else "",
        spot=Spot(u_mm=middle.x, v_mm=middle.y, cluster=mark.cluster),
    )

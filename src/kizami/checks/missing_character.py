"""Characters that the typeface lacks, and wording with nothing in it."""

from __future__ import annotations

from collections.abc import Iterator

from kizami.checks.cases import FlatCase, finding, spot_at
from kizami.checks.finding import Cause, Finding
from kizami.lettering.shipped import typefaces_with

__all__ = ["missing_character", "wording_present"]


def missing_character(case: FlatCase) -> Iterator[Finding]:
    """Characters that shaping could not find a glyph for; none may be missing."""
    layout = case.layout
    lacking = list(dict.fromkeys(layout.text[i] for i in layout.missing))
    first = next((g for g in layout.marks if g.cluster in layout.missing), None)
    yield finding(
        "missing-character",
        float(len(layout.missing)),
        0.0,
        spot=None if first is None else spot_at(case.made, first.u_mm, first.v_mm, cluster=first.cluster),
        cause=(Cause(kind="letter", text=layout.text[i], cluster=i) for i in layout.missing),
        lacking=lacking,
        typeface=case.typeface.name,
        others=typefaces_with(layout.text) if lacking else (),
    )


def wording_present(case: FlatCase) -> Iterator[Finding]:
    """At least one letter must be there to make."""
    count = sum(1 for shape in case.layout.shapes if not shape.is_empty)
    yield finding("wording-present", float(count), 1.0)

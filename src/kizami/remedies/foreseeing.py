"""What of a drawing will fail, foreseen from what is known of its letters, before anything is measured.

Whether a stroke or a slit holds is measured on the drawing as it is made. Most settings that a search comes
by can be told from before: letters that are condensed or made heavier have their strokes and slits where they
had them, and how wide those become follows from the letters as drawn.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely

from kizami.artwork.artwork import Artwork
from kizami.as_made.narrow_gaps import OPENED_SPARE
from kizami.as_made.treatment import Pierced
from kizami.checks.cases import finding
from kizami.checks.finding import Cause, Finding
from kizami.lettering.layout import Layout
from kizami.lettering.shapes import Arc, Straight
from kizami.outlines.curves import FloatArray
from kizami.outlines.narrow import Places
from kizami.pieces.inputs import Inputs

__all__ = ["condensed_widths", "foreseen", "gap_between_mm"]

#: What comes within this of its limit is measured: surfaces stretch a little, walls lean a little.
_NEARLY = 0.95


def condensed_widths(places: Places, along: float, across: float) -> FloatArray:
    """Widths of narrow places after letters are scaled, (n,).

    A strip with unit normal n and width w, scaled by (a, b), is w / |(n_x / a, n_y / b)| wide.

    Parameters
    ----------
    along, across : scales along and across the reading direction

    >>> at = Places(centres=np.zeros((2, 2)), across=np.array([[1.0, 0.0], [0.0, 1.0]]), width=np.ones(2))
    >>> condensed_widths(at, 0.5, 1.0).tolist()
    [0.5, 1.0]
    >>> condensed_widths(Places.none(), 0.5, 1.0).tolist()
    []
    """
    length = np.hypot(places.across[:, 0] / along, places.across[:, 1] / across)
    # A disc that touches all round is bounded by the lesser of the two.
    even = min(along, across)
    widths: FloatArray = places.width * np.where(
        length > 0.0, 1.0 / np.where(length > 0.0, length, 1.0), even
    )
    return widths


def foreseen(inputs: Inputs, layout: Layout) -> tuple[Finding, ...]:
    """Strokes, slits and closed middles of single letters that will fail, one finding of each kind at most.

    Parameters
    ----------
    inputs : as they are set
    layout : as drawn, before anything is made sound
    """
    product = inputs.product
    if not isinstance(product.arrangement.shape, Straight | Arc):
        # Letters that are bent are other letters.
        return ()
    return tuple(_foreseen(inputs, layout))


def gap_between_mm(layout: Layout) -> float | None:
    """The least distance of two neighbouring letters that do not touch; None where there are no two."""
    return min((distance for distance, _ in _apart(layout)), default=None)


def _apart(layout: Layout) -> Iterator[tuple[float, tuple[int, int]]]:
    """Neighbours that stand apart with their distance, and which letters they are."""
    inked = [i for i, shape in enumerate(layout.shapes) if not shape.is_empty]
    ones = np.array([layout.shapes[i] for i in inked], dtype=object)
    for before, after, distance in zip(
        inked,
        inked[1:],
        shapely.distance(ones[:-1], ones[1:]).tolist() if len(inked) > 1 else (),
        strict=False,
    ):
        letters = layout.marks[before].cluster, layout.marks[after].cluster
        if distance > 0.0 and letters[0] != letters[1]:
            yield distance, letters


def _between(inputs: Inputs, layout: Layout, taken_mm: float) -> Iterator[Finding]:
    """The narrowest gap between two neighbours, where it will fill in."""
    product = inputs.product
    limits = product.process.limits
    code = "web-width" if isinstance(product.treatment, Pierced) else "gap-width"
    limit = max(limits.of("gap-width"), limits.of(code))
    narrowest = min(_apart(layout), default=None)
    if narrowest is not None and 0.0 < narrowest[0] - taken_mm < limit * _NEARLY:
        cause = (Cause(kind="letter", text=layout.letter(c), cluster=c) for c in narrowest[1])
        yield finding(
            code, narrowest[0] - taken_mm, limit, cause=cause, process=product.process.name, end="face"
        )


def _foreseen(inputs: Inputs, layout: Layout) -> Iterator[Finding]:
    product, treatment = inputs.product, inputs.product.treatment
    limits, soundness = product.process.limits, product.soundness
    by_mm = soundness.thicken_by_mm if soundness.thicken == "all over" else 0.0
    if abs(by_mm) > soundness.most_departure_mm:
        yield finding("departure", abs(by_mm), soundness.most_departure_mm)
    worst: dict[str, tuple[float, int]] = {}
    for mark, shape in zip(layout.marks, layout.shapes, strict=True):
        if shape.is_empty or isinstance(mark.source, Artwork):
            continue
        facts = mark.source.facts(mark.glyph)
        across = mark.scale_mm / mark.source.cap_height_upem
        along = across * layout.width
        for kind, places, sign in (
            ("stroke", facts.strokes, 2.0), ("gap", facts.gaps, -2.0), ("middle", facts.middles, -2.0)
        ):  # fmt: skip
            if len(places):
                width = float(condensed_widths(places, along, across).min()) + sign * by_mm
                worst[kind] = min(worst.get(kind, (np.inf, 0)), (width, mark.cluster))
    gap = max(limits.of("gap-width"), limits.of("web-width")) if isinstance(treatment, Pierced) else None
    if not soundness.overlap_mm:
        yield from _between(inputs, layout, 2.0 * by_mm)
    asked = {
        "stroke": ("stroke-width", limits.of("stroke-width", sunk=treatment.sinks)),
        "gap": ("gap-width", limits.of("gap-width")) if gap is None else ("web-width", gap),
        "middle": ("middle-width", limits.of("middle-width")),
    }
    for kind, (width, cluster) in worst.items():
        code, limit = asked[kind]
        if kind == "stroke" and soundness.thicken == "where needed":
            continue
        if kind == "gap" and soundness.gaps != "as drawn":
            opened_mm = (limit * OPENED_SPARE - width) / 2.0
            if soundness.gaps == "opened" and opened_mm > soundness.most_departure_mm:
                # Each side gives half of what is missing, at least.
                yield finding("departure", opened_mm, soundness.most_departure_mm)
            continue
        if kind == "middle" and gap is not None:
            continue
        if width < limit * _NEARLY:
            cause = Cause(kind="letter", text=layout.letter(cluster), cluster=cluster)
            yield finding(
                code, max(width, 1e-3), limit, cause=(cause,), process=product.process.name, end="face",
                height_mm=layout.height_mm, greatest_mm=product.plan.greatest_height_mm,
            )  # fmt: skip

"""The bare boolean that a piece would need: what it is measured against."""

from __future__ import annotations

import time
from collections.abc import Sequence

import manifold3d as m3
import shapely

from kizami.as_made.as_made import AsMade
from kizami.as_made.treatment import InRecess
from kizami.outlines.curves import bodies_of
from kizami.pieces.building import bare_body, in_order
from kizami.pieces.laying_out import LaidOut
from kizami.solids.lettering_bodies import flat_lettering, pointed_lettering, recess_of
from kizami.solids.lettering_solid import lay_on
from kizami.tolerance import SAGITTA_MM

__all__ = ["bare_boolean_s"]

_RUNS = 3


def bare_boolean_s(laid_out: LaidOut) -> float:
    """Seconds of nothing but the booleans of a piece, median of three runs; 0 where it needs none.

    The body and all that is cut out of it or added to it are built beforehand. Where the lettering is the
    piece, its letters with their bars and loops are joined with each other. What is only scored needs none.
    """
    body = bare_body(laid_out)
    steps = [step for part in in_order(laid_out) for step in _steps(part.made, whole=body is None)]
    if not steps:
        return 0.0
    if body is not None:
        body.num_tri()
    times = []
    for _ in range(_RUNS):
        start = time.perf_counter()
        made = body
        for tools, sinks in steps:
            kind = m3.OpType.Subtract if sinks else m3.OpType.Add
            made = m3.Manifold.batch_boolean([*([] if made is None else [made]), *tools], kind)
        assert made is not None
        made.num_tri()
        times.append(time.perf_counter() - start)
    return sorted(times)[_RUNS // 2]


def _steps(made: AsMade, *, whole: bool) -> list[tuple[Sequence[m3.Manifold], bool]]:
    """Each with its tools, and whether they are cut away."""
    if made.treatment.kind == "scored":
        return []
    if made.is_pointed:
        return [([_built(pointed_lettering(made, sagitta_mm=SAGITTA_MM))], True)]
    if isinstance(made.treatment, InRecess):
        recess = _built(recess_of(made, sagitta_mm=SAGITTA_MM))
        return [([recess], True), ([_letters(made, made.outlines)], False)]
    if not whole:
        return [([_letters(made, made.outlines)], made.treatment.sinks)]
    shapes = [bodies_of(part.outline.intersection(made.outlines)) for part in made.parts]
    return [([_letters(made, shape) for shape in shapes if not shape.is_empty], False)]


def _letters(made: AsMade, shape: shapely.MultiPolygon) -> m3.Manifold:
    flat = flat_lettering(made, shape)
    assert flat is not None
    return _built(lay_on(flat, made.area.surface, sagitta_mm=SAGITTA_MM, pull=made.pull))


def _built(solid: m3.Manifold) -> m3.Manifold:
    """Built now, as solids are otherwise built when something is first asked of them."""
    solid.num_tri()
    return solid

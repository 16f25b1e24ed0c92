"""What a run will ask of a piece, told while its solid is at hand."""

from __future__ import annotations

from typing import Any

import numpy as np

from kizami.as_made.as_made import pull_of
from kizami.as_made.treatment import CutOut, Pierced
from kizami.pieces.looser import looser_said
from kizami.pieces.make import Made
from kizami.solids.feeding import feeds_of
from kizami.solids.measured import measured_of
from kizami.solids.pattern import pattern_of
from kizami.solids.solid import Solid
from kizami.solids.thickness import thinnest_through

__all__ = ["run_facts"]

#: Processes whose pieces hang on a tree.
_CAST = ("lost-wax",)


#: What lettering without a face counts for, mm2: as a small name does.
_READS_MM2 = 20.0


def run_facts(made: Made, *, all_the_same: bool = False) -> dict[str, Any]:
    """Facts of a piece as plain data; lettering and feeds of ready ones alone, on their pattern.

    Parameters
    ----------
    all_the_same : somebody has it made although a check fails

    Returns
    -------
    process, material : their codes
    limits : what the piece was held to, by code
    flat : whether it is cut from a sheet
    looser : where its product lets more pass than its process holds, and why; else ""
    allowance_percent : by which its pattern is larger
    lettering_mm2 : the way in which its lettering looks, as long as its area: see `Solid.lettering_mm2`; of
        lettering that goes right through, the side from which it reads
    thinnest_mm : see `kizami.solids.thickness.thinnest_through`: files of a run are measured against it
    code_on : where its ticket code stands while it is made
    feeds : places where metal may be fed in, see `kizami.solids.feeding.Feed.to_table`
    """
    product = made.laid_out.inputs.product
    found: dict[str, Any] = {
        "process": product.process.code,
        "material": product.material,
        "limits": product.process.limits.to_table(),
        "flat": product.process.is_flat,
        "looser": looser_said(product),
        "allowance_percent": product.allowance_percent,
        "lettering_mm2": None,
        "thinnest_mm": None,
        "code_on": product.code_on,
        "feeds": [],
    }
    if made.solid is None or not (made.stage == "ready" or all_the_same):
        return found
    pattern = pattern_of(made.solid, product.allowance_percent)
    found["lettering_mm2"] = [round(x, 3) for x in _looks(made, pattern)]
    thin = thinnest_through(measured_of(pattern))
    found["thinnest_mm"] = None if thin is None else round(thin.width_mm, 4)
    if product.process.code in _CAST:
        found["feeds"] = [feed.to_table() for feed in feeds_of(pattern)]
    return found


def _looks(made: Made, pattern: Solid) -> tuple[float, float, float]:
    treatment = made.laid_out.inputs.product.treatment
    if not isinstance(treatment, CutOut | Pierced):
        return pattern.lettering_mm2
    area = made.laid_out.area
    if area.surface.period_mm is not None:
        # Right round a band it looks every way.
        return (0.0, 0.0, 0.0)
    towards = pull_of(area)
    a, b, c = np.asarray(pattern.vertices, dtype=np.float64)[pattern.triangles[pattern.is_lettering].T]
    facing = np.cross(b - a, c - a) @ towards / 2.0
    # Lettering that is cut out of a wall has no face of its own; that it reads must count all the same.
    x, y, z = towards * max(_READS_MM2, float(facing[facing > 0.0].sum()))
    return (float(x), float(y), float(z))
